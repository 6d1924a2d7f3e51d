"""Easings as runs of cubic splines whose handles stay in the unit square, for clocks that play only those."""

from __future__ import annotations

from functools import cache
from itertools import pairwise
from typing import NamedTuple

import numpy as np

from gaitwire.core.timing.easing.registry import find_easing


class Spline(NamedTuple):
    """One monotone piece: from (t0, y0) to (t1, y1), handles as shares of the piece."""

    t0: float
    t1: float
    y0: float
    y1: float
    x1: float
    h1: float
    x2: float
    h2: float


def _pieces_between(name: str, t0: float, t1: float) -> list[Spline]:
    """Monotone pieces of an easing that is one cubic polynomial over [t0, t1]."""
    easing = find_easing(name)
    u = np.linspace(0.0, 1.0, 4)
    # A hair inside the ends: at a break the easing belongs to the next polynomial.
    values = easing(t0 + (t1 - t0) * (0.001 + 0.998 * u))
    poly = np.polynomial.Polynomial.fit(0.001 + 0.998 * u, values, 3, domain=[0, 1], window=[0, 1])
    poly = poly.trim(1e-9)  # A leading coefficient that is only rounding would lead the roots astray.
    roots = np.asarray(poly.deriv().roots(), complex)
    turns = sorted(float(r.real) for r in roots if abs(r.imag) < 1e-9 and 1e-6 < float(r.real) < 1 - 1e-6)
    cuts = [0.0, *turns, 1.0]
    out = []
    for a, b in pairwise(cuts):
        ya, yb = float(poly(a)), float(poly(b))
        rise = yb - ya
        if abs(rise) < 1e-12:
            h1, h2 = 1 / 3, 2 / 3
        else:
            h1 = float(poly.deriv()(a)) * (b - a) / 3 / rise
            h2 = 1 - float(poly.deriv()(b)) * (b - a) / 3 / rise
        out.append(
            Spline(
                t0 + (t1 - t0) * a,
                t0 + (t1 - t0) * b,
                ya,
                yb,
                1 / 3,
                min(1.0, max(0.0, h1)),
                2 / 3,
                min(1.0, max(0.0, h2)),
            )
        )
    return out


@cache
def spline_pieces(name: str) -> tuple[Spline, ...] | None:
    """The easing as spline pieces in order, or None when it is no run of cubic polynomials.

    A polynomial of third degree in time is a cubic curve whose handles lie at thirds, so these
    pieces are exact; where it turns back, it is cut, because such clocks take no overshoot.
    """
    breaks = find_easing(name).breaks
    if not breaks:
        return None
    return tuple(p for a, b in pairwise(breaks) for p in _pieces_between(name, a, b))
