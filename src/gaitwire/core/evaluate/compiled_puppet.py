"""Compiled puppets: one puppet of a scene each, its nodes, parts, limbs and keys as arrays."""

from __future__ import annotations

import hashlib
import math
from dataclasses import dataclass, field, replace
from functools import cached_property, lru_cache
from typing import NamedTuple

import numpy as np

from gaitwire.core.addresses import OwnAddress
from gaitwire.core.conventions import FloatArray, IntArray
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate.blends import Blend
from gaitwire.core.evaluate.puppet_build import PuppetBuild, Skins, SoftPart, build_puppet
from gaitwire.core.evaluate.seat import ridden_tables, seat_table
from gaitwire.core.evaluate.skeleton import Flips, Skeleton
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
from gaitwire.core.motion.drivers.driver import Driver
from gaitwire.core.motion.loose.owners import swinging_of
from gaitwire.core.motion.loose.settings import Weather
from gaitwire.core.motion.roll import Roll
from gaitwire.core.motion.turning import Turn
from gaitwire.core.puppet.change import KINDS
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.scene import Instance
from gaitwire.core.timing.channel import (
    OwnerKind,
    repeat_of,
)
from gaitwire.core.timing.offset import Offset
from gaitwire.core.timing.sample import KeyTable, compile_keys
from gaitwire.core.walk.span import Gait, GaitSpan, PuppetMotion, gaits_on
from gaitwire.core.walk.walker import walker_of


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
    drivers: tuple[Driver, ...] = ()
    rate: float = 0.0
    """Frames a second, where something that is led goes by them."""
    weather: Weather = Weather()
    """What pulls and blows, where something is loose."""

    def built_like(self, other: Source) -> bool:
        """Whether another differs by no more than keys, links and what lies on the keys."""
        same = self.puppet is other.puppet or self.puppet == other.puppet
        return same and self.instance == other.instance and self.soft == other.soft


class Phrased(NamedTuple):
    """What one use of a phrase moves in one of the tables of nodes, parts, limbs and controls."""

    table: str
    lanes: Lanes
    columns: IntArray  # (L,) of its lanes in that table


@dataclass(frozen=True)
class CompiledPuppet:
    """One instance of a puppet, as arrays."""

    build: PuppetBuild
    keys: KeyTable
    nodes: ValueTable
    parts: PartTable
    limbs: ValueTable
    controls: ValueTable
    whole: ValueTable
    led: ValueTable
    blends: tuple[Blend, ...]  # fixes, pads and gauges in their order
    gaits: tuple[Gait, ...]  # in order of time
    phrases: tuple[Phrased, ...]  # likewise
    pivot: float  # across, in the puppet's pixels: about what it turns round
    turning: Turning | None  # how it turns round, if it does
    source: Source = field(repr=False)
    """What it was compiled from."""
    ridden: str = ""
    """What is not as the source says, in words that no other such state has."""

    held: dict[tuple[str, float], FloatArray] = field(init=False, default_factory=dict, repr=False, compare=False)
    """What lay beneath phrases that hold it still when they began, by table and time, once it was asked for."""

    @property
    def skeleton(self) -> Skeleton:
        return self.build.skeleton

    @property
    def softs(self) -> tuple[SoftPart, ...]:
        return self.build.softs

    @cached_property
    def points(self) -> int:
        """How many points its soft parts have."""
        return sum(s.skin.count for s in self.softs)

    @property
    def exposure(self) -> int:
        """Frames for which each picture stays."""
        return self.source.instance.exposure

    @cached_property
    def swinging(self) -> frozenset[str]:
        """Ids of the bones that swing by themselves."""
        return swinging_of(self.source.puppet, self.source.drivers)

    @cached_property
    def tall(self) -> float:
        """The height of the figure in its own pixels, by its joints and tips over its floor."""
        puppet = self.source.puppet
        tops = [y for b in puppet.bones for y in (b.y, b.y + b.length * math.sin(math.radians(b.angle)))]
        return max(puppet.base_y - min(tops, default=0.0), 1.0)

    @cached_property
    def signature(self) -> str:
        """Hash of everything that the puppet's frames depend on; worked out when it is asked for."""
        return _signature(self.source, self.ridden)

    @cached_property
    def beneath_phrases(self) -> CompiledPuppet:
        """The same with keys, walks and turns alone: what phrases find when they begin."""
        nodes, limbs, controls = (replace(t, offsets=()) for t in (self.nodes, self.limbs, self.controls))
        return replace(
            self, source=self.source._replace(rolls=(), drivers=()), phrases=(), blends=(), nodes=nodes, limbs=limbs,
            parts=replace(self.parts, offsets=()), controls=controls,
        )  # fmt: skip

    def walking(self, spans: tuple[GaitSpan, ...]) -> CompiledPuppet:
        """The same with other walks beneath its keys; nothing else is compiled anew."""
        source = self.source._replace(gaits=spans)
        return replace(self, source=source, gaits=_gaits(source))

    def planted(self, plant: Plant) -> CompiledPuppet:
        """The same with one of its plants elsewhere."""
        plants = tuple(plant if p.id == plant.id else p for p in self.source.plants)
        return replace(self, source=self.source._replace(plants=plants))

    def riding(self, gait_id: str, name: str, departs: float) -> CompiledPuppet:
        """The same with a setting of one of its walks apart from its card by a number, whatever its keys say."""
        gaits = tuple(g.riding(name, departs) if g.span.id == gait_id else g for g in self.gaits)
        return replace(self, gaits=gaits, ridden=f"{self.ridden} {gait_id} {name} {departs!r}")

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


def _signature(source: Source, ridden: str) -> str:
    instance, puppet, channels, loop, _, offsets, pose_times, *links = source
    digest = hashlib.sha1(repr((instance, loop, offsets, pose_times, links, ridden)).encode())
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


def _phrases(source: Source, owners: OwnerIndices) -> tuple[Phrased, ...]:
    if not source.phrases:
        return ()
    measure = measure_of(source.puppet, source.instance.pixels)

    def there(kind: OwnerKind, address: OwnAddress) -> bool:
        return table_of(kind, address[1]) not in ("whole", "led") and column_of(kind, *address, owners) is not None

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


def compile_puppet(source: Source, skins: Skins, previous: CompiledPuppet | None = None) -> CompiledPuppet:
    """Compile; what `previous` was built of is taken over where the instance and its puppet are the same."""
    puppet, loop = source.puppet, source.loop
    if previous is not None and previous.source.built_like(source):
        build = previous.build
    else:
        build = build_puppet(source.instance, puppet, skins)
    live, filled, repeats = read_columns(source.channels, build.owners)
    offsets = _offsets(source, build.owners)
    tables = {
        name: replace(table, rows=filled[name][0], columns=filled[name][1], offsets=offsets[name])
        for name, table in build.tables.items()
    }
    parts = tables["part"]
    if not isinstance(parts, PartTable):
        raise TypeError("parts have a table of their own kind")
    return CompiledPuppet(
        build=build,
        keys=compile_keys(live, loop, repeats),
        nodes=tables["node"],
        parts=parts,
        limbs=tables["limb"],
        controls=tables["control"],
        whole=tables["whole"],
        led=tables["led"],
        blends=build.blends,
        gaits=_gaits(source),
        phrases=_phrases(source, build.owners),
        pivot=_pivot(puppet) if source.turns else puppet.base_x,
        turning=_turning(source, build, skins) if source.turns else None,
        source=source,
    )


def _gaits(source: Source) -> tuple[Gait, ...]:
    if not source.gaits:
        return ()
    keyed, loop = source.channels, source.loop
    moved = PuppetMotion(source.instance.pixels, seat_table(keyed, loop), ridden_tables(keyed, loop), source.turns)
    return gaits_on(source.puppet, source.gaits, moved)


def _turning(source: Source, build: PuppetBuild, skins: Skins) -> Turning:
    joined = [{*skin.bones, part.bone_id} for part in build.parts if (skin := skins.get(part.id)) is not None]
    nodes, pads = build.owners.nodes, build.owners.controls
    return turning_of(source.puppet, source.turns, source.gaits, source.loop, nodes, pads, build.parts, joined)


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
