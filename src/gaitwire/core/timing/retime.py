"""Moving keys in time: scaled, turned round, drawn out between marks, brought to whole frames.

Pure functions from one channel's keys to the keys to store and the ids to remove.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence, Set
from itertools import pairwise

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.timing.easing.registry import EASINGS
from gaitwire.core.timing.edit import KeyChange
from gaitwire.core.timing.key import Curve, Excerpt, Key, eased_like
from gaitwire.core.timing.loop import wrap
from gaitwire.core.tolerances import TIME

_TURNED = {"in": "out", "out": "in"}


def turned_round(key: Key) -> Key:
    """A key whose segment plays backwards: its easing, curve or chart from the other end."""
    easing = EASINGS.get(key.ease)
    ease = f"{easing.family}-{_TURNED[easing.direction]}" if easing and easing.direction in _TURNED else key.ease
    curve = key.curve and Curve(1 - key.curve.x2, key.curve.dy2, 1 - key.curve.x1, key.curve.dy1)
    chart = tuple(1 - c for c in reversed(key.chart))
    part = key.excerpt and Excerpt(1 - key.excerpt.stop, 1 - key.excerpt.start, -key.excerpt.rise)
    return key.model_copy(update={"ease": ease, "curve": curve, "chart": chart, "excerpt": part})


def reverse_keys(keys: Sequence[Key], chosen: Collection[str], first: float, last: float) -> KeyChange:
    """Turn chosen keys round in time between two frames; the segments between them play backwards.

    A segment belongs to its left key, so each takes the easing of the segment that was at its
    other side. What leads on from the last of them stays as it was.
    """
    picked = [k for k in keys if k.id in chosen]
    if not picked:
        return KeyChange()
    tail = picked[-1]
    put = [_moved_to(picked[0], first + last - picked[0].time, like=tail)]
    put += [_moved_to(b, first + last - b.time, like=turned_round(a)) for a, b in pairwise(picked)]
    return _taking(keys, put)


def _moved_to(key: Key, time: float, like: Key) -> Key:
    return eased_like(key.model_copy(update={"time": time}), like)


def scale_keys(
    keys: Sequence[Key], chosen: Collection[str], about: float, factor: float, loop: float | None, whole: bool
) -> KeyChange:
    """Draw chosen keys out in time, or together, about a frame; `whole` puts them on whole frames.

    Raises InvalidInputError where two of them would meet, or one would come before frame 0.
    """
    put = []
    for key in keys:
        if key.id in chosen:
            time = about + (key.time - about) * factor
            put.append(key.model_copy(update={"time": float(np.rint(time)) if whole else time}))
    if loop is None and any(k.time < -TIME for k in put):
        raise InvalidInputError("These beads would begin before the first frame.", "Scale them less, or slide them on.")
    if loop is not None:
        put = [k.model_copy(update={"time": wrap(k.time, loop)}) for k in put]
    if len({round(k.time / TIME) for k in put}) < len(put):
        raise InvalidInputError(
            "Two beads of a wire would land on the same frame.", "Scale them less, or do without whole frames."
        )
    return _taking(keys, put)


def snap_keys(keys: Sequence[Key], chosen: Collection[str], loop: float | None) -> KeyChange:
    """Put chosen keys on whole frames; where two would meet, each after the first stays where it is."""
    taken = {round(k.time) for k in keys if abs(k.time - round(k.time)) < TIME}
    put = []
    for key in keys:
        time = float(round(key.time))
        if loop is not None:
            time = wrap(time, loop)
        if key.id in chosen and key.time != time and time not in taken:
            taken.add(int(time))
            put.append(key.model_copy(update={"time": time}))
    return KeyChange(tuple(put))


def warp_keys(
    keys: Sequence[Key], before: Sequence[float], after: Sequence[float], loop: float | None = None,
    length: float | None = None,
) -> KeyChange:  # fmt: skip
    """Carry keys along as marks in time move: `before` and `after` are the marks' times, in order.

    What lies between two marks moves in proportion, and lands on whole frames where there is room
    for it; beyond the outer marks everything moves as they do. A `loop` may be of another `length` then.
    Raises InvalidInputError where the marks would change places.
    """
    if any(b - a < TIME for a, b in pairwise(after)):
        raise InvalidInputError("A pose cannot move past another one.", "Put it between its neighbours.")
    times = np.array([k.time for k in keys])
    if loop is not None and len(before) > 1:  # as seen from between the marks, which may lie across the seam
        times = np.where(times > before[-1] + TIME, times - loop, times)
        times = np.where(times < before[0] - TIME, times + loop, times)
    times = _carried(times, np.asarray(before, float), np.asarray(after, float))
    times = _settled(times, {round(float(a) / TIME) for a in after})
    if loop is not None:
        times = np.array([wrap(float(t), length or loop) for t in times])
    put = [
        k.model_copy(update={"time": float(t)}) for k, t in zip(keys, times, strict=True) if abs(k.time - t) > TIME / 2
    ]
    return _taking(keys, put)


def _carried(times: FloatArray, before: FloatArray, after: FloatArray) -> FloatArray:
    inside: FloatArray = np.interp(times, before, after)
    inside = np.where(times < before[0], times + after[0] - before[0], inside)
    return np.where(times > before[-1], times + after[-1] - before[-1], inside)


def _settled(times: FloatArray, fixed: Set[int]) -> FloatArray:
    """Times on whole frames, each only if no other one is or wants to be there, and no mark; marks' own stay so."""
    whole = np.rint(times)
    wanted, counts = np.unique(whole, return_counts=True)
    alone = dict(zip(wanted.tolist(), counts.tolist(), strict=True))
    out = times.copy()
    for i, (time, to) in enumerate(zip(times.tolist(), whole.tolist(), strict=True)):
        if not fixed & {round(time / TIME), round(to / TIME)} and alone[to] == 1:
            out[i] = to
    return out


def _taking(keys: Sequence[Key], put: Sequence[Key]) -> KeyChange:
    """Keys as they land: one that does not move gives way."""
    moving = {k.id for k in put}
    times = {round(k.time / TIME) for k in put}
    return KeyChange(tuple(put), tuple(k.id for k in keys if k.id not in moving and round(k.time / TIME) in times))
