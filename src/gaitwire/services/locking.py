"""One writer: a lock beside the store, held by whoever may change it."""

from __future__ import annotations

import fcntl
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from gaitwire.core.errors import GaitWireError


class HeldError(GaitWireError):
    """Another process holds the store."""


@contextmanager
def writing(folder: Path, who: str) -> Iterator[None]:
    """Hold the lock; raises HeldError, telling by whom it is held."""
    folder.mkdir(parents=True, exist_ok=True)
    with (folder / "gaitwire.lock").open("a+") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            lock.seek(0)
            raise HeldError(
                f"{folder} is in use ({lock.read().strip() or 'by another program'}).", "Close it first."
            ) from None
        lock.truncate(0)
        lock.write(who)
        lock.flush()
        yield
