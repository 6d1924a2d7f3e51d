"""Small puppets and scenes, made without a store."""

from __future__ import annotations

import itertools
import math
import os
from collections.abc import Mapping, Sequence

import numpy as np

from gaitwire.core.puppet.model import Bone, Part, Puppet
from gaitwire.core.scene import Instance, Scene
from gaitwire.core.timing.channel import LIMB_PROPERTIES, Channel
from gaitwire.core.timing.key import Key

Tracks = Mapping[tuple[str, str], Sequence[tuple[float, float]]]
"""(bone id, property) to (time, value) pairs."""


def bone(id_: str, parent: str | None = None, x: float = 0.0, y: float = 0.0, **values: object) -> Bone:
    return Bone.model_validate(
        {"id": id_, "puppet_id": "p", "name": id_, "parent_id": parent, "x": x, "y": y, **values}
    )


def part(id_: str, bone_id: str, rank: int = 0, **values: object) -> Part:
    return Part.model_validate(
        {"id": id_, "puppet_id": "p", "bone_id": bone_id, "name": id_, "rank": rank, "art_hash": "", **values}
    )


def puppet(bones: Sequence[Bone], parts: Sequence[Part] = ()) -> Puppet:
    return Puppet(id="p", name="p", width=100, height=100, bones=tuple(bones), parts=tuple(parts))


def key(time: float, value: float, ease: str = "linear", channel: str = "c", **more: object) -> Key:
    return Key.model_validate(
        {"id": f"{channel}@{time}", "channel_id": channel, "time": time, "value": value, "ease": ease, **more}
    )


def ids():
    """New ids, one after the other."""
    counter = itertools.count()
    return lambda: f"new{next(counter)}"


def applied(keys, change):
    """Keys after a change, in order of time."""
    left = {k.id: k for k in keys if k.id not in change.removed}
    left.update({k.id: k for k in change.put})
    return sorted(left.values(), key=lambda k: k.time)


def scene(tracks: Tracks, frames: int = 24, loop: bool = True, ease: str = "linear", **place: float) -> Scene:
    channels, keys = [], []
    for (owner, prop), points in tracks.items():
        kind = "seat" if owner == "i" else "limb" if prop in LIMB_PROPERTIES else "bone"
        channel = Channel(
            id=f"{owner}.{prop}", scene_id="s", instance_id="i", owner_kind=kind, owner_id=owner, property=prop
        )
        channels.append(channel)
        keys += [key(t, v, ease, channel.id) for t, v in points]
    instance = Instance.model_validate({"id": "i", "scene_id": "s", "puppet_id": "p", "name": "i", **place})
    return Scene(
        id="s", name="s", frames=frames, loop=loop, instances=(instance,), channels=tuple(channels), keys=tuple(keys)
    )


def lead(scene: Scene) -> Instance:
    """The puppet in front of all others."""
    return scene.instances[-1]


def tip(frames, name, length=10.0, angle=0.0):
    """Where a bone's tip is on the stage, (frames, 2)."""
    a, b, c, d, e, f = frames.nodes[:, [k[1] for k in frames.node_keys].index(name)].T
    x, y = length * math.cos(math.radians(angle)), length * math.sin(math.radians(angle))
    return np.stack([a * x + c * y + e, b * x + d * y + f], -1)


def hog() -> int:
    """Work that takes more memory than a worker may."""
    return len(bytearray(4_000_000_000))


def die(*_: object) -> None:
    """A worker's end without a word."""
    os._exit(9)


def spin() -> None:
    """Work that never ends."""
    while True:
        pass
