"""The timeline as rows: one wire a bone, grouped by puppet and region, with its beads."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

from gaitwire.core.addresses import Node
from gaitwire.core.evaluate.seat import moved_in
from gaitwire.core.motion.loose.owners import swinging_of
from gaitwire.core.motion.phrase import Phrases
from gaitwire.core.puppet.model import Bone, Puppet
from gaitwire.core.puppet.tree import walk
from gaitwire.core.scene import Instance, Scene
from gaitwire.core.timing.channel import Channel, OwnerKind, repeat_of
from gaitwire.core.timing.key import Key
from gaitwire.core.tolerances import TIME
from gaitwire.core.walk.span import gaits_on
from gaitwire.services.scene.creep import creeps_of
from gaitwire.services.views.area_wires import AreaLine, area_lines
from gaitwire.services.views.body_map import areas
from gaitwire.services.views.led_said import led_said
from gaitwire.services.views.link_marks import Bar, CarrierChange, bars_of, changes_of

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
    stays: tuple[tuple[float, float], ...] = ()
    """(from, until): spans over which everything on the wire holds; their ends are no times."""
    small: frozenset[float] = frozenset()
    """Times that are breakdowns."""
    creeps: tuple[tuple[float, float], ...] = ()
    offsets: tuple[tuple[float, float], ...] = ()
    repeats: tuple[tuple[float, float], ...] = ()
    walked: tuple[float, ...] = ()
    """Times of the poses of walks beneath the keys."""
    area: AreaLine | None = None
    """How much area it shows, where it is stretched."""
    bars: tuple[Bar, ...] = ()
    """Plants, on a limb's wire and, thin, on its group's."""
    changes: tuple[CarrierChange, ...] = ()
    led: str = ""
    """What leads it besides its keys, in a few words."""
    is_group: bool = False
    locked: bool = False
    kind: OwnerKind = "bone"

    @property
    def extent(self) -> tuple[float, float] | None:
        """The first and the last time with a key; None without any."""
        known = [*self.times, *(stop for _, stop in self.stays)]
        return (min(known), max(known)) if known else None


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
    creeping: int = 0
    """How many channels creep."""


def wire_id(instance_id: str, owner_id: str) -> str:
    """The id of a wire's element on the page."""
    return re.sub(r"[^\w-]", "_", f"wire-{instance_id}-{owner_id}")


def _span(scene: Scene) -> float:
    """Frames the timeline shows: on a loop, half of it again as ghosts."""
    return scene.frames * 1.5 if scene.loop else scene.frames + 12


def front_to_back(scene: Scene) -> list[Instance]:
    """The scene's puppets, the one in front first."""
    return sorted(scene.instances, key=lambda i: (i.depth, i.id), reverse=True)


@dataclass
class _Facts:
    """What a wire shows of its channels."""

    own: dict[float, bool] = field(default_factory=dict)
    """Times with keys, and whether there is anything but stays on them."""
    held_from: dict[float, float] = field(default_factory=dict)
    """Where what stays until a time began to."""
    again: set[float] = field(default_factory=set)
    creeps: set[tuple[float, float]] = field(default_factory=set)
    offsets: set[tuple[float, float]] = field(default_factory=set)
    repeats: set[tuple[float, float]] = field(default_factory=set)

    def read(self, channel: Channel, keys: Sequence[Key], loop: float | None, span: float) -> None:
        for index, key in enumerate(keys):
            time = round(key.time / TIME) * TIME if key.time % 1 else key.time
            self.own[time] = self.own.get(time, False) or not key.stay
            if key.stay:
                start = keys[index - 1].time - (0.0 if index or loop is None else loop)
                self.held_from[time] = min(start, self.held_from.get(time, start))
        if (found := repeat_of(channel, keys)) is not None:
            start, end = found[0].start, found[0].end
            self.repeats.add((start, end))
            rounds = range(1, min(200, int((span - start) / (end - start)) + 1))
            self.again |= {k.time + n * (end - start) for k in keys if start <= k.time < end for n in rounds}


def build_timeline(
    scene: Scene, puppets: dict[str, Puppet], phrases: Phrases, only: Collection[str] | None = None
) -> Timeline:
    """All rows of a scene; or, without the ruler's ticks, only those of some instances."""
    span = _span(scene)
    facts: dict[tuple[str, str], _Facts] = {}
    keys = scene.keys_by_channel(asleep=True)
    for channel in scene.channels:
        if only is None or channel.instance_id in only:
            own = facts.setdefault((channel.instance_id, channel.owner_id), _Facts())
            own.read(channel, keys.get(channel.id, []), scene.loop_length, span)
    creeps = creeps_of(scene, only)
    for creep in creeps:
        facts.setdefault(creep.node, _Facts()).creeps.add((creep.start, creep.end))
    for offset in scene.offsets:
        facts.setdefault((offset.instance_id, offset.owner_id), _Facts()).offsets.add((offset.start, offset.stop))
    areas = area_lines(scene, puppets, only)
    links = _Links(bars_of(scene, puppets, phrases), changes_of(scene, puppets))
    cast = tuple(
        _Rows(scene, i, puppets.get(i.puppet_id), facts, span, links, areas).cast()
        for i in front_to_back(scene)
        if only is None or i.id in only
    )
    ticks = tuple(_ticks(scene, span)) if only is None else ()
    return Timeline(scene, span, cast, ticks, len(creeps))


def wire_order(scene: Scene, puppets: dict[str, Puppet]) -> dict[Node, int]:
    """Every wire's place from top to bottom."""
    timeline = build_timeline(scene, puppets, {})
    rows = [w for member in timeline.cast for group in member.groups for w in (group.head, *group.wires)]
    return {(w.instance_id, w.owner_id): n for n, w in enumerate(rows)}


class _Links(NamedTuple):
    """Plants and changes of what carries, by the node on whose wire they lie."""

    bars: dict[Node, list[Bar]]
    changes: dict[Node, list[CarrierChange]]


class _Rows:
    """The rows of one puppet in a scene."""

    def __init__(
        self, scene: Scene, instance: Instance, puppet: Puppet | None, facts: dict[tuple[str, str], _Facts],
        span: float, links: _Links, areas: dict[Node, AreaLine],
    ) -> None:  # fmt: skip
        self.scene, self.instance, self.puppet = scene, instance, puppet
        self.facts, self.span, self.links, self.areas = facts, span, links, areas
        gaits = [g for g in scene.gaits if g.instance_id == instance.id]
        self.gaits = gaits_on(puppet, gaits, moved_in(scene, instance)) if puppet and gaits else ()
        self.walked = tuple(sorted(m.time for g in self.gaits for m in g.poses() if m.time < span))
        swings = swinging_of(puppet, (d for d in scene.drivers if d.instance_id == instance.id)) if puppet else ()
        walked = {o for g in self.gaits for o in g.walker.owners}
        self.moved = walked.difference(swings) | {g.span.instance_id for g in self.gaits}
        self.led = led_said((d for d in scene.drivers if d.instance_id == instance.id), puppet)
        self.small = frozenset(p.time for p in scene.poses if p.instance_id == instance.id and p.kind == "breakdown")

    def wire(self, owner: str, name: str, group: str, locked: bool = False, kind: OwnerKind = "bone") -> Wire:
        facts = self.facts.get((self.instance.id, owner), _Facts())
        times = sorted(t for t, has_own in facts.own.items() if has_own)
        held = ((max(0.0, start), t) for t, start in facts.held_from.items() if not facts.own[t])
        live, ghosts, asleep = self._split(times)
        return Wire(
            wire_id(self.instance.id, owner), self.instance.id, owner, name, group, live,
            tuple(sorted({*ghosts, *(t for t in facts.again if t < self.span)})), asleep, tuple(sorted(held)),
            self.small, locked=locked, kind=kind, creeps=tuple(sorted(facts.creeps)),
            offsets=tuple(sorted(facts.offsets)), repeats=tuple(sorted(facts.repeats)),
            walked=self.walked if owner in self.moved else (), area=self.areas.get((self.instance.id, owner)),
            bars=tuple(self.links.bars.get((self.instance.id, owner), ())),
            changes=tuple(self.links.changes.get((self.instance.id, owner), ())), led=self.led.get(owner, ""),
        )  # fmt: skip

    def _split(self, times: Sequence[float]) -> tuple[tuple[float, ...], tuple[float, ...], tuple[float, ...]]:
        """Times that are played, what a loop repeats of them, and those that sleep beyond its end."""
        if not self.scene.loop:
            return tuple(times), (), ()
        end = self.scene.frames
        live = tuple(t for t in times if t < end)
        return live, tuple(t + end for t in live if t + end < self.span), tuple(t for t in times if t >= end)

    def cast(self) -> Cast:
        """All of them."""
        return Cast(self.instance, self.puppet, tuple(self.groups()))

    def groups(self) -> Iterator[WireGroup]:
        """The seat, then a group for each region."""
        fixed, puppet = self.instance.locked, self.puppet
        yield WireGroup(self.wire(self.instance.id, "Seat", SEAT, fixed))
        walks = [g.span for g in self.gaits if (self.instance.id, g.span.id) in self.facts]
        if walks:
            wires = tuple(self.wire(g.id, f"settings: {g.card.name}", "Walk", fixed, "walk") for g in walks)
            yield WireGroup(self._head("Walk", wires), wires)
        uses = [u.id for u in self.scene.phrase_uses if u.instance_id == self.instance.id]
        if uses:
            wires = tuple(self._phrase(use, fixed) for use in uses)
            yield WireGroup(self._head("Phrases", wires), wires)
        if puppet is None:
            return
        dials = sorted((c for c in puppet.controls if c.kind != "fix"), key=lambda c: (c.rank, c.id))
        if dials:
            wires = tuple(self.wire(c.id, c.name, "Pads", fixed, _DIALS[c.kind]) for c in dials)
            yield WireGroup(self._head("Pads", wires), wires)
        bones = [row.bone for row in walk(puppet.bones)]
        by_id = {b.id: b for b in bones}
        order = {b.id: i for i, b in enumerate(bones)}
        keyed = {owner for i, owner in (*self.facts, *self.links.bars) if i == self.instance.id} | self.led.keys()
        for area in areas(bones):
            rows = [row for i in sorted(area.ids, key=order.__getitem__) for row in _rows(puppet, by_id[i], keyed)]
            wires = tuple(self.wire(row.owner_id, row.name, area.label, fixed or row.locked, row.kind) for row in rows)
            yield WireGroup(self._head(area.label, wires), wires)

    def _phrase(self, use: str, fixed: bool) -> Wire:
        bar = self.links.bars[self.instance.id, use][0]
        return self.wire(use, bar.title.removeprefix("phrase: "), "Phrases", fixed, "phrase")

    def _head(self, label: str, wires: Sequence[Wire]) -> Wire:
        """A group's own wire: every time at which something in it has a key."""
        union = sorted({t for w in wires for t in (*w.times, *w.asleep)} | {t for w in wires for _, t in w.stays})
        live, ghosts, asleep = self._split(union)
        creeps = tuple(sorted({c for w in wires for c in w.creeps}))
        owner = f"@{label}"
        return Wire(
            wire_id(self.instance.id, owner), self.instance.id, owner, label, label, live, ghosts, asleep,
            small=self.small, creeps=creeps, bars=tuple(b for w in wires for b in w.bars), is_group=True,
            walked=next((w.walked for w in wires if w.walked), ()),
            led="; ".join(f"{w.name} {w.led}" for w in wires if w.led),
        )  # fmt: skip


_DIALS: dict[str, OwnerKind] = {"pad": "pad", "gauge": "gauge"}


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
    limbs = (i for i in puppet.limbs if i.tip_id == bone.id and i.id in keyed)
    return rows + [_Row(i.id, f"{i.name}, tip", False, "limb") for i in limbs]


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
