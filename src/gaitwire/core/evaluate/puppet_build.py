"""What of a compiled puppet neither its keys nor its links change: worked out once, and shared."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import Any

import numpy as np

from gaitwire.core.conventions import FloatArray, IntArray
from gaitwire.core.deform.skin import Skin
from gaitwire.core.evaluate.blends import Blend, BlendOwners, blends_of
from gaitwire.core.evaluate.frames import PointRange
from gaitwire.core.evaluate.nodes import nodes_of
from gaitwire.core.evaluate.skeleton import Skeleton, build_skeleton
from gaitwire.core.evaluate.value_tables import OwnerIndices, PartTable, ValueTable
from gaitwire.core.puppet.model import Part, Puppet
from gaitwire.core.scene import Instance
from gaitwire.core.timing.channel import (
    CONTROL_PROPERTIES,
    LEADING_PROPERTIES,
    LIMB_PROPERTIES,
    NODE_PROPERTIES,
    PART_PROPERTIES,
    WHOLE_PROPERTIES,
)

Skins = Mapping[str, Skin]
"""Skins of soft parts, by part id."""


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
class PuppetBuild:
    """An instance of a puppet as arrays, without keys."""

    skeleton: Skeleton
    owners: OwnerIndices
    parts: tuple[Part, ...]  # back to front
    tables: Mapping[str, ValueTable]
    """Tables of values by name, as yet filled by nothing."""
    softs: tuple[SoftPart, ...]
    blends: tuple[Blend, ...]  # fixes, pads and gauges in their order
    known: dict[Hashable, Any] = field(default_factory=dict, repr=False, compare=False)
    """What was worked out of it, by what it is."""


def build_puppet(instance: Instance, puppet: Puppet, skins: Skins) -> PuppetBuild:
    """An instance of a puppet; a soft part without its skin is rigid."""
    nodes = nodes_of(instance, puppet, skins)
    parts = sorted(puppet.parts, key=lambda p: p.rank)
    node_index = {n.owner_id: i for i, n in enumerate(nodes)}
    controls = [c.id for c in puppet.controls if c.kind != "fix"]
    limbs = [limb.id for limb in puppet.limbs]
    led = [*(n.owner_id for n in nodes), *limbs, *controls]
    owners = OwnerIndices(
        node_index, {p.id: i for i, p in enumerate(parts)}, {i: n for n, i in enumerate(limbs)},
        {c: n for n, c in enumerate(controls)}, {owner: n for n, owner in enumerate(led)},
    )  # fmt: skip
    softs = _softs(puppet, parts, skins, node_index)
    none, nothing = np.zeros(0, np.int64), ()

    def empty(ids: Sequence[str], properties: Sequence[str]) -> ValueTable:
        return ValueTable(tuple((instance.id, i) for i in ids), tuple(properties), none, none, nothing)

    tables = {
        "node": empty([n.owner_id for n in nodes], NODE_PROPERTIES),
        "part": _part_table(empty([p.id for p in parts], PART_PROPERTIES), instance, puppet, parts, node_index),
        "limb": empty(limbs, LIMB_PROPERTIES), "control": empty(controls, CONTROL_PROPERTIES),
        "whole": empty([instance.id], WHOLE_PROPERTIES), "led": empty(led, LEADING_PROPERTIES),
    }  # fmt: skip
    blends = blends_of(puppet, _owned(owners, parts, softs)) if puppet.controls else ()
    return PuppetBuild(build_skeleton(nodes), owners, tuple(parts), tables, softs, blends)


def _part_table(
    table: ValueTable, instance: Instance, puppet: Puppet, parts: Sequence[Part], node_index: Mapping[str, int]
) -> PartTable:
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
