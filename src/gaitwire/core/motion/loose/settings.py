"""How a loose end is set, and what blows and pulls in its scene."""

from __future__ import annotations

from typing import Literal, NamedTuple

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from gaitwire.core.conventions import FloatArray
from gaitwire.core.motion.drivers.noise import LONG, closed_noise
from gaitwire.core.motion.loose.links import ComplexArray

FALL = 6.0
"""Of a figure's heights a second, each second: what falls beside a grown figure seems to do so (common practice)."""

AIR = 1.2
"""What the air takes of the speed against it, a second, of a thing that takes its whole share of the wind."""

GUSTS = 0.6
"""Gusts a second."""


class Loose(BaseModel):
    """A bone with all that hangs from it swings from what carries it."""

    model_config = ConfigDict(frozen=True)

    kind: Literal["loose"] = "loose"
    bends: bool = True
    """Whether each bone swings for itself; else all of it as one piece."""
    stiffness: float = Field(default=1.2, ge=0, le=12, allow_inf_nan=False)
    """Swings a second; 0 is a string."""
    damping: float = Field(default=0.25, ge=0, le=2, allow_inf_nan=False)
    """A share of what would just keep it from swinging."""
    as_drawn: bool = True
    """Whether it stands still as it is drawn and keyed while its carrier is upright; a string hangs down."""
    weight: float = Field(default=1.0, ge=0, le=5, allow_inf_nan=False)
    """Its share of the scene's fall."""
    direction: float = Field(default=0.0, ge=-180, le=180, allow_inf_nan=False)
    """Degrees from straight down in which it falls."""
    wind: float = Field(default=1.0, ge=0, le=5, allow_inf_nan=False)
    """Its share of the wind, and of the air's drag."""
    limit: float | None = Field(default=None, ge=0, le=180, allow_inf_nan=False)
    """Degrees by which a bone may leave its own shape."""
    off_floor: bool = False
    """Whether it lies on the floor instead of going through it."""


class Weather(NamedTuple):
    """What pulls, blows and bears in a scene."""

    fall: float | None = None
    """Pixels a second, each second; None: by the height of each figure."""
    wind: float = 0.0
    """Pixels a second."""
    wind_turn: float = 0.0
    """Degrees from rightwards."""
    gusts: float = 0.0
    """How much the wind's strength changes, a share of it."""
    floor: float | None = None
    """The height of the floor under a figure, if there is any."""

    def air(self, frames: FloatArray, rate: float, loop: float | None) -> ComplexArray:
        """How the air moves on frames (F,), pixels a second; it closes on a loop."""
        blows = self.wind * np.exp(1j * np.radians(self.wind_turn))
        if not self.wind or not self.gusts:
            return np.full(len(frames), blows)
        count = LONG if loop is None else min(LONG, max(2, round(loop / rate * GUSTS)))
        places = frames * (GUSTS / rate if loop is None else count / loop)
        return np.asarray(blows * np.maximum(0.0, 1 + self.gusts * closed_noise(0, "gusts", count, places)))
