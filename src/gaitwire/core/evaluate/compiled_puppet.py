"""Compiled puppets: one puppet of a scene each, its nodes, parts, limbs and keys as arrays."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property, lru_cache
from typing import NamedTuple

import numpy as np

from gaitwire.core.addresses import OwnAddress
from gaitwire.core.conventions import FloatArray, IntArray
from gaitwire.core.deform.skin import Skin
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate.blends import Blend, BlendOwners, blends_of
from gaitwire.core.evaluate.frames import PointRange
from gaitwire.core.evaluate.nodes import nodes_of
from gaitwire.core.evaluate.seat import ridden_tables, seat_table
from gaitwire.core.evaluate.skeleton import Flips, Skeleton, build_skeleton
from gaitwire.core.evaluate.turned import Turning, turning_of
from gaitwire.core.evaluate.value_tables import (
    TABLES,
    KeyedChannels,
    OwnerIndices,
    PartTable,
    ValueTable,
    column_of,
    read_columns,
    table_of,
)
from gaitwire.core.links import Bearing, Hitch, Plant
from gaitwire.core.motion.composed_phrases import Lanes, Told, compose_phrase, measure_of
from gaitwire.core.motion.roll import Roll
from gaitwire.core.motion.turning import Turn
from gaitwire.core.puppet.change import KINDS
from gaitwire.core.puppet.model import Part, Puppet
from gaitwire.core.scene import Instance
from gaitwire.core.timing.channel import (
    CONTROL_PROPERTIES,
    LIMB_PROPERTIES,
    NODE_PROPERTIES,
    PART_PROPERTIES,
    WHOLE_PROPERTIES,
    OwnerKind,
    repeat_of,
)
from gaitwire.core.timing.offset import Offset
from gaitwire.core.timing.sample import KeyTable, compile_keys
from gaitwire.core.walk.span import Gait, GaitSpan, PuppetMotion, gaits_on
from gaitwire.core.walk.walker import walker_of

Skins = Mapping[str, Skin]
"""Skins of soft parts, by part id."""


class Source(NamedTuple):
    """What a puppet is compiled from: equal sources make equal compiled puppets."""

    instance: Instance
    puppet: Puppet
    channels: KeyedChannels
    loop: float | None
    soft: frozenset[str]
    offsets: tuple[Offset, ...]
    pose_times: tuple[float, ...]
    plants: tuple[Plant, ...] = ()
    hitches: tuple[Hitch, ...] = ()
    bearings: tuple[Bearing, ...] = ()
    gaits: tuple[GaitSpan, ...] = ()
    rolls: tuple[Roll, ...] = ()
    phrases: tuple[Told, ...] = ()
    turns: tuple[Turn, ...] = ()
    marked: bool = True
    """Whether its poses are marked, and not only times of keys."""

    @property
    def linked(self) -> bool:
        """Whether anything but parents joins its bones on some frame."""
        mixed = any(c.owner_kind == "limb" and c.property == "mix" for c, _ in self.channels)
        return bool(self.plants or self.hitches or self.bearings or mixed)


class Phrased(NamedTuple):
    """What one use of a phrase moves in one of the tables of nodes, parts, limbs and controls."""

    table: str
    lanes: Lanes
    columns: IntArray  # (L,) of its lanes in that table


@dataclass(frozen=True)
class SoftPart:
    """A soft part among the parts and nodes of its puppet."""

    skin: Skin
    part: int
    own: int  # node of its own bone
    bones: IntArray  # (B,) nodes of the bones that bend it
    pivots: FloatArray  # (2, B) of those at rest, in the puppet's pixels
    pins: IntArray  # (n,) nodes of its pins
    points: PointRange
    numbers: tuple[int, ...]  # of its drawings, in order


@dataclass(frozen=True)
class CompiledPuppet:
    """One instance of a puppet, as arrays."""

    skeleton: Skeleton
    keys: KeyTable
    nodes: ValueTable
    parts: PartTable
    limbs: ValueTable
    controls: ValueTable
    whole: ValueTable
    softs: tuple[SoftPart, ...]
    points: int
    blends: tuple[Blend, ...]  # fixes, pads and gauges in their order
    gaits: tuple[Gait, ...]  # in order of time
    phrases: tuple[Phrased, ...]  # likewise
    pivot: float  # across, in the puppet's pixels: about what it turns round
    turning: Turning | None  # how it turns round, if it does
    exposure: int  # frames for which each picture stays
    signature: str
    """Hash of everything that the puppet's frames depend on."""
    source: Source = field(repr=False)
    """What it was compiled from."""

    held: dict[tuple[str, float], FloatArray] = field(init=False, default_factory=dict, repr=False, compare=False)
    """What lay beneath phrases that hold it still when they began, by table and time, once it was asked for."""

    @cached_property
    def beneath_phrases(self) -> CompiledPuppet:
        """The same with keys, walks and turns alone: what phrases find when they begin."""
        nodes, limbs, controls = (replace(t, offsets=()) for t in (self.nodes, self.limbs, self.controls))
        return replace(
            self, source=self.source._replace(rolls=()), phrases=(), blends=(), nodes=nodes, limbs=limbs,
            parts=replace(self.parts, offsets=()), controls=controls,
        )  # fmt: skip

    def walking(self, spans: tuple[GaitSpan, ...]) -> CompiledPuppet:
        """The same with other walks beneath its keys; nothing else is compiled anew."""
        source = self.source._replace(gaits=spans)
        mark = hashlib.sha1(f"{self.signature}{spans}".encode()).hexdigest()
        return replace(self, source=source, gaits=_gaits(source), signature=mark)

    def riding(self, gait_id: str, name: str, departs: float) -> CompiledPuppet:
        """The same with a setting of one of its walks apart from its card by a number, whatever its keys say."""
        gaits = tuple(g.riding(name, departs) if g.span.id == gait_id else g for g in self.gaits)
        mark = hashlib.sha1(f"{self.signature}{gait_id}{name}{departs!r}".encode()).hexdigest()
        return replace(self, gaits=gaits, signature=mark)

    @cached_property
    def pose_times(self) -> FloatArray:
        """Times (n,) in order that a view without in-betweens shows: marked poses, else keys and walks' poses."""
        if self.source.marked:
            return np.array(self.source.pose_times)
        loop = self.keys.loop
        walked = {m.time for g in self.gaits for m in g.poses()}
        return np.array(sorted({*self.source.pose_times, *(t % loop if loop else t for t in walked)}))

    def senses(self, frames: FloatArray, node: int = 0) -> FloatArray:
        """1 on frames (F,) on which a node faces as its instance says, -1 where it has turned round."""
        return np.ones(len(frames)) if self.turning is None else self.turning.senses(frames, node)

    def flips(self, frames: FloatArray) -> Flips:
        """How nodes are turned about their joints on frames (F,), where they turn round apart from others."""
        return {} if self.turning is None else self.turning.flips(frames)

    def node(self, owner_id: str) -> int | None:
        """The node of an owner, or None if it is not there."""
        key = (self.source.instance.id, owner_id)
        return self.nodes.owners.index(key) if key in self.nodes.owners else None

    def column(self, owner_id: str, prop: str, instance_id: str) -> int | None:
        """Where a node's property lies among the nodes' values, or None if it is not there."""
        return self.nodes.column((instance_id, owner_id), prop)


def _signature(source: Source) -> str:
    instance, puppet, channels, loop, _, offsets, pose_times, *links = source
    digest = hashlib.sha1(repr((instance, loop, offsets, pose_times, links)).encode())
    digest.update(_shape(puppet))
    for channel, keys in channels:
        digest.update(repr((channel.owner_id, channel.property, repeat_of(channel, keys))).encode())
        digest.update(repr([(k.time, k.value, k.ease, k.curve, k.chart, k.excerpt, k.stay) for k in keys]).encode())
    return digest.hexdigest()


@lru_cache(maxsize=64)
def _shape(puppet: Puppet) -> bytes:
    """Hash of all that a puppet's frames depend on; a revision of it is made once and asked for often."""
    shape = (*(getattr(puppet, kind) for kind in KINDS), puppet.base_x, puppet.base_y)
    return hashlib.sha1(repr(shape).encode()).digest()


def _softs(puppet: Puppet, parts: list[Part], skins: Skins, node_index: Mapping[str, int]) -> tuple[SoftPart, ...]:
    found: list[SoftPart] = []
    start = 0
    for index, part in enumerate(parts):
        skin = skins.get(part.id)
        if skin is None:
            continue
        points = PointRange(start, skin.vertices, skin.count, skin.body.starts)
        start += skin.count
        found.append(
            SoftPart(
                skin, index, node_index[part.bone_id], np.array([node_index[b] for b in skin.bones], np.int64),
                np.stack([skin.pivots.real, skin.pivots.imag]),
                np.array([node_index[p.id] for p in skin.pins], np.int64), points,
                tuple(d.number for d in puppet.drawings(part)),
            )
        )  # fmt: skip
    return tuple(found)


def _phrases(source: Source, owners: OwnerIndices) -> tuple[Phrased, ...]:
    if not source.phrases:
        return ()
    measure = measure_of(source.puppet, source.instance.pixels)

    def there(kind: OwnerKind, address: OwnAddress) -> bool:
        return table_of(kind, address[1]) != "whole" and column_of(kind, *address, owners) is not None

    found = []
    for told in source.phrases:
        for kind, lanes in compose_phrase(told, source.puppet, measure, source.channels, source.loop, there).items():
            columns = np.array([column_of(kind, *address, owners) for address in lanes.addresses], np.int64)
            found.append(Phrased(table_of(kind, ""), lanes, columns))
    return tuple(found)


def _offsets(source: Source, owners: OwnerIndices) -> dict[str, tuple[tuple[int, Offset], ...]]:
    """What is laid on top of values, by table, each with its column."""
    found: dict[str, list[tuple[int, Offset]]] = {name: [] for name in TABLES}
    for one in source.offsets:
        column = column_of(one.owner_kind, one.owner_id, one.property, owners)
        if column is not None:
            found[table_of(one.owner_kind, one.property)].append((column, one))
    return {name: tuple(rows) for name, rows in found.items()}


def compile_puppet(source: Source, skins: Skins) -> CompiledPuppet:
    instance, puppet, channels, loop = source[:4]
    nodes = nodes_of(instance, puppet, skins)
    parts = sorted(puppet.parts, key=lambda p: p.rank)
    node_index = {n.owner_id: i for i, n in enumerate(nodes)}
    part_index = {p.id: i for i, p in enumerate(parts)}
    controls = [c for c in puppet.controls if c.kind != "fix"]
    owners = OwnerIndices(
        node_index, part_index, {i.id: n for n, i in enumerate(puppet.limbs)}, {c.id: n for n, c in enumerate(controls)}
    )
    live, filled, repeats = read_columns(channels, owners)
    softs = _softs(puppet, parts, skins, node_index)
    offsets = _offsets(source, owners)

    def table(name: str, ids: Sequence[str], properties: Sequence[str]) -> ValueTable:
        own = tuple((instance.id, owner_id) for owner_id in ids)
        return ValueTable(own, tuple(properties), *filled[name], offsets[name])

    return CompiledPuppet(
        skeleton=build_skeleton(nodes),
        keys=compile_keys(live, loop, repeats),
        nodes=table("node", [n.owner_id for n in nodes], NODE_PROPERTIES),
        parts=_part_table(table("part", [p.id for p in parts], PART_PROPERTIES), source, parts, node_index),
        limbs=table("limb", [i.id for i in puppet.limbs], LIMB_PROPERTIES),
        controls=table("control", [c.id for c in controls], CONTROL_PROPERTIES),
        whole=table("whole", [instance.id], WHOLE_PROPERTIES),
        softs=softs,
        points=sum(s.skin.count for s in softs),
        blends=blends_of(puppet, _owned(owners, parts, softs)) if puppet.controls else (),
        gaits=_gaits(source),
        phrases=_phrases(source, owners),
        pivot=_pivot(puppet) if source.turns else puppet.base_x,
        turning=_turning(source, owners, parts, skins) if source.turns else None,
        exposure=instance.exposure,
        signature=_signature(source),
        source=source,
    )  # fmt: skip


def _part_table(table: ValueTable, source: Source, parts: Sequence[Part], node_index: Mapping[str, int]) -> PartTable:
    instance, puppet = source.instance, source.puppet
    bones = {b.id: b for b in puppet.bones}
    return PartTable(
        table.owners, table.properties, table.rows, table.columns, table.offsets,
        node=np.array([node_index[p.bone_id] for p in parts], np.int64),
        pivot=np.array([(bones[p.bone_id].x, bones[p.bone_id].y) for p in parts], float).reshape(-1, 2).T.copy(),
        opacity=np.array([0.0 if p.hidden or instance.hidden else p.opacity for p in parts]),
        shows=np.array([p.shows for p in parts], float),
        distance=np.array([p.distance * instance.distance for p in parts], float),
        shadow=np.array([p.shadow for p in parts], float),
        drawings=tuple(np.array([d.number for d in puppet.drawings(p)]) for p in parts),
    )  # fmt: skip


def _owned(owners: OwnerIndices, parts: list[Part], softs: tuple[SoftPart, ...]) -> BlendOwners:
    bent = {}
    for n, soft in enumerate(softs):
        own = replace(soft.points, start=0)
        numbers = {d: k for k, d in enumerate(soft.numbers)}
        bent[parts[soft.part].id] = (n, _drawing_in(own, numbers), soft.points.count)
    return BlendOwners(owners.nodes, owners.parts, owners.controls, bent)


def _drawing_in(points: PointRange, order: Mapping[int, int]) -> Callable[[int], slice]:
    """Where the points of a drawing lie among a soft part's own, by its number; none for one that is gone."""
    return lambda number: points.drawing(order[number]) if number in order else slice(0)


def _gaits(source: Source) -> tuple[Gait, ...]:
    if not source.gaits:
        return ()
    keyed, loop = source.channels, source.loop
    moved = PuppetMotion(source.instance.pixels, seat_table(keyed, loop), ridden_tables(keyed, loop), source.turns)
    return gaits_on(source.puppet, source.gaits, moved)


def _turning(source: Source, owners: OwnerIndices, parts: list[Part], skins: Skins) -> Turning:
    joined = [{*skin.bones, part.bone_id} for part in parts if (skin := skins.get(part.id)) is not None]
    nodes, pads = owners.nodes, owners.controls
    return turning_of(source.puppet, source.turns, source.gaits, source.loop, nodes, pads, parts, joined)


def _pivot(puppet: Puppet) -> float:
    """About what a puppet turns round: its ankles as it comes to stand, or the middle between all four feet."""
    try:
        walker = walker_of(puppet)
    except InvalidInputError:
        return puppet.base_x
    legs = (*walker.legs, *(walker.fore.legs if walker.fore else ()))
    return float(sum(leg.thigh.x for leg in legs) / len(legs))


def rest_table(skeleton: Skeleton, frames: int) -> FloatArray:
    """Values (nodes * properties, frames), all at rest."""
    return np.repeat(skeleton.rest.reshape(-1, 1), frames, axis=1)
