"""Limbs solved from where their tips are to be: several alike at once, side by side, on all frames.

The stage of evaluation between bearing and dynamics. Arrays have one column for each frame of each
limb; all that is done to them is done column by column.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields, replace

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.limbs import AXIS, KEEP, SHIFT_X, SHIFT_Y, SKEW, STRETCH, TURN, WIDEN, LimbPlan, nearest
from gaitwire.core.evaluate.skeleton import Skeleton, at_rest
from gaitwire.core.geometry import affine
from gaitwire.core.kinematics.chain import chord, solve_chain
from gaitwire.core.tolerances import LENGTH

_STRETCHINGS = 6
"""Rounds in which a stretched chain is brought to its target; each leaves a small share of what was left."""


@dataclass(frozen=True)
class Assembly:
    """What limbs are made of, a column for each: their nodes (m, L), the tip last where they have one."""

    x: FloatArray  # (m, L) pivots at rest, in what each hangs from
    y: FloatArray
    angle: FloatArray
    end: np.ndarray  # (L,) complex, from the last bone's pivot
    heel: np.ndarray
    ball: np.ndarray
    flat: FloatArray
    mirror: FloatArray
    bend: FloatArray
    stretch: FloatArray
    softness: FloatArray

    def repeated(self, count: int) -> Assembly:
        """Each limb's column as often as there are frames."""
        if count == 1:
            return self
        return Assembly(*(np.repeat(getattr(self, f.name), count, axis=-1) for f in fields(self)))


@dataclass(frozen=True)
class LimbGroup:
    """Limbs of as many bones, with a tip or without, that can be solved at one time."""

    members: tuple[int, ...]  # of the coupled group
    plans: tuple[LimbPlan, ...]
    build: Assembly

    @property
    def tipped(self) -> bool:
        return self.plans[0].tip >= 0


def make_group(limbs: Sequence[tuple[int, LimbPlan, Skeleton]]) -> LimbGroup:
    """A group of limbs, each with its member and that one's skeleton."""
    plans = [plan for _, plan, _ in limbs]

    def rows(name: str) -> FloatArray:
        return np.stack([getattr(skeleton, name)[plan.nodes] for _, plan, skeleton in limbs], axis=-1)

    build = Assembly(
        rows("x"), rows("y"), rows("angle"), np.array([p.end for p in plans]), np.array([p.heel for p in plans]),
        np.array([p.ball for p in plans]), np.array([p.flat for p in plans]), np.array([p.mirror for p in plans]),
        np.array([p.limb.bend for p in plans], float), np.array([p.limb.stretch for p in plans]),
        np.array([p.limb.softness for p in plans]),
    )  # fmt: skip
    return LimbGroup(tuple(m for m, _, _ in limbs), tuple(plans), build)


@dataclass(frozen=True)
class Spots:
    """Where tips are to be (K,), in scene pixels, how their carriers stand, and how the tips are turned there."""

    place: np.ndarray  # complex
    carried: np.ndarray  # complex: the direction of the carrier's own x axis
    angle: FloatArray  # degrees
    rolled: FloatArray  # degrees from lying flat


class ChainSolver:
    """A group of limbs on frames: K columns, limb after limb."""

    def __init__(
        self, group: LimbGroup, values: FloatArray, above: FloatArray, flipped: FloatArray | float = 0.0,
        senses: FloatArray | float = 1.0,
    ) -> None:  # fmt: skip
        """`values` (m, properties, K) of the limbs' nodes by their keys; `above` (6, K) what each root hangs from.

        `flipped` (K,) is 1 where a limb bends to the other side, `senses` (K,) -1 where its puppet has turned round.
        """
        count = values.shape[-1] // len(group.plans)
        self.side = 1.0 - 2.0 * np.asarray(flipped)
        build = group.build.repeated(count)
        self.build = replace(build, mirror=build.mirror * senses)
        self.tipped = group.tipped
        self.values = values
        self.above = above
        self.chain = len(values) - group.tipped

    def solve(self, target: np.ndarray, held: FloatArray | None) -> FloatArray:
        """Turns in degrees and, last, the factor on the length (m + 1, K), that bring the ends to targets (K,).

        `held` (K,) is the direction, in the space of the roots, in which each tip is to point; None leaves
        their turns as they are.
        """
        build = self.build
        inside = affine.apply(affine.invert(self.above), target.real, target.imag)
        places = self._places()
        away = inside[0] + 1j * inside[1] - places[0]
        links = _Links(self, places)
        laid = links.at(np.ones(len(target)))
        pose = solve_chain(np.abs(laid), away.real, away.imag, build.bend * self.side, build.stretch, build.softness)
        directions, factor = pose.directions, pose.stretch
        if (factor > 1).any():
            laid, factor = self._stretched(links, factor, pose.bend, away)
            aim = np.degrees(np.angle(away) - np.angle(chord(np.abs(laid), np.radians(pose.bend))))
            directions = aim + np.arange(self.chain)[:, None] * pose.bend
        sums = directions - np.degrees(np.angle(laid))
        keyed = self.values[:, TURN]
        out = np.concatenate([sums, keyed[self.chain :], factor[None]])
        out[1 : self.chain] -= sums[:-1]
        if self.tipped and held is not None:
            out[self.chain] = held - build.flat - sums[-1]
        out[:-1] = keyed + nearest(out[:-1] - keyed)
        return out

    def kept(self, target: np.ndarray, steady: FloatArray) -> FloatArray:
        """The same with tips that keep their angle against the ground, each by a share `steady` (K,) of the way.

        The turn of such a tip is counted from how it lies at rest, not from what it hangs from.
        """
        if not self.tipped or not steady.any():
            return self.solve(target, None)
        keyed = self.values[self.chain, TURN]
        level = Spots(target, np.ones(len(target), complex), keyed, np.zeros(len(target)))
        out = self.solve(target, self._direction(level, keyed))
        out[self.chain] = keyed + nearest(out[self.chain] - keyed) * steady
        return out

    def lying(self, factor: float = 1.0) -> tuple[np.ndarray, np.ndarray]:
        """Where the roots lie (K,), and the links from joint to joint (n, K) while nothing is turned, complex."""
        places = self._places()
        return places[0], _Links(self, places).at(np.full(places.shape[1], factor))

    def _places(self) -> np.ndarray:
        """Where the nodes lie in what they hang from (m, K), complex, shift included."""
        build, values = self.build, self.values
        return np.asarray(build.x + values[:, SHIFT_X] + 1j * (build.y + values[:, SHIFT_Y]))

    def _stretched(
        self, links: _Links, factor: FloatArray, bend: FloatArray, away: np.ndarray
    ) -> tuple[np.ndarray, FloatArray]:
        """Links stretched along their bones until each chain spans its target, or as far as it may."""
        distance, angle = np.abs(away), np.radians(bend)
        most = np.where(factor > 1, 1 + self.build.stretch, 1.0)
        for _ in range(_STRETCHINGS):
            span = np.abs(chord(np.abs(links.at(factor)), angle))
            factor = np.clip(factor * distance / np.maximum(span, LENGTH), 1.0, most)
        return links.at(factor), factor

    def held_at(self, spots: Spots) -> tuple[np.ndarray, FloatArray | None]:
        """Where planted ends are to be (K,), complex, and in which direction each tip points in its root's space.

        A tip that rolls turns about the point on which it stands: its heel or its ball, whichever is
        lower; that one stays where it lies while the tip is flat on its spot.
        """
        if not self.tipped:
            return spots.place, None
        flat = self._direction(spots, spots.angle)
        if not spots.rolled.any():
            return spots.place, flat
        build = self.build
        now = self._direction(spots, spots.angle + spots.rolled)
        sole = build.ball - build.heel
        lower = (sole * np.exp(1j * np.radians(spots.rolled))).imag > sole.imag
        own = self._shaped(np.where(lower, build.ball, build.heel))
        lies, stood = (own * np.exp(1j * np.radians(d - build.flat)) for d in (now, flat))
        dx, dy = affine.apply_linear(self.above, (stood - lies).real, (stood - lies).imag)
        return spots.place + dx + 1j * dy, now

    def _shaped(self, points: np.ndarray) -> np.ndarray:
        """Points of the tips' own spaces, complex (K,), as their stretch and skew leave them before they are turned."""
        values = self.values[self.chain]
        if at_rest(values):
            return points
        across = values[WIDEN] * values[STRETCH] ** -values[KEEP]
        angle = self.build.angle[self.chain] + values[AXIS]
        shape = affine.bone_matrix(0.0, 0.0, 0.0, values[SKEW], values[STRETCH], across, angle)
        x, y = affine.apply_linear(shape, points.real, points.imag)
        return np.asarray(x + 1j * y)

    def _direction(self, spots: Spots, angle: FloatArray) -> FloatArray:
        """In which direction tips point in their roots' spaces, degrees, when turned by an angle on their spots."""
        out = np.exp(1j * np.radians(self.build.flat + angle))
        world = spots.carried * (self.build.mirror * out.real + 1j * out.imag)
        a, b, c, d, _, _ = self.above
        # The inverse of the linear part but for its size: only the direction is asked for.
        x, y = d * world.real - c * world.imag, a * world.imag - b * world.real
        facing = np.sign(a * d - b * c)
        return np.asarray(np.degrees(np.arctan2(y * facing, x * facing)))


class _Links:
    """From each joint of the chains to the next (n, K), complex, as they lie while nothing is turned.

    Of a link in the axes in which its bone is stretched, what lies along grows with its stretch; what lies across
    it grows with its width, which shrinks as much as the bone keeps of its area.
    """

    def __init__(self, solver: ChainSolver, places: np.ndarray) -> None:
        n = solver.chain
        ahead = np.concatenate([places[1 : n + 1], *([] if solver.tipped else [solver.build.end[None]])])
        values = solver.values[:n]
        self._axis = np.exp(1j * np.radians(solver.build.angle[:n] + values[:, AXIS]))
        own = ahead * np.conj(self._axis)
        self._keep = values[:, KEEP]
        self._slid: FloatArray | float = 0.0
        if at_rest(values):
            self._along, self._across = own.real, own.imag
        else:
            stretch = values[:, STRETCH]
            self._along = own.real * stretch
            self._slid = self._along * np.tan(np.radians(values[:, SKEW]))
            self._across = own.imag * values[:, WIDEN] * stretch**-self._keep

    def at(self, factor: FloatArray) -> np.ndarray:
        """The links with all bones longer by a factor (K,)."""
        across = factor * self._slid + self._across * factor**-self._keep
        return np.asarray(self._axis * (factor * self._along + 1j * across))
