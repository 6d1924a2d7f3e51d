"""Rigging by table: which bone hangs where, its joint and its tip."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from importlib.resources import files
from typing import NamedTuple

from gaitwire.core.puppet.roles import guess_from_name
from gaitwire.services.library.art_in import import_art
from gaitwire.services.rig.bench import Bench
from gaitwire.services.rig.drawings import Drawings
from gaitwire.services.session.workspace import Workspace


class JointRow(NamedTuple):
    """One row of a rig: a bone of the imported art, by name."""

    name: str
    parent: str | None
    pivot: tuple[float, float]
    tip: tuple[float, float] | None = None
    role: str | None = None


def bring_in(workspace: Workspace, art: str, name: str) -> Bench:
    """One of our drawings as a puppet."""
    data = files("gaitwire.demo").joinpath("art", art).read_bytes()
    return Bench(workspace, import_art(workspace, data, art, name).puppet_id)


def rig(bench: Bench, joints: Sequence[JointRow]) -> dict[str, str]:
    """Set pivots, tips, parents and roles; ids of all bones by name."""
    ids = {b.name: b.id for b in bench.puppet.bones}
    for joint in joints:
        if joint.name not in ids:
            parent = ids[joint.parent] if joint.parent else None
            ids[joint.name] = bench.add_bone(*joint.pivot, joint.tip, parent, joint.name)
            bench.update_bones([ids[joint.name]], {"side": guess_from_name(joint.name).side})
        else:
            bone = ids[joint.name]
            bench.move_joint(bone, "pivot", *joint.pivot, alone=True)
            if joint.tip is not None:
                bench.move_joint(bone, "tip", *joint.tip, alone=True)
            bench.hang([bone], ids[joint.parent] if joint.parent else None)
        if joint.role is not None:
            bench.update_bones([ids[joint.name]], {"role": joint.role})
    return ids


def bones_named(bench: Bench) -> dict[str, str]:
    """Ids of bones by name."""
    return {b.name: b.id for b in bench.puppet.bones}


def parts_named(bench: Bench) -> dict[str, str]:
    """Ids of parts by name."""
    return {p.name: p.id for p in bench.puppet.parts}


def take_drawings(bench: Bench, part: str, others: Mapping[str, str]) -> None:
    """Make other parts replacements of one, under new names; their bones go."""
    drawings = Drawings(bench.workspace, bench.puppet_id)
    ids = parts_named(bench)
    homes = {p.name: p.bone_id for p in bench.puppet.parts}
    for other, name in others.items():
        number = drawings.take(ids[part], ids[other], keep=False)
        drawings.rename(ids[part], number, name)
    bench.remove_bones([homes[other] for other in others])
    drawings.show(ids[part], 0)
