"""A walk from the Stride desk put in a scene."""

from __future__ import annotations

from gaitwire.services.gait.gait_cards import CardDesk
from gaitwire.services.scene.floor import add_puppet, make_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.walk_keys import put_walk
from gaitwire.services.scene.walks import put_gait

GROUND = 648.0


def put_in_scene(desk: CardDesk, puppet_id: str, scene_id: str, travels: bool, as_keys: bool) -> str:
    """Walk a puppet through a scene, or through a new one where none is named ('' as its id); the scene's id.

    The walk goes on the puppet in front, or one is brought in, over all of the scene's frames: as a
    layer beneath its keys, or as keys.
    """
    workspace, card = desk.workspace, desk.card
    puppet = workspace.puppet(puppet_id)
    if not scene_id:
        frames = max(2, round(card.frames) * (2 if travels else 1))
        name = f"{puppet.name}, {card.name}"
        scene_id = make_scene(workspace, name, frames=frames, loop=not travels, ground=GROUND)
    floor = Floor(workspace, scene_id)
    own = [i for i in floor.scene.instances if i.puppet_id == puppet_id and not i.aside]
    who = max(own, key=lambda i: i.depth).id if own else add_puppet(floor, puppet_id)
    if as_keys:
        put_walk(floor, who, card, travels=travels)
    else:
        put_gait(floor, who, card, travels=travels)
    return scene_id
