"""What a running program does by itself: dated copies of the store, and forgetting what nobody asks about."""

from __future__ import annotations

import threading

from gaitwire.core.errors import GaitWireError
from gaitwire.services.session.journal import log
from gaitwire.services.session.workers import give_memory_back
from gaitwire.store import Store
from gaitwire.store.backups import copy_if_due
from gaitwire.store.upkeep import forget_gestures

EVERY = 60.0
"""Seconds between looks."""


class Upkeep:
    """A thread that looks after an open store until it is closed."""

    def __init__(self, store: Store) -> None:
        self._store = store
        self._over = threading.Event()
        self._thread = threading.Thread(target=self._run, name="upkeep", daemon=True)

    def start(self) -> None:
        if self._store.read_only is None:
            self._thread.start()

    def close(self) -> None:
        """Wait for what is under way, though not for long: a copy that is not whole leaves nothing behind."""
        self._over.set()
        if self._thread.is_alive():
            self._thread.join(1.0)

    def _run(self) -> None:
        while not self._over.is_set():
            self.look()
            self._over.wait(EVERY)

    def look(self) -> None:
        """Do what is due; what cannot be done now is tried again at the next look."""
        try:
            made = copy_if_due(self._store)
            if made:
                log.info("copied to %s", made.path.name)
            forget_gestures(self._store)
            give_memory_back()
        except GaitWireError as error:
            log.warning("upkeep: %s", type(error).__name__)
