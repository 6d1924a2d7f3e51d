"""A shelf of the last few values made."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from threading import Lock, RLock
from typing import Any, TypeVar

Kept = TypeVar("Kept")


class Shelfful:
    """The last few values made, by key. Safe across threads.

    Who makes a value holds the gate of its key, and nothing that another thread could wait for him with:
    `make` may read from the store, which takes no lock, and must not write to it.
    """

    def __init__(self, limit: int) -> None:
        self._limit = limit
        self._kept: OrderedDict[object, object] = OrderedDict()
        self._lock = Lock()
        self._making: dict[object, RLock] = {}

    def peek(self, key: object) -> Any:
        """The value of that key if it is here, else None."""
        with self._lock:
            return self._kept.get(key)

    def put(self, key: object, value: object) -> None:
        """Keep a value; the one that was asked for longest ago makes room."""
        with self._lock:
            self._kept[key] = value
            self._kept.move_to_end(key)
            while len(self._kept) > self._limit:
                self._kept.popitem(last=False)

    def get(self, key: object, make: Callable[[], Kept]) -> Kept:
        """The value of that key; who asks for it while it is being made waits for that one."""
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key]  # type: ignore[return-value]
            gate = self._making.setdefault(key, RLock())
        with gate:
            with self._lock:
                if key in self._kept:
                    return self._kept[key]  # type: ignore[return-value]
            try:
                made = make()
                self.put(key, made)
            finally:
                with self._lock:
                    self._making.pop(key, None)
        return made
