"""Planted tips that move against what they stand on, or fall short of their spots."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.evaluate.limbs import LimbPlan
from gaitwire.core.geometry import affine
from gaitwire.core.links import Plant
from gaitwire.core.notes.note import Note, NoteScene, runs

ALLOWED = 0.05
"""Scene pixels, in a frame or in all, that nobody sees."""


def slip(stage: NoteScene) -> Iterator[Note]:
    """For every plant whose tip moves on its spot: the most pixels in a frame."""
    for puppet, plan, plant, frames in _planted(stage):
        away = _away(stage, puppet, plan, plant, frames)
        steps = np.abs(np.diff(away, prepend=away[:1]))
        if steps.max() > ALLOWED:
            worst = int(steps.argmax())
            said = f"{plan.limb.name} slips by up to {steps.max():.1f} px a frame."
            yield _note("slip", puppet, plan, frames, worst, float(steps.max()), "px/frame", said)


def short(stage: NoteScene) -> Iterator[Note]:
    """For every stretch of a plant that is out of reach: by how many pixels its tip falls short of its spot."""
    for puppet, plan, plant, frames in _planted(stage):
        away = np.abs(_away(stage, puppet, plan, plant, frames))
        for run in runs(away > ALLOWED):
            worst = int(away[run].argmax())
            said = f"{plan.limb.name} is out of reach of its spot by {away[run].max():.1f} px."
            yield _note("short", puppet, plan, frames[run], worst, float(away[run].max()), "px", said)


def _note(
    kind: str,
    puppet: CompiledPuppet,
    plan: LimbPlan,
    frames: np.ndarray,
    worst: int,
    value: float,
    unit: str,
    said: str,
) -> Note:
    ends = (float(frames[worst]), float(frames[0]), float(frames[-1]))
    return Note(kind, puppet.source.instance.id, plan.limb.tip_id, plan.limb.name, *ends, value, unit, said)


def _planted(stage: NoteScene) -> Iterator[tuple[CompiledPuppet, LimbPlan, Plant, np.ndarray]]:
    """Every plant with the frames on which it holds, its limb and its puppet."""
    for puppet in stage.compiled_puppets:
        for plan in stage.limbs(puppet):
            for plant in puppet.source.plants:
                first, last = int(np.ceil(plant.start)), min(len(stage.frames) - 1, int(np.floor(plant.stop)))
                frames = np.arange(first, last + 1)
                if puppet.turning is not None:  # a foot that is turned round on its spot does not slip
                    frames = frames[~puppet.turning.midway(frames.astype(float), int(plan.chain[0]))]
                if plant.limb_id == plan.limb.id and first >= 0 and len(frames):
                    yield puppet, plan, plant, frames


def _away(stage: NoteScene, puppet: CompiledPuppet, plan: LimbPlan, plant: Plant, frames: np.ndarray) -> np.ndarray:
    """From where a planted tip's contact should be to where it is, on the frames (F,); complex, scene pixels.

    A foot touches by its heel while its toe is up, and by its ball while its heel is.
    """
    instance = puppet.source.instance
    carrier = affine.identity(len(frames))
    if (plant.carrier_instance, plant.carrier_id) in stage.places:
        carrier = stage.matrices(plant.carrier_instance, plant.carrier_id)[:, frames]
    x, y = affine.apply(carrier, plant.x, plant.y)
    if plan.tip < 0:
        last = puppet.nodes.owners[int(plan.chain[-1])][1]
        return np.asarray(stage.point(instance.id, last, plan.end)[frames] - (x + 1j * y))
    along = carrier[0] + 1j * carrier[1]
    turn = along / np.abs(along)
    mirror = plan.mirror * puppet.senses(frames.astype(float), int(plan.chain[0]))
    spots, lies = [], []
    for point in (plan.heel, plan.ball):
        flat = point * np.exp(1j * np.radians(plant.angle)) * instance.scale
        spots.append(x + 1j * y + turn * (mirror * flat.real + 1j * flat.imag))
        lies.append(stage.point(instance.id, plan.limb.tip_id, point)[frames])
    sole, should = lies[1] - lies[0], spots[1] - spots[0]
    on_ball = mirror * (sole * np.conj(should)).imag > 0
    return np.asarray(np.where(on_ball, lies[1] - spots[1], lies[0] - spots[0]))
