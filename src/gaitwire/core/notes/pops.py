"""Limbs that snap: a joint that changes its speed at once while the limb is nearly straight."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from gaitwire.core.notes.note import Note, NoteScene, runs

STRAIGHT = 25.0
"""Degrees of bend up to which a limb counts as nearly straight."""

ALLOWED, GIVING = 16.0, 30.0
"""Degrees a frame, each frame, of a joint that comes to lie straight, and of one that only comes near it: a knee that
gives as its foot comes down stays below (*common practice*, and by eye on the orchard's walks)."""

DEAD = 3.0
"""Degrees of bend below which a limb lies straight."""


def pops(stage: NoteScene) -> Iterator[Note]:
    """For every limb and stretch of frames: the greatest angular acceleration of a joint near straight."""
    loop = stage.compiled.scene.loop
    for puppet in stage.compiled_puppets:
        instance = puppet.source.instance.id
        for plan in stage.limbs(puppet):
            owners = [puppet.nodes.owners[int(n)][1] for n in plan.chain]
            joints = [stage.point(instance, o, 0j) for o in owners]
            joints.append(stage.point(instance, owners[-1], plan.end))
            for n in range(1, len(owners)):
                upper, lower = joints[n] - joints[n - 1], joints[n + 1] - joints[n]
                bend = np.degrees(np.angle(lower * np.conj(upper)))
                yield from _snaps(instance, plan.limb.name, owners[n], bend, loop)


def _snaps(instance: str, name: str, owner: str, bend: np.ndarray, loop: bool) -> Iterator[Note]:
    if len(bend) < 3:
        return
    speed = (np.diff(bend, append=bend[0]) + 180) % 360 - 180
    faster = np.abs(speed - np.roll(speed, 1))
    if not loop:
        faster[[0, -1]] = 0.0
    least = np.minimum(np.abs(bend), np.minimum(np.abs(np.roll(bend, 1)), np.abs(np.roll(bend, -1))))
    snaps = (least < STRAIGHT) & (faster > np.where(least < DEAD, ALLOWED, GIVING))
    for run in runs(snaps):
        worst = run.start + int(faster[run].argmax())
        said = f"{name} snaps near straight: {faster[worst]:.0f}° a frame, each frame."
        yield Note("pop", instance, owner, name, worst, run.start, run.stop - 1, float(faster[worst]), "°/frame²", said)
