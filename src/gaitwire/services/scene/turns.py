"""Work on turning round: by hand on a frame, or wherever a puppet's way turns back."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from gaitwire.core.errors import InvalidInputError, NotFoundError
from gaitwire.core.evaluate.seat import moved_in
from gaitwire.core.ids import new_id
from gaitwire.core.motion.turning import Turn
from gaitwire.core.timing.sample import sample
from gaitwire.core.walk.walker import walker_of
from gaitwire.services.scene.gestures import Draft, SceneState, gesture
from gaitwire.services.session.revising import revised

USUAL = 10.0
"""Frames that a turn takes."""
_STILL = 1e-3
"""Pixels a frame below which a puppet stands."""


def find_turn(floor: SceneState, turn_id: str) -> Turn:
    """A turn of the scene; raises NotFoundError."""
    found = next((t for t in floor.scene.turns if t.id == turn_id), None)
    if found is None:
        raise NotFoundError("This turn is not there any more.", "Choose another.")
    return found


@gesture("turn round")
def turn_round(draft: Draft, instance_id: str, frame: float, frames: float = USUAL) -> str:
    """Let a puppet turn round from a frame on; the turn's id. Raises InvalidInputError where it does already."""
    own = [t for t in draft.scene.turns if t.instance_id == instance_id]
    if any(t.time - frames < frame < t.time + max(t.frames, 1.0) for t in own):
        raise InvalidInputError("It turns round here already.", "Choose a frame further on.")
    values = {"id": new_id(), "scene_id": draft.scene_id, "instance_id": instance_id}
    made = revised(Turn(**values, time=frame, manner="stages"), {"frames": frames})
    draft.refuse_locked([(instance_id, instance_id)])
    draft.put([made])
    return made.id


@gesture("turn where its way turns back")
def turn_back(draft: Draft, instance_id: str, frames: float = USUAL) -> int:
    """Let a puppet turn round wherever the keys that move it turn back, in place of its turns; how often."""
    instance, scene = draft.instance(instance_id), draft.scene
    moved = moved_in(scene, instance)
    grid = np.arange(float(scene.frames))
    x, _ = sample(moved.seat, grid) if moved.seat else np.zeros((2, len(grid)))
    steps = np.diff(x)
    going = np.flatnonzero(np.abs(steps) > _STILL)
    signs = np.sign(steps[going])
    ahead = np.sign(instance.pixels) * walker_of(draft.workspace.puppet(instance.puppet_id)).facing
    turns = [Turn(id=new_id(), scene_id=scene.id, instance_id=instance_id, time=0.0, frames=0.0)]
    turns = turns if len(going) and signs[0] != ahead else []
    for n in np.flatnonzero(np.diff(signs)):
        # In the middle of the rest between there and back.
        middle = (going[n] + 1 + going[n + 1]) / 2
        time = max(0.0, float(np.floor(middle - frames / 2)))
        turns.append(
            Turn(id=new_id(), scene_id=scene.id, instance_id=instance_id, time=time, frames=frames, manner="stages")
        )
    if not turns:
        raise InvalidInputError("Its way never turns back.", "Key the puppet itself there and back first.")
    draft.refuse_locked([(instance_id, instance_id)])
    draft.remove(Turn, [t.id for t in scene.turns if t.instance_id == instance_id])
    draft.put(turns)
    return len(turns)


@gesture("change a turn")
def set_turn(draft: Draft, turn_id: str, values: Mapping[str, Any]) -> None:
    """Change when a puppet turns, or for how long."""
    made = revised(find_turn(draft, turn_id), values)
    draft.refuse_locked([(made.instance_id, made.instance_id)])
    draft.put([made])


@gesture("take a turn away")
def remove_turn(draft: Draft, turn_id: str) -> None:
    """Let a puppet not turn there."""
    turn = find_turn(draft, turn_id)
    draft.refuse_locked([(turn.instance_id, turn.instance_id)])
    draft.remove(Turn, [turn_id])
