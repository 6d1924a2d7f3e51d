"""A stride made from a card and a build: where hips, knees, feet and the upper body are at any phase.

Time and phase count strides of two steps; they differ where a pose lingers. The near foot lands at
whole phases, the far one in between. All lengths are leg lengths, y up, along the way from where the
near heel lands at phase 0. The model was fitted to a measured healthy walk (Fukuchi, Fukuchi and Duarte
2018, PeerJ 6:e4640, data CC BY 4.0); that of the upper body is common practice.
"""

from __future__ import annotations

import cmath
import math
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np
from scipy.interpolate import CubicSpline

from gaitwire.core.conventions import FloatArray
from gaitwire.core.walk.broad import broadened
from gaitwire.core.walk.build import ADULT, Build
from gaitwire.core.walk.card import GaitCard
from gaitwire.core.walk.foot import Ankle, FootStep, SolePose, ankle_of, sole_at, step_of, toe_pitch
from gaitwire.core.walk.hips import PHASES, Hips, Path, enveloped, lacking, mean_of
from gaitwire.core.walk.leg import LegPose, solve_leg
from gaitwire.core.walk.upper import Upper, upper_body
from gaitwire.core.walk.varied import Varied, varied_card

DEEPEST = 0.09
"""Leg lengths that the hips may sink for a stride's sake; a longer stride is made shorter instead."""
POSES = (("contact", 0.0), ("down", 0.1), ("passing", 0.25), ("up", 0.4))
"""The poses of a step, by how long after the foot's contact they come (common practice)."""
_TRIED, _HALVINGS = 9, 20


SIDES = ("near", "far")


class Moment(NamedTuple):
    """A pose of a walk: when it comes, in strides, what it is called, and whose step it belongs to."""

    time: float
    name: str
    side: str


class StridePose(NamedTuple):
    """A walker at phases (P,): legs and feet with a row for each side, near first; angles in radians."""

    phase: FloatArray
    hips: Hips
    ankle_along: FloatArray  # (2, P)
    ankle_up: FloatArray
    pitch: FloatArray  # (2, P) of the feet, toe up
    toe: FloatArray  # (2, P) pitch of the toe piece
    leg: LegPose  # (2, P) each
    share: FloatArray  # (2, P) of each foot's own stride since it landed
    upper: Upper
    gone: FloatArray  # (P,) where the hips would be if they went evenly


@dataclass(frozen=True)
class Stride:
    """A card on a build."""

    card: GaitCard
    near: Build = ADULT
    far: Build | None = None
    """As the near leg, if it is not told."""
    slope: float = 0.0
    """Degrees by which the floor rises in the way of the walk. All lengths and angles of legs are the floor's."""
    longest: float = math.inf
    """What it is held to, where something else holds it back."""

    @property
    def sides(self) -> tuple[Build, Build]:
        """The builds of the near leg and of the far one."""
        return self.near, self.far or self.near

    @property
    def upright(self) -> complex:
        """What turns level and plumb into along and off the floor."""
        return cmath.rect(1.0, -math.radians(self.slope))

    @cached_property
    def broad(self) -> GaitCard:
        """The card with its breadth laid on all that departs from standing."""
        return broadened(self.card)

    @cached_property
    def steps(self) -> tuple[FootStep, FootStep]:
        """The near foot's step and the far one's."""
        near, far = self.sides
        return step_of(self.broad, near), step_of(self.broad, far, far=True)

    @cached_property
    def lands(self) -> tuple[float, float]:
        """Phases at which the feet land: a spared leg's step is over sooner."""
        return 0.0, 0.5 + 0.04 * self.broad.limp

    @cached_property
    def length(self) -> float:
        """The stride in leg lengths, shortened where legs could not keep up."""
        if self._whole_need.max() <= DEEPEST:
            return self._asked
        lengths = self._asked * np.linspace(1.0, 0.0, _TRIED)
        needs = [self._deepest(float(length)) for length in lengths]
        fits = next((n for n, need in enumerate(needs) if need <= DEEPEST), None)
        if fits is None:  # even short ones are out of reach: the one that is least so
            return float(lengths[int(np.argmin(needs))])
        low, high = float(lengths[fits]), float(lengths[fits - 1])
        for _ in range(_HALVINGS):
            middle = (low + high) / 2
            low, high = (middle, high) if self._deepest(middle) <= DEEPEST else (low, middle)
        return low

    @cached_property
    def shortened(self) -> bool:
        """Whether the stride that the card asks for is too long for these legs."""
        return self.length < self.broad.stride

    @property
    def _asked(self) -> float:
        """The stride that is asked for."""
        return min(self.broad.stride, self.longest)

    def _need(self, length: float, phases: int = PHASES) -> FloatArray:
        """By how much the hips must sink, at phases (phases,), for a stride of that length."""
        phase = np.arange(phases) / phases
        along, up, _, _ = self._feet(phase, length)
        hips = Path(self.broad, self.sides, length).raised(phase, 0.0, self.upright)
        return lacking(hips, along, up, self.sides, self.upright)

    @cached_property
    def _whole_need(self) -> FloatArray:
        """The same for the stride that the card asks for: mostly it is had, and asked for twice."""
        return self._need(self._asked)

    def _deepest(self, length: float) -> float:
        return float(self._need(length).max())

    @cached_property
    def _sunk(self) -> CubicSpline | float:
        # A flight must stay ballistic: all of a run is lower instead.
        if self.broad.runs:
            return float(self._need(self.length, 8 * PHASES).max())
        return enveloped(self._need(self.length) if self.length < self._asked else self._whole_need)

    def _feet(self, phase: FloatArray, length: float) -> tuple[FloatArray, FloatArray, FloatArray, FloatArray]:
        """Ankles along and up, pitches and shares of the feet's own strides; (2, P) each."""
        along, up, pitch, shares = [], [], [], []
        for build, step, lands in zip(self.sides, self.steps, self.lands, strict=True):
            begun = np.floor(phase - lands + 1e-12)
            share = np.clip(phase - lands - begun, 0.0, 1.0)
            ankle: Ankle = ankle_of(build, step, share, length)
            along.append(length * (begun + lands) + ankle.along)
            up.append(ankle.up)
            pitch.append(ankle.pitch)
            shares.append(share)
        return np.stack(along), np.stack(up), np.stack(pitch), np.stack(shares)

    def phase_of(self, time: FloatArray) -> FloatArray:
        """Phases (P,) at times in strides: the same, but where a pose lingers."""
        return self._lingering(time, 1.0 - self.card.dwell)

    def time_of(self, phase: FloatArray) -> FloatArray:
        """The other way round."""
        return self._lingering(phase, 1.0 / (1.0 - self.card.dwell))

    def _lingering(self, t: FloatArray, speed: float) -> FloatArray:
        """Twice a stride the course goes at a speed, and makes up for that in between."""
        x = 2 * (np.asarray(t, float) - self.card.dwell_phase)
        whole = np.round(x)
        y = np.pi * (x - whole)
        return np.asarray(self.card.dwell_phase + (whole + np.arctan2(speed * np.sin(y), np.cos(y)) / np.pi) / 2)

    def poses(self, start: float, stop: float) -> list[Moment]:
        """The poses that a walk is drawn from, from one time to another."""
        found = []
        for side, lands in zip(SIDES, self.lands, strict=True):
            for name, after in POSES:
                first = float(self.time_of(np.array(lands + after))) % 1.0
                times = np.arange(np.floor(start), np.ceil(stop) + 1) + first
                found += [Moment(float(t), name, side) for t in times if start - 1e-9 <= t <= stop + 1e-9]
        return sorted(found)

    def at(self, time: FloatArray, varied: Varied | None = None) -> StridePose:
        """The walker at times (P,), in strides; with some settings that vary, none of which moves its feet."""
        return self.at_phase(self.phase_of(time), varied)

    def at_phase(self, phase: FloatArray, varied: Varied | None = None) -> StridePose:
        """The same at phases (P,)."""
        along, up, pitch, shares = self._feet(phase, self.length)
        sunk = self._sunk if isinstance(self._sunk, float) else self._sunk(np.mod(phase, 1.0))
        card = varied_card(self.broad, varied)
        hips = Path(card, self.sides, self.length).raised(phase, sunk, self.upright)
        dx, dy = along - hips.hip_along, up - hips.hip_up
        legs = [solve_leg(build, dx[n], dy[n]) for n, build in enumerate(self.sides)]
        leg = LegPose(*(np.stack(row) for row in zip(*legs, strict=True)))
        upper = upper_body(card, phase, self.lands)
        toes = np.stack([toe_pitch(build, up[n], pitch[n]) for n, build in enumerate(self.sides)])
        gone = self.length * (phase - self.broad.hip_ahead) + mean_of(self.sides, "heel")
        return StridePose(phase, hips, along, up, pitch, toes, leg, shares, upper, gone)

    def soles(self, pose: StridePose) -> SolePose:
        """Where the soles of a pose are, (2, P) each."""
        each = [
            sole_at(build, pose.ankle_along[n], pose.ankle_up[n], pose.pitch[n], pose.toe[n])
            for n, build in enumerate(self.sides)
        ]
        return SolePose(*(np.stack(row) for row in zip(*each, strict=True)))
