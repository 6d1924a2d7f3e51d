"""What an edit of a puppet changes, and the puppet once it has."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple, TypeVar

from gaitwire.core.puppet.controls import Control, Entry
from gaitwire.core.puppet.model import Bone, Limb, Part, Pin, Puppet, Replacement


class PuppetChange(NamedTuple):
    """Rows to store and ids to remove."""

    bones: tuple[Bone, ...] = ()
    parts: tuple[Part, ...] = ()
    replacements: tuple[Replacement, ...] = ()
    pins: tuple[Pin, ...] = ()
    limbs: tuple[Limb, ...] = ()
    controls: tuple[Control, ...] = ()
    entries: tuple[Entry, ...] = ()
    removed_bones: tuple[str, ...] = ()
    removed_parts: tuple[str, ...] = ()
    removed_replacements: tuple[str, ...] = ()
    removed_pins: tuple[str, ...] = ()
    removed_limbs: tuple[str, ...] = ()
    removed_controls: tuple[str, ...] = ()
    removed_entries: tuple[str, ...] = ()


KINDS = ("bones", "parts", "replacements", "pins", "limbs", "controls", "entries")
"""What a puppet is made of: fields of `Puppet` and `PuppetChange`, and names of tables, owners before what they own."""

_Item = TypeVar("_Item", Bone, Part, Replacement, Pin, Limb, Control, Entry)


def applied(puppet: Puppet, change: PuppetChange) -> Puppet:
    """The puppet as it will be."""
    return puppet.model_copy(
        update={
            kind: _merged(getattr(puppet, kind), getattr(change, kind), getattr(change, f"removed_{kind}"))
            for kind in KINDS
        }
    )


def _merged(items: Sequence[_Item], put: Sequence[_Item], removed: Sequence[str]) -> tuple[_Item, ...]:
    found = {item.id: item for item in items} | {item.id: item for item in put}
    for gone in removed:
        found.pop(gone, None)
    return tuple(found.values())
