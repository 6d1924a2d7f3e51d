"""A stride made from a card and a build: where hips, knees, feet and the upper body are at any phase.

Time and phase count strides of two steps; they differ where a pose lingers. The near foot lands at
whole phases, the far one in between. All lengths are leg lengths, y up, along the way from where the
near heel lands at phase 0. The model was fitted to a measured healthy walk (Fukuchi, Fukuchi and Duarte
2018, PeerJ 6:e4640, data CC BY 4.0); that of the upper body is common practice.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np
from scipy.interpolate import CubicSpline

from gaitwire.core.conventions import FloatArray
from gaitwire.core.walk.broad import broadened
from gaitwire.core.walk.build import ADULT, Build
from gaitwire.core.walk.card import GaitCard
from gaitwire.core.walk.foot import Ankle, Step, ankle_of, step_of
from gaitwire.core.walk.hips import PHASES, RIGID_SPAN, SPAN, Hips, Path, enveloped, lacking
from gaitwire.core.walk.leg import Leg, solve_leg
from gaitwire.core.walk.upper import Upper, upper_body

DEEPEST = 0.09
"""Leg lengths that the hips may sink for a stride's sake; a longer stride is made shorter instead."""
_HALVINGS = 24


class Pose(NamedTuple):
    """A walker at phases (P,): legs and feet with a row for each side, near first; angles in radians."""

    phase: FloatArray
    hips: Hips
    ankle_along: FloatArray  # (2, P)
    ankle_up: FloatArray
    pitch: FloatArray  # (2, P) of the feet, toe up
    toe: FloatArray  # (2, P) pitch of the toe piece
    leg: Leg  # (2, P) each
    share: FloatArray  # (2, P) of each foot's own stride since it landed
    upper: Upper

    def down(self, step: tuple[Step, Step]) -> np.ndarray:
        """Which feet are on the floor (2, P)."""
        return np.stack([share < s.stance for share, s in zip(self.share, step, strict=True)])


@dataclass(frozen=True)
class Stride:
    """A card on a build."""

    card: GaitCard
    build: Build = ADULT

    @cached_property
    def broad(self) -> GaitCard:
        """The card with its breadth laid on all that departs from standing."""
        return broadened(self.card)

    @cached_property
    def steps(self) -> tuple[Step, Step]:
        """The near foot's step and the far one's."""
        return step_of(self.broad), step_of(self.broad, far=True)

    @cached_property
    def lands(self) -> tuple[float, float]:
        """Phases at which the feet land: a spared leg's step is over sooner."""
        return 0.0, 0.5 + 0.04 * self.broad.limp

    @cached_property
    def length(self) -> float:
        """The stride in leg lengths, shortened where legs could not keep up."""
        wanted = self.broad.stride
        if self._deepest(wanted) <= DEEPEST:
            return wanted
        low, high = 0.0, wanted
        for _ in range(_HALVINGS):
            middle = (low + high) / 2
            low, high = (middle, high) if self._deepest(middle) <= DEEPEST else (low, middle)
        return low

    @cached_property
    def shortened(self) -> bool:
        """Whether the stride that the card asks for is too long for these legs."""
        return self.length < self.broad.stride

    @property
    def _span(self) -> float:
        return RIGID_SPAN if self.build.rigid else SPAN

    def _need(self, length: float) -> FloatArray:
        """By how much the hips must sink (PHASES,) for a stride of that length."""
        phase = np.arange(PHASES) / PHASES
        along, up, _, _ = self._feet(phase, length)
        return lacking(Path(self.broad, self.build, length).raised(phase, 0.0), along, up, self._span)

    def _deepest(self, length: float) -> float:
        return float(self._need(length).max())

    @cached_property
    def _sunk(self) -> CubicSpline | float:
        need = self._need(self.length)
        # A flight must stay ballistic: all of a run is lower instead.
        return float(need.max()) if self.broad.runs else enveloped(need)

    def _feet(self, phase: FloatArray, length: float) -> tuple[FloatArray, FloatArray, FloatArray, FloatArray]:
        """Ankles along and up, pitches and shares of the feet's own strides; (2, P) each."""
        along, up, pitch, shares = [], [], [], []
        for step, lands in zip(self.steps, self.lands, strict=True):
            begun = np.floor(phase - lands + 1e-12)
            share = np.clip(phase - lands - begun, 0.0, 1.0)
            ankle: Ankle = ankle_of(self.build, step, share, length)
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

    def at(self, time: FloatArray) -> Pose:
        """The walker at times (P,), in strides."""
        phase = self.phase_of(time)
        along, up, pitch, shares = self._feet(phase, self.length)
        sunk = self._sunk if isinstance(self._sunk, float) else self._sunk(np.mod(phase, 1.0))
        hips = Path(self.broad, self.build, self.length).raised(phase, sunk)
        leg = solve_leg(self.build, along - hips.hip_along, up - hips.hip_up)
        upper = upper_body(self.broad, phase, self.lands)
        return Pose(phase, hips, along, up, pitch, self._toes(up, pitch), leg, shares, upper)

    def _toes(self, up: FloatArray, pitch: FloatArray) -> FloatArray:
        """Pitch of the toe pieces: flat while they lie on the floor, then peeling off it."""
        build = self.build
        if build.toe <= 0:
            return pitch
        hinge = up - (build.ankle - build.hinge) * np.cos(pitch) + build.ball * np.sin(pitch)
        lifted = np.maximum(0.0, hinge - build.hinge) / build.toe
        bent = np.maximum(0.0, -np.sin(pitch))
        size = np.hypot(lifted, bent)
        peeled = -np.arcsin(np.clip(lifted * bent / np.where(size > 0, size, 1.0), 0.0, 1.0))
        return np.where(pitch >= 0, pitch, peeled)
