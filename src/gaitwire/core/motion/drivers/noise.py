"""Noise that drifts: smooth, closed, and the same for ever from the same seed."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from gaitwire.core.conventions import FloatArray

SHARE = 0.95
"""Share of the time in which the noise lies within 1."""

LONG = 512
"""Changes after which noise that needs not close begins again."""

_FINE = 32
"""Samples for each change, by which it is scaled."""


def closed_noise(seed: int, name: str, count: int, places: FloatArray) -> FloatArray:
    """Noise (...) at places (...), that makes for `count` values on the way from 0 to `count`, and begins again there.

    A uniform cubic B-spline through random numbers: two derivatives are continuous, at the seam too, and next to
    nothing changes faster than once from one whole place to the next. Its mean is 0, and it lies within -1 and 1
    for `SHARE` of the time. `name` tells apart what has the same seed.

    Source of the basis: de Boor, A Practical Guide to Splines, 1978, chapter X.
    """
    return _spline(_values(seed, name, count), places)


@lru_cache(2048)
def _values(seed: int, name: str, count: int) -> FloatArray:
    # The stream of RandomState is frozen, so that a scene drifts alike with every version of numpy.
    drawn = np.random.RandomState([seed, *name.encode()]).standard_normal(max(2, count))
    drawn -= drawn.mean()
    fine = np.abs(_spline(drawn, np.arange(len(drawn) * _FINE) / _FINE))
    drawn /= max(float(np.quantile(fine, SHARE)), 1e-12)
    drawn.flags.writeable = False
    return drawn


def _spline(values: FloatArray, places: FloatArray) -> FloatArray:
    low = np.floor(places)
    s, at = places - low, low.astype(np.int64)
    weights = ((1 - s) ** 3, 3 * s**3 - 6 * s**2 + 4, 3 * (s + s**2 - s**3) + 1, s**3)
    return np.asarray(sum(w * values[(at + n) % len(values)] for n, w in enumerate(weights, -1)) / 6)
