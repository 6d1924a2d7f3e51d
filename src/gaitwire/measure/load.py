"""Scenes of a stated size: puppets of many bones and parts, every bone keyed."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from gaitwire.core.ids import new_id
from gaitwire.core.puppet.art import Art, Shape, Solid, Stroke
from gaitwire.core.puppet.model import Bone, Part, Puppet
from gaitwire.core.scene import Instance, Scene
from gaitwire.core.timing.channel import Channel
from gaitwire.core.timing.key import Key
from gaitwire.services.library.art_in import put_art
from gaitwire.services.session.workspace import Workspace
from gaitwire.store.documents import register

_EASES = ("quad-in-out", "sine-in-out", "linear", "back-out", "cubic-in-out")
_COLORS = ("#b8503a", "#d9a441", "#50796a", "#62506a", "#c98a5e", "#8a9c63")


@dataclass(frozen=True)
class Load:
    """How large a scene is."""

    frames: int = 240
    puppets: int = 3
    bones: int = 40
    parts: int = 60
    rate: int = 24
    key_every: int = 8


def _art(rng: np.random.Generator, n: int) -> Art:
    """A rounded, outlined shape of some twelve curves, as drawn parts have them."""
    cx, cy = 300 + 90 * math.cos(n), 320 + 200 * math.sin(n * 1.7)
    turns = np.linspace(0, 2 * math.pi, 13)
    radii = rng.uniform(18, 34, 12)
    points = [
        (cx + r * math.cos(t), cy + r * math.sin(t)) for r, t in zip([*radii, radii[0]], turns.tolist(), strict=True)
    ]
    d = f"M{points[0][0]:.2f} {points[0][1]:.2f}"
    for (ax, ay), (bx, by) in pairwise(points):
        d += f"C{ax + 4:.2f} {ay - 3:.2f} {bx - 4:.2f} {by + 3:.2f} {bx:.2f} {by:.2f}"
    shape = Shape(
        d=d + "Z",
        fill=Solid(color=_COLORS[n % len(_COLORS)]),
        stroke=Stroke(paint=Solid(color="#3a332c"), width=4.0, join="round"),
    )
    return Art(nodes=(shape,), box=(cx - 40, cy - 40, cx + 40, cy + 40))


def _puppet(workspace: Workspace, load: Load, name: str, rng: np.random.Generator) -> Puppet:
    """A tree of bones, three to each, with the parts spread over them."""
    puppet_id = new_id()
    ids = [new_id() for _ in range(load.bones)]
    bones = tuple(
        Bone(
            id=ids[i], puppet_id=puppet_id, name=f"bone {i + 1}", parent_id=ids[(i - 1) // 3] if i else None, rank=i,
            x=300 + 60 * math.cos(i), y=320 + 140 * math.sin(i * 1.7), angle=float(rng.uniform(-180, 180)), length=50.0,
        )
        for i in range(load.bones)
    )  # fmt: skip
    parts = tuple(
        Part(
            id=new_id(), puppet_id=puppet_id, bone_id=ids[i % load.bones], name=f"part {i + 1}", rank=i,
            art_hash=put_art(workspace, _art(rng, i)),
        )
        for i in range(load.parts)
    )  # fmt: skip
    return Puppet(
        id=puppet_id, name=name, width=600, height=640, base_x=300, base_y=640, bones=bones, parts=parts
    )  # fmt: skip


def _keys(scene_id: str, instance: Instance, puppet: Puppet, load: Load, rng: np.random.Generator) -> Iterator[
    tuple[Channel, list[Key]]
]:  # fmt: skip
    """Turn and shift of every bone, keyed every few frames."""
    for n, bone in enumerate(puppet.bones):
        for prop, span in (("turn", 12.0), ("shift_x", 3.0)):
            channel = Channel(
                id=new_id(), scene_id=scene_id, instance_id=instance.id, owner_kind="bone", owner_id=bone.id,
                property=prop,
            )  # fmt: skip
            ease = _EASES[n % len(_EASES)]
            yield (
                channel,
                [
                    Key(
                        id=new_id(),
                        channel_id=channel.id,
                        time=float(t),
                        value=float(rng.uniform(-span, span)),
                        ease=ease,
                    )
                    for t in range(0, load.frames, load.key_every)
                ],
            )


def make_scene_of(workspace: Workspace, load: Load) -> str:
    """Store a scene of that size, with its puppets; its id. The same load gives the same motion."""
    rng = np.random.default_rng(11)
    puppets = [_puppet(workspace, load, f"Load {n + 1}", rng) for n in range(load.puppets)]
    scene_id = new_id()
    scene = Scene(id=scene_id, name="Load", width=1280, height=720, frames=load.frames, rate_num=load.rate)
    with workspace.edit("make a load", [scene_id, *(p.id for p in puppets)]) as edit:
        register(edit, "scene", scene_id)
        edit.put("scenes", [scene])
        for n, puppet in enumerate(puppets):
            register(edit, "puppet", puppet.id)
            edit.put("puppets", [puppet])
            edit.put("bones", puppet.bones)
            edit.put("parts", puppet.parts)
            instance = Instance(
                id=new_id(), scene_id=scene_id, puppet_id=puppet.id, name=puppet.name, depth=n,
                x=1280 * (n + 1) / (load.puppets + 1), y=690.0,
            )  # fmt: skip
            edit.put("instances", [instance])
            keyed = list(_keys(scene_id, instance, puppet, load, rng))
            edit.put("channels", [channel for channel, _ in keyed])
            edit.put("keys", [key for _, keys in keyed for key in keys])
    return scene_id
