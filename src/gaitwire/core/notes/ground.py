"""Feet that go through the floor, and feet that are planted in the air."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from gaitwire.core.evaluate.spot import NEAR, above_floor
from gaitwire.core.notes.note import Note, NoteScene, Remedy, runs

ALLOWED = 1.0
"""Scene pixels."""


def penetration(stage: NoteScene) -> Iterator[Note]:
    """For every foot and stretch of frames: by how many pixels its heel or ball is under the ground at the most."""
    for puppet in stage.compiled_puppets:
        instance, ground = puppet.source.instance.id, stage.compiled.scene.floor_under(puppet.source.instance)
        if ground is None:
            return
        for plan in stage.limbs(puppet):
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


HOVERS = 2.0
"""Scene pixels over the floor from which on a planted foot is seen to hover."""


def hovering(stage: NoteScene) -> Iterator[Note]:
    """For every foot that is planted on no bone and a little above the floor: by how many pixels."""
    for puppet in stage.compiled_puppets:
        instance, floor = puppet.source.instance, stage.compiled.scene.floor_under(puppet.source.instance)
        for plan in stage.limbs(puppet) if floor is not None else ():
            for plant in puppet.source.plants:
                if plant.limb_id != plan.limb.id or plant.carrier_id or plant.start >= len(stage.frames):
                    continue
                gap = above_floor(plan, plant.y, plant.angle, instance.scale, floor or 0.0)
                if gap is not None and HOVERS < gap < NEAR * puppet.source.puppet.height * instance.scale:
                    ends = (float(plant.start), float(plant.start), float(min(plant.stop, len(stage.frames) - 1)))
                    said = f"{plan.limb.name} is planted {gap:.0f} px above the floor."
                    remedy = Remedy("to-floor", plant.id, "put it on the floor")
                    yield Note(
                        "hovering", instance.id, plan.limb.tip_id, plan.limb.name, *ends, gap, "px", said, remedy=remedy
                    )
