"""What links are driven by, and how they stand, as rows of numbers."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt

from gaitwire.core.conventions import FloatArray
from gaitwire.core.motion.loose.links import ComplexArray


class Drive(NamedTuple):
    """What links are driven by (n, ...), from where keys have them on the stage."""

    pivots: ComplexArray
    tips: ComplexArray
    air: ComplexArray
    """Pixels a second."""
    fall: ComplexArray
    """Pixels a second, each second; downwards is +1j."""
    sense: FloatArray
    """-1 where what carries a link is mirrored, else 1."""
    share: FloatArray
    """How loose it is: 1, or down to 0, held as it is keyed."""

    @classmethod
    def read(cls, rows: FloatArray, count: int) -> Drive:
        """From rows (10n, ...)."""
        px, py, tx, ty, ax, ay, fx, fy, sense, share = rows.reshape(10, count, *rows.shape[1:])
        return cls(px + 1j * py, tx + 1j * ty, ax + 1j * ay, fx + 1j * fy, sense, share)

    @property
    def rows(self) -> FloatArray:
        """As a stepper is given them (10n, ...)."""
        plain = [part for place in self[:4] for part in (place.real, place.imag)]
        return np.concatenate([*plain, self.sense, self.share])


class State(NamedTuple):
    """By link: how it goes on, the drive a frame ago, and which begin newly. In few arrays, as a step must be short."""

    turns: FloatArray  # (3, n)
    """Now, a step ago and two steps ago."""
    moves: ComplexArray  # (4, n)
    """Places now and a step ago, speeds now and a step ago."""
    past: FloatArray  # (10n,)
    fresh: npt.NDArray[np.bool_]  # (n,)

    @classmethod
    def read(cls, row: FloatArray, count: int) -> State:
        rows = row.reshape(-1, count)
        return cls(rows[:3], rows[3:7] + 1j * rows[7:11], rows[11:21].reshape(-1), rows[21] > 0)

    @property
    def row(self) -> FloatArray:
        return np.concatenate(
            [self.turns.ravel(), self.moves.real.ravel(), self.moves.imag.ravel(), self.past, self.fresh]
        )

    def where(self, here: npt.NDArray[np.bool_], other: State) -> State:
        """This state, but of some links (n,) another."""
        if not here.any():
            return self
        wide = np.tile(here, 10)
        return State._make(np.where(m, b, a) for m, a, b in zip((here, here, wide, here), self, other, strict=True))
