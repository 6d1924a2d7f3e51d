"""Joint gaps: what opens at a joint as it turns, between rigid pieces of art.

Where the two pieces of a joint lie over each other at rest, they cover a disc about its pivot, as far as
they cover it at all. The gap at an angle is the area of that which neither piece covers any more. Two
pieces whose ends are round about the pivot have none.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from shapely.geometry import Point
from shapely.geometry.base import BaseGeometry

from gaitwire.core.conventions import FloatArray
from gaitwire.core.puppet.model import Bone, Part, Puppet

SEAM = 0.3
"""Pixels: a seam that is no wider is not seen."""
FINE = 0.15
"""Pixels by which outlines are simplified before they are measured."""
FREE = 120.0
"""Degrees to either side that a joint without limits is tried through."""
_SIDES = 24
"""Segments of a quarter of a circle."""
_STEPS = (9, 5)
"""Places a side at which a better pivot is looked for: over the overlap, then about the best of them."""
_COARSE = 10.0


@dataclass(frozen=True)
class Joint:
    """Two pieces of art, in pixels, the lower of which turns about a pivot from `low` to `high` degrees."""

    upper: BaseGeometry
    lower: BaseGeometry
    pivot: complex
    low: float
    high: float

    @cached_property
    def overlap(self) -> BaseGeometry:
        return self.upper.intersection(self.lower)

    @cached_property
    def reach(self) -> float:
        """Pixels from the pivot as far as which the pieces lie over each other; 0 where they do not."""
        if self.overlap.is_empty:
            return 0.0
        points = shapely.get_coordinates(self.overlap)
        return float(np.abs(points[:, 0] + 1j * points[:, 1] - self.pivot).max())

    @cached_property
    def _disc(self) -> BaseGeometry:
        return disc(self.pivot, self.reach)

    @cached_property
    def _bare(self) -> BaseGeometry:
        """What the upper piece does not cover of what is covered at rest about the pivot."""
        return self.lower.intersection(self._disc).difference(self.upper)

    def gaps(self, angles: FloatArray, seam: float = SEAM) -> FloatArray:
        """Square pixels (N,) that are open at angles (N,) in degrees."""
        if self.reach <= 0 or self._bare.is_empty:
            return np.zeros(len(angles))
        turning = self.lower.intersection(disc(self.pivot, self.reach + seam)).buffer(seam)
        about = np.array([self.pivot.real, self.pivot.imag])
        there = [_spun(turning, about, angle) for angle in angles.tolist()]
        return np.asarray(shapely.area(shapely.difference(self._bare, np.array(there))))

    def curve(self, step: float = 1.0) -> tuple[FloatArray, FloatArray]:
        """Angles through its range, and the gap at each."""
        angles = np.arange(self.low, self.high + step / 2, step)
        return angles, self.gaps(angles)

    def worst(self, step: float = 1.0) -> tuple[float, float]:
        """The widest gap and the angle at which it is."""
        angles, areas = self.curve(step)
        at = int(areas.argmax())
        return float(areas[at]), float(angles[at])

    def moved(self, pivot: complex) -> Joint:
        """The same pieces about another pivot."""
        return Joint(self.upper, self.lower, pivot, self.low, self.high)

    def patched(self, patch: BaseGeometry) -> Joint:
        """The same with a patch behind that goes with the upper piece; what it is measured on stays."""
        return _Patched(self.upper, self.lower, self.pivot, self.low, self.high, patch)

    def inscribed(self) -> float:
        """The radius of the largest disc about the pivot that both pieces together cover at rest."""
        edge = self.upper.union(self.lower).boundary
        return float(edge.distance(Point(self.pivot.real, self.pivot.imag)))

    def better_pivot(self) -> complex:
        """Where in the overlap the pivot opens least; where it is, if nowhere less."""
        if self.reach <= 0:
            return self.pivot
        x0, y0, x1, y1 = self.overlap.bounds
        best, least = self.pivot, self.worst(_COARSE)[0]
        for count in _STEPS:
            grid = [complex(x, y) for x in np.linspace(x0, x1, count) for y in np.linspace(y0, y1, count)]
            inside = [p for p in grid if self.overlap.covers(Point(p.real, p.imag))]
            for place in inside:
                found = self.moved(place).worst(_COARSE)[0]
                if found < least - 1e-9:
                    best, least = place, found
            dx, dy = (x1 - x0) / (count - 1), (y1 - y0) / (count - 1)
            x0, x1, y0, y1 = best.real - dx, best.real + dx, best.imag - dy, best.imag + dy
        return best


@dataclass(frozen=True)
class _Patched(Joint):
    patch: BaseGeometry = shapely.Polygon()  # noqa: RUF009 - geometries do not change

    @cached_property
    def _bare(self) -> BaseGeometry:
        return self.lower.intersection(self._disc).difference(self.upper).difference(self.patch.buffer(SEAM))


def disc(middle: complex, radius: float) -> BaseGeometry:
    """A disc as a polygon around it: nowhere less than the circle's own extent."""
    return Point(middle.real, middle.imag).buffer(radius, quad_segs=_SIDES)


def _spun(region: BaseGeometry, about: FloatArray, angle: float) -> BaseGeometry:
    """A region turned about a point by degrees, clockwise where y is down."""
    c, s = np.cos(np.radians(angle)), np.sin(np.radians(angle))
    turn = np.array([[c, s], [-s, c]])
    return shapely.transform(region, lambda points: (points - about) @ turn + about)


def pieces_of(puppet: Puppet, bone: Bone) -> tuple[list[Part], list[Part]] | None:
    """The rigid parts above a bone's joint and those below it; None where there are none on either side."""
    lower = [p for p in puppet.parts if p.bone_id == bone.id and _is_piece(p)]
    above = puppet.bone(bone.parent_id or "")
    while above is not None and lower:
        upper = [p for p in puppet.parts if p.bone_id == above.id and _is_piece(p)]
        if upper:
            return upper, lower
        above = puppet.bone(above.parent_id or "")
    return None


def _is_piece(part: Part) -> bool:
    return not (part.soft or part.hidden or part.shadow)


def range_of(bone: Bone) -> tuple[float, float]:
    """Degrees from rest through which a joint is tried: its limits, where it has any."""
    low = -FREE if bone.low is None else min(bone.low, 0.0)
    return low, FREE if bone.high is None else max(bone.high, 0.0)


def joint_of(bone: Bone, upper: Sequence[BaseGeometry], lower: Sequence[BaseGeometry]) -> Joint:
    """A bone's joint between regions of art in the puppet's pixels."""
    low, high = range_of(bone)
    above, below = (shapely.union_all(list(regions)).simplify(FINE) for regions in (upper, lower))
    return Joint(above, below, complex(bone.x, bone.y), low, high)
