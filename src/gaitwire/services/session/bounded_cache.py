"""The last values made, as many as there is room for."""

from __future__ import annotations

import dataclasses
from collections.abc import Callable, Mapping
from contextlib import suppress
from threading import Lock, RLock
from typing import Any, TypeVar

import numpy as np
from cachetools import Cache, LRUCache
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


class BoundedCache:
    """The last values made, by key: those asked for longest ago make room for others.

    There is room for `most` of them; or for as many as have `most_bytes` together, and a larger one is not kept.
    Safe across threads. Who makes a value holds the gate of its key, and nothing that another thread could
    wait for him with: `make` may read from the store, which takes no lock, and must not write to it.
    """

    def __init__(self, most: int | None = None, *, most_bytes: int | None = None) -> None:
        weigh = None if most_bytes is None else held_bytes
        self._kept: LRUCache[object, object] = LRUCache(most or most_bytes or 1, weigh)
        self._lock = Lock()
        self._making: dict[object, RLock] = {}

    def peek(self, key: object) -> Any:
        """The value of that key if it is here, else None; asking so does not keep it longer."""
        with self._lock:
            return Cache.__getitem__(self._kept, key) if key in self._kept else None

    def put(self, key: object, value: object) -> None:
        """Keep a value, if there is room for it at all."""
        with self._lock, suppress(ValueError):
            self._kept[key] = value

    def get(self, key: object, make: Callable[[], Cached]) -> Cached:
        """The value of that key; who asks for it while it is being made waits for that one."""
        with self._lock:
            if key in self._kept:
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
