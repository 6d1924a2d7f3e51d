"""Who does on the other side of a puppet what an owner does on its own."""

from __future__ import annotations

from collections.abc import Callable

from gaitwire.core.puppet.counterpart import counterpart, mark_of
from gaitwire.core.puppet.mirroring import turned_over
from gaitwire.core.puppet.model import Bone, Part, Pin, Puppet

Twin = Callable[[str, str], str | None]
"""From a kind and an owner's id to the owner on the other side: itself for what has no side, None for none."""


def twins_of(puppet: Puppet) -> Twin:
    """The twins in a puppet: by names turned over and roles; art also by the bones that it hangs from."""
    every: tuple[Bone | Part | Pin, ...] = (*puppet.bones, *puppet.parts, *puppet.pins)
    owners = {o.id: o for o in every}

    def twin(kind: str, owner_id: str) -> str | None:
        owner = owners.get(owner_id)
        if owner is None:
            return None
        if isinstance(owner, Bone) or turned_over(owner.name) != owner.name:
            found = counterpart(mark_of(puppet, owner, ""), puppet, "", mirrored=True)
            return found.id if found else None
        if isinstance(owner, Part):
            return _beside(owner, twin("bone", owner.bone_id), puppet)
        if isinstance(owner, Pin):
            return _on(owner, twin("part", owner.part_id), puppet)
        return None

    return twin


def _beside(part: Part, bone_id: str | None, puppet: Puppet) -> str | None:
    """The part that lies on a bone as this one does on its own, where both carry as many."""
    here, there = ([p.id for p in _parts_on(puppet, home)] for home in (part.bone_id, bone_id))
    return there[here.index(part.id)] if len(here) == len(there) else None


def _parts_on(puppet: Puppet, bone_id: str | None) -> list[Part]:
    return sorted((p for p in puppet.parts if p.bone_id == bone_id), key=lambda p: p.rank)


def _on(pin: Pin, part_id: str | None, puppet: Puppet) -> str | None:
    own = next((p for p in puppet.pins if p.part_id == part_id and p.name == pin.name), None)
    return own.id if own else None
