"""What an edit of a puppet changes, and the puppet once it has."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple, TypeVar

from gaitwire.core.puppet.model import Bone, Limb, Part, Pin, Puppet, Replacement


class Change(NamedTuple):
    """Rows to store and ids to remove."""

    bones: tuple[Bone, ...] = ()
    parts: tuple[Part, ...] = ()
    replacements: tuple[Replacement, ...] = ()
    pins: tuple[Pin, ...] = ()
    limbs: tuple[Limb, ...] = ()
    removed_bones: tuple[str, ...] = ()
    removed_parts: tuple[str, ...] = ()
    removed_replacements: tuple[str, ...] = ()
    removed_pins: tuple[str, ...] = ()
    removed_limbs: tuple[str, ...] = ()


KINDS = ("bones", "parts", "replacements", "pins", "limbs")
"""What a puppet is made of: fields of `Puppet` and `Change`, and names of tables, owners before what they own."""

_Item = TypeVar("_Item", Bone, Part, Replacement, Pin, Limb)


def applied(puppet: Puppet, change: Change) -> Puppet:
    """The puppet as it will be."""
    return puppet.model_copy(
        update={
            "bones": _merged(puppet.bones, change.bones, change.removed_bones),
            "parts": _merged(puppet.parts, change.parts, change.removed_parts),
            "replacements": _merged(puppet.replacements, change.replacements, change.removed_replacements),
            "pins": _merged(puppet.pins, change.pins, change.removed_pins),
            "limbs": _merged(puppet.limbs, change.limbs, change.removed_limbs),
        }
    )


def _merged(items: Sequence[_Item], put: Sequence[_Item], removed: Sequence[str]) -> tuple[_Item, ...]:
    found = {item.id: item for item in items} | {item.id: item for item in put}
    for gone in removed:
        found.pop(gone, None)
    return tuple(found.values())
