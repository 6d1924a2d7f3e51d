"""Work on what rolls: wheels and barrels, turned by the way their puppet goes."""

from __future__ import annotations

from gaitwire.core.addresses import Node
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.ids import new_id
from gaitwire.core.motion.roll import Roll
from gaitwire.core.owners import owned
from gaitwire.core.puppet.model import Bone
from gaitwire.services.scene.gestures import Draft, gesture
from gaitwire.services.session.revising import revised


@gesture("roll")
def put_roll(draft: Draft, node: Node, radius: float | None = None) -> str:
    """Let a bone roll as its puppet is moved, or set its radius in the puppet's pixels; the roll's id.

    Without one the radius is from its joint to the puppet's floor. Raises InvalidInputError.
    """
    instance_id, owner_id = node
    puppet = draft.puppet_of(instance_id)
    bone = owned(puppet, owner_id)
    if not isinstance(bone, Bone):
        raise InvalidInputError("Only a bone rolls.", "Choose the bone at the middle of the wheel.")
    found = puppet.base_y - bone.y if radius is None else radius
    if found <= 0:
        raise InvalidInputError("Its joint is not above the floor.", "Type its radius.")
    known = next((r for r in draft.scene.rolls if (r.instance_id, r.owner_id) == node), None)
    draft.refuse_locked([node])
    made = known or Roll(id=new_id(), scene_id=draft.scene_id, instance_id=instance_id, owner_id=owner_id, radius=found)
    made = revised(made, {"radius": found})
    draft.put([made])
    return made.id


@gesture("roll no more")
def remove_roll(draft: Draft, node: Node) -> None:
    """Let a bone roll no more."""
    draft.refuse_locked([node])
    draft.remove(Roll, [r.id for r in draft.scene.rolls if (r.instance_id, r.owner_id) == node])
