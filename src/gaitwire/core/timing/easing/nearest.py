"""The cubic curve nearest to a named easing: where its handles stand before a hand takes them."""

from __future__ import annotations

from functools import cache

import numpy as np
from scipy.optimize import least_squares

from gaitwire.core.conventions import FloatArray
from gaitwire.core.timing.easing.cubic import cubic_share
from gaitwire.core.timing.easing.registry import find_easing

Handles = tuple[float, float, float, float]
"""(x1, y1, x2, y2) in shares of time and rise."""

_SHARES = np.linspace(0, 1, 41)[1:-1]
_START = (0.4, 0.1, 0.6, 0.9)
_LOW, _HIGH = (0.0, -1.0, 0.0, -1.0), (1.0, 2.0, 1.0, 2.0)


@cache
def nearest_cubic(name: str) -> Handles:
    """Handles of the cubic with the least squared distance from the easing; raises InvalidInputError.

    Within a thousandth for quad, cubic and back in one direction; elastic and bounce can only be hinted at.
    """
    wanted = find_easing(name)(_SHARES)

    def apart(handles: FloatArray) -> FloatArray:
        return cubic_share(_SHARES, *handles) - wanted

    found = least_squares(apart, _START, bounds=(_LOW, _HIGH), ftol=1e-6, max_nfev=40)
    x1, y1, x2, y2 = (round(float(v), 4) for v in found.x)
    return x1, y1, x2, y2
