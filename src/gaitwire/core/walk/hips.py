"""The hips over a stride: carried between the feet, sunk just far enough that both legs reach, or in flight."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, NamedTuple

import numpy as np
from scipy.interpolate import CubicSpline
from scipy.ndimage import convolve1d, maximum_filter1d

from gaitwire.core.conventions import FloatArray
from gaitwire.core.walk.build import Build
from gaitwire.core.walk.card import GaitCard

TAU = 2 * np.pi
PHASES = 512
"""Phases of a stride on which the reach of the legs is looked into."""
WIDE = 0.05
"""Shares of a stride to either side of a phase that is out of reach over which the hips sink."""
SPAN = 1.004
"""How far a leg reaches, in its own length: its bones may be stretched by as much."""
RIGID_SPAN = 0.996
_LONGEST_CONTACT = 0.49
_LIST = (0.005, 0.37, 0.008, 0.167)
"""Tilt of the hips seen from the side: height and phase of the first and of the third harmonic."""


class Hips(NamedTuple):
    """Along and up from the floor under the walk's beginning, (P,), in leg lengths: the middle, and each hip."""

    along: FloatArray
    up: FloatArray
    hip_along: FloatArray  # (2, P): near, far
    hip_up: FloatArray


def mean_of(sides: tuple[Build, Build], name: str) -> float:
    """The mean of both sides of something about them."""
    return float(sum(getattr(side, name) for side in sides) / 2)


def _middle_up(card: GaitCard, ankle: float, phase: FloatArray) -> FloatArray:
    """Height of the hips before the legs have their say."""
    level = 1.0 + ankle - card.sink
    if card.runs:
        return level + _flight(card, phase)
    wave = card.bounce * np.cos(2 * TAU * (phase - card.bounce_phase))
    return np.asarray(level + wave + card.limp_bounce * np.cos(TAU * (phase - card.limp_phase)))


def _flight(card: GaitCard, phase: FloatArray) -> FloatArray:
    """Height over running steps, up and down by `bounce` to either side as in a walk."""
    contact = min(card.stance_share, _LONGEST_CONTACT)
    travel = np.ptp(_bound(contact, np.linspace(0.0, 0.5, 257)))
    return np.asarray(2 * card.bounce / travel * _bound(contact, phase))


def _bound(contact: float, phase: FloatArray) -> FloatArray:
    """Height over running steps under a gravity of 1: ballistic in the air, on the floor borne by a half sine of force.

    The contact of a step begins with it. Over the step the force lifts as much as gravity takes, so
    that the seam is closed in place and in speed.
    """
    half = 0.5
    t = np.mod(phase, half)
    down, air = np.minimum(t, contact), np.maximum(t - contact, 0.0)
    begin = -(half - contact) / 2
    force = (np.pi / 2) * (half / contact)
    borne = force * (contact / np.pi) * (down - contact / np.pi * np.sin(np.pi * down / contact))
    off = begin - contact + 2 * force * contact / np.pi
    return np.asarray(begin * down - down**2 / 2 + borne + off * air - air**2 / 2)


@dataclass(frozen=True)
class Path:
    """The hips of a card at a stride's length, without what the legs ask for."""

    card: GaitCard
    sides: tuple[Build, Build]
    stride: float

    def along(self, phase: FloatArray) -> FloatArray:
        card = self.card
        wave = card.surge * np.cos(2 * TAU * (phase - card.surge_phase))
        return np.asarray(self.stride * (phase - card.hip_ahead) + mean_of(self.sides, "heel") + wave)

    def apart(self, phase: FloatArray) -> tuple[FloatArray, FloatArray]:
        """How far the near hip is from the middle, along and up; the far one as far to the other side."""
        card = self.card
        first, p1, third, p3 = _LIST
        up = first * np.cos(TAU * (phase - p1)) + third * np.cos(3 * TAU * (phase - p3))
        return card.hip_turn * np.cos(TAU * (phase - card.hip_turn_phase)), card.sway * up

    def raised(self, phase: FloatArray, sunk: FloatArray | float, upright: complex = 1.0) -> Hips:
        """The hips at phases (P,), lower by `sunk`; `upright` turns what is level and plumb into the floor's frame."""
        up = _middle_up(self.card, mean_of(self.sides, "ankle"), phase) - sunk
        middle = self.along(phase) + 1j * up * upright
        dx, dy = self.apart(phase)
        near, far = (side.hip for side in self.sides)
        hips = np.stack([middle + (dx + 1j * dy + near) * upright, middle + (-dx - 1j * dy + far) * upright])
        return Hips(middle.real, middle.imag, hips.real, hips.imag)


def lacking(
    hips: Hips, ankle_along: FloatArray, ankle_up: FloatArray, sides: tuple[Build, Build], upright: complex = 1.0
) -> FloatArray:
    """By how much (P,) the hips are too high, along the plumb line, for either leg (2, P) to reach its ankle."""
    leg = (hips.hip_along - ankle_along + 1j * (hips.hip_up - ankle_up)) / upright
    spans = np.array([[side.length * (RIGID_SPAN if side.rigid else SPAN)] for side in sides])
    reach = np.sqrt(np.maximum(spans**2 - leg.real**2, 0.0))
    return np.asarray(np.maximum(leg.imag - reach, 0.0).max(axis=0))


def enveloped(need: FloatArray) -> CubicSpline:
    """A smooth periodic course, nowhere below needs (PHASES,) over one stride.

    The needs are widened by their maximum over a window and smoothed by a cubic B-spline of the same
    width: what is smoothed never falls below what it was widened from.
    """
    soft = _widened(need, round(WIDE * len(need)), "wrap")
    return CubicSpline(np.linspace(0.0, 1.0, len(need) + 1), np.append(soft, soft[0]), bc_type="periodic")


def enveloped_once(phase: FloatArray, need: FloatArray) -> CubicSpline:
    """The same over phases (P,), evenly apart, of a walk that has a beginning and an end."""
    soft = _widened(need, round(WIDE / (phase[1] - phase[0])), "nearest")
    return CubicSpline(phase, soft)


def _widened(need: FloatArray, reach: int, mode: Literal["wrap", "nearest"]) -> FloatArray:
    reach = max(1, reach)
    wide = maximum_filter1d(need, 2 * reach + 1, mode=mode)
    x = np.linspace(-2, 2, 2 * reach + 1)
    a = np.abs(x)
    kernel = np.where(a < 1, 2 / 3 - a**2 + a**3 / 2, np.maximum(2 - a, 0.0) ** 3 / 6)
    return np.asarray(convolve1d(wide, kernel / kernel.sum(), mode=mode))
