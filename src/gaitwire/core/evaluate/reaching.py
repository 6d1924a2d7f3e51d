"""Dragging a limb by one of its joints, while another one stays: the turns that asks of its bones."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from gaitwire.core.conventions import FloatArray, Point
from gaitwire.core.errors import InvalidInputError, LockedError
from gaitwire.core.evaluate.compiled_scene import CompiledScene
from gaitwire.core.evaluate.grip import grip_of
from gaitwire.core.evaluate.handles import Wanted
from gaitwire.core.evaluate.levers import planted_now, solved_limb
from gaitwire.core.evaluate.limbs import FLIP, TIP_X, TIP_Y
from gaitwire.core.evaluate.posed import SolvedPose, solved_poses
from gaitwire.core.evaluate.spot import planned, steadiness
from gaitwire.core.evaluate.values import limb_values, node_values, sampling
from gaitwire.core.geometry import affine
from gaitwire.core.kinematics.chain import solve_chain
from gaitwire.core.puppet.limb_chains import limb_chain, limb_end
from gaitwire.core.puppet.model import Limb
from gaitwire.core.timing.channel import NODE_PROPERTIES

_TURN, _SHIFT_X, _SHIFT_Y, _STRETCH = (NODE_PROPERTIES.index(n) for n in ("turn", "shift_x", "shift_y", "stretch"))


_HELD = 0.01
"""Degrees that a limit takes off a turn from which on it is told."""


class SteadyTip(NamedTuple):
    """A tip bone that keeps its angle by a share of the way: its turn and what hands may turn it to, in degrees."""

    owner_id: str
    turn: float
    share: float
    low: float
    high: float

    def against(self, turned: float) -> float:
        """Its turn when what it hangs from has turned by that much."""
        return float(np.clip(self.turn - self.share * turned, self.low, self.high))


@dataclass(frozen=True)
class LimbGrip:
    """A limb as a drag found it. Joint 0 is its root, the last one its end."""

    instance_id: str
    limb: Limb
    owners: tuple[str, ...]  # (n,) its bones
    joints: np.ndarray  # (n + 1,) complex, in the space of the root's parent
    values: FloatArray  # (n, properties)
    limits: FloatArray  # (n, 2) degrees
    parent: FloatArray  # (6,) world matrix of what the root hangs from
    tip: tuple[float, float] | None = None
    """Where its tip is by its keys, if it is solved from that."""
    steady: SteadyTip | None = None
    """Its tip bone, if that keeps its angle against the ground."""

    @property
    def count(self) -> int:
        return len(self.owners)

    def inside(self, point: Point) -> complex:
        """A stage point in the space of the joints."""
        x, y = affine.apply(affine.invert(self.parent), point[0], point[1])
        return complex(x, y)


@dataclass(frozen=True)
class Reach:
    """What a drag asks for, and by how many pixels of the puppet the limb cannot follow."""

    values: Wanted
    miss: float
    held: tuple[str, ...] = ()
    """Ids of the bones whose turn limits are the reason, if they are."""


def take_limb(
    compiled: CompiledScene, instance_id: str, limb_id: str, frame: float, blocking: bool = False
) -> LimbGrip:
    """Take hold of a limb as a frame shows it; raises InvalidInputError where it is not there or too short."""
    solved = solved_poses(compiled.groups, instance_id, frame, blocking).get(instance_id)
    limb = next((i for i in solved.puppet.source.puppet.limbs if i.id == limb_id), None) if solved else None
    if solved is None or limb is None:
        raise InvalidInputError("This limb is not in the scene.", "Choose another.")
    return _grip(solved, limb)


def _grip(solved: SolvedPose, limb: Limb) -> LimbGrip:
    compiled_puppet, posed = solved.puppet, solved.posed
    puppet, instance_id = compiled_puppet.source.puppet, compiled_puppet.source.instance.id
    chain = limb_chain(puppet, limb)
    nodes = [compiled_puppet.nodes.owners.index((instance_id, b.id)) for b in chain]
    values = node_values(sampling(compiled_puppet, posed.times, posed.sampled))
    world = posed.world[..., 0]
    last = chain[-1]
    ex, ey = limb_end(puppet, limb)
    end = affine.apply(world[:, nodes[-1]], ex - last.x, ey - last.y)
    x, y = np.append(world[4, nodes], end[0]), np.append(world[5, nodes], end[1])
    above = grip_of(solved, nodes[0]).parent
    inside = affine.apply(affine.invert(above), x, y)
    limits = np.stack([compiled_puppet.skeleton.low[nodes], compiled_puppet.skeleton.high[nodes]], axis=-1)
    owners = tuple(b.id for b in chain)
    joints = inside[0] + 1j * inside[1]
    tip = _tip_grip(solved, limb, nodes[0])
    row = limb_values(sampling(compiled_puppet, posed.times, posed.sampled))[puppet.limbs.index(limb)]
    if row[FLIP, 0]:
        limb = limb.model_copy(update={"bend": -limb.bend})
    steady = None if tip else _steady_tip(solved, limb, values)
    return LimbGrip(instance_id, limb, owners, joints, values[nodes, :, 0], limits, above, tip, steady)


def _steady_tip(solved: SolvedPose, limb: Limb, values: FloatArray) -> SteadyTip | None:
    plan = planned(solved, limb)
    share = steadiness(solved, plan)
    if not share:
        return None
    skeleton, turn = solved.puppet.skeleton, float(values[plan.tip, _TURN, 0])
    low, high = min(float(skeleton.low[plan.tip]), turn), max(float(skeleton.high[plan.tip]), turn)
    return SteadyTip(limb.tip_id, turn, share, low, high)


def _tip_grip(solved: SolvedPose, limb: Limb, root: int) -> tuple[float, float] | None:
    """Where a limb that is solved from its tip has that by its keys; None for one that is turned.

    Raises LockedError for one that is planted.
    """
    plan = solved_limb(solved, root)
    if plan is None or plan.limb.id != limb.id:
        return None
    if planted_now(solved, plan):
        raise LockedError(f"“{limb.name}” is planted here.", "Drag its footprint, or lift it.")
    row = limb_values(sampling(solved.puppet, solved.posed.times, solved.posed.sampled))[plan.row, :, 0]
    return float(row[TIP_X]), float(row[TIP_Y])


def reach(grip: LimbGrip, target: Point, joint: int, stays: int = 0) -> Reach:
    """Drag a joint to a point of the stage while another joint stays where it is.

    What lies beyond the dragged joint, seen from the one that stays, goes along. With the end
    staying, the root itself is shifted. Turns are held to the bones' limits. Raises
    InvalidInputError when the joint that stays is to be dragged.
    """
    if joint == stays or not (0 <= joint <= grip.count and 0 <= stays <= grip.count):
        raise InvalidInputError("This joint is the one that stays.", "Drag another, or let another one stay.")
    if grip.tip is not None:
        return _tip_led(grip, target, joint, stays)
    wanted = grip.inside(target)
    joints = grip.joints.copy()
    lengths = np.abs(np.diff(joints))
    turned = np.zeros(grip.count)  # degrees by which each link turns
    stretch = np.ones(grip.count)
    if joint > stays:
        _bend(grip, joints, lengths, turned, stretch, stays, joint, wanted)
        turned[joint:] = turned[joint - 1]
    elif joint == 0:
        _bend(grip, joints + (wanted - joints[0]), lengths, turned, stretch, 0, stays, joints[stays])
        turned[stays:] = 0.0
    else:
        _bend(grip, joints, lengths, turned, stretch, 0, joint, wanted)
        start = _laid(joints, turned, stretch)[joint]
        moved = joints + (start - joints[joint])
        _bend(grip, moved, lengths, turned, stretch, joint, stays, joints[stays])
    root = wanted - joints[0] if joint == 0 else 0j
    return _asked(grip, turned, stretch, root, joint, wanted, stays)


def _tip_led(grip: LimbGrip, target: Point, joint: int, stays: int) -> Reach:
    """A limb that is solved from its tip is pulled by that alone."""
    if grip.tip is None or joint != grip.count or stays != 0:
        raise InvalidInputError(f"“{grip.limb.name}” is solved from its tip here.", "Pull it by its tip.")
    end = grip.joints[-1]
    x, y = affine.apply(grip.parent, end.real, end.imag)
    now = grip.tip[0] + target[0] - float(x), grip.tip[1] + target[1] - float(y)
    values = {(grip.instance_id, grip.limb.id, name): v for name, v in zip(("tip_x", "tip_y"), now, strict=True)}
    away = abs(grip.inside(target) - grip.joints[0])
    longest = float(np.abs(np.diff(grip.joints)).sum()) * (1 + grip.limb.stretch)
    return Reach(values, max(0.0, away - longest))


def _bend(
    grip: LimbGrip, joints: np.ndarray, lengths: FloatArray, turned: FloatArray, stretch: FloatArray, first: int,
    last: int, target: complex,
) -> None:  # fmt: skip
    """Turn the links between two joints so that the last of them comes to the target."""
    away = target - joints[first]
    links = np.angle(np.diff(joints), deg=True)[first:last]
    if last - first == 1:
        turned[first] = _nearest(math.degrees(math.atan2(away.imag, away.real)) - links[0])
        return
    limb = grip.limb
    dx, dy = np.array([away.real]), np.array([away.imag])
    pose = solve_chain(lengths[first:last], dx, dy, limb.bend, limb.stretch, limb.softness)
    turned[first:last] = _nearest(pose.directions[:, 0] - links)
    stretch[first:last] = pose.stretch[0]


def _nearest(angle: FloatArray | float) -> FloatArray:
    """The same turn within half a round."""
    return np.asarray(np.mod(np.asarray(angle) + 180.0, 360.0) - 180.0)


def _laid(joints: np.ndarray, turned: FloatArray, stretch: FloatArray) -> np.ndarray:
    """Where the joints come to lie."""
    links = np.diff(joints) * np.exp(1j * np.radians(turned)) * stretch
    return np.asarray(joints[0] + np.concatenate([[0], np.cumsum(links)]))


def _asked(
    grip: LimbGrip, turned: FloatArray, stretch: FloatArray, root: complex, joint: int, wanted: complex, stays: int
) -> Reach:
    before = np.concatenate([[0.0], turned[:-1]])
    free = grip.values[:, _TURN] + turned - before
    turns = np.clip(free, grip.limits[:, 0], grip.limits[:, 1])
    held = np.cumsum(turns - grip.values[:, _TURN])
    values: Wanted = {}
    for i, owner in enumerate(grip.owners):
        values[grip.instance_id, owner, "turn"] = float(turns[i])
        if stretch[i] != 1.0 or grip.values[i, _STRETCH] != 1.0:
            values[grip.instance_id, owner, "stretch"] = float(grip.values[i, _STRETCH] * stretch[i])
    if grip.steady is not None:
        values[grip.instance_id, grip.steady.owner_id, "turn"] = grip.steady.against(float(held[-1]))
    if root:
        values[grip.instance_id, grip.owners[0], "shift_x"] = float(grip.values[0, _SHIFT_X] + root.real)
        values[grip.instance_id, grip.owners[0], "shift_y"] = float(grip.values[0, _SHIFT_Y] + root.imag)
    laid = _laid(grip.joints, held, stretch) + root
    miss = float(max(abs(laid[joint] - wanted), abs(laid[stays] - grip.joints[stays])))
    at_limit = tuple(o for o, a, b in zip(grip.owners, free, turns, strict=True) if abs(a - b) > _HELD)
    return Reach(values, miss, at_limit if miss > 1.0 else ())
