"""A shelf of the last few values made."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from threading import RLock
from typing import TypeVar

Kept = TypeVar("Kept")


class Shelfful:
    """The last few values made, by key."""

    def __init__(self, limit: int) -> None:
        self._limit = limit
        self._kept: OrderedDict[object, object] = OrderedDict()
        self._lock = RLock()
        self._making: dict[object, RLock] = {}

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
            finally:
                with self._lock:
                    self._making.pop(key, None)
            with self._lock:
                self._kept[key] = made
                while len(self._kept) > self._limit:
                    self._kept.popitem(last=False)
        return made
