"""The nodes of one puppet in a scene: its seat, its bones parents first, then the pins of its soft parts."""

from __future__ import annotations

import math
from collections.abc import Mapping

from gaitwire.core.conventions import UP
from gaitwire.core.deform.skin import Skin
from gaitwire.core.evaluate.skeleton import SkeletonNode
from gaitwire.core.puppet.limb_chains import limb_bones
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.puppet.tree import walk
from gaitwire.core.scene import Instance


def nodes_of(instance: Instance, puppet: Puppet, skins: Mapping[str, Skin]) -> list[SkeletonNode]:
    """Nodes in order; pivots are in the parent's space."""
    nodes = [
        SkeletonNode("seat", instance.id, -1, instance.x, instance.y, UP, scale=instance.scale, turned=instance.turned)
    ]
    place: dict[str, int] = {}
    pivot: dict[str, tuple[float, float]] = {}
    in_limbs = limb_bones(puppet)
    for bone, _ in walk(puppet.bones):
        above = bone.parent_id if bone.parent_id in place else None
        px, py = pivot[above] if above else (puppet.base_x, puppet.base_y)
        place[bone.id], pivot[bone.id] = len(nodes), (bone.x, bone.y)
        nodes.append(
            SkeletonNode(
                "bone", bone.id, place[above] if above else 0, bone.x - px, bone.y - py, bone.angle, bone.keep_volume,
                limb=bone.id in in_limbs, low=-math.inf if bone.low is None else bone.low,
                high=math.inf if bone.high is None else bone.high,
            )
        )  # fmt: skip
    homes = {p.id: p.bone_id for p in puppet.parts}
    for skin in skins.values():
        for pin in skin.pins:
            home = pin.bone_id if pin.bone_id in place else homes[pin.part_id]
            px, py = pivot[home]
            nodes.append(SkeletonNode("pin", pin.id, place[home], pin.x - px, pin.y - py, UP))
    return nodes
