"""Owners of channels: found by their id, and called by name."""

from __future__ import annotations

from collections.abc import Mapping

from gaitwire.core.addresses import Node
from gaitwire.core.puppet.controls import Control
from gaitwire.core.puppet.counterpart import Owned
from gaitwire.core.puppet.model import Limb, Pin, Puppet
from gaitwire.core.scene import Scene


def owned(puppet: Puppet, owner_id: str) -> Owned | None:
    """The bone, part, pin, limb or control of that id, if it is in the puppet."""
    others: tuple[Pin | Limb | Control, ...] = (*puppet.pins, *puppet.limbs, *puppet.controls)
    return puppet.bone(owner_id) or puppet.part(owner_id) or next((o for o in others if o.id == owner_id), None)


def owner_name(scene: Scene, puppets: Mapping[str, Puppet], node: Node) -> str:
    """What a node is called."""
    instance = next((i for i in scene.instances if i.id == node[0]), None)
    if instance is None:
        return "?"
    if node[0] == node[1]:
        return instance.name if instance.is_camera else f"{instance.name}, whole"
    puppet = puppets.get(instance.puppet_id)
    owner = owned(puppet, node[1]) if puppet else None
    walk = next((g for g in scene.gaits if g.id == node[1]), None)
    if owner is None and any(u.id == node[1] for u in scene.phrase_uses):
        return "phrase"
    return owner.name if owner else f"walk: {walk.card.name}" if walk else "?"
