"""Creep: segments that move for long on bones that were not chosen when their end was keyed."""

from __future__ import annotations

from collections.abc import Collection
from typing import NamedTuple

from gaitwire.core.scene import Scene
from gaitwire.core.timing.channel import PROPERTIES, Channel
from gaitwire.core.timing.holding import creeping
from gaitwire.core.tolerances import TIME


class Creep(NamedTuple):
    """One such segment, from key to key."""

    channel: Channel
    start: float
    end: float

    @property
    def node(self) -> tuple[str, str]:
        return self.channel.instance_id, self.channel.owner_id


def creeps_of(scene: Scene, only: Collection[str] | None = None) -> list[Creep]:
    """All segments of a scene, or of some instances, that are longer than it allows and that nobody meant."""
    found = []
    by_channel = scene.keys_by_channel()
    for channel in scene.channels:
        if only is not None and channel.instance_id not in only:
            continue
        keys = by_channel.get(channel.id, [])
        if PROPERTIES[channel.owner_kind][channel.property].stepped or not any(k.aside for k in keys):
            continue
        for end in creeping(keys, scene.creep, scene.loop_length):
            before = [k.time for k in keys if k.time < end.time - TIME]
            found.append(Creep(channel, before[-1] if before else keys[-1].time, end.time))
    return found
