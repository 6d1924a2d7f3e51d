"""The range test: every joint of a puppet through its limits, one after the other and all together, as frames."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate import Frames, compile_scene, evaluate
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.evaluate.values import sample_values
from gaitwire.core.puppet.gaps import FREE, range_of
from gaitwire.core.puppet.model import Bone, Puppet
from gaitwire.core.puppet.tree import walk
from gaitwire.core.scene import Instance, Scene
from gaitwire.core.timing.channel import NODE_PROPERTIES, Channel
from gaitwire.core.timing.key import Key
from gaitwire.services.rig.joint_gaps import OPEN, Mending
from gaitwire.services.session.workspace import Workspace

EACH, TOGETHER = 16, 32
"""Frames that a joint takes there and back, and all of them together."""
RATE = 24.0
_TRIED = 70.0
"""Degrees to either side through which a joint without limits is turned: further it would only hide others."""
_STEP = 5.0


class Turned(NamedTuple):
    """A joint on its frames: from the first, for as many; and on which of all frames it is open."""

    bone_id: str
    name: str
    first: int
    frames: int
    open: list[int]


class RangeTest(NamedTuple):
    """All that is played."""

    frames: Frames
    joints: list[Turned]
    together: int
    """The frame from which on all turn together."""


def range_test(workspace: Workspace, puppet_id: str) -> RangeTest:
    """A puppet's range test."""
    puppet = workspace.puppet(puppet_id)
    bones = [row.bone for row in walk(puppet.bones) if _turns(puppet, row.bone)]
    together = EACH * len(bones)
    count = together + TOGETHER
    scene = _scene(puppet, bones, together, count)
    compiled = compile_scene(scene, {puppet.id: puppet}, workspace.skins.of([puppet]))
    frames = evaluate(compiled, np.arange(float(count)))
    mending = Mending(workspace, puppet_id)
    turns = _turned(compiled.compiled_puppets[0], np.arange(float(count)))
    joints = [Turned(b.id, b.name, EACH * n, EACH, _opens(mending, b, turns[b.id])) for n, b in enumerate(bones)]
    return RangeTest(frames, joints, together)


def _turned(puppet: CompiledPuppet, frames: FloatArray) -> dict[str, FloatArray]:
    """By how many degrees (F,) each bone is turned."""
    table = sample_values(puppet, frames)[:, NODE_PROPERTIES.index("turn")]
    return {owner: row for (_, owner), row in zip(puppet.nodes.owners, table, strict=True)}


def _turns(puppet: Puppet, bone: Bone) -> bool:
    """Whether a bone is a joint to be tried: it hangs from another, and carries something."""
    return bone.parent_id is not None and any(p.bone_id == bone.id for p in puppet.parts)


def _limits(bone: Bone) -> tuple[float, float]:
    low, high = range_of(bone)
    return (-_TRIED if low <= -FREE else low), (_TRIED if high >= FREE else high)


def _scene(puppet: Puppet, bones: list[Bone], together: int, count: int) -> Scene:
    channels, keys = [], []
    for n, bone in enumerate(bones):
        low, high = _limits(bone)
        channels.append(
            Channel(
                id=bone.id, scene_id="", instance_id=puppet.id, owner_kind="bone", owner_id=bone.id, property="turn"
            )
        )
        for first, long in ((EACH * n, EACH), (together, TOGETHER)):
            quarter = long / 4
            for k, value in enumerate((0.0, high, 0.0, low, 0.0)):
                keys.append(
                    Key(id=f"{bone.id}{first}.{k}", channel_id=bone.id, time=first + k * quarter, value=value,
                        ease="sine-in-out")
                )  # fmt: skip
    place = {"id": puppet.id, "scene_id": "", "puppet_id": puppet.id, "name": puppet.name}
    instance = Instance.model_validate({**place, "x": puppet.base_x, "y": puppet.base_y})
    return Scene(
        id="", name=puppet.name, frames=count, loop=False, instances=(instance,), channels=tuple(channels),
        keys=tuple(_apart(keys)),
    )  # fmt: skip


def _apart(keys: list[Key]) -> list[Key]:
    """Keys without those that another of the same channel lies on: where one turn ends and all begin."""
    found = {(k.channel_id, k.time): k for k in keys}
    return list(found.values())


def _opens(mending: Mending, bone: Bone, turns: FloatArray) -> list[int]:
    """Frames on which a bone's joint is open, by its turns (F,) in degrees."""
    joint = mending.joint(bone.id)
    if joint is None or joint.reach <= 0:
        return []
    low, high = _limits(bone)
    angles = np.arange(low, high + _STEP / 2, _STEP)
    areas = np.interp(turns, angles, joint.gaps(angles))
    return [int(n) for n in np.flatnonzero(areas > OPEN)]
