"""What a puppet turns round by: which bones lead and follow, and how it looks from the front."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from typing import NamedTuple

from gaitwire.core.puppet.controls import Control
from gaitwire.core.puppet.model import Bone, Puppet
from gaitwire.core.puppet.tree import descendants

FRONT = {"side": 90.0, "three-quarter": 45.0}
"""Degrees across at which a pad of a puppet that is drawn from there shows its front."""
_NEAR_FRONT = 45.0
"""How far from there an entry may lie that is meant as its front, across and up."""


class Hinge(NamedTuple):
    """A bone that is turned in a stage of its own, and the stage of what it hangs from."""

    bone_id: str
    stage: str
    above: str


def hinges_of(puppet: Puppet, joined: Sequence[Collection[str]]) -> list[Hinge]:
    """The head, the trunk and the legs of a puppet, as far as it has them; what has none turns as its trunk does.

    `joined` are ids of bones that bend a soft part together: none of them is turned without the others.
    """
    bones = {b.id: b for b in puppet.bones}
    legs = _legs(puppet)
    tops = _upwards(bones, _head(puppet))
    above_legs = {b.id for leg in legs for b in _upwards(bones, leg)}
    found = []
    heads = [b for b in reversed(tops) if b.region == "head" and b.parent_id in bones]
    head = next((b for b in heads if _apart(puppet, b.id, joined)), None)
    trunk = next((b for b in reversed(tops) if b.id not in above_legs), None) if legs else None
    if trunk is not None and trunk.region != "head":
        found.append(Hinge(trunk.id, "trunk", "trunk"))
    if head is not None:
        found.append(Hinge(head.id, "head", "trunk"))
    if all(_apart(puppet, leg.id, joined) for leg in legs):
        # The one behind first: the nearer one is seen to close the turn.
        found += [Hinge(b.id, stage, "trunk") for b, stage in zip(legs, ("leg", "last leg"), strict=False)]
    return found


def front_of(puppet: Puppet, control: Control) -> float | None:
    """How far across a pad's point lies when its puppet looks at us, degrees; None if it never does."""
    if control.kind != "pad":
        return None
    if puppet.view not in FRONT:
        return 0.0
    wanted = FRONT[puppet.view]
    near = [e.x for e in puppet.entries_of(control.id) if abs(e.y) <= _NEAR_FRONT / 2]
    return min(
        (x for x in near if abs(abs(x) - wanted) <= _NEAR_FRONT / 2), key=lambda x: abs(abs(x) - wanted), default=None
    )


def front_drawings(puppet: Puppet) -> dict[str, dict[str, int]]:
    """Drawings that show parts from the front or between, by part and by view, as their names tell."""
    found: dict[str, dict[str, int]] = {}
    for drawing in sorted(puppet.replacements, key=lambda d: -d.rank):
        name = drawing.name.casefold()
        view = "three-quarter" if "three-quarter" in name or "3/4" in name else "front" if "front" in name else ""
        if view and not drawing.smear:
            found.setdefault(drawing.part_id, {})[view] = drawing.number
    return found


def _legs(puppet: Puppet) -> list[Bone]:
    """Both thighs, the far one first; none of what goes on all fours, which steps round otherwise."""
    if any(b.role == "fore thigh" for b in puppet.bones):
        return []
    thighs = {b.side: b for b in puppet.bones if b.role == "thigh"}
    return [thighs["far"], thighs["near"]] if {"far", "near"} <= set(thighs) else []


def _head(puppet: Puppet) -> Bone | None:
    return next((b for role in ("head", "neck") for b in puppet.bones if b.role == role), None)


def _upwards(bones: dict[str, Bone], bone: Bone | None) -> list[Bone]:
    """A bone and what it hangs from."""
    found: list[Bone] = []
    while bone is not None:
        found.append(bone)
        bone = bones.get(bone.parent_id or "")
    return found


def _apart(puppet: Puppet, bone_id: str, joined: Sequence[Collection[str]]) -> bool:
    own = {bone_id} | descendants(puppet.bones, bone_id)
    return all(own.issuperset(bent) or own.isdisjoint(bent) for bent in joined)
