"""What a stage is told of parts, bones and pins: in the order of the frames' parts and nodes."""

from __future__ import annotations

from collections.abc import Collection
from typing import Any

import numpy as np

from gaitwire.core.deform.skin import Skin
from gaitwire.core.evaluate import CompiledScene
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.puppet.limb_chains import chain_of, limb_end
from gaitwire.core.puppet.model import Bone, Limb, Part, Pin, Puppet
from gaitwire.core.puppet.sole import sole_of
from gaitwire.services.session.workspace import Workspace

StageEntry = dict[str, Any]


def part_entries(workspace: Workspace, compiled: CompiledScene, locked: Collection[str] = ()) -> list[StageEntry]:
    """Every part; those of `locked` instances cannot be caught."""
    found = []
    offset = 0
    for compiled_puppet in compiled.compiled_puppets:
        puppet = _puppet(compiled, compiled_puppet)
        parts = {p.id: p for p in puppet.parts}
        ranges = {s.part: s.points for s in compiled_puppet.softs}
        for index, key in enumerate(compiled_puppet.parts.owners):
            part = parts[key[1]]
            entry = _part(part, key, workspace.drawings(puppet, part, index in ranges))
            entry["locked"] = part.locked or key[0] in locked
            if index in ranges:
                own, skin = ranges[index], compiled.skins[part.id]
                entry["soft"] = {
                    "start": offset + own.start,
                    "vertices": own.vertices,
                    "starts": own.starts,
                }
                entry["soft"] |= _mesh(skin)
            found.append(entry)
        offset += compiled_puppet.points
    return found


def _puppet(compiled: CompiledScene, puppet: CompiledPuppet) -> Puppet:
    return puppet.source[1]


def _part(part: Part, key: tuple[str, str], arts: list[str]) -> StageEntry:
    return {
        "key": ":".join(key), "id": part.id, "bone": part.bone_id, "name": part.name, "arts": arts, "soft": None,
        "instance": key[0],
    }  # fmt: skip


def _mesh(skin: Skin) -> StageEntry:
    """The mesh that pictures are laid on; parts that only have paths need none."""
    if not any(skin.body.textured):
        return {}
    mesh = skin.body.mesh
    return {"mesh": {"rest": np.round(mesh.vertices, 3).ravel().tolist(), "triangles": mesh.triangles.ravel().tolist()}}


def node_entries(
    compiled: CompiledScene, locked: Collection[str] = (), unseen: Collection[str] = ()
) -> list[StageEntry | None]:
    """Every node: None for seats, which have no handle of their own."""
    found: list[StageEntry | None] = []
    for compiled_puppet in compiled.compiled_puppets:
        puppet = _puppet(compiled, compiled_puppet)
        bones, pins = {b.id: b for b in puppet.bones}, {p.id: p for p in puppet.pins}
        for instance, owner in compiled_puppet.nodes.owners:
            away = {"instance": instance, "locked": instance in locked, "hidden": instance in unseen}
            if owner in bones:
                found.append({**_bone(bones[owner], away), "swings": owner in compiled_puppet.swinging})
            else:
                found.append(_pin(pins[owner], away) if owner in pins else None)
    return found


def _bone(bone: Bone, away: StageEntry) -> StageEntry:
    return {
        "kind": "bone", "id": bone.id, "instance": away["instance"], "name": bone.name, "side": bone.side,
        "region": bone.region, "length": bone.length, "angle": bone.angle, "tag": bone.tag,
        "hidden": bone.hidden or away["hidden"], "locked": bone.locked or away["locked"], "parent": bone.parent_id,
    }  # fmt: skip


def _pin(pin: Pin, away: StageEntry) -> StageEntry:
    return {
        "kind": pin.kind, "id": pin.id, "instance": away["instance"], "name": pin.name, "part": pin.part_id,
        "length": 0, "angle": -90, "side": "near", "holds": pin.holds_turn, "hidden": pin.hidden or away["hidden"],
        "locked": pin.kind == "anchor" or away["locked"], "parent": pin.bone_id,
    }  # fmt: skip


def limb_entries(puppet: Puppet) -> list[StageEntry]:
    """Limbs with the bones at their joints: the last one is the tip bone, at its joint or (whole) at its own tip."""
    return [
        {
            "id": i.id,
            "name": i.name,
            "whole": i.whole,
            "tip": i.tip_id,
            "joints": [b.id for b in chain] + [i.tip_id],
            "stands": _stands(puppet, i),
        }
        for i in puppet.limbs
        if len(chain := chain_of(puppet, i)) > 1
    ]


def _stands(puppet: Puppet, limb: Limb) -> list[float]:
    """The point on which a limb's tip stands, in its tip bone's own pixels."""
    if limb.whole:
        tip, end = puppet.bone(limb.tip_id), limb_end(puppet, limb)
        return [end[0] - tip.x, end[1] - tip.y] if tip else [0.0, 0.0]
    sole = sole_of(puppet, limb)
    middle = (sole.heel + sole.ball) / 2
    return [middle.real, middle.imag]


def scene_limbs(compiled: CompiledScene) -> list[StageEntry]:
    """Limbs of all puppets, each with its instance."""
    return [
        {**limb, "instance": puppet.nodes.owners[0][0]}
        for puppet in compiled.compiled_puppets
        for limb in limb_entries(_puppet(compiled, puppet))
    ]
