"""Drift: what is led by it wanders about where its keys have it, never twice the same way."""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from gaitwire.core.bounds import Id
from gaitwire.core.conventions import FloatArray
from gaitwire.core.motion.drivers.noise import LONG, closed_noise
from gaitwire.core.timing.channel import PROPERTIES, OwnerKind

FASTEST = 12.0
"""Changes a second."""

MOST = {
    "turn": 180.0, "skew": 60.0, "shift_x": 2.0, "shift_y": 2.0, "stretch": 0.5, "widen": 0.5, "roll": 180.0,
    "tip_x": 2.0, "tip_y": 2.0, "x": 100.0, "y": 90.0,
}  # fmt: skip
"""What can drift, and by how much at most: degrees, shares of the figure's height, of a ratio, of a gauge."""

OF_HEIGHT = frozenset({"shift_x", "shift_y", "tip_x", "tip_y"})
"""Those that are counted in the figure's height."""


def display_of(kind: OwnerKind, name: str) -> tuple[float, str]:
    """What an amount of a kind of owner is multiplied by to be shown, and in which unit it then is."""
    prop = PROPERTIES[kind][name]
    return (100.0, "% of its height") if name in OF_HEIGHT else (prop.display, prop.unit)


def _known(amounts: dict[str, float]) -> dict[str, float]:
    for prop, amount in amounts.items():
        if prop not in MOST or not 0 <= amount <= MOST[prop]:
            raise ValueError(f"{prop!r} does not drift by {amount}")
    return amounts


class Drift(BaseModel):
    """Amounts by property, within which it is for 95 hundredths of the time; how often it makes for another place."""

    model_config = ConfigDict(frozen=True)

    kind: Literal["drift"] = "drift"
    amounts: Annotated[dict[Id, float], AfterValidator(_known)]
    changes: float = Field(default=0.7, ge=0.02, le=FASTEST, allow_inf_nan=False)
    """A second."""
    seed: int = Field(default=0, ge=0, le=2**31 - 1)

    def course(self, prop: str, frames: FloatArray, rate: float, loop: float | None, tall: float) -> FloatArray:
        """What it adds to a property on frames (F,), at a rate of frames a second; `tall` is the figure's height.

        On a loop of so many frames it makes for a whole number of places, two at least, and closes.
        """
        amount = self.amounts[prop] * (tall if prop in OF_HEIGHT else 1.0)
        count = LONG if loop is None else min(LONG, max(2, round(loop / rate * self.changes)))
        places = np.asarray(frames, float) * (self.changes / rate if loop is None else count / loop)
        return amount * closed_noise(self.seed, prop, count, places)
