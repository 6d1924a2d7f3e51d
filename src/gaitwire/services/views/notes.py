"""Notes of a scene in the store."""

from __future__ import annotations

from typing import Any

import numpy as np

from gaitwire.core.evaluate import evaluate
from gaitwire.core.evaluate.compiled_scene import CompiledScene
from gaitwire.core.notes import MEASURES, Note, NoteScene, notes_of
from gaitwire.core.notes.note import Remedy
from gaitwire.core.owners import owner_name
from gaitwire.core.scene import Scene
from gaitwire.services.scene.seams import SEAM_JUMP, SeamRow, open_seams
from gaitwire.services.session.workspace import Workspace


def scene_notes(workspace: Workspace, scene_id: str) -> list[Note]:
    """What is measured in a scene as it stands now."""
    compiled = workspace.compiled(scene_id)
    frames = evaluate(compiled, np.arange(compiled.scene.frames, dtype=float), cache=workspace.blocks)
    return _with_seams(compiled, notes_of(NoteScene(compiled, frames)))


def _with_seams(compiled: CompiledScene, notes: list[Note]) -> list[Note]:
    """The notes with seams by what has keys, as the card has them; by bones only where no keys tell why they jump."""
    scene, rows = compiled.scene, open_seams(compiled)
    told = {(r.channel.instance_id, r.channel.owner_id) for r in rows}
    left = [n for n in notes if n.kind != "seam" or not _above(compiled, (n.instance_id, n.owner_id)) & told]
    at = next((n for n, note in enumerate(left) if note.kind in _AFTER_SEAMS), len(left))
    return left[:at] + [_seam_note(scene, compiled, row) for row in rows] + left[at:]


_AFTER_SEAMS = list(MEASURES)[list(MEASURES).index("seam") + 1 :]


def _above(compiled: CompiledScene, node: tuple[str, str]) -> set[tuple[str, str]]:
    """A node and all that it hangs from."""
    puppet = next(i for i in compiled.compiled_puppets if i.source.instance.id == node[0])
    found, at = set(), puppet.nodes.owners.index(node)
    while at >= 0:
        found.add(puppet.nodes.owners[at])
        at = int(puppet.skeleton.parent[at])
    return found


def _seam_note(scene: Scene, compiled: CompiledScene, row: SeamRow) -> Note:
    channel = row.channel
    name = owner_name(scene, dict(compiled.puppets), (channel.instance_id, channel.owner_id))
    jumps = abs(row.jump) > SEAM_JUMP
    value, unit = (row.jump, row.prop.unit) if jumps else (row.speed, f"{row.prop.unit}/frame")
    said = f"{name}, {row.prop.label}: {row.said}."
    remedy = None
    if row.fits != 0:
        label = f"fit it: {row.fits:g} f a round" if row.fits else "close the seam"
        remedy = Remedy("close-seam", f"{channel.instance_id},{channel.owner_id}", label)
    node, span = (channel.instance_id, channel.owner_id), (0.0, scene.frames - 1.0, 0.0)
    return Note("seam", *node, name, *span, abs(value), unit, said, True, remedy)


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
