"""Opening the one SQLite file: journal, migrations, atomic blocks, snapshots.

One thread at a time writes, and holds `lock` for as long as its block lasts. Reading takes no lock
at all: outside of a block a thread reads on a connection of its own, from the state that was last
committed. So nobody who loads something is ever waited for by somebody he waits for himself.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from threading import RLock, get_ident, local
from typing import Any

from gaitwire.store.faults import ReadOnlyStoreError, StoreError, cannot_use, fault_of, told
from gaitwire.store.opening import FILE_NAME, Reading, connect, refuse_other_versions, require_sound
from gaitwire.store.schema import migrations, newest, statements

BOUNDED = 14
"""The version from which on nothing out of bounds can be stored."""

IDLE_READERS = 4
"""Connections for reading that are kept open while nobody uses them."""


class Store:
    """One open database. Writers take turns; readers wait for nobody.

    `reading`: it is neither made, nor brought up to date, nor written to. A file that cannot be written
    is opened so by itself; then `read_only` says why. `before_migrating` is called with an older file's
    version before that is brought up to date.
    """

    def __init__(
        self, folder: Path, reading: bool = False, before_migrating: Callable[[Store, int], None] | None = None
    ) -> None:
        self.path = folder / FILE_NAME
        self.lock = RLock()
        self.read_only: StoreError | None = None
        self.mended = False
        """Whether broken indexes were made anew when it was opened."""
        self.told: list[str] = []
        """What was done on opening about rows out of bounds, for the person at the screen."""
        self.touched: set[str] = set()
        """Documents that the block under way has written to."""
        self.made_within: dict[object, Any] = {}
        """What the block under way made of them, which is nobody else's; forgotten with it."""
        self._here = local()
        self._idle: list[sqlite3.Connection] = []
        self._writer_thread = 0
        self._depth = 0
        self._closed = False
        self._reading: Reading | None = None
        if reading:
            self._open_to_read(ReadOnlyStoreError("The store was opened only to be read."))
            return
        try:
            self._open_to_write(folder, before_migrating)
        except ReadOnlyStoreError as error:
            if not self.path.is_file():
                raise
            self._open_to_read(error)

    def _open_to_read(self, why: StoreError) -> None:
        self._reading = Reading(self.path)
        self.read_only = why
        self.connection = self._reading.connect()
        try:
            refuse_other_versions(self.connection, self.path, reading=True)
        except BaseException:
            self.close()
            raise

    def _open_to_write(self, folder: Path, before_migrating: Callable[[Store, int], None] | None) -> None:
        try:
            folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise cannot_use(folder, error) from error
        with told(self.path):
            self.connection = connect(self.path)
            try:
                for pragma in ("journal_mode = WAL", "synchronous = FULL", "foreign_keys = ON"):
                    self.connection.execute(f"PRAGMA {pragma}")
                self.mended = require_sound(self.connection, self.path)
                self._migrate(before_migrating)
            except BaseException:
                self.connection.close()
                raise

    def _migrate(self, before: Callable[[Store, int], None] | None) -> None:
        done = refuse_other_versions(self.connection, self.path, reading=False)
        if before is not None and 0 < done < newest():
            before(self, done)
        for number, script in migrations():
            if number > done:
                with self.atomic():
                    for statement in statements(script):
                        self.connection.execute(statement)
                    self.connection.execute(f"PRAGMA user_version = {number}")
        if 0 < done < BOUNDED:
            from gaitwire.store.bounding import mend_bounds  # noqa: PLC0415 - it needs a store itself

            self.told += mend_bounds(self)

    def _require_writing(self) -> None:
        """Raise what says that the store may only be read, where it is so."""
        if self.read_only is not None:
            raise type(self.read_only)(self.read_only.message, self.read_only.hint)

    def _require_open(self) -> None:
        if self._closed:
            raise StoreError("The program is closing.", "Start it again.")

    def unsettled(self, documents: Iterable[str]) -> bool:
        """Whether this thread's block has written to one of them: what it reads of that may yet be taken back."""
        return self._writing_here and not self.touched.isdisjoint(documents)

    @property
    def _writing_here(self) -> bool:
        return self._writer_thread == get_ident()

    @contextmanager
    def atomic(self) -> Iterator[sqlite3.Connection]:
        """All or nothing; nested blocks are savepoints. The outermost is on disk when it ends.

        Raises StoreError where the disk or the file does not let it.
        """
        self._require_writing()
        with self.lock, told(self.path):
            self._require_open()
            outermost = self._depth == 0
            name = f"block_{self._depth}"
            self.connection.execute("BEGIN IMMEDIATE" if outermost else f"SAVEPOINT {name}")
            if outermost:
                self._writer_thread = get_ident()
            self._depth += 1
            try:
                yield self.connection
                self.connection.execute("COMMIT" if outermost else f"RELEASE {name}")
            except BaseException:
                # On a full disk SQLite has taken all back by itself; then there is nothing to roll back.
                if self.connection.in_transaction:
                    self.connection.execute("ROLLBACK" if outermost else f"ROLLBACK TO {name}")
                raise
            finally:
                self._depth -= 1
                if outermost:
                    self._writer_thread = 0
                    self.touched, self.made_within = set(), {}

    @contextmanager
    def snapshot(self) -> Iterator[sqlite3.Connection]:
        """Whatever is read within is of one state: the last committed, or the block's own within a block."""
        inner = self.connection if self._writing_here else getattr(self._here, "reader", None)
        with told(self.path):
            if inner is not None:
                yield inner
                return
            reader = self._borrow()
            self._here.reader = reader
            try:
                reader.execute("BEGIN")
                yield reader
            finally:
                self._here.reader = None
                self._give_back(reader)

    def _borrow(self) -> sqlite3.Connection:
        self._require_open()
        with suppress(IndexError):
            return self._idle.pop()
        if self._reading is not None:
            return self._reading.connect()
        reader = connect(self.path)
        reader.execute("PRAGMA query_only = ON")
        reader.execute("PRAGMA cache_size = -500")  # kB: the system keeps the file's pages at hand as well
        return reader

    def _give_back(self, reader: sqlite3.Connection) -> None:
        if reader.in_transaction:
            reader.execute("ROLLBACK")
        if self._closed or len(self._idle) >= IDLE_READERS:
            reader.close()
        else:
            self._idle.append(reader)

    def rows(self, sql: str, values: tuple[object, ...] = ()) -> list[sqlite3.Row]:
        """All rows of a query."""
        with self.snapshot() as db:
            return db.execute(sql, values).fetchall()

    def backup(self, target: Path) -> None:
        """A whole, compact copy. A plain copy of an open file would miss its journal.

        Raises StoreError when the target exists or cannot be written.
        """
        if target.exists():
            raise StoreError(f"{target} is there already.", "Choose another name.")
        part = target.with_name(f"{target.name}.part")
        part.unlink(missing_ok=True)
        reader = self._borrow()
        try:
            reader.execute("PRAGMA query_only = OFF")
            reader.execute("VACUUM INTO ?", (str(part),))
            part.rename(target)
        except (sqlite3.Error, OSError) as error:
            fault = fault_of(error, part) if isinstance(error, sqlite3.Error) else None
            raise StoreError(f"{target} cannot be written.", str(fault or error)) from error
        finally:
            part.unlink(missing_ok=True)
            reader.close()

    def take_over(self, source: sqlite3.Connection) -> None:
        """Hold from now on what another file of this program holds, at revisions that were never used before."""
        self._require_writing()
        with self.lock, told(self.path):
            highest = self.connection.execute("SELECT max(revision) FROM documents").fetchone()[0] or 0
            source.backup(self.connection)
            self._migrate(None)
            with self.atomic() as db:
                db.execute("DELETE FROM revision_rows")
                db.execute("UPDATE documents SET revision = revision + ?1, floor = revision + ?1", (highest + 1,))

    def vacuum(self) -> None:
        """Write the file anew without what was removed from it; raises StoreError where there is no room for that."""
        self._require_writing()
        with self.lock, told(self.path):
            self.connection.execute("VACUUM")
            self.connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")

    def close(self) -> None:
        """Write the journal back into the file and close it; once is enough."""
        with self.lock:
            if self._closed:
                return
            self._closed = True
            while self._idle:
                self._idle.pop().close()
            # The journal is written back at the next opening where it cannot be now.
            with suppress(sqlite3.Error):
                if self.read_only is None:
                    self.connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
            self.connection.close()
            if self._reading is not None:
                self._reading.close()
