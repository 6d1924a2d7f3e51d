"""The seam of a loop: what jumps where its end meets its start, in place and in speed."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.compiled_scene import CompiledScene
from gaitwire.core.evaluate.posed import pose
from gaitwire.core.notes.note import Note, NoteScene

STEP = 0.01
"""Frames to either side of the seam over which speeds are taken."""

PLACE, SPEED = 0.1, 1.0
"""Scene pixels, and scene pixels a frame, that are no fault."""

_MOST = 8

_SHARPER = 1.25
"""How many times as sharp as anywhere else a bone turns at the seam where that is told."""


class Torn(NamedTuple):
    """By how much each node (N,) of a scene jumps at its seam, in pixels, and changes its speed, in pixels a frame."""

    place: FloatArray
    speed: FloatArray

    def seen(self) -> np.ndarray:
        """Which nodes (N,) anybody would see."""
        return np.asarray((self.place > PLACE) | (self.speed > SPEED))


def torn(compiled: CompiledScene) -> Torn:
    """How the nodes of a looping scene meet its start: pivots in scene pixels, in the order of frames' nodes."""
    end = float(compiled.scene.frames)
    far, last, first, next_ = _places(compiled, np.array([end - 2 * STEP, end - STEP, 0.0, STEP]))
    coming, going = last - far, next_ - first
    # What is still to go until the seam at the speed before it is no jump.
    place = np.abs(first - (last + coming))
    speed = np.abs(going - coming) / STEP
    if (speed > SPEED).any():  # what turns as sharply elsewhere turns so because it was made so
        speed = np.where(speed > _SHARPER * _turns_elsewhere(compiled), speed, 0.0)
    return Torn(place, speed)


def seam(stage: NoteScene) -> Iterator[Note]:
    """The bones and pins of each puppet that jump most, or whose speed does."""
    scene = stage.compiled.scene
    if not scene.loop or scene.frames < 2:
        return
    place, speed = found_torn = torn(stage.compiled)
    seen = found_torn.seen()
    for compiled_puppet in stage.compiled_puppets:
        found = []
        puppet = compiled_puppet.source.puppet
        bones = {b.id: b.name for b in puppet.bones} | {p.id: p.name for p in puppet.pins}
        for key in compiled_puppet.nodes.owners:
            n = stage.places[key]
            if key[1] in bones and seen[n]:
                found.append((float(max(place[n], speed[n])), key[1], n))
        for _, owner, n in sorted(found, reverse=True)[:_MOST]:
            jumps = f"jumps {place[n]:.1f} px, " if place[n] > PLACE else ""
            said = f"{bones[owner]} {jumps}changes its speed by {speed[n]:.1f} px a frame at the seam."
            value, unit = (float(place[n]), "px") if place[n] > PLACE else (float(speed[n]), "px/frame")
            instance = compiled_puppet.source.instance.id
            yield Note("seam", instance, owner, bones[owner], 0.0, scene.frames - 1.0, 0.0, value, unit, said)


def _turns_elsewhere(compiled: CompiledScene) -> FloatArray:
    """By how many pixels a frame each node (N,) changes its speed at the most on a frame that is not the seam."""
    frames = np.arange(1.0, compiled.scene.frames)
    ways = _places(compiled, (frames[:, None] + STEP * np.array([-2, -1, 0, 1])).ravel()).reshape(len(frames), 4, -1)
    return np.asarray(np.abs(ways[:, 3] - ways[:, 2] - ways[:, 1] + ways[:, 0]).max(axis=0) / STEP)


def _places(compiled: CompiledScene, times: FloatArray) -> np.ndarray:
    """Pivots (T, N) of all nodes at times (T,), complex: nothing that hangs on them is asked for."""
    found: list[np.ndarray] = [np.empty((0, len(times)), complex)] * len(compiled.compiled_puppets)
    for group in compiled.groups:
        for place, posed in zip(group.places, pose(group, times), strict=True):
            found[place] = posed.world[4] + 1j * posed.world[5]
    return np.concatenate(found).T if found else np.empty((len(times), 0), complex)
