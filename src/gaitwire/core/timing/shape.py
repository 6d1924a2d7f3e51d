"""The shape of a channel's course by hand: points added, handles pulled, joints made smooth, level or corners."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from itertools import pairwise
from typing import Literal, NamedTuple

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.timing.easing.nearest import nearest_cubic
from gaitwire.core.timing.easing.registry import CHART, EASINGS, FREE
from gaitwire.core.timing.edit import KeyChange
from gaitwire.core.timing.key import WHOLE, Curve, Key, curve_from_shares
from gaitwire.core.timing.segment import risen
from gaitwire.core.tolerances import TIME

JointKind = Literal["smooth", "level", "corner"]
JOINTS: dict[JointKind, str] = {
    "smooth": "goes through without a kink",
    "level": "comes to rest here, and leaves from rest",
    "corner": "straight to its neighbours",
}
"""Ways in which two segments meet at a key."""


class CurveSegment(NamedTuple):
    """From a key to the next, in frames and in the channel's units; as a free curve, whatever its easing."""

    left: Key
    right: Key
    length: float
    curve: Curve

    @property
    def rise(self) -> float:
        return self.right.value - self.left.value


def as_curve(key: Key, rise: float) -> Curve:
    """A key's segment as a free curve: its own, or the nearest to its easing."""
    if key.ease == FREE and key.curve is not None:
        return key.curve
    if key.ease == CHART or key.excerpt is not None:
        return _nearest(risen(key, rise, _SHARES), rise)
    named = key.ease if key.ease in EASINGS and key.ease != "hold" else "linear"
    return curve_from_shares(*nearest_cubic(named), rise)


_SHARES = np.linspace(0, 1, 41)[1:-1]


def _nearest(risen: FloatArray, rise: float) -> Curve:
    """The cubic in time that is nearest to a course (F,) at `_SHARES`; its handles at thirds of the time."""
    s, r = _SHARES, 1 - _SHARES
    hills = np.stack([3 * r * r * s, 3 * r * s * s], axis=1)
    heights = np.linalg.lstsq(hills, risen - rise * s**3, rcond=None)[0]
    return Curve(1 / 3, float(heights[0]), 2 / 3, float(heights[1]) - rise)


def curve_segments(keys: Sequence[Key], loop: float | None) -> list[CurveSegment]:
    """The segments of a channel in order of time; on a loop the last one reaches the first key again."""
    if len(keys) < 2:
        return []
    pairs = [(a, b, b.time - a.time) for a, b in pairwise(keys)]
    if loop is not None:
        pairs.append((keys[-1], keys[0], keys[0].time + loop - keys[-1].time))
    return [CurveSegment(a, b, length, as_curve(a, b.value - a.value)) for a, b, length in pairs]


def curved(key: Key, curve: Curve) -> Key:
    """A key whose segment is a free curve; raises ValidationError where its handles leave its time."""
    return Key.model_validate({**key.model_dump(), **WHOLE, "ease": FREE, "curve": curve})


def slope_at(before: CurveSegment, after: CurveSegment) -> float:
    """A slope for a key that overshoots to neither side: 0 where the course turns back (Fritsch and Carlson 1980)."""
    a, b = before.rise / before.length, after.rise / after.length
    return 0.0 if a * b <= 0 else 2 * a * b / (a + b)


def join_keys(keys: Sequence[Key], chosen: Collection[str], kind: JointKind, loop: float | None) -> KeyChange:
    """Let segments meet at chosen keys smoothly, level, or in a corner; their other ends stay as they are."""
    curves = {s.left.id: s.curve for s in curve_segments(keys, loop)}
    touched: set[str] = set()
    for before, after in _around(keys, loop):
        if after.left.id not in chosen:
            continue
        into, out = curves[before.left.id], curves[after.left.id]
        slopes = (before.rise / before.length, after.rise / after.length)
        if kind != "corner":
            slopes = (slope_at(before, after),) * 2 if kind == "smooth" else (0.0, 0.0)
        curves[before.left.id] = Curve(into.x1, into.dy1, 2 / 3, -slopes[0] * before.length / 3)
        curves[after.left.id] = Curve(1 / 3, slopes[1] * after.length / 3, out.x2, out.dy2)
        touched |= {before.left.id, after.left.id}
    return KeyChange(tuple(curved(k, curves[k.id]) for k in keys if k.id in touched))


def _around(keys: Sequence[Key], loop: float | None) -> list[tuple[CurveSegment, CurveSegment]]:
    """Pairs of segments that meet at a key."""
    segments = curve_segments(keys, loop)
    pairs = list(pairwise(segments))
    return [(segments[-1], segments[0]), *pairs] if loop is not None and segments else pairs


def pull_handle(
    keys: Sequence[Key], key_id: str, side: Literal["in", "out"], x: float, dy: float, loop: float | None
) -> KeyChange:
    """Pull one handle of a key: `x` in shares of its segment's time, `dy` in units from the key's value.

    Where the key was smooth it stays so: the handle at its other side turns along. Raises
    InvalidInputError for a key at which no segment ends or begins on that side.
    """
    segments = {s.left.id: s for s in curve_segments(keys, loop)}
    own = segments.get(key_id) if side == "out" else next((s for s in segments.values() if s.right.id == key_id), None)
    if own is None:
        raise InvalidInputError("There is nothing to shape at this side of the bead.", "Pull its other handle.")
    x = min(1.0, max(0.0, x))
    curve = own.curve
    pulled = Curve(x, dy, curve.x2, curve.dy2) if side == "out" else Curve(curve.x1, curve.dy1, x, dy)
    put = {own.left.id: pulled}
    for before, after in _around(keys, loop):
        if after.left.id == key_id and is_smooth(before, after):
            if side == "out" and x > TIME:
                into, slope = put.get(before.left.id, before.curve), dy / (x * own.length)
                put[before.left.id] = into._replace(dy2=slope * (into.x2 - 1) * before.length)
            elif side == "in" and x < 1 - TIME:
                out, slope = put.get(after.left.id, after.curve), dy / ((x - 1) * own.length)
                put[after.left.id] = out._replace(dy1=slope * out.x1 * after.length)
    return KeyChange(tuple(curved(k, put[k.id]) for k in keys if k.id in put))


def is_smooth(before: CurveSegment, after: CurveSegment) -> bool:
    """Whether two segments meet in one slope."""
    left, right = 1 - before.curve.x2, after.curve.x1
    if left < TIME or right < TIME:
        return False
    a, b = -before.curve.dy2 / (left * before.length), after.curve.dy1 / (right * after.length)
    return abs(a - b) <= 1e-3 * max(1.0, abs(a), abs(b))
