"""A scene compiled to arrays: islands of puppets that nothing joins, each evaluated on its own."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import lru_cache
from typing import NamedTuple

import numpy as np

from gaitwire.core.conventions import FloatArray, IntArray
from gaitwire.core.deform.skin import Skin
from gaitwire.core.evaluate.frames import SoftSlot
from gaitwire.core.evaluate.nodes import nodes_of
from gaitwire.core.evaluate.skeleton import Skeleton, build_skeleton
from gaitwire.core.geometry.mesh import Mesh
from gaitwire.core.puppet.model import Part, Puppet
from gaitwire.core.scene import Instance, Scene
from gaitwire.core.timing.channel import NODE_PROPERTIES, PART_PROPERTIES, PROPERTIES, Channel, repeat_of
from gaitwire.core.timing.key import Key
from gaitwire.core.timing.loop import Repeat
from gaitwire.core.timing.offset import Offset
from gaitwire.core.timing.sample import KeyTable, compile_keys

_COLUMN = {name: i for i, name in enumerate(NODE_PROPERTIES)}
_PART_COLUMN = {name: i for i, name in enumerate(PART_PROPERTIES)}

Keyed = list[tuple[Channel, list[Key]]]
"""Channels with their keys in order of time."""

Skins = Mapping[str, Skin]
"""Skins of soft parts, by part id."""


class _Source(NamedTuple):
    """What an island is compiled from: equal sources make equal islands."""

    instance: Instance
    puppet: Puppet
    channels: Keyed
    loop: float | None
    soft: frozenset[str]
    offsets: tuple[Offset, ...]
    pose_times: tuple[float, ...]


@dataclass(frozen=True)
class SoftPart:
    """A soft part among the parts and nodes of its island."""

    skin: Skin
    part: int
    own: int  # node of its own bone
    bones: IntArray  # (B,) nodes of the bones that bend it
    pivots: FloatArray  # (2, B) of those at rest, in the puppet's pixels
    pins: IntArray  # (n,) nodes of its pins
    slot: SoftSlot


@dataclass(frozen=True)
class Island:
    """Instances whose motion depends on each other and on nothing else. Today, one instance each."""

    skeleton: Skeleton
    keys: KeyTable
    node_rows: IntArray  # (channels that drive a node,) row in the key table
    node_slots: IntArray  # the same channels' slot: node * properties + column
    part_rows: IntArray
    part_slots: IntArray  # part * properties + column
    part_node: IntArray  # (P,) node that carries each part
    part_pivot: FloatArray  # (2, P) that node's pivot at rest, in the part's own pixels
    part_opacity: FloatArray  # (P,)
    part_shows: FloatArray  # (P,) number of the drawing that shows at rest
    drawing_numbers: tuple[IntArray, ...]  # of each part: its drawings' numbers, in order
    softs: tuple[SoftPart, ...]
    points: int
    part_keys: tuple[tuple[str, str], ...]
    node_keys: tuple[tuple[str, str], ...]
    node_offsets: tuple[tuple[int, Offset], ...]  # (slot of a node's value, what is laid on it)
    part_offsets: tuple[tuple[int, Offset], ...]
    exposure: int  # frames for which each picture stays
    pose_times: FloatArray  # (n,) in order: what a view without in-betweens shows
    signature: str
    """Hash of everything that the island's frames depend on."""
    source: _Source = field(repr=False)
    """What it was compiled from."""

    def slot(self, owner_id: str, prop: str, instance_id: str) -> int | None:
        """Where a node's property lies in the flat value table, or None if it is not there."""
        try:
            return self.node_keys.index((instance_id, owner_id)) * len(NODE_PROPERTIES) + _COLUMN[prop]
        except (ValueError, KeyError):
            return None


@dataclass(frozen=True)
class CompiledScene:
    """What `evaluate` takes."""

    islands: tuple[Island, ...]
    loop: float | None
    scene: Scene = field(repr=False)
    puppets: Mapping[str, Puppet] = field(repr=False)
    skins: Skins = field(default_factory=dict, repr=False)

    @property
    def meshes(self) -> dict[str, Mesh]:
        """Meshes of soft parts at rest, by part id."""
        return {part_id: skin.body.mesh for part_id, skin in self.skins.items()}


def _signature(source: _Source) -> str:
    instance, puppet, channels, loop, _, offsets, pose_times = source
    digest = hashlib.sha1(repr((instance, loop, offsets, pose_times)).encode())
    digest.update(_shape(puppet))
    for channel, keys in channels:
        digest.update(repr((channel.owner_id, channel.property, repeat_of(channel, keys))).encode())
        digest.update(repr([(k.time, k.value, k.ease, k.curve, k.chart, k.stay) for k in keys]).encode())
    return digest.hexdigest()


@lru_cache(maxsize=64)
def _shape(puppet: Puppet) -> bytes:
    """Hash of all that a puppet's frames depend on; a revision of it is made once and asked for often."""
    shape = (puppet.bones, puppet.parts, puppet.replacements, puppet.pins, puppet.limbs, puppet.base_x, puppet.base_y)
    return hashlib.sha1(repr(shape).encode()).digest()


def _usable(keys: list[Key], loop: float | None) -> list[Key]:
    """Keys beyond the end of a loop sleep until it is made longer."""
    return keys if loop is None else [k for k in keys if 0 <= k.time < loop]


def _softs(parts: list[Part], skins: Skins, node_index: Mapping[str, int]) -> tuple[SoftPart, ...]:
    found: list[SoftPart] = []
    start = 0
    for index, part in enumerate(parts):
        skin = skins.get(part.id)
        if skin is None:
            continue
        slot = SoftSlot(start, skin.vertices, skin.count, skin.body.starts)
        start += skin.count
        found.append(
            SoftPart(
                skin, index, node_index[part.bone_id], np.array([node_index[b] for b in skin.bones], np.int64),
                np.stack([skin.pivots.real, skin.pivots.imag]),
                np.array([node_index[p.id] for p in skin.pins], np.int64), slot,
            )
        )  # fmt: skip
    return tuple(found)


@dataclass(frozen=True)
class _Slots:
    """Rows of the key table with the slots they fill."""

    rows: IntArray
    slots: IntArray


Repeats = dict[int, tuple[Repeat, bool]]


def _slots(channels: Keyed, part_index: Mapping[str, int], node_index: Mapping[str, int]) -> tuple[
    list[list[Key]], _Slots, _Slots, Repeats
]:  # fmt: skip
    live: list[list[Key]] = []
    repeats: Repeats = {}
    node: list[tuple[int, int]] = []
    part: list[tuple[int, int]] = []
    for channel, keys in channels:
        slot = _slot(channel, part_index, node_index)
        if slot is None:
            continue  # Its owner is gone for now; the keys sleep.
        (part if channel.owner_kind == "part" else node).append((len(live), slot))
        if (again := repeat_of(channel, keys)) is not None:
            repeats[len(live)] = again
        if PROPERTIES[channel.owner_kind][channel.property].stepped:
            keys = [k.model_copy(update={"ease": "hold"}) for k in keys]
        live.append(keys)

    def table(pairs: list[tuple[int, int]]) -> _Slots:
        rows, slots = np.array(pairs, np.int64).reshape(-1, 2).T.copy()
        return _Slots(rows, slots)

    return live, table(node), table(part), repeats


def _slot(moved: Channel | Offset, part_index: Mapping[str, int], node_index: Mapping[str, int]) -> int | None:
    """Where what a channel or an offset moves lies in the flat table of parts or of nodes."""
    is_part = moved.owner_kind == "part"
    index, columns = (part_index, _PART_COLUMN) if is_part else (node_index, _COLUMN)
    if moved.owner_id not in index or moved.property not in columns:
        return None
    return index[moved.owner_id] * len(columns) + columns[moved.property]


def _island(source: _Source, skins: Skins) -> Island:
    instance, puppet, channels, loop = source[:4]
    nodes = nodes_of(instance, puppet, skins)
    parts = sorted(puppet.parts, key=lambda p: p.rank)
    node_index = {n.owner_id: i for i, n in enumerate(nodes)}
    part_index = {p.id: i for i, p in enumerate(parts)}
    bones = {b.id: b for b in puppet.bones}
    live, node, part, repeats = _slots(channels, part_index, node_index)
    softs = _softs(parts, skins, node_index)
    offsets = [(o, at) for o in source.offsets if (at := _slot(o, part_index, node_index)) is not None]
    return Island(
        skeleton=build_skeleton(nodes),
        keys=compile_keys(live, loop, repeats),
        node_rows=node.rows,
        node_slots=node.slots,
        part_rows=part.rows,
        part_slots=part.slots,
        part_node=np.array([node_index[p.bone_id] for p in parts], np.int64),
        part_pivot=np.array([(bones[p.bone_id].x, bones[p.bone_id].y) for p in parts], float).reshape(-1, 2).T.copy(),
        part_opacity=np.array([0.0 if p.hidden or instance.hidden else p.opacity for p in parts]),
        part_shows=np.array([p.shows for p in parts], float),
        drawing_numbers=tuple(np.array([d.number for d in puppet.drawings(p)]) for p in parts),
        softs=softs,
        points=sum(s.skin.count for s in softs),
        part_keys=tuple((instance.id, p.id) for p in parts),
        node_keys=tuple((instance.id, n.owner_id) for n in nodes),
        node_offsets=tuple((at, o) for o, at in offsets if o.owner_kind != "part"),
        part_offsets=tuple((at, o) for o, at in offsets if o.owner_kind == "part"),
        exposure=instance.exposure,
        pose_times=np.array(source.pose_times),
        signature=_signature(source),
        source=source,
    )


def compile_scene(
    scene: Scene, puppets: Mapping[str, Puppet], skins: Skins | None = None, previous: CompiledScene | None = None
) -> CompiledScene:
    """Compile; `puppets` by id. An instance whose puppet is missing sleeps: it is left out.

    A soft part without its skin is shown rigid. Islands of `previous` that were compiled from the
    same are taken over as they are.
    """
    by_channel = scene.keys_by_channel()
    loop, skins = scene.loop_length, skins or {}
    by_instance: dict[str, Keyed] = {}
    for channel in scene.channels:
        keys = _usable(by_channel.get(channel.id, []), loop)
        if keys:
            by_instance.setdefault(channel.instance_id, []).append((channel, keys))
    instances = sorted((i for i in scene.instances if i.puppet_id in puppets), key=lambda i: (i.depth, i.id))
    known = {i.node_keys[0][0]: i for i in previous.islands} if previous else {}
    islands = []
    for instance in instances:
        puppet = puppets[instance.puppet_id]
        own = {p.id: skins[p.id] for p in puppet.parts if p.id in skins}
        channels = by_instance.get(instance.id, [])
        offsets = tuple(o for o in scene.offsets if o.instance_id == instance.id)
        source = _Source(
            instance, puppet, channels, loop, frozenset(own), offsets, _pose_times(scene, instance, channels)
        )
        kept = known.get(instance.id)
        islands.append(kept if kept is not None and kept.source == source else _island(source, own))
    return CompiledScene(tuple(islands), loop, scene, puppets, skins)


def _pose_times(scene: Scene, instance: Instance, channels: Keyed) -> tuple[float, ...]:
    """The puppet's poses; where none are marked, every time at which it has a key."""
    marked = [p.time for p in scene.poses if p.instance_id == instance.id]
    return tuple(sorted(set(marked or [k.time for _, keys in channels for k in keys])))


def rest_table(skeleton: Skeleton, frames: int) -> FloatArray:
    """Values (nodes * properties, frames), all at rest."""
    return np.repeat(skeleton.rest.reshape(-1, 1), frames, axis=1)
