"""A foot over a stride: how it is pitched, and where its ankle is while it stands and while it swings.

Standing it rolls over its heel, its whole sole and its ball; the pivot changes only where the pitch,
its speed and its acceleration are zero, so that what touches the floor is exactly still. Swinging,
both rockers are continued beyond their ends and blended. Angles are in radians here, toe up.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.walk.build import Build
from gaitwire.core.walk.card import GaitCard
from gaitwire.core.walk.smooth import FloatOrArray, hump, positive, quintic, ramp, rise

_LONG_BALL = 0.24
_HIGH_ANKLE = 0.14
"""Leg lengths from ankle to ball, and from ankle to floor, up to which a foot rolls as far as the card says."""
_LATEST = 0.72
"""Share of a foot's stance by which its heel is off the floor at the latest: rolling over the ball takes time."""


@dataclass(frozen=True)
class FootStep:
    """One foot's part of a card: times are shares of its stride from its own contact, angles radians.

    What may differ from one step to the next can be given for each of some phases (P,).
    """

    stance: float
    flat: float  # the sole comes down
    heel_off: FloatOrArray
    peak: float  # the greatest pitch after toe off
    on_heel: bool
    """Whether the heel lands first; else it is the ball."""
    strike: FloatOrArray
    landing: FloatOrArray  # the strike at the end of it
    push: FloatOrArray
    sharpness: float
    follow: float
    clearance: FloatOrArray
    kick: FloatOrArray
    kick_at: float
    swing_start: float
    swing_end: float
    lift_start: float
    lift_end: float


def step_of(card: GaitCard, build: Build, far: bool = False) -> FootStep:
    """A foot's step, its limp laid on: the spared leg stands for less time, rolls and lifts less.

    A foot that is long from ankle to ball, or a high one, as a big boot of one piece is, does not roll
    as far over ball and heel: else it would throw the ankle about.
    """
    spared = max(0.0, -card.limp if far else card.limp)
    burdened = max(0.0, card.limp if far else -card.limp)
    stance = card.stance_share * (1 - 0.14 * spared + 0.06 * burdened)
    left = (1 - 0.9 * card.scuff) * (1 - 0.3 * spared)
    strike = (card.heel_roll * (1 - 0.5 * spared) - 24.0 * card.scuff) * min(1.0, _HIGH_ANKLE / max(build.ankle, 1e-3))
    push = card.toe_roll * (1 - 0.55 * spared) * (1 - 0.5 * card.scuff) * min(1.0, _LONG_BALL / max(build.ball, 1e-3))
    flat = card.flat_from * stance
    heel_off = min(max(card.heel_off * (stance / card.stance_share), flat), _LATEST * stance)
    return FootStep(
        stance=stance, flat=flat, heel_off=heel_off,
        peak=stance + card.pitch_peak * (1 - stance), on_heel=strike >= 0, strike=float(np.radians(strike)),
        landing=float(np.radians(strike)), push=float(np.radians(push)),
        sharpness=card.roll_sharpness, follow=card.pitch_follow, clearance=card.clearance * left,
        kick=card.heel_kick * left * (1 - 0.4 * spared), kick_at=card.kick_at, swing_start=card.swing_start,
        swing_end=card.swing_end, lift_start=card.lift_start, lift_end=card.lift_end,
    )  # fmt: skip


class Rocker(NamedTuple):
    """The ankle over a point that rests on the floor, (P,) each: along and up from that point."""

    along: FloatArray
    up: FloatArray


def over_heel(build: Build, pitch: FloatArray) -> Rocker:
    """The ankle from where the heel touches the floor."""
    c, s = np.cos(pitch), np.sin(pitch)
    return Rocker(build.heel * c - build.ankle * s, build.heel * s + build.ankle * c)


def over_ball(build: Build, pitch: FloatArray) -> Rocker:
    """The ankle from the floor under the ball's hinge."""
    c, s = np.cos(pitch), np.sin(pitch)
    height = build.ankle - build.hinge
    return Rocker(-build.ball * c - height * s, build.hinge - build.ball * s + height * c)


def pitch_of(step: FootStep, u: FloatArray) -> FloatArray:
    """Pitch (P,) at shares u of the foot's stride, in [0, 1)."""
    span = step.stance - step.heel_off
    x = np.clip((u - step.heel_off) / span, 0.0, 1.0)
    speed, change = -step.push * step.sharpness / span, -step.push * step.sharpness * (step.sharpness - 1) / span**2
    swing = step.peak - step.stance
    top = -step.push + step.follow * speed * swing
    rest = 1 - step.peak
    turn = 5 * (step.landing - top) / rest**2
    after = quintic(
        (u - step.stance) / swing,
        (-step.push, speed * swing, change * swing**2),
        (top, 0.0, turn * swing**2),
    )
    home = quintic((u - step.peak) / rest, (top, 0.0, turn * rest**2), (step.landing, 0.0, 0.0))
    return np.select(
        [u < step.flat, u < step.heel_off, u < step.stance, u < step.peak],
        [step.strike * (1 - rise(u / step.flat)), np.zeros_like(u), -step.push * x**step.sharpness, after],
        home,
    )


class Ankle(NamedTuple):
    """An ankle against the plant before, (P,) each: along from where that heel lies, and up from the floor."""

    along: FloatArray
    up: FloatArray
    pitch: FloatArray


def ankle_of(build: Build, step: FootStep, u: FloatArray, stride: FloatArray | float) -> Ankle:
    """The ankle at shares u (P,) of the foot's stride; the next plant lies `stride` further on."""
    pitch = pitch_of(step, u)
    heel, ball = over_heel(build, pitch), over_ball(build, pitch)
    on_ball = build.sole + ball.along
    s = np.clip((u - step.stance) / (1 - step.stance), 0.0, 1.0)
    w = ramp(s, step.swing_start, step.swing_end)
    landing = heel.along if step.on_heel else on_ball
    lift = step.clearance * rise(s / step.lift_start) * rise((1 - s) / step.lift_end)
    lift = lift + step.kick * hump(s, step.kick_at)
    width = 0.5 * build.sole * np.minimum(1.0, step.push / 0.3) * 64 * s**3 * (1 - s) ** 3
    support = ball.up + positive(heel.up - ball.up, width)
    standing = u < step.stance
    first = standing & (u < step.flat) & step.on_heel
    along = np.where(first, heel.along, np.where(standing, on_ball, (1 - w) * on_ball + w * (stride + landing)))
    up = np.where(first, heel.up, np.where(standing, ball.up, support + lift))
    return Ankle(along, up, pitch)


def toe_pitch(build: Build, up: FloatArray, pitch: FloatArray) -> FloatArray:
    """Pitch of the toe piece: flat while it lies on the floor, then peeling off it."""
    if build.toe <= 0:
        return pitch
    hinge = up - (build.ankle - build.hinge) * np.cos(pitch) + build.ball * np.sin(pitch)
    lifted = np.maximum(0.0, hinge - build.hinge) / build.toe
    bent = np.maximum(0.0, -np.sin(pitch))
    size = np.hypot(lifted, bent)
    peeled = -np.arcsin(np.clip(lifted * bent / np.where(size > 0, size, 1.0), 0.0, 1.0))
    return np.where(pitch >= 0, pitch, peeled)


class SolePose(NamedTuple):
    """Points of a sole, complex (along + 1j up), of the shape of the ankles: heel, under the ball, toe's end."""

    heel: np.ndarray
    ball: np.ndarray
    toe: np.ndarray


def sole_at(build: Build, along: FloatArray, up: FloatArray, pitch: FloatArray, toe: FloatArray) -> SolePose:
    """Where a foot's sole is, from its ankle, its pitch and that of its toe piece."""
    ankle, turned, bent = along + 1j * up, np.exp(1j * pitch), np.exp(1j * toe)
    hinge = ankle + (build.ball - 1j * (build.ankle - build.hinge)) * turned
    # The ball's flesh hangs below its hinge on the toe's side while the heel is up, on the sole's while it is down.
    under = hinge - 1j * build.hinge * np.where(pitch < 0, 1.0, turned)
    return SolePose(
        ankle - (build.heel + 1j * build.ankle) * turned, under, hinge + (build.toe - 1j * build.hinge) * bent
    )
