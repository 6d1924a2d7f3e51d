"""Work on loose ends: bones that swing, with all that hangs from them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from gaitwire.core.addresses import Node
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.evaluate.loose_plans import loose_plans
from gaitwire.core.evaluate.posed import posed_at
from gaitwire.core.motion.loose.owners import swinging_under
from gaitwire.core.motion.loose.settings import Loose
from gaitwire.core.timing.channel import NODE_PROPERTIES, Channel
from gaitwire.core.timing.key import Key
from gaitwire.services.scene.gestures import Draft, Floor, SceneState, gesture
from gaitwire.services.scene.led import driver_of, lead, settings_of, without
from gaitwire.services.scene.own_keys import ALLOWED, KeysMade, own_course, worst_of
from gaitwire.services.session.revising import revised

_TURN = NODE_PROPERTIES.index("turn")


@gesture("let swing")
def put_loose(draft: Draft, /, nodes: Sequence[Node], **values: Any) -> list[str]:
    """Let bones swing, or set how; the ids of what leads them. Raises InvalidInputError for anything but bones."""
    if not nodes:
        raise InvalidInputError("Nothing is chosen.", "Choose the bones that are to swing first.")
    return lead(draft, nodes, Loose, lambda node, known: _swung(draft, node, revised(known or Loose(), values)))


def loose_like(floor: Floor, nodes: Sequence[Node], like: Loose) -> list[str]:
    """Let bones swing as one does. Raises InvalidInputError for what cannot."""
    return put_loose(floor, nodes, **like.model_dump(exclude={"kind"}))


def _swung(floor: SceneState, node: Node, settings: Loose) -> Loose:
    """Settings of a bone that can swing so; raises InvalidInputError for one that cannot."""
    puppet = floor.puppet_of(node[0])
    bone = puppet.bone(node[1])
    if bone is None:
        raise InvalidInputError("Only bones swing.", "Choose a bone: all that hangs from it swings too.")
    ends = swinging_under(puppet, {bone.id: settings.bends})
    if not any(b.length > 0 for b in puppet.bones if b.id in ends):
        what = "has no length to swing with" if settings.bends else "has no length of its own to swing with"
        raise InvalidInputError(f"“{bone.name}” {what}.", "Give it a tip on the Bench.")
    return settings


def swinging(floor: SceneState, node: Node) -> list[str]:
    """The bones that swing with a loose one, itself first; none where it is not loose."""
    if settings_of(floor, node, Loose) is None:
        return []
    for puppet in floor.compiled.compiled_puppets:
        if puppet.source.instance.id == node[0]:
            return _swinging(puppet, node[1])
    return []


def _swinging(puppet: CompiledPuppet, owner_id: str) -> list[str]:
    own = puppet.node(owner_id)
    found = (plan.nodes for plan in loose_plans(puppet, set(), puppet.keys.loop) if plan.nodes[0] == own)
    return [puppet.nodes.owners[node][1] for node in next(found, ())]


def turned_by_hand(floor: SceneState, nodes: Sequence[Node]) -> list[str]:
    """Ids of the keys that turn bones which swing."""
    channels = {c.id for c in _turns(floor, nodes)}
    return [k.id for k in floor.scene.keys if k.channel_id in channels]


def _turns(floor: SceneState, nodes: Sequence[Node]) -> list[Channel]:
    owners = {(who, bone) for who, owner in nodes for bone in swinging(floor, (who, owner))}
    return [c for c in floor.scene.channels if (c.instance_id, c.owner_id) in owners and c.property == "turn"]


@gesture("leave to what swings")
def drop_turns(draft: Draft, nodes: Sequence[Node]) -> int:
    """Take away the beads that turn bones which swing; how many there were."""
    gone = turned_by_hand(draft, nodes)
    if not gone:
        raise InvalidInputError("No bead turns what swings here.", "There is nothing to take away.")
    draft.refuse_locked(nodes)
    channels = _turns(draft, nodes)
    for channel in channels:
        draft.means((channel.instance_id, channel.owner_id), 0.0, float(draft.scene.frames))
    draft.remove(Key, gone)
    draft.remove(Channel, [c.id for c in channels])
    return len(gone)


@gesture("make keys of what swings")
def make_loose_own(draft: Draft, nodes: Sequence[Node], allowed: float = ALLOWED) -> KeysMade:
    """Make keys of how some bones swing, over the whole scene, and have them stiff again.

    They miss it by `allowed` degrees at most. Raises InvalidInputError where nothing swings.
    """
    draft.refuse_locked(nodes)
    led = [d for node in nodes if (d := driver_of(draft, node, Loose)) is not None]
    if not led:
        raise InvalidInputError("Nothing that is chosen swings.", "Let it swing first.")
    frames = np.arange(float(draft.scene.frames))
    seen = {}
    for driver in led:
        puppet, posed = posed_at(draft.compiled.groups, driver.instance_id, frames)
        for owner in _swinging(puppet, driver.owner_id):
            node = (driver.instance_id, owner)
            seen[*node, "turn"] = posed.values[puppet.nodes.owners.index(node), _TURN]
    layers = without(draft, led)
    return worst_of(own_course(draft, address, frames, layers, allowed, row) for address, row in seen.items())
