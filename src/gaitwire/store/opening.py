"""How the file is opened: to be written, or only read; and whether it is sound."""

from __future__ import annotations

import shutil
import sqlite3
import tempfile
from pathlib import Path
from urllib.parse import quote

from gaitwire.store.faults import RESCUE, BrokenStoreError, NoStoreError, OldStoreError, StoreError, told
from gaitwire.store.schema import newest, version_of

FILE_NAME = "gaitwire.sqlite3"

PATIENCE = 5.0
"""Seconds that another program's hold on the file is waited out."""

_MOST_SAID = 5


def connect(path: Path, how: str = "mode=rwc") -> sqlite3.Connection:
    """A connection without transactions of its own; `how` is the query of SQLite's file address."""
    address = f"file:{quote(str(path.absolute()))}?{how}"
    made = sqlite3.connect(address, uri=True, isolation_level=None, check_same_thread=False, timeout=PATIENCE)
    made.row_factory = sqlite3.Row
    return made


def refuse_other_versions(connection: sqlite3.Connection, path: Path, reading: bool) -> int:
    """The file's version; raises StoreError for one that is newer, or older and may only be read."""
    found = version_of(connection)
    if found > newest():
        raise StoreError(f"{path} was written by a newer version.", "Use that version to open it.")
    if reading and found < newest():
        hint = f"Open it once with: gaitwire serve --data {path.parent}"
        raise OldStoreError(f"{path} was written by an older version and is not up to date.", hint)
    return found


class Reading:
    """A way to read a file that is not to be written, or cannot be."""

    def __init__(self, path: Path) -> None:
        if not path.is_file():
            where = f"gaitwire serve --data {path.parent}"
            raise NoStoreError(
                f"There is no store in {path.parent}.", f"Name its folder with --data, or make one: {where}"
            )
        self._copied: tempfile.TemporaryDirectory[str] | None = None
        self.path, self.how = path, "mode=ro"
        if not self._answers():
            self._from_still_media()

    def _answers(self) -> bool:
        """Whether it can be read so. A journal needs a file beside it, which read-only media do not let be made."""
        try:
            connection = connect(self.path, self.how)
        except sqlite3.OperationalError:
            return False
        try:
            connection.execute("SELECT count(*) FROM sqlite_master").fetchone()
        except sqlite3.OperationalError as error:
            if error.sqlite_errorcode & 0xFF in (sqlite3.SQLITE_READONLY, sqlite3.SQLITE_CANTOPEN):
                return False
            raise
        finally:
            connection.close()
        return True

    def _from_still_media(self) -> None:
        """Nobody can write there: the file is read as it lies, or with its journal from a copy."""
        journal = self.path.with_name(f"{self.path.name}-wal")
        if journal.exists() and journal.stat().st_size:
            self._copied = tempfile.TemporaryDirectory(prefix="gaitwire-")
            for file in (self.path, journal):
                shutil.copy(file, self._copied.name)
            self.path, self.how = Path(self._copied.name) / self.path.name, "mode=rw"
        else:
            self.how = "mode=ro&immutable=1"

    def connect(self) -> sqlite3.Connection:
        """One more connection that reads."""
        with told(self.path):
            made = connect(self.path, self.how)
            made.execute("PRAGMA query_only = ON")
        return made

    def close(self) -> None:
        """Remove the copy, if there is one."""
        if self._copied is not None:
            self._copied.cleanup()


def faults_in(connection: sqlite3.Connection) -> list[str]:
    """What SQLite finds broken in a file, in its own words; empty where it is sound."""
    try:
        rows = [str(row[0]) for row in connection.execute(f"PRAGMA integrity_check({_MOST_SAID})")]
        if rows != ["ok"]:
            return rows
        return [f"{row[0]} names what is not there" for row in connection.execute("PRAGMA foreign_key_check")]
    except sqlite3.DatabaseError as error:
        return [str(error)]


def require_sound(connection: sqlite3.Connection, path: Path) -> bool:
    """Look the file over; broken indexes are made anew, and then it says True.

    Raises BrokenStoreError for what cannot be mended.
    """
    found = faults_in(connection)
    if not found:
        return False
    if _mended(connection):
        return True
    what = "; ".join(line.strip().replace("\n", " ") for line in found[:_MOST_SAID])
    raise BrokenStoreError(f"The store is damaged ({what}).", f"{RESCUE} ({path})")


def _mended(connection: sqlite3.Connection) -> bool:
    """Make all indexes anew, and keep that if nothing else was wrong."""
    try:
        connection.execute("BEGIN IMMEDIATE")
        connection.execute("REINDEX")
        if not faults_in(connection):
            connection.execute("COMMIT")
            return True
    except sqlite3.DatabaseError:
        pass  # what is broken is told by the caller
    if connection.in_transaction:
        connection.execute("ROLLBACK")
    return False
