"""Near against far: how differently the two sides of a walking body do the same half a stride later."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.notes.note import Note, NoteScene
from gaitwire.core.notes.steps import Steps, steps_of
from gaitwire.core.puppet.counterpart import counterpart, mark_of

ALLOWED = 3.0
"""Degrees."""


def sides(stage: NoteScene) -> Iterator[Note]:
    """For the near limbs of what walks in a loop: the most degrees from a bone to its far one half a stride later."""
    if not stage.compiled.scene.loop:
        return  # a walk that begins and stops is not meant to be the same on both sides
    for compiled_puppet in stage.compiled_puppets:
        steps = steps_of(stage, compiled_puppet)
        puppet, instance = compiled_puppet.source.puppet, compiled_puppet.source.instance.id
        for bone in puppet.bones if steps is not None else ():
            if bone.side != "near" or bone.region not in ("arm", "leg") or bone.length <= 0:
                continue
            found = counterpart(mark_of(puppet, bone, instance), puppet, instance, mirrored=True)
            if found is None or (instance, found.id) not in stage.places or steps is None:
                continue
            near, far = (
                _directions(stage, instance, i, a) for i, a in ((bone.id, bone.angle), (found.id, found.angle))
            )
            frames, apart = _apart(near, far, steps, stage.compiled.scene.loop)
            moves = max(np.ptp(np.unwrap(near, period=360)), np.ptp(np.unwrap(far, period=360)))
            if len(apart) and moves > ALLOWED and apart.max() > ALLOWED:
                worst = float(frames[apart.argmax()])
                said = f"{bone.name} stands {apart.max():.0f}° from where its other side does half a stride away."
                value = float(apart.max())
                yield Note("sides", instance, bone.id, bone.name, worst, worst, worst, value, "°", said, fault=False)


def _apart(near: FloatArray, far: FloatArray, steps: Steps, loop: bool) -> tuple[FloatArray, FloatArray]:
    """Frames (F,) of a walk, and how far its near side is there from its far side half a stride later, degrees."""
    count, half = len(near), steps.stride / 2
    frames = np.arange(steps.first, steps.last + 1)
    around = loop and len(frames) == count
    later = (frames + half) % count if around else frames + half
    if not around:
        frames, later = frames[later <= steps.last], later[later <= steps.last]
    there = np.interp(later, np.arange(count), np.unwrap(far, period=360), period=count if around else None)
    return frames, np.abs((near[frames.astype(int)] - there + 180) % 360 - 180)


def _directions(stage: NoteScene, instance: str, bone: str, angle: float) -> np.ndarray:
    """Where a bone points on every frame, degrees."""
    a, b, c, d, _, _ = stage.matrices(instance, bone)
    x, y = np.cos(np.radians(angle)), np.sin(np.radians(angle))
    return np.asarray(np.degrees(np.arctan2(b * x + d * y, a * x + c * y)))
