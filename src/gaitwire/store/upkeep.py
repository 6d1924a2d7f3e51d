"""What keeps the file small: history's size, cutting it by age, names that are not asked about any more."""

from __future__ import annotations

import time
from typing import NamedTuple

from gaitwire.store.connection import Store

GESTURES_KEPT = 86_400.0
"""Seconds for which a gesture's name is known; a page tries again within minutes."""


class HistorySize(NamedTuple):
    """How much history there is: steps, bytes of their images, when the oldest was made (None: there is none)."""

    steps: int
    bytes: int
    oldest: float | None


def history_size(store: Store) -> HistorySize:
    """Size of all documents' history together."""
    with store.snapshot() as db:
        steps, oldest = db.execute("SELECT count(*), min(made_at) FROM steps").fetchone()
        images = db.execute(
            "SELECT total(length(before)) + total(length(after)) + total(length(row_id)) FROM step_rows"
        ).fetchone()[0]
    return HistorySize(steps, int(images), oldest)


def cut_history(store: Store, older_than: float) -> int:
    """Forget steps made longer ago than so many seconds, undone ones with them; how many there were."""
    with store.atomic() as db:
        return db.execute("DELETE FROM steps WHERE made_at < ?", (time.time() - older_than,)).rowcount


def compact(store: Store) -> tuple[int, int]:
    """Give the room that nothing takes any more back to the disk: the file's bytes before and after."""
    before = file_size(store)
    store.vacuum()
    return before, file_size(store)


def file_size(store: Store) -> int:
    """Bytes of the file and of its journal."""
    journal = store.path.with_name(f"{store.path.name}-wal")
    return sum(path.stat().st_size for path in (store.path, journal) if path.exists())


def forget_gestures(store: Store) -> None:
    """Forget the names of gestures that no page can try again."""
    with store.atomic() as db:
        db.execute("DELETE FROM gestures WHERE made_at < ?", (time.time() - GESTURES_KEPT,))
