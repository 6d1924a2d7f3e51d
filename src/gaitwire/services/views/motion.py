"""Where bones of a scene are on its frames, as they are played: for scripts."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any

import numpy as np

from gaitwire.core.errors import InvalidInputError, NotFoundError
from gaitwire.core.evaluate import evaluate
from gaitwire.core.geometry import affine
from gaitwire.core.puppet.model import Bone
from gaitwire.core.scene import Scene
from gaitwire.services.session.workspace import Workspace

_DIGITS = 4


def motion_of(
    workspace: Workspace, scene_id: str, puppets: Sequence[str] = (), bones: Sequence[str] = (), span: str = ""
) -> dict[str, Any]:
    """Pivots and tips in pixels of the stage, turns in degrees of the world, by bone; all of them where none is named.

    `span` is such as 0-47, frames counted from 0; empty for all. Turns go on beyond half a round. Raises
    NotFoundError for a name that is not there, InvalidInputError for a span that is none.
    """
    scene = workspace.scene(scene_id)
    frames = _frames(scene, span)
    found = evaluate(workspace.compiled(scene_id), frames)
    rows = []
    for instance in scene.instances:
        if instance.is_camera or (puppets and instance.name not in puppets):
            continue
        for bone in workspace.puppet(instance.puppet_id).bones:
            if not bones or bone.name in bones:
                matrix = found.nodes[:, found.node_keys.index((instance.id, bone.id))].T
                rows.append({"puppet": instance.name, "bone": bone.name, **_course(bone, matrix)})
    for kind, wanted in (("puppet", puppets), ("bone", bones)):
        for name in wanted:
            if not any(row[kind] == name for row in rows):
                raise NotFoundError(f"“{scene.name}” has no {kind} “{name}”.", "Names are as the Floor has them.")
    return {"scene": scene.name, "rate": float(scene.rate), "frames": [int(f) for f in frames], "bones": rows}


def _course(bone: Bone, matrix: np.ndarray) -> dict[str, list[float]]:
    """A bone on the frames, from its matrices (6, F)."""
    ahead = np.exp(1j * np.radians(bone.angle))
    x, y = affine.apply(matrix, bone.length * ahead.real, bone.length * ahead.imag)
    dx, dy = affine.apply_linear(matrix, ahead.real, ahead.imag)
    turn = np.degrees(np.unwrap(np.arctan2(dy, dx)))
    rows = {"x": matrix[4], "y": matrix[5], "tip_x": x, "tip_y": y, "turn": turn}
    return {name: np.round(row, _DIGITS).tolist() for name, row in rows.items()}


def _frames(scene: Scene, span: str) -> np.ndarray:
    if not span:
        return np.arange(float(scene.frames))
    ends = re.fullmatch(r"(\d+)-(\d+)", span.strip())
    first, last = (int(end) for end in ends.groups()) if ends else (0, -1)
    if not first <= last < scene.frames:
        raise InvalidInputError(f"“{span[:40]}” is no span of this scene.", f"Type such as 0-{scene.frames - 1}.")
    return np.arange(float(first), last + 1.0)
