"""A pose against its opposite: how the body stands half a loop away, with near and far trading places."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate import Frames, evaluate
from gaitwire.core.geometry import affine
from gaitwire.core.puppet.counterpart import counterpart, mark_of
from gaitwire.core.puppet.model import Bone
from gaitwire.core.timing.channel import NODE_PROPERTIES
from gaitwire.core.timing.clip import value_there
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.solved_pose import freed, turned

SAME_TURN, SAME_PLACE = 0.05, 0.1
"""Degrees and scene pixels below which two bones count as standing alike."""


class Difference(NamedTuple):
    """How a bone stands here against its counterpart there: in degrees, and in scene pixels at its tip."""

    bone_id: str
    name: str
    against: str
    turn: float
    place: float


class Opposite(NamedTuple):
    """The mirrored pose as one frame of the whole scene, the frame it is from, and what differs, the most first."""

    frames: Frames
    other: float
    differences: tuple[Difference, ...]


def opposite(floor: Floor, instance_id: str, frame: float, first: float = 0.0, last: float | None = None) -> Opposite:
    """The mirrored pose of a puppet half a round away; a round goes from `first` to the frame before `last`."""
    scene = floor.scene
    length = (scene.frames if last is None else last) - first
    if length < 2:
        raise InvalidInputError("This is too short to have an opposite.", "Make the loop or the range longer.")
    other = first + (frame - first + length / 2) % length
    puppet = floor.puppet_of(instance_id)
    values = floor.stands_at(instance_id, other)
    wanted: dict[tuple[str, str, str], float] = {}
    pairs: list[tuple[Bone, Bone]] = []
    for bone in puppet.bones:
        found = counterpart(mark_of(puppet, bone, instance_id), puppet, instance_id, mirrored=True)
        target = puppet.bone(found.id) if found else None
        if target is None:
            continue
        pairs.append((target, bone))
        for prop in NODE_PROPERTIES:
            value = values[instance_id, bone.id, prop]
            wanted[instance_id, target.id, prop] = value_there(prop, value, bone.angle, target.angle, "sides")
    compiled = floor.workspace.compiled(floor.scene_id)
    # What holds the limbs on this frame does not hold them on that one.
    free = freed(compiled, instance_id)
    now = evaluate(compiled, np.array([frame]))
    there = evaluate(free, np.array([frame]), wanted | turned(free, instance_id))
    rows = [_difference(now, there, instance_id, target, source) for target, source in pairs]
    different = [row for row in rows if row.turn > SAME_TURN or row.place > SAME_PLACE]
    return Opposite(there, other, tuple(sorted(different, key=lambda r: (-r.turn, -r.place))))


def _difference(now: Frames, there: Frames, instance_id: str, bone: Bone, against: Bone) -> Difference:
    index = now.node_keys.index((instance_id, bone.id))
    here, away = now.nodes[0, index], there.nodes[0, index]
    turn = float(np.degrees(np.arctan2(away[1], away[0]) - np.arctan2(here[1], here[0])))
    apart = np.subtract(_tip(here, bone), _tip(away, bone))
    return Difference(bone.id, bone.name, against.name, abs((turn + 180) % 360 - 180), float(np.hypot(*apart)))


def _tip(matrix: FloatArray, bone: Bone) -> tuple[float, float]:
    angle = np.radians(bone.angle)
    x, y = affine.apply(matrix, bone.length * np.cos(angle), bone.length * np.sin(angle))
    return float(x), float(y)
