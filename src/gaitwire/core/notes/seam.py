"""The seam of a loop: what jumps where its end meets its start, in place and in speed."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate import evaluate
from gaitwire.core.notes.note import Note, Stage

STEP = 0.01
"""Frames to either side of the seam over which speeds are taken."""

PLACE, SPEED = 0.1, 1.0
"""Scene pixels, and scene pixels a frame, that are no fault."""

_MOST = 8

_SHARPER = 1.25
"""How many times as sharp as anywhere else a bone turns at the seam where that is told."""


def seam(stage: Stage) -> Iterator[Note]:
    """The bones and pins of each puppet that jump most, or whose speed does."""
    scene = stage.compiled.scene
    if not scene.loop or scene.frames < 2:
        return
    end = float(scene.frames)
    times = np.array([end - 2 * STEP, end - STEP, 0.0, STEP])
    nodes = evaluate(stage.compiled, times).nodes[..., 4:]
    # What is still to go until the seam at the speed before it is no jump.
    before, after = (nodes[1] - nodes[0]) / STEP, (nodes[3] - nodes[2]) / STEP
    place = np.hypot(*(nodes[2] - (nodes[1] + before * STEP)).T)
    speed = np.hypot(*(after - before).T)
    if (speed > SPEED).any():  # what turns as sharply elsewhere turns so because it was made so
        speed = np.where(speed > _SHARPER * _turns_elsewhere(stage), speed, 0.0)
    for island in stage.islands:
        found = []
        puppet = island.source.puppet
        bones = {b.id: b.name for b in puppet.bones} | {p.id: p.name for p in puppet.pins}
        for key in island.node_keys:
            n = stage.places[key]
            if key[1] in bones and (place[n] > PLACE or speed[n] > SPEED):
                found.append((float(max(place[n], speed[n])), key[1], n))
        for _, owner, n in sorted(found, reverse=True)[:_MOST]:
            jumps = f"jumps {place[n]:.1f} px, " if place[n] > PLACE else ""
            said = f"{bones[owner]} {jumps}changes its speed by {speed[n]:.1f} px a frame at the seam."
            value, unit = (float(place[n]), "px") if place[n] > PLACE else (float(speed[n]), "px/frame")
            instance = island.source.instance.id
            yield Note("seam", instance, owner, bones[owner], 0.0, end - 1, 0.0, value, unit, said)


def _turns_elsewhere(stage: Stage) -> FloatArray:
    """By how many pixels a frame each node (N,) changes its speed at the most on a frame that is not the seam."""
    frames = np.arange(1.0, stage.compiled.scene.frames)
    nodes = evaluate(stage.compiled, (frames[:, None] + STEP * np.array([-2, -1, 0, 1])).ravel()).nodes[..., 4:]
    ways = nodes.reshape(len(frames), 4, -1, 2)
    changed = (ways[:, 3] - ways[:, 2] - (ways[:, 1] - ways[:, 0])) / STEP
    return np.asarray(np.hypot(changed[..., 0], changed[..., 1]).max(axis=0))
