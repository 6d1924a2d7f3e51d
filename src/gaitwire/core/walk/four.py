"""Going on all fours: the forelegs step after the hind ones, and the trunk lies between hips and shoulders.

Both pairs of legs are strides of the same length in pixels. The shoulders are as high as the forelegs
carry them; where they are along the way, the trunk says. The order of the feet is common practice: in a
walk each forefoot comes down a quarter of a stride after the hind foot of its side, in a trot half a
stride, together with the hind foot of the other side.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property
from typing import NamedTuple

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.walk.build import Build
from gaitwire.core.walk.card import GaitCard
from gaitwire.core.walk.foot import FootStep
from gaitwire.core.walk.hips import mean_of
from gaitwire.core.walk.leg import LegPose, solve_leg
from gaitwire.core.walk.stride import SIDES, Stride, StridePose
from gaitwire.core.walk.walker import Leg as BoneLeg
from gaitwire.core.walk.walker import Walker

_STRAIGHT = 0.01
"""Leg lengths by which one that stands is lower at least than on straight legs: they could not take a step else."""


class FourStrides(NamedTuple):
    """The strides of the hind legs and of the forelegs, each in lengths of its own legs."""

    hind: Stride
    fore: Stride


def four_strides(card: GaitCard, walker: Walker, slope: float) -> FourStrides:
    """A card on one that goes on all fours; raises ValueError for one that does not."""
    if walker.fore is None:
        raise ValueError("it has no forelegs")
    ratio = walker.length / walker.fore.length
    hips, shoulders = _stands(walker)
    hind = Stride(_lower(card, card.sink + hips), *walker.builds, slope=slope)
    lifted = {name: getattr(card, name) * card.fore_lift for name in ("clearance", "heel_kick")}
    scaled = {name: getattr(card, name) * ratio for name in ("stride", "bounce")}
    low = _lower(card, card.sink + card.fore_sink + shoulders)
    fore = Stride(low.model_copy(update={**lifted, **scaled}), *walker.fore.builds, slope=slope)
    # Legs that are left behind hold the others back.
    pixels = min(hind.length * walker.length, fore.length * walker.fore.length)
    return FourStrides(
        replace(hind, longest=pixels / walker.length), replace(fore, longest=pixels / walker.fore.length)
    )


def _lower(card: GaitCard, sink: float) -> GaitCard:
    """A card whose hips are carried along evenly: those before and behind could not stay apart else."""
    return card.model_copy(update={"sink": sink, "surge": 0.0})


def _stands(walker: Walker) -> tuple[float, float]:
    """By how many leg lengths hips and shoulders are lower, as it is drawn, than on straight legs."""
    fore = walker.fore
    if fore is None:
        return 0.0, 0.0
    hips = sum(walker.floor - leg.thigh.y for leg in walker.legs) / 2
    shoulders = hips + fore.ahead.imag
    ankles = mean_of(walker.builds, "ankle"), mean_of(fore.builds, "ankle")
    heights = hips / walker.length, shoulders / fore.length
    low, high = (max(1.0 + a - h, _STRAIGHT) for a, h in zip(ankles, heights, strict=True))
    return low, high


class Foot(NamedTuple):
    """One foot of a walk: its leg and what that steps by, in lengths of `length` pixels.

    It lands at `lands` by the phases of the hind legs; where it then is, is counted from a point that
    lies `ahead` pixels before the hips.
    """

    name: str
    side: str
    leg: BoneLeg
    build: Build
    step: FootStep
    lands: float
    length: float
    stride: Stride
    ahead: float = 0.0


def feet_of(walker: Walker, stride: Stride, fore: Stride | None, fore_phase: float) -> list[Foot]:
    """The feet of a walker, those of its hips first; near and far."""
    hind = "" if fore is None else " hind"
    found = []
    for side, leg, build, step, lands in zip(SIDES, walker.legs, stride.sides, stride.steps, stride.lands, strict=True):
        found.append(Foot(f"{side}{hind}", side, leg, build, step, lands, walker.length, stride))
    if fore is not None and walker.fore is not None:
        own, ahead = walker.fore, walker.fore.ahead.real
        for side, leg, build, step, lands in zip(SIDES, own.legs, fore.sides, fore.steps, fore.lands, strict=True):
            at = lands + fore_phase
            found.append(Foot(f"{side} fore", side, leg, build, step, at, own.length, fore, ahead))
    return found


class Foreleg(NamedTuple):
    """A foreleg: where its shoulder is from the hips, complex pixels of the floor's frame; its angles, radians."""

    hip: np.ndarray
    leg: LegPose
    pitch: FloatArray


@dataclass(frozen=True)
class Girdles:
    """Hips and shoulders of one on all fours at phases (P,)."""

    walker: Walker
    pose: StridePose
    fore: StridePose

    @cached_property
    def pitch(self) -> FloatArray:
        """Radians (P,) by which the trunk is turned against the floor from how it is drawn; shoulders up positive."""
        fore, walker = self.walker.fore, self.walker
        if fore is None:
            return np.zeros_like(self.pose.phase)
        rises = fore.length * self.fore.hips.up - walker.length * self.pose.hips.up
        return np.asarray(np.arcsin(np.clip(rises / abs(fore.ahead), -1.0, 1.0)) - np.angle(fore.ahead))

    def foreleg(self, side: int) -> Foreleg:
        """The near (0) or the far foreleg."""
        fore, walker = self.walker.fore, self.walker
        if fore is None:
            raise ValueError("it has no forelegs")
        hips = walker.length * (self.pose.hips.along - self.pose.gone + 1j * self.pose.hips.up)
        steps, build = self.fore, fore.builds[side]
        beside = steps.hips.hip_along[side] - steps.hips.along + 1j * (steps.hips.hip_up[side] - steps.hips.up)
        shoulder = fore.ahead * np.exp(1j * self.pitch) + fore.length * beside
        ankle = steps.ankle_along[side] - steps.gone + 1j * steps.ankle_up[side]
        to = (fore.ahead.real + fore.length * ankle - hips - shoulder) / fore.length
        return Foreleg(shoulder, solve_leg(build, to.real, to.imag), steps.pitch[side])


def swapped(stride: Stride) -> Stride:
    """A stride whose near leg takes the far one's part."""
    near, far = stride.sides
    return replace(stride, near=far, far=near)


def swapped_pose(pose: StridePose) -> StridePose:
    """A pose of it with the legs back on their own sides."""
    hips = pose.hips._replace(hip_along=pose.hips.hip_along[::-1], hip_up=pose.hips.hip_up[::-1])
    rows = {name: getattr(pose, name)[::-1] for name in ("ankle_along", "ankle_up", "pitch", "toe", "share")}
    return pose._replace(hips=hips, leg=LegPose(*(row[::-1] for row in pose.leg)), **rows)
