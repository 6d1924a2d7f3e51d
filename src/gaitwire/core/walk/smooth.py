"""Smooth pieces that strides are put together from; each is twice continuously differentiable."""

from __future__ import annotations

import numpy as np

from gaitwire.core.conventions import FloatArray

FloatOrArray = float | FloatArray


def rise(x: FloatArray | float) -> FloatArray:
    """From 0 to 1 over [0, 1], with neither speed nor acceleration at the ends; any shape."""
    z = np.clip(x, 0.0, 1.0)
    return np.asarray(z**3 * (10 - 15 * z + 6 * z**2))


def positive(x: FloatArray | float, width: FloatArray | float) -> FloatArray:
    """x where it is beyond `width`, 0 below -`width`, and a quartic between; with width 0 simply max(x, 0)."""
    d = np.maximum(width, 1e-12)
    z = np.clip(np.asarray(x) / d, -1.0, 1.0)
    inner = d * (-(z**4) / 16 + 3 * z**2 / 8 + z / 2 + 3 / 16)
    return np.asarray(np.where(np.asarray(x) >= d, x, inner))


def ramp(s: FloatArray, start: float, end: float) -> FloatArray:
    """From 0 to 1 over [0, 1] at an even speed, gained over the share `start` and lost over the share `end`."""
    both = start + end
    if both > 0.98:
        start, end = start * 0.98 / both, end * 0.98 / both
    speed = 1.0 / (1.0 - start / 2 - end / 2)
    gained = start * _half(s / start)
    even = np.maximum(0.0, np.minimum(s, 1 - end) - start)
    lost = end * (0.5 - _half((1 - s) / end))
    return np.asarray(speed * (gained + even + lost))


def _half(x: FloatArray) -> FloatArray:
    z = np.clip(x, 0.0, 1.0)
    return np.asarray(z**3 - z**4 / 2)


def hump(s: FloatArray, at: float) -> FloatArray:
    """From 0 up to 1 at the share `at` (at most a half) and back to 0 at 1."""
    z = np.clip(s, 0.0, 1.0)
    return np.asarray((z / at) ** 3 * ((1 - z) / (1 - at)) ** (3 / at - 3))


def quintic(
    x: FloatArray,
    begin: tuple[FloatOrArray, FloatOrArray, FloatOrArray],
    end: tuple[FloatOrArray, FloatOrArray, FloatOrArray],
) -> FloatArray:
    """The polynomial of degree five over [0, 1] with (value, speed, acceleration) at either end (Hermite)."""
    (p, v, a), (q, w, b) = begin, end
    z = np.clip(x, 0.0, 1.0)
    rest = q - p - v - a / 2
    slope, bend = w - v - a, b - a
    c3, c4, c5 = 10 * rest - 4 * slope + bend / 2, -15 * rest + 7 * slope - bend, 6 * rest - 3 * slope + bend / 2
    return np.asarray(p + z * (v + z * (a / 2 + z * (c3 + z * (c4 + z * c5)))))
