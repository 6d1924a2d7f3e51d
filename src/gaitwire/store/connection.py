"""Opening the one SQLite file: journal, migrations, atomic blocks, backup."""

from __future__ import annotations

import re
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from importlib.resources import files
from pathlib import Path
from threading import RLock

from gaitwire.core.errors import GaitWireError

FILE_NAME = "gaitwire.sqlite3"


class StoreError(GaitWireError):
    """The file cannot be opened, is held by another program, or is newer than this one."""


def _migrations() -> list[tuple[int, str]]:
    """Numbered migrations in order: (number, SQL)."""
    found = []
    for entry in files("gaitwire.store").joinpath("migrations").iterdir():
        match = re.fullmatch(r"(\d{4})_\w+\.sql", entry.name)
        if match:
            found.append((int(match[1]), entry.read_text("utf-8")))
    return sorted(found)


def _statements(script: str) -> Iterator[str]:
    """Single statements of a script: executescript would commit the transaction it stands in."""
    pending = ""
    for line in script.splitlines(keepends=True):
        pending += line
        if sqlite3.complete_statement(pending):
            yield pending
            pending = ""


class Store:
    """One open database. Threads take turns: there is one writer, and reads are short."""

    def __init__(self, folder: Path) -> None:
        self.path = folder / FILE_NAME
        try:
            folder.mkdir(parents=True, exist_ok=True)
            self.connection = sqlite3.connect(self.path, isolation_level=None, check_same_thread=False, timeout=5.0)
        except (OSError, sqlite3.Error) as error:
            raise StoreError(f"The folder {folder} cannot be used.", f"{error}.") from error
        self.connection.row_factory = sqlite3.Row
        self.lock = RLock()
        self._depth = 0
        self._closed = False
        try:
            for pragma in ("journal_mode = WAL", "synchronous = FULL", "foreign_keys = ON"):
                self.connection.execute(f"PRAGMA {pragma}")
            self._migrate()
        except sqlite3.DatabaseError as error:
            self.connection.close()
            raise StoreError(f"{self.path} is no store of ours, or it is damaged.", f"{error}.") from error

    def _migrate(self) -> None:
        done = self.connection.execute("PRAGMA user_version").fetchone()[0]
        known = _migrations()
        if done > known[-1][0]:
            raise StoreError(f"{self.path} was written by a newer version.", "Use that version to open it.")
        for number, script in known:
            if number > done:
                with self.atomic():
                    for statement in _statements(script):
                        self.connection.execute(statement)
                    self.connection.execute(f"PRAGMA user_version = {number}")

    @contextmanager
    def atomic(self) -> Iterator[sqlite3.Connection]:
        """All or nothing; nested blocks are savepoints. The outermost is on disk when it ends."""
        with self.lock:
            name = f"block_{self._depth}"
            self.connection.execute("BEGIN IMMEDIATE" if self._depth == 0 else f"SAVEPOINT {name}")
            self._depth += 1
            try:
                yield self.connection
            except BaseException:
                self._depth -= 1
                self.connection.execute("ROLLBACK" if self._depth == 0 else f"ROLLBACK TO {name}")
                raise
            self._depth -= 1
            try:
                self.connection.execute("COMMIT" if self._depth == 0 else f"RELEASE {name}")
            except sqlite3.Error:
                if self._depth == 0:
                    self.connection.execute("ROLLBACK")
                raise

    def rows(self, sql: str, values: tuple[object, ...] = ()) -> list[sqlite3.Row]:
        """All rows of a query."""
        with self.lock:
            return self.connection.execute(sql, values).fetchall()

    def backup(self, target: Path) -> None:
        """A whole, compact copy. A plain copy of an open file would miss its journal.

        Raises StoreError when the target exists or cannot be written.
        """
        if target.exists():
            raise StoreError(f"{target} is there already.", "Choose another name.")
        try:
            with self.lock:
                self.connection.execute("VACUUM INTO ?", (str(target),))
        except sqlite3.Error as error:
            raise StoreError(f"{target} cannot be written.", f"{error}.") from error

    def close(self) -> None:
        """Write the journal back into the file and close it; once is enough."""
        with self.lock:
            if self._closed:
                return
            self._closed = True
            self.connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
            self.connection.close()
