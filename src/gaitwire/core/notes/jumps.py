"""What jumps where something computed begins or ends: a phrase, a walk."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate import evaluate
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.notes.note import Note, NoteScene

STEP = 0.01
"""Frames to either side over which speeds are taken."""

ALLOWED = 1.0
"""Scene pixels; less than that is no jump."""

_MOST = 3
"""Bones that are told of one jump."""


def jumps(stage: NoteScene) -> Iterator[Note]:
    """For every beginning and end of a phrase or a walk: the bones that jump there most, by how many pixels."""
    for puppet in stage.compiled_puppets:
        for time, what in _edges(puppet, stage.compiled.scene.frames):
            yield from _jumping(stage, puppet, time, what)


def _edges(puppet: CompiledPuppet, frames: int) -> Iterator[tuple[float, str]]:
    """When what is laid on a puppet begins and ends within the scene, and how that is called."""
    found: dict[float, str] = {}
    for phrased in puppet.phrases:
        course = phrased.lanes.course
        start, stop = course.use.start, course.use.start + course.span
        found |= {start: f"where “{phrased.lanes.name}” begins", stop: f"where “{phrased.lanes.name}” ends"}
    for gait in puppet.gaits:
        found |= {gait.span.start: "where the walk begins", gait.span.stop: "where the walk ends"}
    yield from ((t, what) for t, what in sorted(found.items()) if 1 <= t < frames)


def _jumping(stage: NoteScene, compiled_puppet: CompiledPuppet, time: float, what: str) -> Iterator[Note]:
    times = time + STEP * np.array([-2.0, -1.0, 0.0, 1.0])
    places: FloatArray = evaluate(stage.compiled, times).nodes[..., 4:]
    # What is still to go at the speed before it is no jump.
    away = np.hypot(*(places[2] - places[1] - (places[1] - places[0])).T)
    puppet, instance = compiled_puppet.source.puppet, compiled_puppet.source.instance.id
    bones = {b.id: b.name for b in puppet.bones}
    found = [(float(away[stage.places[key]]), key[1]) for key in compiled_puppet.nodes.owners if key[1] in bones]
    for value, owner in sorted(found, reverse=True)[:_MOST]:
        if value > ALLOWED:
            said = f"{bones[owner]} jumps {value:.1f} px {what}."
            yield Note("jump", instance, owner, bones[owner], time, time - 1, time, value, "px", said)
