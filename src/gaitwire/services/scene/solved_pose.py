"""How a puppet stands on a frame, as it is seen: limbs as they are solved, tips where a pose would have them."""

from __future__ import annotations

from collections.abc import Mapping

from gaitwire.core.addresses import Address
from gaitwire.core.evaluate.compiled_scene import CompiledScene, compile_scene
from gaitwire.core.evaluate.posed import SolvedPose, solved_poses
from gaitwire.core.evaluate.spot import bent_over, end_of, planned, tip_turn
from gaitwire.core.puppet.limb_chains import chain_of
from gaitwire.core.puppet.model import Limb
from gaitwire.core.timing.channel import NODE_PROPERTIES

_OF_LIMBS = ("turn", "stretch")


def solved_values(compiled: CompiledScene, instance_id: str, frame: float) -> dict[Address, float]:
    """Turns and stretches of the bones of an instance's limbs on a frame, as plants and tips have them."""
    solved = solved_poses(compiled.groups, instance_id, frame).get(instance_id)
    if solved is None:
        return {}
    keys, values = solved.puppet.nodes.owners, solved.posed.values
    return {
        (*keys[node], name): float(values[node, NODE_PROPERTIES.index(name), 0])
        for segment in solved.group.segments
        if segment.member == solved.member
        for plan in segment.limbs
        for node in plan.nodes.tolist()
        for name in _OF_LIMBS
    }


def freed(compiled: CompiledScene, instance_id: str) -> CompiledScene:
    """The scene with an instance that nothing holds: none of its limbs is planted."""
    kept = tuple(p for p in compiled.scene.plants if p.instance_id != instance_id)
    if len(kept) == len(compiled.scene.plants):
        return compiled
    scene = compiled.scene.model_copy(update={"plants": kept})
    return compile_scene(scene, compiled.puppets, compiled.skins, compiled, compiled.phrases)


def turned(compiled: CompiledScene, instance_id: str) -> dict[Address, float]:
    """What lets the limbs of an instance turn by their bones: no mix for those that have one keyed."""
    own = (c for c in compiled.scene.channels if c.instance_id == instance_id and c.owner_kind == "limb")
    return {(instance_id, c.owner_id, "mix"): 0.0 for c in own if c.property == "mix"}


def tip_values(solved: SolvedPose, limb: Limb) -> dict[Address, float]:
    """The keys of a limb's tip that hold it where it is, and as it lies, where that is solved from it."""
    plan = planned(solved, limb)
    away = end_of(solved, plan) - plan.stands
    who = solved.puppet.source.instance.id
    lies = {(who, limb.tip_id, "turn"): tip_turn(solved, plan)} if plan.steady else {}
    return {(who, limb.id, "tip_x"): away.real, (who, limb.id, "tip_y"): away.imag, **lies}


def tips_of(
    compiled: CompiledScene, instance_id: str, frame: float, values: Mapping[Address, float],
    controls: Mapping[tuple[str, str], float],
) -> dict[Address, float]:  # fmt: skip
    """Where a pose has the tips that limbs are solved from, so that these come to stand as its turns say.

    `controls` are of the limbs on that frame, by limb and name. A limb none of whose bones the pose
    names, or whose tip it names itself, is left as it is.
    """
    free = freed(compiled, instance_id)
    overrides = {**turned(free, instance_id), **values}
    overrides |= {address: 0.0 for address in overrides if address[2] == "mix"}
    solved = solved_poses(free.groups, instance_id, frame, overrides=overrides).get(instance_id)
    if solved is None:
        return {}
    found: dict[Address, float] = {}
    puppet = solved.puppet.source.puppet
    for limb in puppet.limbs:
        bones = {b.id for b in chain_of(puppet, limb)}
        named = any(s[1] in bones for s in values) and (instance_id, limb.id, "tip_x") not in values
        if named and controls.get((limb.id, "mix"), 0.0) > 0.5:
            found |= tip_values(solved, limb)
            if (over := float(bent_over(solved, limb))) != controls.get((limb.id, "flip"), 0.0):
                found[instance_id, limb.id, "flip"] = over
    return found
