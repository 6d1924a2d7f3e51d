"""What a walker's legs are made of, in leg lengths: y up, from the hip for bones and from the ankle for the foot."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Build:
    """A leg and its foot; a walker's thighs and shanks are 1 long together, in the mean of both legs.

    The sole runs from the heel, `heel` behind the ankle, to the ball, `ball` before it; both lie
    `ankle` below it, the ball's hinge `hinge` above the floor. A foot of one piece has its hinge on
    the floor, no toe, and its ball at the front of the sole.
    """

    thigh: float = 0.483
    shank: float = 0.517
    hip: complex = 0j
    """The hip joint from the middle of both at rest: ahead, and up."""
    ankle: float = 0.0846
    heel: float = 0.05
    ball: float = 0.191
    hinge: float = 0.0476
    toe: float = 0.075
    rigid: bool = False
    """Whether its bones may not be stretched, not even by half a percent."""
    bend: int = 1
    """1 where its middle joint bends forward, as knees do, -1 where it bends backward, as hocks do."""

    @property
    def length(self) -> float:
        """Thigh and shank, straight."""
        return self.thigh + self.shank

    @property
    def sole(self) -> float:
        """From heel to ball."""
        return self.heel + self.ball


ADULT = Build()
"""An adult's proportions, as the plain card was fitted to."""
