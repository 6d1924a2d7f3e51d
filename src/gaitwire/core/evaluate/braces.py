"""What is braced, as it was taken: a limb's tip, a pin, a bone's angle or its gaze; and what it takes to stay."""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.grip import grip_of
from gaitwire.core.evaluate.handles import Wanted
from gaitwire.core.evaluate.limbs import SHIFT_X, SHIFT_Y, STRETCH, TURN, LimbPlan, nearest
from gaitwire.core.evaluate.posed import SolvedPose
from gaitwire.core.evaluate.solving import ChainSolver, LimbGroup
from gaitwire.core.evaluate.spot import end_of
from gaitwire.core.evaluate.values import node_values, sampling
from gaitwire.core.geometry import affine
from gaitwire.core.kinematics.chain import rebent
from gaitwire.core.walk.walker import facing_of

_CHANGED = 1e-9
"""In a property's own unit: less than that is no change, and gets no key."""


@dataclass(frozen=True)
class Held(ABC):
    """A brace as it was taken."""

    instance_id: str
    name: str
    owners: frozenset[str]
    """Whoever poses one of these means it: the brace gives way."""
    last: ClassVar[bool] = True
    """Whether it may be carried by what others hold."""

    @abstractmethod
    def asked(self, solved: SolvedPose) -> tuple[Wanted, float]:
        """What it takes to stay, as its puppet stands with the gesture's values; and by how many pixels it cannot."""


@dataclass(frozen=True)
class Loose(Held):
    """A limb on its way from its bones to its tip, or back: neither say alone where it is, so nothing can hold it."""

    def asked(self, solved: SolvedPose) -> tuple[Wanted, float]:
        return {}, 0.0


def keyed_values(solved: SolvedPose) -> FloatArray:
    """Values (N, properties) of the nodes before limbs are solved."""
    known: FloatArray | None = solved.posed.__dict__.get("_keyed")
    if known is None:
        known = node_values(sampling(solved.puppet, solved.posed.times, solved.posed.sampled))[..., 0]
        solved.posed.__dict__["_keyed"] = known
    return known


def pointing(solved: SolvedPose, node: int, rest: float) -> complex:
    """In which direction of the stage what lies at an angle at rest points."""
    own = np.exp(1j * np.radians(rest))
    x, y = affine.apply_linear(solved.posed.world[:, node, 0], own.real, own.imag)
    return complex(float(x), float(y))


def _angle_in(parent: FloatArray, direction: complex) -> float:
    """The direction on the stage in the space of a parent matrix (6,), degrees."""
    x, y = affine.apply_linear(affine.invert(parent), direction.real, direction.imag)
    return float(np.degrees(np.arctan2(y, x)))


def _near(angle: float) -> float:
    return float(nearest(np.array([angle]))[0])


def ahead_of(solved: SolvedPose, node: int) -> complex:
    """A point of the stage that a bone looks at: as far ahead of it as its puppet is tall."""
    puppet = solved.puppet.source.puppet
    matrix = solved.posed.world[:, node, 0]
    x, y = affine.apply(matrix, facing_of(puppet) * puppet.height, 0.0)
    return complex(float(x), float(y))


@dataclass(frozen=True)
class HeldLimb(Held):
    """The tip of a limb that is turned by its bones."""

    plan: LimbPlan
    group: LimbGroup
    place: complex
    lies: complex | None
    """In which direction its tip bone points."""
    last = False

    def asked(self, solved: SolvedPose) -> tuple[Wanted, float]:
        plan, puppet = self.plan, solved.puppet
        values = solved.posed.values[plan.nodes]
        above = grip_of(solved, int(plan.chain[0])).parent
        solver = ChainSolver(self.group, values, above[:, None])
        root, links = (a[..., 0] for a in solver.lying())
        x, y = affine.apply(affine.invert(above), self.place.real, self.place.imag)
        away = complex(float(x), float(y)) - complex(root)
        now = values[: len(links), TURN, 0]
        laid = np.degrees(np.angle(links))
        sums, factor = self._bent(links, laid + np.cumsum(now), away)
        change = nearest(np.diff(sums - laid, prepend=0.0) - now)
        keyed = keyed_values(solved)
        wanted: Wanted = {}
        turned = np.zeros(len(links))
        for n, node in enumerate(plan.chain.tolist()):
            turn = float(keyed[node, TURN] + change[n])
            turned[n] = _limited(solved, node, turn) - keyed[node, TURN]
            self._ask(wanted, solved, node, "turn", turned[n])
            if factor != 1.0:
                wanted[self.instance_id, puppet.nodes.owners[node][1], "stretch"] = float(keyed[node, STRETCH]) * factor
        ends = np.cumsum(now + turned)
        miss = abs((links * factor * np.exp(1j * np.radians(ends))).sum() - away)
        if plan.tip >= 0 and self.lies is not None:
            lies = _near(_angle_in(above, self.lies) - plan.flat - ends[-1] - values[-1, TURN, 0])
            self._ask(wanted, solved, plan.tip, "turn", lies)
        return wanted, float(miss)

    def _bent(self, links: np.ndarray, directions: FloatArray, away: complex) -> tuple[FloatArray, float]:
        """Directions (n,) in degrees in which the links come to the target, and the factor on their lengths."""
        lengths, distance = np.abs(links), abs(away)
        factor = float(np.clip(distance / lengths.sum(), 1.0, 1.0 + self.plan.limb.stretch))
        shape = rebent(lengths * factor, directions, distance, self.plan.limb.bend)
        laid = (lengths * np.exp(1j * np.radians(shape))).sum()
        return shape + float(np.degrees(np.angle(away) - np.angle(laid))), factor

    def _ask(self, wanted: Wanted, solved: SolvedPose, node: int, name: str, change: float) -> None:
        if abs(change) > _CHANGED:
            owner = solved.puppet.nodes.owners[node][1]
            wanted[self.instance_id, owner, name] = float(keyed_values(solved)[node, TURN]) + change


@dataclass(frozen=True)
class HeldTip(HeldLimb):
    """The tip of a limb that is solved from it: its place stays by itself, as far as it is in reach."""

    def asked(self, solved: SolvedPose) -> tuple[Wanted, float]:
        plan = self.plan
        wanted: Wanted = {}
        if plan.tip >= 0 and self.lies is not None:
            parent = grip_of(solved, plan.tip).parent
            now = pointing(solved, plan.tip, plan.flat)
            self._ask(wanted, solved, plan.tip, "turn", _near(_angle_in(parent, self.lies) - _angle_in(parent, now)))
        return wanted, abs(end_of(solved, plan) - self.place)


@dataclass(frozen=True)
class HeldPin(Held):
    """A pin, by its place."""

    owner_id: str
    place: complex

    def asked(self, solved: SolvedPose) -> tuple[Wanted, float]:
        node = solved.puppet.node(self.owner_id)
        if node is None:
            return {}, 0.0
        grip = grip_of(solved, node)
        x, y = grip.in_parent((self.place.real, self.place.imag))
        moved = (x - grip.pivot[0], y - grip.pivot[1])
        keyed = keyed_values(solved)[node]
        return {
            (self.instance_id, self.owner_id, name): float(keyed[column]) + by
            for name, column, by in zip(("shift_x", "shift_y"), (SHIFT_X, SHIFT_Y), moved, strict=True)
            if abs(by) > _CHANGED
        }, 0.0


@dataclass(frozen=True)
class HeldBone(Held):
    """A bone that goes along, and keeps its angle, or goes on looking at a point."""

    owner_id: str
    rest: float
    lies: complex
    place: complex
    looks_at: complex | None

    def asked(self, solved: SolvedPose) -> tuple[Wanted, float]:
        node = solved.puppet.node(self.owner_id)
        if node is None:
            return {}, 0.0
        lies = self.lies
        if self.looks_at is not None:
            now = complex(*(float(v) for v in solved.posed.world[4:, node, 0]))
            seen = (self.looks_at - now) / (self.looks_at - self.place)
            lies *= seen / abs(seen)
        parent = grip_of(solved, node).parent
        by = _near(_angle_in(parent, lies) - _angle_in(parent, pointing(solved, node, self.rest)))
        keyed = float(keyed_values(solved)[node, TURN])
        turn = _limited(solved, node, keyed + by)
        address = (self.instance_id, self.owner_id, "turn")
        return ({address: turn} if abs(turn - keyed) > _CHANGED else {}), 0.0


def _limited(solved: SolvedPose, node: int, turn: float) -> float:
    """A turn within what hands may turn the bone to; one that is beyond that already is not pulled in."""
    skeleton, keyed = solved.puppet.skeleton, float(keyed_values(solved)[node, TURN])
    return float(np.clip(turn, min(float(skeleton.low[node]), keyed), max(float(skeleton.high[node]), keyed)))
