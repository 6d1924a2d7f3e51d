"""Dragging a limb by one of its joints, while another one stays: the turns that asks of its bones."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate.compiled import CompiledScene
from gaitwire.core.evaluate.handles import Point, Wanted
from gaitwire.core.evaluate.island import Island
from gaitwire.core.evaluate.skeleton import world_matrices
from gaitwire.core.evaluate.values import sample_values, shown_times
from gaitwire.core.geometry import affine
from gaitwire.core.kinematics.chain import solve_chain
from gaitwire.core.puppet.limbing import limb_chain, limb_end
from gaitwire.core.puppet.model import Limb, Puppet
from gaitwire.core.timing.channel import NODE_PROPERTIES

_TURN, _SHIFT_X, _SHIFT_Y, _STRETCH = (NODE_PROPERTIES.index(n) for n in ("turn", "shift_x", "shift_y", "stretch"))


_HELD = 0.01
"""Degrees that a limit takes off a turn from which on it is told."""


@dataclass(frozen=True)
class LimbGrip:
    """A limb as a drag found it. Joint 0 is its root, the last one its end."""

    instance_id: str
    limb: Limb
    owners: tuple[str, ...]  # (n,) its bones
    joints: np.ndarray  # (n + 1,) complex, in the space of the root's parent
    values: FloatArray  # (n, properties)
    limits: FloatArray  # (n, 2) degrees
    parent: FloatArray  # (6,) world matrix of the root's parent

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
    for island in compiled.islands:
        puppet: Puppet = island.source[1]
        limb = next((i for i in puppet.limbs if i.id == limb_id), None)
        if limb is not None and island.node_keys and island.node_keys[0][0] == instance_id:
            return _grip(island, instance_id, puppet, limb, shown_times(island, np.array([frame]), blocking))
    raise InvalidInputError("This limb is not in the scene.", "Choose another.")


def _grip(island: Island, instance_id: str, puppet: Puppet, limb: Limb, frames: FloatArray) -> LimbGrip:
    chain = limb_chain(puppet, limb)
    nodes = [island.node_keys.index((instance_id, b.id)) for b in chain]
    values = sample_values(island, frames)
    world = world_matrices(island.skeleton, values)[..., 0]
    last = chain[-1]
    ex, ey = limb_end(puppet, limb)
    end = affine.apply(world[:, nodes[-1]], ex - last.x, ey - last.y)
    x, y = np.append(world[4, nodes], end[0]), np.append(world[5, nodes], end[1])
    parent = int(island.skeleton.parent[nodes[0]])
    above = world[:, parent] if parent >= 0 else affine.identity()
    inside = affine.apply(affine.invert(above), x, y)
    limits = np.stack([island.skeleton.low[nodes], island.skeleton.high[nodes]], axis=-1)
    owners = tuple(b.id for b in chain)
    return LimbGrip(instance_id, limb, owners, inside[0] + 1j * inside[1], values[nodes, :, 0], limits, above)


def reach(grip: LimbGrip, target: Point, joint: int, stays: int = 0) -> Reach:
    """Drag a joint to a point of the stage while another joint stays where it is.

    What lies beyond the dragged joint, seen from the one that stays, goes along. With the end
    staying, the root itself is shifted. Turns are held to the bones' limits. Raises
    InvalidInputError when the joint that stays is to be dragged.
    """
    if joint == stays or not (0 <= joint <= grip.count and 0 <= stays <= grip.count):
        raise InvalidInputError("This joint is the one that stays.", "Drag another, or let another one stay.")
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
    if root:
        values[grip.instance_id, grip.owners[0], "shift_x"] = float(grip.values[0, _SHIFT_X] + root.real)
        values[grip.instance_id, grip.owners[0], "shift_y"] = float(grip.values[0, _SHIFT_Y] + root.imag)
    laid = _laid(grip.joints, held, stretch) + root
    miss = float(max(abs(laid[joint] - wanted), abs(laid[stays] - grip.joints[stays])))
    at_limit = tuple(o for o, a, b in zip(grip.owners, free, turns, strict=True) if abs(a - b) > _HELD)
    return Reach(values, miss, at_limit if miss > 1.0 else ())
