"""What can be wrong with the file or its disk, each in words of its own."""

from __future__ import annotations

import errno
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from gaitwire.core.errors import GaitWireError


class StoreError(GaitWireError):
    """The file cannot be opened, is held by another program, or is newer than this one."""


class FullDiskError(StoreError):
    """There is no room left where the store lies."""


class ReadOnlyStoreError(StoreError):
    """The store, or the folder that it lies in, may not be written to."""


class BusyStoreError(StoreError):
    """Another program holds the store."""


class BrokenStoreError(StoreError):
    """The file is damaged, or is no store at all."""


class DiskError(StoreError):
    """The disk does not do what it is asked."""


class NoStoreError(StoreError):
    """There is none where one is to be read."""


class OldStoreError(StoreError):
    """It was written by an older version, and may not be brought up to date here."""


RESCUE = "Put the last good copy in its place: gaitwire backup --list shows the copies, gaitwire restore takes one."

_KNOWN: dict[int, tuple[type[StoreError], str, str]] = {
    sqlite3.SQLITE_FULL: (FullDiskError, "The disk is full.", "Make room on it, then try again."),
    sqlite3.SQLITE_READONLY: (
        ReadOnlyStoreError, "The store may only be read.", "Allow writing to its folder, then try again.",
    ),
    sqlite3.SQLITE_PERM: (
        ReadOnlyStoreError, "The store may not be used.", "Allow reading and writing of its folder, then try again.",
    ),
    sqlite3.SQLITE_CANTOPEN: (
        DiskError, "The store cannot be opened.", "See whether its folder is there and may be used, then try again.",
    ),
    sqlite3.SQLITE_BUSY: (BusyStoreError, "Another program holds the store.", "Close that program, then try again."),
    sqlite3.SQLITE_LOCKED: (BusyStoreError, "The store is in use.", "Try again in a moment."),
    sqlite3.SQLITE_CORRUPT: (BrokenStoreError, "The store is damaged.", RESCUE),
    sqlite3.SQLITE_NOTADB: (BrokenStoreError, "The file is no store of ours, or it is damaged.", RESCUE),
    sqlite3.SQLITE_IOERR: (DiskError, "The disk does not answer as it should.", "See to the disk, then try again."),
}  # fmt: skip
"""SQLite's primary result codes to what they mean for the person at the screen."""


def fault_of(error: sqlite3.Error, path: Path) -> StoreError | None:
    """What an error of SQLite means, or None where it is a mistake of this program."""
    code = getattr(error, "sqlite_errorcode", None)
    found = _KNOWN.get(code & 0xFF) if code is not None else None
    if found is None:
        return None
    kind, message, hint = found
    return kind(message, f"{hint} ({path})")


@contextmanager
def told(path: Path) -> Iterator[None]:
    """Errors of SQLite that a person can do something about come out as errors of ours."""
    try:
        yield
    except sqlite3.Error as error:
        fault = fault_of(error, path)
        if fault is None:
            raise
        raise fault from error


def cannot_use(folder: Path, error: OSError) -> StoreError:
    """What it means that a folder cannot be made or written."""
    why = error.strerror or str(error)
    if error.errno in (errno.EROFS, errno.EACCES, errno.EPERM):
        return ReadOnlyStoreError(f"{folder} may only be read ({why}).", "Name another folder with --data.")
    if error.errno in (errno.ENOSPC, errno.EDQUOT):
        return FullDiskError("The disk is full.", f"Make room on it, then try again. ({folder})")
    return StoreError(f"The folder {folder} cannot be used.", f"{why}.")
