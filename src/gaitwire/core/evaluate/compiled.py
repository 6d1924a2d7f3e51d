"""A scene compiled to arrays: islands of puppets that nothing joins, each evaluated on its own."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from gaitwire.core.conventions import UP, FloatArray, IntArray
from gaitwire.core.evaluate.skeleton import REST_VALUES, Node, Skeleton, build_skeleton
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.puppet.tree import walk
from gaitwire.core.scene import Instance, Scene
from gaitwire.core.timing.channel import NODE_PROPERTIES, Channel
from gaitwire.core.timing.key import Key
from gaitwire.core.timing.sample import KeyTable, compile_keys

_COLUMN = {name: i for i, name in enumerate(NODE_PROPERTIES)}

Keyed = list[tuple[Channel, list[Key]]]
"""Channels with their keys in order of time."""


@dataclass(frozen=True)
class Island:
    """Instances whose motion depends on each other and on nothing else. Today, one instance each."""

    skeleton: Skeleton
    keys: KeyTable
    node_rows: IntArray  # (channels that drive a node,) row in the key table
    node_slots: IntArray  # the same channels' slot: node * properties + column
    part_rows: IntArray
    part_slots: IntArray
    part_node: IntArray  # (P,) node that carries each part
    part_pivot: FloatArray  # (2, P) that node's pivot at rest, in the part's own pixels
    part_opacity: FloatArray  # (P,)
    part_keys: tuple[tuple[str, str], ...]
    node_keys: tuple[tuple[str, str], ...]
    signature: str
    """Hash of everything that the island's frames depend on."""
    source: tuple[Instance, Puppet, Keyed, float | None] = field(repr=False)
    """What it was compiled from."""

    def slot(self, owner_id: str, prop: str, instance_id: str) -> int | None:
        """Where an owner's property lies in the flat value table, or None if it is not there."""
        try:
            return self.node_keys.index((instance_id, owner_id)) * len(NODE_PROPERTIES) + _COLUMN[prop]
        except (ValueError, KeyError):
            return None


@dataclass(frozen=True)
class CompiledScene:
    """What `evaluate` takes."""

    islands: tuple[Island, ...]
    order: IntArray  # (P,) back to front, over the parts of all islands in turn
    loop: float | None
    scene: Scene = field(repr=False)
    puppets: Mapping[str, Puppet] = field(repr=False)


def _nodes(instance: Instance, puppet: Puppet) -> list[Node]:
    """The seat, then the bones, parents first; pivots in the parent's space."""
    nodes = [Node("seat", instance.id, -1, instance.x, instance.y, UP, scale=instance.scale, turned=instance.turned)]
    place: dict[str, int] = {}
    pivot: dict[str, tuple[float, float]] = {}
    for bone, _ in walk(puppet.bones):
        above = bone.parent_id if bone.parent_id in place else None
        px, py = pivot[above] if above else (puppet.base_x, puppet.base_y)
        place[bone.id], pivot[bone.id] = len(nodes), (bone.x, bone.y)
        nodes.append(
            Node("bone", bone.id, place[above] if above else 0, bone.x - px, bone.y - py, bone.angle, bone.keep_volume)
        )
    return nodes


def _signature(instance: Instance, puppet: Puppet, channels: Keyed, loop: float | None) -> str:
    digest = hashlib.sha1(repr((instance, puppet.bones, puppet.parts, puppet.base_x, puppet.base_y, loop)).encode())
    for channel, keys in channels:
        digest.update(repr((channel.owner_id, channel.property)).encode())
        digest.update(repr([(k.time, k.value, k.ease, k.curve) for k in keys]).encode())
    return digest.hexdigest()


def _usable(keys: list[Key], loop: float | None) -> list[Key]:
    """Keys beyond the end of a loop sleep until it is made longer."""
    return keys if loop is None else [k for k in keys if 0 <= k.time < loop]


def _island(instance: Instance, puppet: Puppet, channels: Keyed, loop: float | None) -> Island:
    nodes = _nodes(instance, puppet)
    parts = sorted(puppet.parts, key=lambda p: p.rank)
    node_index = {n.owner_id: i for i, n in enumerate(nodes)}
    part_index = {p.id: i for i, p in enumerate(parts)}
    bones = {b.id: b for b in puppet.bones}
    live: list[list[Key]] = []
    node_rows, node_slots, part_rows, part_slots = [], [], [], []
    for channel, keys in channels:
        if channel.owner_kind == "part" and channel.owner_id in part_index:
            part_rows.append(len(live))
            part_slots.append(part_index[channel.owner_id])
        elif channel.owner_kind != "part" and channel.owner_id in node_index and channel.property in _COLUMN:
            node_rows.append(len(live))
            node_slots.append(node_index[channel.owner_id] * len(NODE_PROPERTIES) + _COLUMN[channel.property])
        else:
            continue  # Its owner is gone for now; the keys sleep.
        live.append(keys)
    return Island(
        skeleton=build_skeleton(nodes),
        keys=compile_keys(live, loop),
        node_rows=np.array(node_rows, np.int64),
        node_slots=np.array(node_slots, np.int64),
        part_rows=np.array(part_rows, np.int64),
        part_slots=np.array(part_slots, np.int64),
        part_node=np.array([node_index[p.bone_id] for p in parts], np.int64),
        part_pivot=np.array([(bones[p.bone_id].x, bones[p.bone_id].y) for p in parts], float).reshape(-1, 2).T.copy(),
        part_opacity=np.array([0.0 if p.hidden or instance.hidden else p.opacity for p in parts]),
        part_keys=tuple((instance.id, p.id) for p in parts),
        node_keys=tuple((instance.id, n.owner_id) for n in nodes),
        signature=_signature(instance, puppet, channels, loop),
        source=(instance, puppet, channels, loop),
    )


def compile_scene(scene: Scene, puppets: Mapping[str, Puppet], previous: CompiledScene | None = None) -> CompiledScene:
    """Compile; `puppets` by id. An instance whose puppet is missing sleeps: it is left out.

    Islands of `previous` that were compiled from the same are taken over as they are.
    """
    by_channel = scene.keys_by_channel()
    loop = scene.loop_length
    by_instance: dict[str, Keyed] = {}
    for channel in scene.channels:
        keys = _usable(by_channel.get(channel.id, []), loop)
        if keys:
            by_instance.setdefault(channel.instance_id, []).append((channel, keys))
    instances = sorted((i for i in scene.instances if i.puppet_id in puppets), key=lambda i: (i.depth, i.id))
    known = {i.source[0].id: i for i in previous.islands} if previous else {}
    islands = []
    for instance in instances:
        source = (instance, puppets[instance.puppet_id], by_instance.get(instance.id, []), loop)
        kept = known.get(instance.id)
        islands.append(kept if kept is not None and kept.source == source else _island(*source))
    count = sum(len(i.part_keys) for i in islands)
    return CompiledScene(tuple(islands), np.arange(count), loop, scene, puppets)


def rest_table(nodes: int, frames: int) -> FloatArray:
    """Values (nodes * properties, frames), all at rest."""
    return np.repeat(np.tile(REST_VALUES, nodes)[:, None], frames, axis=1)
