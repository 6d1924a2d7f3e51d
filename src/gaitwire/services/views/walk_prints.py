"""Footprints that walks leave on the stage of a scene, as they come down on it."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate import CompiledScene
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.evaluate.skeleton import world_matrices
from gaitwire.core.evaluate.values import sample_values
from gaitwire.core.walk.four import Foot
from gaitwire.core.walk.span import Gait

MOST = 400
"""Footprints of a scene that are drawn."""


class WalkPrint(NamedTuple):
    """Heel and ball of a foot on the stage, in scene pixels, the side of it, and the frame on which it stands there."""

    heel: tuple[float, float]
    ball: tuple[float, float]
    side: str
    frame: float


def walk_prints(compiled: CompiledScene) -> list[WalkPrint]:
    """The footprints of all walks that go somewhere and are seen from the side."""
    found = [
        one
        for puppet in compiled.compiled_puppets
        for gait in puppet.gaits
        if (gait.span.travels or gait.span.pace == "seat") and gait.walker.view == "side"
        for foot in gait.feet
        for one in _of_foot(puppet, gait, foot)
    ]
    return found[:MOST]


def _of_foot(puppet: CompiledPuppet, gait: Gait, foot: Foot) -> list[WalkPrint]:
    frames = _stands(gait, foot)
    node = puppet.node(foot.leg.foot.id)
    if node is None or not len(frames):
        return []
    a, b, c, d, e, f = world_matrices(puppet.skeleton, sample_values(puppet, frames))[:, node]
    y = foot.length * foot.build.ankle
    ends = []
    for along in (-foot.build.heel, foot.build.ball):
        x = gait.walker.facing * foot.length * along
        ends.append(np.stack([a * x + c * y + e, b * x + d * y + f], axis=-1).round(2).tolist())
    return [WalkPrint(tuple(h), tuple(t), foot.side, float(n)) for h, t, n in zip(*ends, frames, strict=True)]


def _stands(gait: Gait, foot: Foot) -> FloatArray:
    """Frames (N,) on which a foot lies flat, once for each time that it comes down."""
    span = gait.span
    first, last = gait.phases_at(np.array([span.start, span.stop], float))
    lands = foot.lands
    if gait.journeys is not None and foot.stride is not gait.stride:
        # Forelegs set out with the other side there, all pairs across together.
        lands = foot.stride.lands[1 if foot.side == "near" else 0]
    flat = lands + (foot.step.flat + float(np.max(foot.step.heel_off))) / 2
    phases = np.arange(np.ceil(first - flat), np.floor(last - flat) + 1) + flat
    return np.round(gait.frames_at(phases), 3) if len(phases) else np.zeros(0)
