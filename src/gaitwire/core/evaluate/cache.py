"""Results kept by (hash of inputs, block of frames), so that an edit renews only what it touched."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from threading import Lock
from typing import Any, Generic, TypeVar

import numpy as np
from cachetools import LRUCache

from gaitwire.core.conventions import FloatArray

Result = TypeVar("Result", bound=tuple[Any, ...])

BLOCK = 48
"""Frames in a block."""

MOST_BYTES = 48_000_000


class BlockCache(Generic[Result]):
    """A bounded store of tuples of arrays whose last axis is time. Safe across threads."""

    def __init__(self, most_bytes: int = MOST_BYTES) -> None:
        self._kept: LRUCache[tuple[str, int], Result] = LRUCache(most_bytes, _bytes)
        self._lock = Lock()
        self.hits = 0
        self.misses = 0

    def _block(self, signature: str, index: int, make: Callable[[FloatArray], Result]) -> Result:
        key = (signature, index)
        with self._lock:
            if key in self._kept:
                self.hits += 1
                return self._kept[key]
            self.misses += 1
        made = make(np.arange(index * BLOCK, (index + 1) * BLOCK, dtype=float))
        for array in made:
            array.setflags(write=False)
        with self._lock, suppress(ValueError):  # one that is larger than all there is room for is not kept
            self._kept[key] = made
        return made

    def fetch(self, signature: str, frames: FloatArray, make: Callable[[FloatArray], Result]) -> Result:
        """The result at the frames; whole frames come from blocks, fractional ones are made afresh."""
        whole = np.asarray(frames, float)
        if np.any(whole != np.floor(whole)):
            return make(whole)
        index = np.floor_divide(whole, BLOCK).astype(np.int64)
        needed = np.unique(index)
        blocks = [self._block(signature, int(i), make) for i in needed]
        if len(blocks) == 1:
            at = (whole - needed[0] * BLOCK).astype(np.int64)
            return tuple(a[..., at] for a in blocks[0])  # type: ignore[return-value]
        at = (np.searchsorted(needed, index) * BLOCK + whole - index * BLOCK).astype(np.int64)
        joined = [np.concatenate(arrays, axis=-1) for arrays in zip(*blocks, strict=True)]
        return tuple(a[..., at] for a in joined)  # type: ignore[return-value]


def _bytes(arrays: tuple[Any, ...]) -> int:
    return sum(int(a.nbytes) for a in arrays)
