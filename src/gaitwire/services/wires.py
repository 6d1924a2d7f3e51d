"""The timeline as rows: one wire a bone, grouped by puppet and region, with its beads."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable, Iterator
from dataclasses import dataclass, field
from typing import NamedTuple

from gaitwire.core.puppet.model import Bone, Puppet
from gaitwire.core.puppet.tree import walk
from gaitwire.core.scene import Instance, Scene
from gaitwire.core.timing.channel import OwnerKind
from gaitwire.core.tolerances import TIME
from gaitwire.services.body_map import areas

SEAT = "seat"


@dataclass(frozen=True)
class Wire:
    """One row. A group's wire shows every time at which something in it has a key."""

    id: str
    instance_id: str
    owner_id: str
    name: str
    group: str
    times: tuple[float, ...]
    ghosts: tuple[float, ...] = ()
    asleep: tuple[float, ...] = ()
    """Times beyond the end of the loop: kept, but not played."""
    is_group: bool = False
    locked: bool = False
    kind: OwnerKind = "bone"


@dataclass(frozen=True)
class WireGroup:
    """A foldable group of wires: a puppet's seat, or one region of one side."""

    head: Wire
    wires: tuple[Wire, ...] = ()


@dataclass(frozen=True)
class Cast:
    """One puppet in the timeline."""

    instance: Instance
    puppet: Puppet | None
    groups: tuple[WireGroup, ...] = ()


@dataclass(frozen=True)
class Timeline:
    """Everything above the stage."""

    scene: Scene
    span: float
    cast: tuple[Cast, ...]
    ticks: tuple[tuple[int, str, str], ...] = field(default=())
    """(frame, number, seconds), each text empty where none is written."""


def wire_id(instance_id: str, owner_id: str) -> str:
    """The id of a wire's element on the page."""
    return re.sub(r"[^\w-]", "_", f"wire-{instance_id}-{owner_id}")


def _span(scene: Scene) -> float:
    """Frames the timeline shows: on a loop, half of it again as ghosts."""
    return scene.frames * 1.5 if scene.loop else scene.frames + 12


def _merged(times: Iterable[float]) -> tuple[float, ...]:
    out: list[float] = []
    for time in sorted(times):
        if not out or time - out[-1] > TIME:
            out.append(time)
    return tuple(out)


def front_to_back(scene: Scene) -> list[Instance]:
    """The scene's puppets, the one in front first."""
    return sorted(scene.instances, key=lambda i: (i.depth, i.id), reverse=True)


def build_timeline(scene: Scene, puppets: dict[str, Puppet], only: Collection[str] | None = None) -> Timeline:
    """All rows of a scene, or only those of some instances."""
    times: dict[tuple[str, str], list[float]] = {}
    keys = scene.keys_by_channel()
    for channel in scene.channels:
        if only is not None and channel.instance_id not in only:
            continue
        times.setdefault((channel.instance_id, channel.owner_id), []).extend(k.time for k in keys.get(channel.id, []))
    span = _span(scene)
    cast = tuple(
        Cast(i, puppets.get(i.puppet_id), tuple(_groups(scene, i, puppets, times, span)))
        for i in front_to_back(scene)
        if only is None or i.id in only
    )
    return Timeline(scene, span, cast, tuple(_ticks(scene, span)))


def _wire(scene: Scene, instance: Instance, owner: str, name: str, group: str, raw: Iterable[float], span: float,
          is_group: bool = False, locked: bool = False, kind: OwnerKind = "bone") -> Wire:  # fmt: skip
    merged = _merged(raw)
    live = merged if not scene.loop else tuple(t for t in merged if t < scene.frames)
    asleep = tuple(t for t in merged if t not in live)
    ghosts = tuple(t + scene.frames for t in live if t + scene.frames < span) if scene.loop else ()
    return Wire(
        wire_id(instance.id, owner), instance.id, owner, name, group, live, ghosts, asleep, is_group, locked, kind
    )


def _groups(
    scene: Scene, instance: Instance, puppets: dict[str, Puppet],
    times: dict[tuple[str, str], list[float]], span: float,
) -> Iterator[WireGroup]:  # fmt: skip
    fixed = instance.locked
    seat = _wire(
        scene, instance, instance.id, "Seat", SEAT, times.get((instance.id, instance.id), []), span, locked=fixed
    )
    yield WireGroup(seat)
    puppet = puppets.get(instance.puppet_id)
    if puppet is None:
        return
    bones = [row.bone for row in walk(puppet.bones)]
    by_id = {b.id: b for b in bones}
    order = {b.id: i for i, b in enumerate(bones)}
    keyed = {owner for i, owner in times if i == instance.id}
    for area in areas(bones):
        rows = [row for i in sorted(area.ids, key=order.__getitem__) for row in _rows(puppet, by_id[i], keyed)]
        wires = tuple(
            _wire(
                scene, instance, row.owner_id, row.name, area.label, times.get((instance.id, row.owner_id), []), span,
                locked=fixed or row.locked, kind=row.kind,
            )
            for row in rows
        )  # fmt: skip
        union = [t for row in rows for t in times.get((instance.id, row.owner_id), [])]
        head = _wire(scene, instance, f"@{area.label}", area.label, area.label, union, span, is_group=True)
        yield WireGroup(head, wires)


class _Row(NamedTuple):
    owner_id: str
    name: str
    locked: bool
    kind: OwnerKind


def _rows(puppet: Puppet, bone: Bone, keyed: Collection[str]) -> list[_Row]:
    """A bone's row, then the lead pins of its soft parts and those of its parts that have keys of their own."""
    rows = [_Row(bone.id, bone.name, bone.locked, "bone")]
    for part in puppet.parts:
        if part.bone_id == bone.id:
            if part.id in keyed:
                rows.append(_Row(part.id, f"{part.name} shows", part.locked, "part"))
            pins = puppet.pins_of(part.id) if part.soft else ()
            rows += [_Row(p.id, p.name, False, "pin") for p in pins if p.kind == "lead"]
    return rows


_EVERY_FRAME = 1000
"""Frames. Beyond, only every second frame has a tick; beyond four times as many, every twelfth."""


def _ticks(scene: Scene, span: float) -> Iterator[tuple[int, str, str]]:
    """Frames with their numbers, thinned out in long scenes; seconds at the frames nearest to them."""
    seconds = {round(n * scene.rate): f"{n} s" for n in range(1, int(span / scene.rate) + 1)}
    step = 1 if span <= _EVERY_FRAME else 2 if span <= 4 * _EVERY_FRAME else 12
    for frame in range(int(span) + 1):
        if frame % step and frame not in seconds:
            continue
        shown = frame % scene.frames if scene.loop and frame > scene.frames else frame
        yield frame, str(shown + scene.first_number), seconds.get(frame, "")
