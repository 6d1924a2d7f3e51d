"""A hop: crouch, take-off, the arc of a thrown body, touch-down, squash, and an overshoot that dies out."""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, model_validator

from gaitwire.core.conventions import FloatArray


class Hop(BaseModel):
    """How a puppet hops. Frames are those of a light one; heft makes all of it but the air take longer."""

    model_config = ConfigDict(frozen=True)

    crouch: float = Field(default=7.0, ge=1, le=200, allow_inf_nan=False)
    """Frames from standing to the moment it leaves the ground."""
    air: float = Field(default=12.0, ge=2, le=400, allow_inf_nan=False)
    land: float = Field(default=4.0, ge=1, le=100, allow_inf_nan=False)
    """Frames from touch-down to the deepest squash."""
    settle: float = Field(default=14.0, ge=2, le=400, allow_inf_nan=False)
    """Frames from there until it stands still."""
    height: float = Field(default=160.0, gt=0, le=1e4, allow_inf_nan=False)
    """Pixels of the stage from where it leaves the ground up to the highest point."""
    distance: float = Field(default=200.0, ge=-1e5, le=1e5, allow_inf_nan=False)
    """Pixels across; less than nought to the left."""
    drop: float = Field(default=0.0, ge=-1e4, le=1e4, allow_inf_nan=False)
    """Pixels by which it comes down lower than it set out; less than nought for higher."""
    squash: float = Field(default=0.28, ge=0, le=0.8, allow_inf_nan=False)
    """Share of its height that it loses in the landing; two thirds of that in the crouch."""
    stretch: float = Field(default=0.2, ge=0, le=1.5, allow_inf_nan=False)
    """Share by which it is drawn out when it is fastest."""
    keep: float = Field(default=1.0, ge=0, le=1, allow_inf_nan=False)
    """How much of its area it keeps."""
    heft: float = Field(default=0.3, ge=0, le=1, allow_inf_nan=False)
    """0 as light as a leaf, 1 as heavy as a full barrel."""
    drag: float = Field(default=1.0, ge=0, le=4, allow_inf_nan=False)
    """How much what hangs from it lags behind."""

    @model_validator(mode="after")
    def _comes_down(self) -> Hop:
        if self.height + self.drop <= 0:
            raise ValueError("it cannot come down above its highest point: hop higher")
        return self


class Arc(NamedTuple):
    """The way through the air: gravity in pixels a frame a frame, frames up and down, speed at take-off."""

    gravity: float
    up: float
    down: float
    rise: float
    """Pixels a frame upwards when it leaves the ground."""
    across: float


def arc_of(hop: Hop) -> Arc:
    """The ballistic arc that takes as long (in whole frames), rises as high and comes down as low as asked.

    Up and down take sqrt(2 h / g) and sqrt(2 (h + d) / g) frames, so for T in all
    g = 2 (sqrt(h) + sqrt(h + d))^2 / T^2: on level ground 8 h / T^2.
    """
    top, fall = math.sqrt(hop.height), math.sqrt(max(hop.height + hop.drop, 0.0))
    frames = float(round(hop.air))
    gravity = 2 * (top + fall) ** 2 / frames**2
    up = frames * top / (top + fall)
    return Arc(gravity, up, frames - up, gravity * up, hop.distance / frames)


class HopKey(NamedTuple):
    """A key of a hop: what is said of one property at a time, and how it goes on from there."""

    prop: str
    time: float
    value: float
    ease: str = "sine-in-out"


SLOWER = 0.9
"""By how much more time a full heft takes for everything on the ground."""
HELD = 2.0
"""Frames that the deepest squash stays: about twice as long as others (*common practice*)."""
_DEEPER = 0.35
"""By how much more a full heft squashes."""
_SWINGS = 3
"""Times that the landing is shot over before it stands still."""
_LEFT = 0.42
"""Share of each swing that is left in the next."""
_UNSTRETCHED = 0.5
"""Share of the time up and down about the highest point in which it has its normal proportions."""


class Timing(NamedTuple):
    """When a hop does what, in frames from its start."""

    deepest: float
    off: float
    top: float
    down: float
    squashed: float
    end: float


def timing_of(hop: Hop) -> Timing:
    """The times of a hop, all but the highest point on whole frames; on the ground all takes longer with heft."""
    slow = 1 + SLOWER * hop.heft
    off = float(round(hop.crouch * slow))
    down = off + round(hop.air)
    squashed = down + max(1.0, round(hop.land * slow))
    end = squashed + HELD + max(2.0, round(hop.settle * slow))
    return Timing(float(round(off * 0.6)), off, off + arc_of(hop).up, down, squashed, end)


def beats_of(hop: Hop) -> list[HopKey]:
    """The keys of a whole puppet's place, stretch and its axis, from nought on; offsets from how it stood.

    The axis is in degrees from upright, clockwise.
    """
    return [*_way(hop), *_shape(hop)]


def _way(hop: Hop) -> list[HopKey]:
    """Three keys tell the arc exactly: going up it slows down evenly, coming down it gains speed evenly."""
    when = timing_of(hop)
    across = hop.distance * (when.top - when.off) / (when.down - when.off)
    return [
        HopKey("shift_x", 0.0, 0.0, "hold"), HopKey("shift_y", 0.0, 0.0, "hold"),
        HopKey("shift_x", when.off, 0.0, "linear"), HopKey("shift_y", when.off, 0.0, "quad-out"),
        HopKey("shift_x", when.top, across, "linear"), HopKey("shift_y", when.top, -hop.height, "quad-in"),
        HopKey("shift_x", when.down, hop.distance, "hold"), HopKey("shift_y", when.down, hop.drop, "hold"),
    ]  # fmt: skip


def _shape(hop: Hop) -> list[HopKey]:
    when, arc = timing_of(hop), arc_of(hop)
    deep = hop.squash * (1 + _DEEPER * hop.heft)
    landing = arc.gravity * arc.down
    fastest = max(arc.rise, landing, 1e-9)
    out, back = (1 + hop.stretch * speed / fastest for speed in (arc.rise, landing))
    calm = _UNSTRETCHED * arc.up, _UNSTRETCHED * arc.down
    beats = [
        HopKey("keep", 0.0, hop.keep, "hold"),
        HopKey("stretch", 0.0, 1.0), HopKey("stretch", when.deepest, 1 - deep * 2 / 3, "hold"),
        HopKey("stretch", max(when.deepest, when.off - 2), 1 - deep * 2 / 3, "quad-in"),
        HopKey("stretch", when.off, out, "sine-in-out"), HopKey("stretch", when.top - calm[0], 1.0, "hold"),
        HopKey("stretch", when.top + calm[1], 1.0, "quad-in"), HopKey("stretch", when.down - 1, back, "linear"),
        # One frame as it is by itself where it touches the ground: without it the squash would seem to come too soon.
        HopKey("stretch", when.down, 1.0, "quad-out"), HopKey("stretch", when.squashed, 1 - deep, "hold"),
        HopKey("stretch", when.squashed + HELD, 1 - deep, "sine-in-out"),
        *_swings(hop, when, deep),
        HopKey("axis", 0.0, 0.0, "hold"), HopKey("axis", when.off - 1, 0.0, "hold"),
        *_aims(hop, when, arc), HopKey("axis", when.down, 0.0, "hold"),
    ]  # fmt: skip
    return sorted(_apart(beats), key=lambda b: (b.prop, b.time))


def _swings(hop: Hop, when: Timing, deep: float) -> list[HopKey]:
    """Over and under its own height in turn, each time by a share of the time before."""
    start = when.squashed + HELD
    span = (when.end - start) / (_SWINGS + 1)
    return [
        HopKey("stretch", start + n * span, 1 + (-1) ** (n + 1) * deep * _LEFT**n if n <= _SWINGS else 1.0)
        for n in range(1, _SWINGS + 2)
    ]


def _aims(hop: Hop, when: Timing, arc: Arc) -> list[HopKey]:
    """The axis along the velocity, a line without a front: up the one way, down the other."""
    found = []
    for time in (when.off, when.top - _UNSTRETCHED * arc.up, when.top + _UNSTRETCHED * arc.down, when.down - 1):
        since = time - when.off
        angle = math.degrees(math.atan2(arc.across, arc.rise - arc.gravity * since))
        found.append(HopKey("axis", time, angle - 180.0 * round(angle / 180.0), "linear"))
    found[1] = found[1]._replace(ease="hold")
    return found


def _apart(beats: list[HopKey]) -> list[HopKey]:
    """Of beats of one property that fall on one time, the last."""
    return list({(b.prop, round(b.time, 6)): b for b in beats}.values())


def lag(hop: Hop, frames: FloatArray, aim: float, period: float = 11.0, damping: float = 0.16) -> FloatArray:
    """Degrees (F,) by which a piece that hangs on in a direction (degrees) swings behind the hop on the frames (F,).

    A damped swing driven by what the base does: t'' = -w^2 t - 2 z w t' - k (a x u), stepped finely
    (semi-implicit Euler, eight steps a frame). It starts and ends at rest.
    """
    when, arc = timing_of(hop), arc_of(hop)
    u = complex(math.cos(math.radians(aim)), math.sin(math.radians(aim)))
    omega, steps = 2 * math.pi / period, 8
    turn, speed, out = 0.0, 0.0, []
    kick_off, kick_down = complex(arc.across, -arc.rise), complex(arc.across, arc.gravity * arc.down)
    soft = max(1.0, when.off - when.deepest), max(1.0, when.squashed - when.down)
    for frame in np.arange(math.floor(float(frames[-1])) + 1):
        out.append(turn)
        for k in range(steps):
            t = frame + k / steps
            force = 1j * arc.gravity if when.off <= t < when.down else 0j
            force += kick_off / soft[0] if when.deepest <= t < when.off else 0j
            force -= kick_down / soft[1] if when.down <= t < when.squashed else 0j
            push = force.real * u.imag - force.imag * u.real  # across the piece, it stays behind what drives its base
            speed += (-(omega**2) * turn - 2 * damping * omega * speed + hop.drag * push * _SENSE) / steps
            turn += speed / steps
    return np.interp(frames, np.arange(len(out)), out)


_SENSE = 0.55
"""Degrees a frame a frame for a pixel a frame a frame across."""
