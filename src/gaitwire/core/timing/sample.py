"""Sampling of many channels at many frames in one go.

All keys of all channels lie in flat arrays; one search finds every segment, then each easing that
occurs is evaluated once over all samples that use it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from gaitwire.core.conventions import FloatArray, IntArray
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.timing.easing.cubic import cubic_value
from gaitwire.core.timing.easing.registry import EASINGS, FREE
from gaitwire.core.timing.key import Key

_NAMES = [*EASINGS, FREE]
_CODE = {name: i for i, name in enumerate(_NAMES)}
_LINEAR, _HOLD, _FREE = _CODE["linear"], _CODE["hold"], _CODE[FREE]

_SPAN = float(1 << 24)
"""Frames set aside for each channel in the flat search; a power of two keeps whole frames exact."""

MAX_TIME = float(1 << 22)
"""Frames. No key may lie beyond, in either direction."""


@dataclass(frozen=True)
class KeyTable:
    """Segments of C channels, each with its own run of rows.

    For a channel of n keys on a loop there are n + 1 segments, the first and the last being the
    same one across the seam; else n + 1 as well, the outer two constant.
    """

    flat_start: FloatArray  # (S,) start of each segment plus channel * _SPAN, for the search
    start: FloatArray  # (S,) frames
    length: FloatArray  # (S,) frames, > 0
    value: FloatArray  # (S,) value at the start
    rise: FloatArray  # (S,) value at the end minus at the start
    ease: IntArray  # (S,)
    curve: FloatArray  # (4, S)
    eases: tuple[int, ...]
    channels: int
    loop: float | None


_Row = tuple[float, float, float, float, int, tuple[float, ...]]


def _segments(keys: Sequence[Key], loop: float | None) -> list[_Row]:
    """(start, length, value, rise, ease, curve) of every segment of one channel, in order of time."""
    zero: tuple[float, ...] = (0.0, 0.0, 0.0, 0.0)
    first, last = keys[0], keys[-1]
    rows: list[_Row] = []

    def between(left: Key, right: Key, start: float, length: float) -> None:
        curve = left.curve or zero
        rows.append((start, max(length, 1e-9), left.value, right.value - left.value, _CODE[left.ease], curve))

    if loop is None:
        rows.append((-MAX_TIME, 1.0, first.value, 0.0, _HOLD, zero))
    else:
        between(last, first, last.time - loop, first.time + loop - last.time)
    for left, right in pairwise(keys):
        between(left, right, left.time, right.time - left.time)
    if loop is None:
        rows.append((last.time, 1.0, last.value, 0.0, _HOLD, zero))
    else:
        between(last, first, last.time, first.time + loop - last.time)
    return rows


def compile_keys(channels: Sequence[Sequence[Key]], loop: float | None) -> KeyTable:
    """A table of the channels' segments.

    `channels` holds, for each channel, its keys in order of time (at least one). On a loop of
    `loop` frames every key must lie in [0, loop).

    Raises InvalidInputError for a key out of order or beyond the range of time.
    """
    rows: list[_Row] = []
    owner: list[int] = []
    for index, keys in enumerate(channels):
        times = [k.time for k in keys]
        if any(b <= a for a, b in pairwise(times)) or times[0] < -MAX_TIME or times[-1] > MAX_TIME:
            raise InvalidInputError("A channel's keys are out of order or too far away in time.")
        if loop is not None and (times[0] < 0 or times[-1] >= loop):
            raise InvalidInputError(f"A key lies outside the loop of {loop:g} frames.")
        found = _segments(keys, loop)
        rows += found
        owner += [index] * len(found)
    cols = list(zip(*rows, strict=True)) if rows else [(), (), (), (), (), ()]
    start = np.array(cols[0], float)
    ease = np.array(cols[4], np.int64)
    return KeyTable(
        flat_start=start + np.array(owner, float) * _SPAN,
        start=start,
        length=np.array(cols[1], float),
        value=np.array(cols[2], float),
        rise=np.array(cols[3], float),
        ease=ease,
        curve=np.array(cols[5], float).reshape(-1, 4).T.copy(),
        eases=tuple(int(e) for e in np.unique(ease)),
        channels=len(channels),
        loop=loop,
    )


def sample(table: KeyTable, frames: FloatArray) -> FloatArray:
    """Values of every channel at every frame: frames (F,) to values (C, F). Frames may be fractional."""
    frames = np.asarray(frames, float)
    if table.channels == 0:
        return np.zeros((0, len(frames)))
    if table.loop is not None:
        frames = np.mod(frames, table.loop)
        frames = np.where(frames >= table.loop, 0.0, frames)  # as a hair before 0 comes out
    wanted = frames[None, :] + (np.arange(table.channels) * _SPAN)[:, None]
    at = np.searchsorted(table.flat_start, wanted.ravel(), side="right") - 1
    times = np.broadcast_to(frames, wanted.shape).ravel()
    at -= times < table.start[at]  # far along the flat axis a hair before a key is rounded onto it
    share = np.clip((times - table.start[at]) / table.length[at], 0.0, 1.0)
    ease = table.ease[at]
    progress = np.zeros(share.shape)
    for code in table.eases:
        if code in (_HOLD, _FREE):
            continue
        if len(table.eases) == 1:
            progress = EASINGS[_NAMES[code]].shape(share)
            break
        mask = ease == code
        progress[mask] = EASINGS[_NAMES[code]].shape(share[mask])
    values = table.value[at] + table.rise[at] * progress
    if _FREE in table.eases:
        mask = ease == _FREE
        seg = at[mask]
        x1, dy1, x2, dy2 = table.curve[:, seg]
        start = table.value[seg]
        values[mask] = cubic_value(share[mask], x1, dy1, x2, dy2, start, start + table.rise[seg])
    return values.reshape(wanted.shape)
