"""A leg between hip and ankle: its knee never snaps straight, and its bones give by half a percent at most."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.walk.build import Build
from gaitwire.core.walk.smooth import positive

_LEAST = np.radians(4.0)
_SOFT = 0.10


class LegPose(NamedTuple):
    """Angles in radians, of any shape: the thigh from hanging straight down, forward positive; the knee's bend."""

    thigh: FloatArray
    knee: FloatArray  # less than 0 where it bends backward
    stretch: FloatArray

    @property
    def shank(self) -> FloatArray:
        return self.thigh - self.knee


def solve_leg(build: Build, dx: FloatArray, dy: FloatArray) -> LegPose:
    """The leg whose ankle lies (dx, dy), y up, from its hip, in leg lengths.

    With q = 2 (1 - cos knee) from the law of cosines; near straight q is kept from falling below that
    of a knee bent by four degrees, by a quartic, and the bones are stretched by what that leaves open.
    """
    l1, l2 = build.thigh, build.shank
    distance = np.hypot(dx, dy)
    q = ((l1 + l2) ** 2 - distance**2) / (l1 * l2)
    if build.rigid:
        knee = 2 * np.arcsin(np.clip(np.sqrt(np.maximum(q, 0.0)) / 2, 0.0, 1.0))
    else:
        least = (2 * np.sin(_LEAST / 2)) ** 2
        knee = 2 * np.arcsin(np.clip(np.sqrt(least + positive(q - least, _SOFT)) / 2, 0.0, 1.0))
    reached = np.hypot(l1 + l2 * np.cos(knee), l2 * np.sin(knee))
    stretch = np.ones_like(distance) if build.rigid else distance / np.maximum(reached, 1e-9)
    thigh = np.arctan2(dx, -dy) + build.bend * np.arctan2(l2 * np.sin(knee), l1 + l2 * np.cos(knee))
    return LegPose(np.asarray(thigh), np.asarray(build.bend * knee), np.asarray(stretch))
