"""Notes of a scene in the store."""

from __future__ import annotations

from typing import Any

import numpy as np

from gaitwire.core.evaluate import evaluate
from gaitwire.core.notes import Note, Stage, notes_of
from gaitwire.services.workspace import Workspace


def scene_notes(workspace: Workspace, scene_id: str) -> list[Note]:
    """What is measured in a scene as it stands now."""
    compiled = workspace.compiled(scene_id)
    frames = evaluate(compiled, np.arange(compiled.scene.frames, dtype=float), cache=workspace.blocks)
    return notes_of(Stage(compiled, frames))


def note_rows(workspace: Workspace, scene_id: str) -> list[dict[str, Any]]:
    """The same as plain values; frames as the scene numbers them."""
    scene = workspace.scene(scene_id)
    names = {i.id: i.name for i in scene.instances}
    first = scene.first_number
    return [
        {
            "kind": n.kind, "fault": n.fault, "puppet": names.get(n.instance_id, "?"), "bone": n.name,
            "frame": n.frame + first, "first": n.first + first, "last": n.last + first,
            "value": round(n.value, 4), "unit": n.unit, "said": n.said,
        }
        for n in scene_notes(workspace, scene_id)
    ]  # fmt: skip
