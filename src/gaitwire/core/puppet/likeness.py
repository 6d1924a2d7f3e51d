"""What on one puppet is what on another: parts by their names, or by the roles that their bones and names give them."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Mapping
from typing import NamedTuple

from shapely.geometry.base import BaseGeometry

from gaitwire.core.puppet.model import Bone, Part, Puppet
from gaitwire.core.puppet.roles import Side, guess_from_name


class Figure(NamedTuple):
    """A puppet, and the region that each of its parts covers at rest, by part id."""

    puppet: Puppet
    regions: Mapping[str, BaseGeometry]


Function = tuple[str, Side]
"""(role, side)."""


def like_parts(source: Puppet, target: Puppet) -> dict[str, str]:
    """Parts of the target by those of the source that they are like: by name first, then by role and side in order."""
    found: dict[str, str] = {}
    named = {_plain(p.name): p.id for p in target.parts}
    for part in source.parts:
        twin = named.pop(_plain(part.name), None)
        if twin is not None:
            found[part.id] = twin
    taken = set(found.values())
    free: dict[Function, list[Part]] = defaultdict(list)
    for part in sorted(target.parts, key=lambda p: p.rank):
        function = _function(target, part)
        if part.id not in taken and function is not None:
            free[function].append(part)
    for part in sorted(source.parts, key=lambda p: p.rank):
        function = _function(source, part)
        if part.id not in found and function is not None and free[function]:
            found[part.id] = free[function].pop(0).id
    return found


def _plain(name: str) -> str:
    return " ".join(re.findall(r"[a-z0-9]+", name.lower()))


def _function(puppet: Puppet, part: Part) -> Function | None:
    """What a part is for: its bone's role, else what its own name says."""
    bone = puppet.bone(part.bone_id)
    if bone is not None and bone.role:
        return bone.role, bone.side
    guess = guess_from_name(part.name)
    return (guess.role, guess.side) if guess.role else None


def like_bone(bone: Bone, target: Puppet, own: str | None, taken: set[str]) -> Bone | None:
    """The target's bone that is like a bone: by name, by role and side where only one is, or `own`, its art's bone."""
    free = [b for b in target.bones if b.id not in taken]
    named = next((b for b in free if _plain(b.name) == _plain(bone.name)), None)
    in_role = [b for b in free if bone.role and (b.role, b.side) == (bone.role, bone.side)]
    return named or (in_role[0] if len(in_role) == 1 else None) or next((b for b in free if b.id == own), None)
