"""The course of one channel over the file's time, as keys, values and splines of an SVG animation.

SVG's clock plays linear, stepped and cubic courses whose handles lie within the unit square. A
segment whose easing is such a course is written as it is, cut where the file's time begins and
ends; any other is sampled on every frame.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.timing.easing.cubic import solve_parameter
from gaitwire.core.timing.easing.nearest import Handles
from gaitwire.core.timing.easing.registry import CHART, FREE
from gaitwire.core.timing.easing.splines import spline_pieces
from gaitwire.core.timing.key import WHOLE, Excerpt, Key, curve_to_shares
from gaitwire.core.timing.sample import compile_keys, sample
from gaitwire.core.timing.segment import eased_share
from gaitwire.core.timing.stay import as_played

LINEAR: Handles = (0.0, 0.0, 1.0, 1.0)


@dataclass(frozen=True)
class Piece:
    """From (t0, v0) to (t1, v1), times in frames; a step holds v0 until t1."""

    t0: float
    t1: float
    v0: float
    v1: float
    handles: Handles = LINEAR
    step: bool = False


@dataclass(frozen=True)
class PropertyCourse:
    """Pieces without gaps from the first frame to the end of the file's time."""

    pieces: tuple[Piece, ...]
    exact: bool

    @property
    def still(self) -> bool:
        values = [v for p in self.pieces for v in (p.v0, p.v1)]
        return max(values) - min(values) < 1e-9

    def mapped(self, change: Callable[[float], float]) -> PropertyCourse:
        """The course with a linear change of its values."""
        pieces = tuple(Piece(p.t0, p.t1, change(p.v0), change(p.v1), p.handles, p.step) for p in self.pieces)
        return PropertyCourse(pieces, self.exact)


def cut(piece: Piece, start: float, end: float) -> Piece:
    """The part of a piece between two times, its handles renewed (de Casteljau)."""
    if piece.step or end - start < 1e-9:
        return Piece(start, end, piece.v0, piece.v1 if end >= piece.t1 else piece.v0, LINEAR, piece.step)
    span = piece.t1 - piece.t0
    a, b = (start - piece.t0) / span, (end - piece.t0) / span
    if a <= 1e-12 and b >= 1 - 1e-12:
        return piece
    x1, y1, x2, y2 = piece.handles
    points = np.array([(0.0, 0.0), (x1, y1), (x2, y2), (1.0, 1.0)])
    s0, s1 = (float(solve_parameter(np.array([x]), x1, x2)[0]) for x in (a, b))
    part = _subdivide(points, s0, s1)
    (ax, ay), (bx, by) = part[0], part[3]
    width, rise = max(bx - ax, 1e-12), by - ay
    v0 = piece.v0 + (piece.v1 - piece.v0) * ay
    v1 = piece.v0 + (piece.v1 - piece.v0) * by
    if abs(rise) < 1e-12:
        return Piece(start, end, v0, v1)
    inner = (part[1:3] - part[0]) / (width, rise)
    held = tuple(float(min(1.0, max(0.0, v))) for v in inner.ravel())
    return Piece(start, end, v0, v1, (held[0], held[1], held[2], held[3]))


def _subdivide(points: np.ndarray, s0: float, s1: float) -> np.ndarray:
    """Control points of a cubic's stretch between two parameters (blossoming)."""

    def blossom(*at: float) -> np.ndarray:
        level = list(points)
        for s in at:
            level = [p + (q - p) * s for p, q in pairwise(level)]
        return np.asarray(level[0])

    return np.array([blossom(s0, s0, s0), blossom(s0, s0, s1), blossom(s0, s1, s1), blossom(s1, s1, s1)])


def _segment(left: Key, start: float, end: float, v1: float) -> list[Piece] | None:
    """Exact pieces of one segment, or None when the clock cannot play it."""
    if left.excerpt is not None and left.ease != "hold":
        return _excerpted(left, left.excerpt, start, end, v1)
    v0, rise, span = left.value, v1 - left.value, end - start
    if left.ease == "hold":
        return [Piece(start, end, v0, v1, LINEAR, step=True)]
    if left.ease == FREE and left.curve is not None:
        shares = curve_to_shares(left.curve, rise)
        if shares is None or not all(0 <= y <= 1 for y in (shares[1], shares[3])):
            flat = shares is None and left.curve.dy1 == 0 and left.curve.dy2 == 0
            return [Piece(start, end, v0, v1)] if flat else None
        return [Piece(start, end, v0, v1, shares)]
    pieces = None if left.ease == CHART else spline_pieces(left.ease)
    if pieces is None:
        return [Piece(start, end, v0, v1)] if abs(rise) < 1e-12 else None
    return [
        Piece(start + p.t0 * span, start + p.t1 * span, v0 + p.y0 * rise, v0 + p.y1 * rise, (p.x1, p.h1, p.x2, p.h2))
        for p in pieces
    ]


def _excerpted(left: Key, part: Excerpt, start: float, end: float, v1: float) -> list[Piece] | None:
    """Exact pieces of part of an easing: those of the whole, cut; None where the clock cannot play them."""
    first, last = eased_share(left, np.array([part.start, part.stop])).tolist()
    if abs(v1 - left.value - part.rise * (last - first)) > _MADE_UP:
        return None
    span = (end - start) / (part.stop - part.start)
    begun = start - part.start * span
    whole = left.model_copy(update={"excerpt": None, "value": left.value - part.rise * first})
    pieces = _segment(whole, begun, begun + span, whole.value + part.rise)
    kept = [p for p in pieces or () if min(p.t1, end) - max(p.t0, start) > 1e-9]
    return [cut(p, max(p.t0, start), min(p.t1, end)) for p in kept] if pieces is not None else None


_MADE_UP = 1e-6
"""In a channel's units: what the ends of an excerpt miss of it is too little to be seen."""


def _sampled(values: Callable[[np.ndarray], np.ndarray], start: float, end: float) -> list[Piece]:
    """Straight pieces from frame to frame."""
    inner = np.arange(math.floor(start) + 1, math.ceil(end), dtype=float)
    times = np.concatenate([[start], inner[(inner > start + 1e-9) & (inner < end - 1e-9)], [end]])
    # The end belongs to this segment even where the next begins with a jump.
    at = values(np.minimum(times, end - 1e-6))
    return [Piece(a, b, float(va), float(vb)) for (a, va), (b, vb) in pairwise(zip(times, at, strict=True))]


def frame_course(times: FloatArray, values: FloatArray, stepped: bool) -> PropertyCourse:
    """A course through values (F,) at times (F,): straight from one to the next, or each held until the next."""
    rows = zip(times.tolist(), values.tolist(), strict=True)
    pieces = (Piece(a, b, va, vb, LINEAR, stepped) for (a, va), (b, vb) in pairwise(rows))
    return PropertyCourse(tuple(pieces), exact=False)


def channel_course(
    keys: Sequence[Key], loop: float | None, first: float, end: float, sampled: bool = False
) -> PropertyCourse:
    """The course of a channel from `first` to `end`; on a loop `end` may be its length."""
    table = compile_keys([list(keys)], loop)

    def values(times: np.ndarray) -> np.ndarray:
        found: np.ndarray = sample(table, times)[0]
        return found

    if sampled:
        return PropertyCourse(tuple(_sampled(values, first, end)), exact=False)
    keys = as_played(keys, loop is not None)
    spans: list[tuple[Key, float, float, float]] = []
    lead, tail = keys[0], keys[-1]
    if loop is not None:
        spans.append((tail, tail.time - loop, lead.time, lead.value))
    else:
        spans.append((lead.model_copy(update={**WHOLE, "ease": "linear"}), -1e9, lead.time, lead.value))
    spans += [(a, a.time, b.time, b.value) for a, b in pairwise(keys)]
    if loop is not None:
        spans.append((tail, tail.time, lead.time + loop, lead.value))
    else:
        spans.append((tail.model_copy(update={**WHOLE, "ease": "linear"}), tail.time, 1e9, tail.value))
    out: list[Piece] = []
    exact = True
    for left, start, stop, value in spans:
        lo, hi = max(start, first), min(stop, end)
        if hi - lo < 1e-9:
            continue
        pieces = _segment(left, start, stop, value)
        if pieces is None:
            exact = False
            out += _sampled(values, lo, hi)
        else:
            out += [cut(p, max(p.t0, lo), min(p.t1, hi)) for p in pieces if min(p.t1, hi) - max(p.t0, lo) > 1e-9]
    return PropertyCourse(tuple(out), exact)
