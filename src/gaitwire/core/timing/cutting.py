"""A channel's course between two times, as the easing of one segment: exact, whatever it eases with."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.timing.easing.cubic import solve_parameter
from gaitwire.core.timing.easing.registry import FREE
from gaitwire.core.timing.edit import KeyChange, MakeId, key_at
from gaitwire.core.timing.key import WHOLE, Curve, Excerpt, Key
from gaitwire.core.timing.loop import wrap
from gaitwire.core.timing.segment import risen
from gaitwire.core.timing.stay import as_played
from gaitwire.core.tolerances import TIME

_HAIR = 1e-9
"""A share of a segment's time, or frames, from which on something is left of it."""


def cut(key: Key, rise: float, start: float, stop: float) -> Key:
    """A key whose segment plays what a key's does from one share of its time to another, in the same units.

    `rise` is that of the whole segment. Free curves are cut in two (de Casteljau), linear segments and held
    ones stay so, all others become excerpts.
    """
    if start < _HAIR and stop > 1 - _HAIR:
        return key
    if key.ease == FREE and key.curve is not None:
        return key.model_copy(update={**WHOLE, "curve": _cut_curve(key.curve, rise, start, stop)})
    if key.ease in ("linear", "hold"):
        return key
    if key.excerpt is None:
        return key.model_copy(update={"excerpt": Excerpt(start, stop, rise)})
    # An excerpt of an excerpt; what it made up evenly over its time, it makes up evenly still.
    first, last, whole = key.excerpt
    span = last - first
    return key.model_copy(update={"excerpt": Excerpt(first + start * span, first + stop * span, whole)})


def _cut_curve(curve: Curve, rise: float, start: float, stop: float) -> Curve:
    points = np.array([(0.0, 0.0), (curve.x1, curve.dy1), (curve.x2, rise + curve.dy2), (1.0, rise)])
    s0, s1 = solve_parameter(np.array([start, stop]), curve.x1, curve.x2).tolist()

    def blossom(*at: float) -> FloatArray:
        level = points
        for s in at:
            level = level[:-1] + s * (level[1:] - level[:-1])
        found: FloatArray = level[0]
        return found

    ends = (blossom(s0, s0, s0), blossom(s0, s0, s1), blossom(s0, s1, s1), blossom(s1, s1, s1))
    (ax, ay), (bx, by), (cx, cy), (dx, dy) = (p.tolist() for p in ends)
    width = max(dx - ax, _HAIR)
    return Curve(_within((bx - ax) / width), by - ay, _within((cx - ax) / width), cy - dy)


def _within(share: float) -> float:
    return min(1.0, max(0.0, share))


def segment_at(keys: Sequence[Key], time: float, loop: float | None) -> tuple[Key, Key, float, float] | None:
    """The segment that holds a time: its keys, its start (on a loop perhaps below 0) and its length in frames.

    None before the first key and from the last one on, where nothing loops.
    """
    if not keys or (len(keys) < 2 and loop is None):
        return None
    for left, right in pairwise(keys):
        if left.time - TIME <= time < right.time - TIME:
            return left, right, left.time, right.time - left.time
    if loop is None:
        return None
    first, last = keys[0], keys[-1]
    return last, first, last.time - (loop if time < first.time else 0.0), first.time + loop - last.time


def value_at(keys: Sequence[Key], time: float, loop: float | None) -> float:
    """What a channel's keys say at a time; it has at least one."""
    keys = as_played(keys, loop is not None)
    found = segment_at(keys, time, loop)
    if found is None:
        return keys[0].value if time < keys[0].time else keys[-1].value
    left, right, start, length = found
    return left.value + float(risen(left, right.value - left.value, np.array([(time - start) / length]))[0])


def add_point(keys: Sequence[Key], time: float, loop: float | None, make_id: MakeId) -> KeyChange:
    """Add a key where a channel's course is at a time, and leave that course as it is, at any time.

    Raises InvalidInputError where a key is, or nothing moves.
    """
    if key_at(keys, time) is not None:
        raise InvalidInputError("There is a bead on this frame already.", "Drag that one, or add elsewhere.")
    found = segment_at(keys, time, loop)
    if found is None:
        raise InvalidInputError("A point can be added between two beads only.", "Click between the first and the last.")
    left, right, start, length = found
    new = {"id": make_id(), "time": wrap(time, loop) if loop is not None else time, "stay": False}
    if right.stay:
        flat = left.curve is None and left.excerpt is None
        before = left if flat else left.model_copy(update={**WHOLE, "ease": "hold"})
        return KeyChange((*([] if flat else [before]), before.model_copy(update=new)))
    share, rise = (time - start) / length, right.value - left.value
    value = left.value + float(risen(left, rise, np.array([share]))[0])
    before, made = cut(left, rise, 0.0, share), cut(left, rise, share, 1.0)
    made = made.model_copy(update={**new, "value": value})
    return KeyChange((made,) if before == left else (before, made))
