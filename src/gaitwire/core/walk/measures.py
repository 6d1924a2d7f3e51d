"""What is measured on a stride: joint angles as in gait studies, which foot is down when, lengths and cadence."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.walk.stride import SIDES, Stride, StridePose

SAMPLES = 101
RATE = 24.0
"""Frames a second that the cadence is told for."""


@dataclass(frozen=True)
class StrideMeasures:
    """One stride of one leg from its own contact; angles in degrees, flexion and dorsiflexion positive."""

    hip: FloatArray  # (SAMPLES,) of the thigh against the vertical
    knee: FloatArray
    ankle: FloatArray  # without its mean
    ankle_offset: float
    """The mean that was taken off: the ankle is (foot against shank) = `ankle` + `ankle_offset`."""
    pelvis_height: FloatArray
    foot_height: FloatArray
    contacts: dict[str, list[tuple[float, float]]]  # percent of the near leg's stride
    stance_share: float  # percent
    double_support: float  # percent, each time
    step_length: float
    stride_length: float
    cadence: float


def measured(stride: Stride, far: bool = False) -> StrideMeasures:
    """The measures of a stride's near or far leg."""
    return both_measured(stride)[int(far)]


def both_measured(stride: Stride) -> tuple[StrideMeasures, StrideMeasures]:
    """The measures of a stride's near and of its far leg."""
    begins = stride.time_of(np.array(stride.lands))
    share = np.linspace(0.0, 1.0, SAMPLES)
    pose = stride.at((begins[:, None] + np.where(share < 1, share, share - 1e-9)).ravel())
    return _measured(stride, pose, 0), _measured(stride, pose, 1)


def _measured(stride: Stride, pose: StridePose, side: int) -> StrideMeasures:
    """Of one leg, from a pose over the near leg's stride and then over the far one's."""
    own, far = slice(side * SAMPLES, (side + 1) * SAMPLES), side == 1
    hip, knee = np.degrees(pose.leg.thigh[side, own]), np.degrees(np.abs(pose.leg.knee[side, own]))
    ankle = np.degrees(pose.pitch[side, own] - pose.leg.shank[side, own])
    mean = float(ankle[:-1].mean())
    spans = [_down(stride, n) for n in range(2)]
    stance = [stop - start for start, stop in spans]
    return StrideMeasures(
        hip=hip, knee=knee, ankle=ankle - mean, ankle_offset=mean, pelvis_height=pose.hips.up[own],
        foot_height=pose.ankle_up[side, own] - stride.sides[side].ankle, contacts=_contacts(stride),
        stance_share=100 * stance[side], double_support=50 * max(0.0, stance[0] + stance[1] - 1.0),
        step_length=stride.length * (stride.lands[1] if far else 1 - stride.lands[1]), stride_length=stride.length,
        cadence=60.0 * RATE / (stride.card.frames / 2),
    )  # fmt: skip


def _down(stride: Stride, side: int) -> tuple[float, float]:
    """When a foot lands and when it leaves, in strides of time."""
    return stood(stride, stride.lands[side], stride.steps[side].stance)


def stood(stride: Stride, lands: float, stance: float) -> tuple[float, float]:
    """When a foot that lands at a phase does so and when it leaves, in strides of time."""
    start, stop = stride.time_of(np.array([lands, lands + stance]))
    return float(start), float(stop)


def _contacts(stride: Stride) -> dict[str, list[tuple[float, float]]]:
    """Spans in percent of the near leg's stride on which each foot is down, cut where the stride begins anew."""
    origin = _down(stride, 0)[0]
    return {side: cut_up(_down(stride, n), origin) for n, side in enumerate(SIDES)}


def cut_up(down: tuple[float, float], origin: float) -> list[tuple[float, float]]:
    """A span in strides as percent of the stride that begins at `origin`, cut where that begins anew."""
    start = 100 * ((down[0] - origin) % 1.0)
    stop = start + 100 * (down[1] - down[0])
    spans = [(start, min(stop, 100.0))] + ([(0.0, stop - 100.0)] if stop > 100 else [])
    return sorted(spans)
