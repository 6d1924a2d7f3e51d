"""Feet that go through the floor."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from gaitwire.core.notes.note import Note, Stage, runs

ALLOWED = 0.5
"""Scene pixels."""


def penetration(stage: Stage) -> Iterator[Note]:
    """For every foot and stretch of frames: by how many pixels its heel or ball is under the ground at the most."""
    ground = stage.compiled.scene.ground
    if ground is None:
        return
    for island in stage.islands:
        instance = island.source.instance.id
        for plan in stage.limbs(island):
            if plan.tip < 0 or plan.heel == plan.ball:
                continue
            ends = (stage.point(instance, plan.limb.tip_id, p).imag for p in (plan.heel, plan.ball))
            under = np.maximum.reduce(list(ends)) - ground
            for run in runs(under > ALLOWED):
                worst = run.start + int(under[run].argmax())
                said = f"{plan.limb.name} is {under[worst]:.1f} px under the ground."
                yield Note(
                    "penetration", instance, plan.limb.tip_id, plan.limb.name, worst, run.start, run.stop - 1,
                    float(under[worst]), "px", said,
                )  # fmt: skip
