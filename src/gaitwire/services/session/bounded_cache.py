"""A shelf of the last values made, as many as there is room for."""

from __future__ import annotations

import dataclasses
from collections import OrderedDict
from collections.abc import Callable, Mapping
from threading import Lock, RLock
from typing import Any, TypeVar

import numpy as np
from pydantic import BaseModel

Cached = TypeVar("Cached")

_EACH = 64
"""Bytes that any value takes besides what it holds, roughly."""


def held_bytes(value: object) -> int:
    """About how many bytes a value holds: arrays and texts, through tuples, mappings, models and data classes."""
    if isinstance(value, np.ndarray):
        return _EACH + value.nbytes
    if isinstance(value, str | bytes):
        return _EACH + len(value)
    if isinstance(value, Mapping):
        return _EACH + sum(held_bytes(v) for v in value.values())
    if isinstance(value, tuple | list | frozenset | set):
        return _EACH + sum(held_bytes(v) for v in value)
    if isinstance(value, BaseModel):
        return _EACH + sum(held_bytes(v) for v in value.__dict__.values())
    if dataclasses.is_dataclass(value):
        return _EACH + sum(held_bytes(getattr(value, f.name)) for f in dataclasses.fields(value))
    return _EACH


class Shelfful:
    """The last values made, by key: at most `limit` of them, and of those at most `most_bytes` where that is given.

    Safe across threads. Who makes a value holds the gate of its key, and nothing that another thread could
    wait for him with: `make` may read from the store, which takes no lock, and must not write to it.
    """

    def __init__(self, limit: int, most_bytes: int | None = None) -> None:
        self._limit, self._most_bytes = limit, most_bytes
        self._kept: OrderedDict[object, tuple[object, int]] = OrderedDict()
        self._bytes = 0
        self._lock = Lock()
        self._making: dict[object, RLock] = {}

    def peek(self, key: object) -> Any:
        """The value of that key if it is here, else None."""
        with self._lock:
            found = self._kept.get(key)
        return found and found[0]

    def put(self, key: object, value: object) -> None:
        """Keep a value; those that were asked for longest ago make room."""
        weight = 0 if self._most_bytes is None else held_bytes(value)
        with self._lock:
            self._bytes += weight - self._kept.pop(key, (None, 0))[1]
            self._kept[key] = (value, weight)
            while len(self._kept) > 1 and (
                len(self._kept) > self._limit or (self._most_bytes is not None and self._bytes > self._most_bytes)
            ):
                self._bytes -= self._kept.popitem(last=False)[1][1]

    def get(self, key: object, make: Callable[[], Cached]) -> Cached:
        """The value of that key; who asks for it while it is being made waits for that one."""
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key][0]  # type: ignore[return-value]
            gate = self._making.setdefault(key, RLock())
        with gate:
            with self._lock:
                if key in self._kept:
                    return self._kept[key][0]  # type: ignore[return-value]
            try:
                made = make()
                self.put(key, made)
            finally:
                with self._lock:
                    self._making.pop(key, None)
        return made
