"""Timing charts: where the in-betweens of a segment lie, tick by tick, and the ready spacings.

A chart is the shares of the rise at equal steps of the segment's time, its ends left out. Between
ticks it runs on smoothly without going beyond them (monotone cubic pieces: Fritsch and Carlson,
SIAM Journal on Numerical Analysis 17, 1980, as `scipy.interpolate.PchipInterpolator` has them), so
that a chart made for eight frames can time a segment of twelve.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import lru_cache, partial
from typing import NamedTuple

import numpy as np
from scipy.interpolate import PchipInterpolator

from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import InvalidInputError

Ticks = tuple[float, ...]


@lru_cache(maxsize=4096)
def chart_knots(ticks: Ticks) -> tuple[FloatArray, FloatArray]:
    """Shares and slopes (n + 2,) at the start, at each of n ticks and at the end; slopes are per tick."""
    shares = np.array([0.0, *ticks, 1.0])
    slopes = np.asarray(PchipInterpolator(np.arange(len(shares)), shares).derivative()(np.arange(len(shares))), float)
    for array in (shares, slopes):
        array.setflags(write=False)
    return shares, slopes


def chart_share(ticks: Ticks, shares: FloatArray | float) -> FloatArray:
    """Value shares of a chart at time shares, which are clamped to [0, 1]; shape kept."""
    y, m = chart_knots(ticks)
    at = np.clip(np.asarray(shares, float), 0.0, 1.0) * (len(y) - 1)
    knot = np.minimum(at.astype(np.int64), len(y) - 2)
    return between_knots(y[knot], y[knot + 1], m[knot], m[knot + 1], at - knot)


def between_knots(y0: FloatArray, y1: FloatArray, m0: FloatArray, m1: FloatArray, u: FloatArray) -> FloatArray:
    """Cubic Hermite pieces at u in [0, 1]; slopes are per piece."""
    out: FloatArray = y0 + u * (m0 + u * (3 * (y1 - y0) - 2 * m0 - m1 + u * (2 * (y0 - y1) + m0 + m1)))
    return out


def _remaining(part: float, count: int) -> Ticks:
    """Ticks that lie close at both ends: each next one, counted from the middle, covers a part of what is left."""
    from_middle = np.arange(count, dtype=float) - (count - 1) / 2
    left = 0.5 * (1 - part) ** np.abs(from_middle)
    return tuple(np.where(from_middle >= 0, 1 - left, left).tolist())


class Spacing(NamedTuple):
    """A ready way to place in-betweens: an easing that does it, or ticks for a number of them."""

    hint: str
    ease: str = ""
    ticks: Callable[[int], Ticks] | None = None


SPACINGS: dict[str, Spacing] = {
    "even": Spacing("the same distance each frame", "linear"),
    "slow out": Spacing("leaves its pose slowly", "quad-in"),
    "slow in": Spacing("comes to the next pose slowly", "quad-out"),
    "both": Spacing("slow at both ends", "quad-in-out"),
    "halves": Spacing("each in-between covers half of what is left, to either side", ticks=partial(_remaining, 1 / 2)),
    "thirds": Spacing(
        "each in-between covers a third of what is left, to either side", ticks=partial(_remaining, 1 / 3)
    ),
}
"""The ready spacings by name."""


def find_spacing(name: str) -> Spacing:
    """The ready spacing of that name; raises InvalidInputError."""
    if name not in SPACINGS:
        raise InvalidInputError(f"There is no spacing called “{name}”.", f"Known: {', '.join(SPACINGS)}.")
    return SPACINGS[name]


def moved_tick(ticks: Sequence[float], index: int, share: float) -> Ticks:
    """The ticks with one of them elsewhere; raises InvalidInputError when there is no such tick."""
    if not 0 <= index < len(ticks):
        raise InvalidInputError("This in-between is not in the chart any more.", "Choose the bead again.")
    return tuple(round(share, 9) if i == index else t for i, t in enumerate(ticks))
