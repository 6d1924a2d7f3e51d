"""Cubic curves over time: (0, 0), (x1, y1), (x2, y2), (1, 1), solved for many segments at once.

Source: W3C, CSS Easing Functions Level 1, section 2.2 (the curve is a parametric cubic; time is x).
"""

from __future__ import annotations

import numpy as np

from gaitwire.core.conventions import FloatArray

_BISECTIONS = 10
_NEWTON = 4
_NEAR = 0.6


def _bernstein(p1: FloatArray | float, p2: FloatArray | float, s: FloatArray) -> FloatArray:
    r = 1.0 - s
    out: FloatArray = 3 * r * r * s * p1 + 3 * r * s * s * p2 + s**3
    return out


def _slope(p1: FloatArray | float, p2: FloatArray | float, s: FloatArray) -> FloatArray:
    r = 1.0 - s
    out: FloatArray = 3 * r * r * p1 + 6 * r * s * (p2 - p1) + 3 * s * s * (1 - p2)
    return out


def solve_parameter(x: FloatArray, x1: FloatArray | float, x2: FloatArray | float) -> FloatArray:
    """The curve's parameter at time shares x; x1 and x2 in [0, 1] keep time running forward.

    Bisections first, then Newton steps clamped to the bracket: plain Newton diverges where the
    curve is steep. Shapes broadcast; accurate to about 1e-9 save at exactly vertical tangents.
    """
    x = np.asarray(x, float)
    x, x1, x2 = np.broadcast_arrays(x, x1, x2)
    low, high = np.zeros(x.shape), np.ones(x.shape)
    for _ in range(_BISECTIONS):
        middle = (low + high) / 2
        below = _bernstein(x1, x2, middle) < x
        low, high = np.where(below, middle, low), np.where(below, high, middle)
    s = (low + high) / 2
    for _ in range(_NEWTON):
        error = _bernstein(x1, x2, s) - x
        low, high = np.where(error < 0, s, low), np.where(error < 0, high, s)
        slope = _slope(x1, x2, s)
        step = np.where(slope > 1e-9, s - error / np.maximum(slope, 1e-9), (low + high) / 2)
        # A step from one side to a root at an end of the bracket goes a little beyond it.
        near = np.abs(step - (low + high) / 2) <= _NEAR * (high - low)
        s = np.where(near, np.clip(step, low, high), (low + high) / 2)
    return np.where(x <= 0, 0.0, np.where(x >= 1, 1.0, s))


def cubic_share(
    x: FloatArray, x1: FloatArray | float, y1: FloatArray | float, x2: FloatArray | float, y2: FloatArray | float
) -> FloatArray:
    """Value share of the curve from (0, 0) to (1, 1) at time shares x; arguments broadcast."""
    return _bernstein(y1, y2, solve_parameter(x, x1, x2))


def cubic_value(
    x: FloatArray, x1: FloatArray, dy1: FloatArray, x2: FloatArray, dy2: FloatArray, start: FloatArray, end: FloatArray
) -> FloatArray:
    """Value of a free segment: handles at (x1, start + dy1) and (x2, end + dy2), in the channel's units."""
    s = solve_parameter(x, x1, x2)
    r = 1.0 - s
    out: FloatArray = r**3 * start + 3 * r * r * s * (start + dy1) + 3 * r * s * s * (end + dy2) + s**3 * end
    return out
