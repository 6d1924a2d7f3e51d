"""All that hangs from what is chosen: bones below, parts and their lead pins, limbs; of a whole puppet its pads too."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from gaitwire.core.addresses import Node
from gaitwire.core.puppet.limb_chains import chain_of
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.puppet.tree import descendants
from gaitwire.core.scene import Scene


def with_hangers(scene: Scene, cast: Mapping[str, Puppet], nodes: Sequence[Node]) -> list[Node]:
    """The nodes, and after each all that hangs from it, no one twice."""
    puppets = {i.id: cast.get(i.puppet_id) for i in scene.instances}
    found: list[Node] = []
    for instance_id, owner_id in nodes:
        puppet = puppets.get(instance_id)
        below = [] if puppet is None else _hung(puppet, "" if owner_id == instance_id else owner_id)
        found += [(instance_id, owner_id), *((instance_id, o) for o in below)]
    return list(dict.fromkeys(found))


def _hung(puppet: Puppet, owner_id: str) -> list[str]:
    """Ids of all that hangs from a bone or a part; '' for the puppet as a whole."""
    every = [b.id for b in puppet.bones]
    bones = every if not owner_id else [i for i in every if i == owner_id or i in descendants(puppet.bones, owner_id)]
    parts = [p.id for p in puppet.parts if p.bone_id in bones or p.id == owner_id]
    pins = [p.id for p in puppet.pins if p.part_id in parts and p.kind == "lead"]
    limbs = [limb.id for limb in puppet.limbs if any(b.id in bones for b in chain_of(puppet, limb))]
    pads = [] if owner_id else [c.id for c in puppet.controls]
    return [*bones, *parts, *pins, *limbs, *pads]
