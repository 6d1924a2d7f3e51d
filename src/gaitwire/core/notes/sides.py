"""Near against far: how differently the two sides of a looping body do the same half a round later."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from gaitwire.core.notes.note import Note, Stage
from gaitwire.core.puppet.counterpart import counterpart, mark_of

ALLOWED = 3.0
"""Degrees."""


def sides(stage: Stage) -> Iterator[Note]:
    """For every near bone of a limb with a far counterpart: the most degrees between them, half a loop apart."""
    scene = stage.compiled.scene
    if not scene.loop or scene.frames % 2 or scene.frames < 4:
        return
    half = scene.frames // 2
    for island in stage.islands:
        puppet, instance = island.source.puppet, island.source.instance.id
        for bone in puppet.bones:
            if bone.side != "near" or bone.region not in ("arm", "leg") or bone.length <= 0:
                continue
            found = counterpart(mark_of(puppet, bone, instance), puppet, instance, mirrored=True)
            if found is None or (instance, found.id) not in stage.places:
                continue
            near, far = (
                _directions(stage, instance, i, a) for i, a in ((bone.id, bone.angle), (found.id, found.angle))
            )
            apart = np.abs((near - np.roll(far, half) + 180) % 360 - 180)
            moves = max(np.ptp(np.unwrap(near, period=360)), np.ptp(np.unwrap(far, period=360)))
            if moves > ALLOWED and apart.max() > ALLOWED:
                worst = int(apart.argmax())
                said = f"{bone.name} stands {apart.max():.0f}° from where its other side does half a round away."
                yield Note(
                    "sides", instance, bone.id, bone.name, worst, worst, worst, float(apart.max()), "°", said,
                    fault=False,
                )  # fmt: skip


def _directions(stage: Stage, instance: str, bone: str, angle: float) -> np.ndarray:
    """Where a bone points on every frame, degrees."""
    a, b, c, d, _, _ = stage.matrices(instance, bone)
    x, y = np.cos(np.radians(angle)), np.sin(np.radians(angle))
    return np.asarray(np.degrees(np.arctan2(b * x + d * y, a * x + c * y)))
