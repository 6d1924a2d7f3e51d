"""Units and types that every module shares.

y points down, lengths are pixels, angles are degrees, positive clockwise on screen.
Frames count from 0 and may be fractional. Radians never leave a function.
"""

from __future__ import annotations

from typing import TypeAlias

import numpy as np
import numpy.typing as npt

FloatArray: TypeAlias = npt.NDArray[np.float64]
IntArray: TypeAlias = npt.NDArray[np.int64]

DEFAULT_RATE = (24, 1)
"""Frames a second, as a fraction."""

UP = -90.0
"""Direction, in degrees, of a bone that has no length: its stretch then makes things taller."""

Point = tuple[float, float]
"""Across and down."""
