"""Limbs in the evaluation: turned by their keys, or solved from where their tips are to be.

The stage of evaluation between bearing and dynamics. All is done for every frame at once; where a
plant begins and ends, the frames asked for hold those ends too, so that what the limb's own keys
lack there can be given back over the frames beside it.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from gaitwire.core.conventions import FloatArray, IntArray
from gaitwire.core.evaluate.skeleton import Laying, Skeleton, at_rest
from gaitwire.core.geometry import affine
from gaitwire.core.kinematics.chain import chord, solve_chain
from gaitwire.core.links import Plant
from gaitwire.core.puppet.model import Limb
from gaitwire.core.timing.channel import LIMB_PROPERTIES, NODE_PROPERTIES
from gaitwire.core.tolerances import LENGTH, TIME

TURN, SHIFT_X, SHIFT_Y, STRETCH, WIDEN, SKEW, KEEP = range(len(NODE_PROPERTIES))
MIX, TIP_X, TIP_Y, ROLL = range(len(LIMB_PROPERTIES))
"""Columns of the tables of nodes and of limbs."""

_STRETCHINGS = 6
"""Rounds in which a stretched chain is brought to its target; each leaves a small share of what was left."""


@dataclass(frozen=True)
class LimbPlan:
    """A limb of an island as the evaluation needs it."""

    limb: Limb
    row: int  # in the island's table of limbs
    chain: IntArray  # (n,) its nodes, root first
    tip: int  # node of its tip bone, or -1 for a limb that is whole
    end: complex  # the end from the last bone's pivot, at rest
    heel: complex  # where the tip stands, from its joint at rest
    ball: complex
    flat: float  # the tip's direction at rest, degrees
    stands: complex  # the end as the puppet stands at rest, in scene pixels
    mirror: float
    plants: tuple[Plant, ...]

    @property
    def nodes(self) -> IntArray:
        """The chain and, after it, the tip if it has one."""
        return self.chain if self.tip < 0 else np.append(self.chain, self.tip)


@dataclass(frozen=True)
class Spots:
    """Where a limb's tip is to be on the frames (F,), in scene pixels, and how its carrier stands."""

    x: FloatArray
    y: FloatArray
    carried: np.ndarray  # complex: the direction of the carrier's own x axis
    angle: FloatArray  # degrees
    pitch: FloatArray


@dataclass(frozen=True)
class Solved:
    """What a limb asks of its nodes (as `LimbPlan.nodes`) on the frames."""

    turns: FloatArray  # (m, F) degrees
    stretch: FloatArray  # (F,) factor


def smooth(share: FloatArray) -> FloatArray:
    """From 0 to 1 with no speed at either end, nor any change of it (the smallest such polynomial)."""
    x = np.clip(share, 0.0, 1.0)
    return np.asarray(x**3 * (10 - 15 * x + 6 * x**2))


def nearest(angle: FloatArray) -> FloatArray:
    """The same turn within half a round, degrees."""
    return np.asarray(np.mod(angle + 180.0, 360.0) - 180.0)


def _places(skeleton: Skeleton, values: FloatArray, nodes: IntArray) -> np.ndarray:
    """Where nodes lie in what they hang from (n, F), complex, shift included."""
    return np.asarray(
        skeleton.x[nodes, None] + values[nodes, SHIFT_X] + 1j * (skeleton.y[nodes, None] + values[nodes, SHIFT_Y])
    )


class Links:
    """From each joint of a chain to the next (n, F), complex, as they lie while nothing is turned.

    Of a link in its bone's own axes, what lies along the bone grows with its stretch; what lies across
    it grows with its width, which shrinks as much as the bone keeps of its area.
    """

    def __init__(self, plan: LimbPlan, skeleton: Skeleton, values: FloatArray) -> None:
        chain = plan.chain
        after = plan.nodes[1:]
        ahead = np.full((len(chain), values.shape[-1]), plan.end, complex)
        ahead[: len(after)] = _places(skeleton, values, after)
        self._axis = np.exp(1j * np.radians(skeleton.angle[chain]))[:, None]
        own = ahead * np.conj(self._axis)
        self._keep = values[chain, KEEP]
        if at_rest(values[chain]):
            self._along, self._slid, self._across = own.real, 0.0, own.imag
        else:
            stretch = values[chain, STRETCH]
            self._along = own.real * stretch
            self._slid = self._along * np.tan(np.radians(values[chain, SKEW]))
            self._across = own.imag * values[chain, WIDEN] * stretch**-self._keep

    def at(self, factor: FloatArray) -> np.ndarray:
        """The links with all bones longer by a factor (F,)."""
        across = factor * self._slid + self._across * factor**-self._keep
        return np.asarray(self._axis * (factor * self._along + 1j * across))


def solve(
    plan: LimbPlan,
    skeleton: Skeleton,
    values: FloatArray,
    above: FloatArray,
    target: np.ndarray,
    held: FloatArray | None,
) -> Solved:
    """Turns that bring a limb's end to a target (F,), complex, in scene pixels.

    `above` (6, F) is what the chain's root hangs from. `held` is the direction (F,) in degrees, in that
    space, in which the tip is to point; None leaves its turn as it is.
    """
    inside = affine.apply(affine.invert(above), target.real, target.imag)
    away = inside[0] + 1j * inside[1] - _places(skeleton, values, plan.chain[:1])[0]
    one = np.ones(values.shape[-1])
    chain = Links(plan, skeleton, values)
    links = chain.at(one)
    limb = plan.limb
    pose = solve_chain(np.abs(links), away.real, away.imag, limb.bend, limb.stretch, limb.softness)
    directions, factor = pose.directions, pose.stretch
    if (factor > 1).any():
        links, factor = _stretched(chain, factor, pose.bend, away, limb)
        aim = np.degrees(np.angle(away) - np.angle(chord(np.abs(links), np.radians(pose.bend))))
        directions = aim + np.arange(len(links))[:, None] * pose.bend
    sums = directions - np.degrees(np.angle(links))
    turns = np.diff(sums, axis=0, prepend=0.0)
    if plan.tip >= 0:
        own = values[plan.tip, TURN] if held is None else held - plan.flat - sums[-1]
        turns = np.concatenate([turns, own[None]])
    keyed = values[plan.nodes, TURN]
    return Solved(keyed + nearest(turns - keyed), factor)


def _stretched(
    chain: Links, factor: FloatArray, bend: FloatArray, away: np.ndarray, limb: Limb
) -> tuple[np.ndarray, FloatArray]:
    """Links stretched along their bones until the chain spans its target, or as far as it may."""
    distance, angle = np.abs(away), np.radians(bend)
    most = np.where(factor > 1, 1 + limb.stretch, 1.0)
    for _ in range(_STRETCHINGS):
        span = np.abs(chord(np.abs(chain.at(factor)), angle))
        factor = np.clip(factor * distance / np.maximum(span, LENGTH), 1.0, most)
    return chain.at(factor), factor


def tip_held(
    plan: LimbPlan, laying: Laying, above: FloatArray, spots: Spots, roll: FloatArray
) -> tuple[np.ndarray, FloatArray]:
    """Where a planted limb's end is to be, complex, and in which direction its tip points in the space of its root.

    A tip that rolls turns about the point on which it stands: its heel or its ball, whichever is
    lower; that one stays where it lies while the tip is flat on its spot.
    """
    at = spots.x + 1j * spots.y
    if plan.tip < 0:
        return at, np.zeros(len(roll))
    rolled = spots.pitch + roll
    flat = _direction(plan, above, spots, spots.angle)
    if not rolled.any():
        return at, flat
    now = _direction(plan, above, spots, spots.angle + rolled)
    sole = plan.ball - plan.heel
    lower = (sole * np.exp(1j * np.radians(rolled))).imag > sole.imag
    stands = np.where(lower, plan.ball, plan.heel)
    own = _shaped(laying, plan.tip, stands)
    lies, stood = (own * np.exp(1j * np.radians(d - plan.flat)) for d in (now, flat))
    dx, dy = affine.apply_linear(above, (stood - lies).real, (stood - lies).imag)
    return at + dx + 1j * dy, now


def _shaped(laying: Laying, node: int, points: np.ndarray) -> np.ndarray:
    """Points of a bone's own space, complex (F,), as its stretch and skew leave them before it is turned."""
    values = laying.values[node]
    if at_rest(values):
        return points
    across = values[WIDEN] * values[STRETCH] ** -values[KEEP]
    shape = affine.bone_matrix(0.0, 0.0, 0.0, values[SKEW], values[STRETCH], across, laying.skeleton.angle[node])
    x, y = affine.apply_linear(shape, points.real, points.imag)
    return np.asarray(x + 1j * y)


def _direction(plan: LimbPlan, above: FloatArray, spots: Spots, angle: FloatArray) -> FloatArray:
    """In which direction a tip points in its root's space, degrees, when it is turned by an angle on its spot."""
    out = np.exp(1j * np.radians(plan.flat + angle))
    world = spots.carried * (plan.mirror * out.real + 1j * out.imag)
    a, b, c, d, _, _ = above
    # The inverse of the linear part but for its size: only the direction is asked for.
    x, y = d * world.real - c * world.imag, a * world.imag - b * world.real
    facing = np.sign(a * d - b * c)
    return np.asarray(np.degrees(np.arctan2(y * facing, x * facing)))


def since_plant(plant: Plant, times: FloatArray, loop: float | None) -> tuple[FloatArray, FloatArray]:
    """Frames from a plant's start, and frames until it, both 0 or more on a loop."""
    since = times - plant.start
    return (since, -since) if loop is None else (np.mod(since, loop), np.mod(-since, loop))


def is_planted(plant: Plant, times: FloatArray, loop: float | None) -> np.ndarray:
    """On which of the frames (F,) a plant holds."""
    since, until = since_plant(plant, times, loop)
    held = (since >= -TIME) & (since <= plant.stop - plant.start + TIME)
    return np.asarray(held | (until < TIME) if loop is not None else held)


def fading(plant: Plant, times: FloatArray, loop: float | None) -> tuple[FloatArray | None, FloatArray | None]:
    """How much of what a limb lacked when a plant began, and when it ended, is still given to it (F,) each.

    None where it is nothing on any of the frames.
    """
    since, until = since_plant(plant, times, loop)
    after = since - (plant.stop - plant.start)
    return _share(until, plant.soft_in), _share(after, plant.soft_out)


def _share(away: FloatArray, soft: float) -> FloatArray | None:
    near = (away > 0) & (away < soft)
    return np.where(near, 1 - smooth(away / soft), 0.0) if near.any() else None


@dataclass(frozen=True)
class Release:
    """From a frame on a limb goes over from how it stood there to what its keys say, over some frames."""

    time: float
    column: int  # that frame, among those evaluated
    soft: float
    turns: FloatArray  # (m,) how it stood there


def blended(
    plan: LimbPlan, base: FloatArray, planted: FloatArray, holds: Sequence[np.ndarray], times: FloatArray,
    loop: float | None, columns: dict[float, int], releases: Sequence[Release] = (),
) -> FloatArray:  # fmt: skip
    """Rows (m, F) of a limb, its turns and its factor, as its plants ask and else as its keys do, going over softly.

    `columns` says where the ends of plants lie among the frames.
    """
    out = base.copy()
    for plant, held in zip(plan.plants, holds, strict=True):
        for end, share in zip((plant.start, plant.stop), fading(plant, times, loop), strict=True):
            column = columns.get(end)
            if share is not None and column is not None and held[column]:
                out += nearest(planted[:, [column]] - base[:, [column]]) * share
    anywhere = np.any(holds, axis=0) if len(holds) else np.zeros(len(times), bool)
    out = np.where(anywhere, planted, out)
    for release in releases:
        since = times - release.time
        share = np.where(since >= -TIME, 1 - smooth(since / max(release.soft, TIME)), 0.0)
        out[:-1] += nearest(release.turns[:, None] - out[:-1, [release.column]]) * share
    return out
