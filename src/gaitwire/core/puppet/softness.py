"""Making a part soft, and which bones are likely to bend it."""

from __future__ import annotations

from collections.abc import Collection, Sequence

import shapely
from shapely.geometry.base import BaseGeometry

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.puppet.change import PuppetChange
from gaitwire.core.puppet.edit import find_bone, find_part, refuse_locked
from gaitwire.core.puppet.joints import tip_of
from gaitwire.core.puppet.model import Bone, Part, Puppet
from gaitwire.core.puppet.tree import descendants, walk

_INSIDE = 0.4
"""A bone bends a part if at least this share of it runs within the art."""


def likely_bends(puppet: Puppet, part: Part, region: BaseGeometry) -> tuple[str, ...]:
    """Ids of the bones, of one line with the part's own, that run within its art."""
    home = find_bone(puppet, part.bone_id)
    line = descendants(puppet.bones, home.id) | set(_above(puppet, home))
    taken = {p.bone_id for p in puppet.parts if p.id != part.id}
    found = []
    for bone, _ in walk(puppet.bones):
        if bone.id in line and bone.length > 0 and bone.id not in taken:
            course = shapely.LineString([(bone.x, bone.y), tip_of(bone)])
            if course.intersection(region).length >= _INSIDE * bone.length:
                found.append(bone.id)
    return tuple(found)


def _above(puppet: Puppet, bone: Bone) -> list[str]:
    known = {b.id: b for b in puppet.bones}
    found = []
    while bone.parent_id in known:
        bone = known[bone.parent_id]
        found.append(bone.id)
    return found


def make_soft(puppet: Puppet, part_id: str, bends_with: Collection[str]) -> PuppetChange:
    """Make a part soft, bending with the bones."""
    part = find_part(puppet, part_id)
    refuse_locked([part])
    return PuppetChange(
        parts=(part.model_copy(update={"soft": True, "bends_with": _others(puppet, part, bends_with)}),)
    )


def make_rigid(puppet: Puppet, part_ids: Sequence[str]) -> PuppetChange:
    """Make parts rigid; raises InvalidInputError for one with pins, which would be lost."""
    parts = [find_part(puppet, i) for i in part_ids]
    refuse_locked(parts)
    for part in parts:
        if puppet.pins_of(part.id):
            raise InvalidInputError(f"“{part.name}” has pins.", "Remove them first, or keep it soft.")
    return PuppetChange(parts=tuple(p.model_copy(update={"soft": False}) for p in parts))


def bend_with(puppet: Puppet, part_id: str, bone_ids: Collection[str]) -> PuppetChange:
    """Set the bones that bend a soft part besides its own."""
    part = find_part(puppet, part_id)
    refuse_locked([part])
    return PuppetChange(parts=(part.model_copy(update={"bends_with": _others(puppet, part, bone_ids)}),))


def _others(puppet: Puppet, part: Part, bone_ids: Collection[str]) -> tuple[str, ...]:
    return tuple(i for i in dict.fromkeys(bone_ids) if find_bone(puppet, i).id != part.bone_id)
