"""How much area stretched bones show over time, as a line along their wires."""

from __future__ import annotations

from collections.abc import Collection, Mapping
from typing import NamedTuple

import numpy as np

from gaitwire.core.puppet.model import Puppet
from gaitwire.core.scene import Scene
from gaitwire.core.timing.channel import Channel, repeat_of
from gaitwire.core.timing.key import Key
from gaitwire.core.timing.sample import compile_keys, sample

_NAMES = ("stretch", "widen", "keep")
_TALL = 24.0
"""Pixels of a wire: 100 % lies in its middle, nothing at its lower edge and 200 % at its upper one."""


class AreaLine(NamedTuple):
    """Points of the line in frames across and pixels down, and the least and the most area, in percent."""

    points: str
    low: float
    high: float


def area_lines(
    scene: Scene, puppets: Mapping[str, Puppet], only: Collection[str] | None = None
) -> dict[tuple[str, str], AreaLine]:
    """Lines of all bones and whole puppets whose stretch, width or keeping of area is keyed, by node."""
    keys, loop = scene.keys_by_channel(), scene.loop_length
    found: dict[tuple[str, str], dict[str, tuple[Channel, list[Key]]]] = {}
    for channel in scene.channels:
        row = [k for k in keys.get(channel.id, []) if loop is None or 0 <= k.time < loop]
        stretches = channel.property in _NAMES and channel.owner_kind in ("bone", "seat")
        if row and stretches and (only is None or channel.instance_id in only):
            found.setdefault((channel.instance_id, channel.owner_id), {})[channel.property] = (channel, row)
    keeping = _keeping(scene, puppets)
    return {node: _line(scene, own, keeping.get(node, 0.0)) for node, own in found.items()}


def _keeping(scene: Scene, puppets: Mapping[str, Puppet]) -> dict[tuple[str, str], float]:
    """How much of its area each bone keeps at rest."""
    found: dict[tuple[str, str], float] = {}
    for instance in scene.instances:
        puppet = puppets.get(instance.puppet_id)
        found |= {(instance.id, b.id): 1.0 for b in (puppet.bones if puppet else ()) if b.keep_volume}
    return found


def _line(scene: Scene, own: Mapping[str, tuple[Channel, list[Key]]], keep: float) -> AreaLine:
    frames = np.arange(float(scene.frames))
    repeats = {n: again for n, (c, row) in enumerate(own.values()) if (again := repeat_of(c, row)) is not None}
    table = sample(compile_keys([row for _, row in own.values()], scene.loop_length, repeats), frames)
    values = {"stretch": np.ones_like(frames), "widen": np.ones_like(frames), "keep": np.full_like(frames, keep)}
    values |= dict(zip(own, table, strict=True))
    area = values["stretch"] * values["widen"] * values["stretch"] ** -values["keep"]
    down = np.clip(_TALL / 2 * (2 - area), 1.0, _TALL - 1.0)
    points = " ".join(f"{x:g},{y:.2f}" for x, y in zip(frames.tolist(), down.tolist(), strict=True))
    return AreaLine(points, round(float(area.min()) * 100), round(float(area.max()) * 100))
