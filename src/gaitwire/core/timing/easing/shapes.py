"""The 'in' half of every named easing: arrays of time shares in [0, 1] to value shares.

Source: R. Penner's easing equations (2001), with the constants in common use: back overshoots by a
tenth (s = 1.70158), elastic swings with a period of 0.3.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from gaitwire.core.conventions import FloatArray

BACK = 1.70158
BACK_IN_OUT = BACK * 1.525


def sine(t: FloatArray) -> FloatArray:
    return 1.0 - np.cos(t * np.pi / 2)


def power(exponent: int) -> Callable[[FloatArray], FloatArray]:
    """t ** exponent."""

    def shape(t: FloatArray) -> FloatArray:
        out: FloatArray = t**exponent
        return out

    return shape


def expo(t: FloatArray) -> FloatArray:
    return np.where(t <= 0, 0.0, np.exp2(10 * t - 10))


def circ(t: FloatArray) -> FloatArray:
    return 1.0 - np.sqrt(np.maximum(0.0, 1 - t * t))


def back(t: FloatArray) -> FloatArray:
    out: FloatArray = (BACK + 1) * t**3 - BACK * t**2
    return out


def elastic(t: FloatArray) -> FloatArray:
    swing = -np.exp2(10 * t - 10) * np.sin((t * 10 - 10.75) * (2 * np.pi / 3))
    return np.where(t <= 0, 0.0, np.where(t >= 1, 1.0, swing))


def _bounce_out(t: FloatArray) -> FloatArray:
    n, d = 7.5625, 2.75
    return np.select(
        [t < 1 / d, t < 2 / d, t < 2.5 / d],
        [n * t**2, n * (t - 1.5 / d) ** 2 + 0.75, n * (t - 2.25 / d) ** 2 + 0.9375],
        n * (t - 2.625 / d) ** 2 + 0.984375,
    )


def bounce(t: FloatArray) -> FloatArray:
    return 1.0 - _bounce_out(1.0 - t)


BOUNCE_BREAKS = (0.0, 0.25 / 2.75, 0.75 / 2.75, 1.75 / 2.75, 1.0)


def back_in_out(t: FloatArray) -> FloatArray:
    """Back's two-sided form has a larger constant, so that it is not its 'in' half twice."""
    s = BACK_IN_OUT
    first = ((2 * t) ** 2 * ((s + 1) * 2 * t - s)) / 2
    u = 2 * t - 2
    return np.where(t < 0.5, first, (u**2 * ((s + 1) * u + s) + 2) / 2)


def elastic_in_out(t: FloatArray) -> FloatArray:
    """Elastic's two-sided form has a longer period (0.45)."""
    swing = np.sin((20 * t - 11.125) * (2 * np.pi / 4.5))
    first = -(np.exp2(20 * t - 10) * swing) / 2
    second = np.exp2(-20 * t + 10) * swing / 2 + 1
    out = np.where(t < 0.5, first, second)
    return np.where(t <= 0, 0.0, np.where(t >= 1, 1.0, out))
