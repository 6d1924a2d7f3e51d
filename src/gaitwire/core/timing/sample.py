"""Sampling of many channels at many frames in one go.

All keys of all channels lie in flat arrays; one search finds every segment, then each easing that
occurs is evaluated once over all samples that use it.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise
from threading import Lock

import numpy as np
from cachetools import LRUCache

from gaitwire.core.conventions import FloatArray, IntArray
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.timing.easing.chart import between_knots, chart_knots
from gaitwire.core.timing.easing.cubic import cubic_value
from gaitwire.core.timing.easing.registry import CHART, EASINGS, FREE
from gaitwire.core.timing.key import Excerpt, Key
from gaitwire.core.timing.loop import Repeat, repeated
from gaitwire.core.timing.stay import as_played

_NAMES = [*EASINGS, FREE, CHART]
_CODE = {name: i for i, name in enumerate(_NAMES)}
_HOLD, _FREE, _CHART = _CODE["hold"], _CODE[FREE], _CODE[CHART]


def _code_of(ease: str) -> int:
    """A number for an easing; one that came into the registry late gets the next."""
    if ease not in _CODE:
        _CODE[ease] = len(_NAMES)
        _NAMES.append(ease)
    return _CODE[ease]


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
    knots: FloatArray  # (2, K) shares and slopes of all timing charts, one after the other
    knot: IntArray  # (2, S) where a segment's chart begins, and how many pieces it has; 0 for none
    excerpt: FloatArray | None  # (5, S) an excerpt's start, stop and rise, and the easing at both; None without any
    eases: tuple[int, ...]
    channels: int
    loop: float | None
    repeats: tuple[_Repeats, ...] = ()


@dataclass(frozen=True)
class _Repeats:
    """One channel that repeats a stretch of itself."""

    row: int
    repeat: Repeat
    lead_in: bool
    gain: float
    """What each round adds to the one before it."""


_Row = tuple[float, float, float, float, int, tuple[float, ...], tuple[float, ...], Excerpt | None]


def _segments(keys: Sequence[Key], loop: float | None) -> list[_Row]:
    """(start, length, value, rise, ease, curve, chart, excerpt) of every segment of one channel, in order of time."""
    zero: tuple[float, ...] = (0.0, 0.0, 0.0, 0.0)
    first, last = keys[0], keys[-1]
    rows: list[_Row] = []

    def between(left: Key, right: Key, start: float, length: float) -> None:
        curve, rise = left.curve or zero, right.value - left.value
        code = _code_of(left.ease)
        part = None if code in (_HOLD, _FREE) else left.excerpt
        rows.append((start, max(length, 1e-9), left.value, rise, code, curve, left.chart, part))

    if loop is None:
        rows.append((-MAX_TIME, 1.0, first.value, 0.0, _HOLD, zero, (), None))
    else:
        between(last, first, last.time - loop, first.time + loop - last.time)
    for left, right in pairwise(keys):
        between(left, right, left.time, right.time - left.time)
    if loop is None:
        rows.append((last.time, 1.0, last.value, 0.0, _HOLD, zero, (), None))
    else:
        between(last, first, last.time, first.time + loop - last.time)
    return rows


_KNOWN = 4096
"""Channels whose segments are kept: an edit changes one or two of thousands."""

_known: LRUCache[tuple[int, int, int, float | None, bool], tuple[Sequence[Key], list[_Row]]] = LRUCache(_KNOWN)
_lock = Lock()


def _known_rows(keys: Sequence[Key], loop: float | None, repeats: bool) -> list[_Row]:
    """Segments of a channel, worked out once for the very same keys; raises InvalidInputError."""
    known = (id(keys[0]), id(keys[-1]), len(keys), loop, repeats)
    with _lock:
        found = _known.get(known)
    # The keys are kept with their segments, so that no others can take their ids.
    if found is not None and all(a is b for a, b in zip(found[0], keys, strict=True)):
        return found[1]
    rows = _checked_rows(keys, loop, repeats)
    with _lock:
        _known[known] = (tuple(keys), rows)
    return rows


def _checked_rows(keys: Sequence[Key], loop: float | None, repeats: bool) -> list[_Row]:
    times = [k.time for k in keys]
    if any(b <= a for a, b in pairwise(times)) or times[0] < -MAX_TIME or times[-1] > MAX_TIME:
        raise InvalidInputError("A channel's keys are out of order or too far away in time.")
    if loop is not None and (times[0] < 0 or times[-1] >= loop):
        raise InvalidInputError(f"A key lies outside the loop of {loop:g} frames.")
    joined = None if repeats else loop
    return _segments(as_played(keys, joined is not None), joined)


def compile_keys(
    channels: Sequence[Sequence[Key]], loop: float | None, repeats: Mapping[int, tuple[Repeat, bool]] | None = None
) -> KeyTable:
    """A table of the channels' segments.

    `channels` holds, for each channel, its keys in order of time (at least one). On a loop of
    `loop` frames every key must lie in [0, loop). `repeats` says, by the channel's place, which
    stretch of it is repeated and whether what comes before it is played as it is.

    Raises InvalidInputError for a key out of order or beyond the range of time.
    """
    repeats = repeats or {}
    rows: list[_Row] = []
    owner: list[int] = []
    for index, keys in enumerate(channels):
        found = _known_rows(keys, loop, index in repeats)
        rows += found
        owner += [index] * len(found)
    cols = list(zip(*rows, strict=True)) if rows else [()] * 8
    start = np.array(cols[0], float)
    ease = np.array(cols[4], np.int64)
    knots, knot = _charts(cols[6])
    table = KeyTable(
        flat_start=start + np.array(owner, float) * _SPAN,
        start=start,
        length=np.array(cols[1], float),
        value=np.array(cols[2], float),
        rise=np.array(cols[3], float),
        ease=ease,
        curve=np.array(cols[5], float).reshape(-1, 4).T.copy(),
        knots=knots,
        knot=knot,
        excerpt=None,
        eases=tuple(int(e) for e in np.unique(ease)),
        channels=len(channels),
        loop=loop,
    )
    if any(cols[7]):
        table = replace(table, excerpt=_excerpts(table, cols[7]))
    return replace(table, repeats=tuple(_gaining(table, i, r, lead) for i, (r, lead) in repeats.items()))


def _excerpts(table: KeyTable, parts: Sequence[Excerpt | None]) -> FloatArray:
    """Excerpts of all segments (5, S), the whole for those that have none, and their easing at both ends."""
    whole = [part or (0.0, 1.0, rise) for part, rise in zip(parts, table.rise.tolist(), strict=True)]
    found = np.array(whole, float).T
    cut = np.array([part is not None for part in parts])
    ends = [np.where(cut, _progress(table, np.arange(len(parts)), at), at) for at in found[:2]]
    return np.concatenate([found, ends])


def _gaining(table: KeyTable, row: int, repeat: Repeat, lead_in: bool) -> _Repeats:
    gain = 0.0
    if repeat.kind == "onward":
        first, last = _at_times(table, np.broadcast_to([repeat.start, repeat.end], (table.channels, 2)))[row]
        gain = float(last - first)
    return _Repeats(row, repeat, lead_in, gain)


def _charts(charts: Sequence[tuple[float, ...]]) -> tuple[FloatArray, IntArray]:
    knot = np.zeros((2, len(charts)), np.int64)
    found: list[FloatArray] = []
    begun = 0
    for index, ticks in enumerate(charts):
        if ticks:
            found.append(np.stack(chart_knots(ticks)))
            knot[:, index] = begun, len(ticks) + 1
            begun += len(ticks) + 2
    return np.concatenate(found, axis=1) if found else np.zeros((2, 0)), knot


def sample(table: KeyTable, frames: FloatArray) -> FloatArray:
    """Values of every channel at every frame: frames (F,) to values (C, F). Frames may be fractional."""
    frames = np.asarray(frames, float)
    if table.channels == 0:
        return np.zeros((0, len(frames)))
    if table.loop is not None:
        frames = np.mod(frames, table.loop)
        frames = np.where(frames >= table.loop, 0.0, frames)  # as a hair before 0 comes out
    times = np.broadcast_to(frames, (table.channels, len(frames)))
    if not table.repeats:
        return _at_times(table, times)
    times = times.copy()
    added = []
    for each in table.repeats:
        times[each.row], rounds = repeated(each.repeat, times[each.row], each.lead_in)
        added.append(rounds * each.gain)
    values = _at_times(table, times)
    values[[each.row for each in table.repeats]] += added
    return values


def _at_times(table: KeyTable, times: FloatArray) -> FloatArray:
    """Values (C, F) of every channel at its own times (C, F)."""
    shape = times.shape
    wanted = times + (np.arange(table.channels) * _SPAN)[:, None]
    at = np.searchsorted(table.flat_start, wanted.ravel(), side="right") - 1
    times = times.ravel()
    at -= times < table.start[at]  # far along the flat axis a hair before a key is rounded onto it
    share = np.clip((times - table.start[at]) / table.length[at], 0.0, 1.0)
    if table.excerpt is None:
        values = table.value[at] + table.rise[at] * _progress(table, at, share)
    else:
        values = table.value[at] + _excerpted(table, table.excerpt[:, at], at, share)
    if _FREE in table.eases:
        mask = table.ease[at] == _FREE
        seg = at[mask]
        x1, dy1, x2, dy2 = table.curve[:, seg]
        start = table.value[seg]
        values[mask] = cubic_value(share[mask], x1, dy1, x2, dy2, start, start + table.rise[seg])
    return values.reshape(shape)


def _excerpted(table: KeyTable, excerpt: FloatArray, at: IntArray, share: FloatArray) -> FloatArray:
    """How much segments, of whose easings only excerpts (5, T) are played, have risen at time shares (T,)."""
    start, stop, rise, first, last = excerpt
    played = _progress(table, at, start + share * (stop - start))
    missed = table.rise[at] - rise * (last - first)
    out: FloatArray = rise * (played - first) + share * missed
    return out


def _progress(table: KeyTable, at: IntArray, share: FloatArray) -> FloatArray:
    """Shares of the rise of segments, by their named easings and charts, at time shares."""
    ease = table.ease[at]
    progress = np.zeros(share.shape)
    for code in table.eases:
        if code in (_HOLD, _FREE, _CHART):
            continue
        if len(table.eases) == 1:
            return EASINGS[_NAMES[code]].shape(share)
        mask = ease == code
        progress[mask] = EASINGS[_NAMES[code]].shape(share[mask])
    if _CHART in table.eases:
        mask = ease == _CHART
        progress[mask] = _charted(table, at[mask], share[mask])
    return progress


def _charted(table: KeyTable, segment: IntArray, share: FloatArray) -> FloatArray:
    begun, pieces = table.knot[:, segment]
    along = share * pieces
    piece = np.minimum(along.astype(np.int64), pieces - 1)
    (y0, m0), (y1, m1) = table.knots[:, begun + piece], table.knots[:, begun + piece + 1]
    return between_knots(y0, y1, m0, m1, along - piece)
