"""One writer: a lock beside the store, held by whoever may change it; and passing folders, held while they are used."""

from __future__ import annotations

import fcntl
import os
import shutil
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from gaitwire.core.errors import GaitWireError
from gaitwire.store.faults import cannot_use

LOCK = "gaitwire.lock"
PREFIX = "gaitwire-"
"""How names of passing folders begin."""

_A_DAY = 86_400.0


class HeldError(GaitWireError):
    """Another process holds the store."""


@contextmanager
def writing(folder: Path, who: str) -> Iterator[None]:
    """Hold the lock; raises HeldError, telling by whom it is held, and StoreError where it cannot be made."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
        lock = (folder / LOCK).open("a+")
    except OSError as error:
        raise cannot_use(folder, error) from error
    with lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            raise HeldError(f"{folder} is in use ({_holder(folder)}).", "Close it first.") from None
        with suppress(OSError):  # on a full disk nobody learns who holds it; it is held all the same
            lock.truncate(0)
            lock.write(who)
            lock.flush()
        yield


def _holder(folder: Path) -> str:
    return (folder / LOCK).read_text(errors="replace").strip() or "by another program"


def held_by(folder: Path) -> str:
    """Who holds the store in a folder; '' for nobody."""
    with suppress(OSError), (folder / LOCK).open() as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            return _holder(folder)
    return ""


@contextmanager
def passing_folder() -> Iterator[Path]:
    """A folder that goes when it is left; one whose program was killed goes when the next one starts."""
    folder = Path(tempfile.mkdtemp(prefix=PREFIX))
    try:
        with writing(folder, "a running program"):
            yield folder
    finally:
        shutil.rmtree(folder, ignore_errors=True)


def clear_passing() -> int:
    """Remove passing folders that no program holds any more; how many there were."""
    gone = 0
    for folder in Path(tempfile.gettempdir()).glob(f"{PREFIX}*"):
        with suppress(OSError):
            left = (folder / LOCK).exists() and not held_by(folder)
            old = not (folder / LOCK).exists() and time.time() - folder.stat().st_mtime > _A_DAY
            if folder.is_dir() and folder.stat().st_uid == os.getuid() and (left or old):
                shutil.rmtree(folder, ignore_errors=True)
                gone += 1
    return gone
