"""Gait cards: the settings of a walk, in leg lengths, degrees, frames and shares of a stride."""

from __future__ import annotations

from typing import Any

from pydantic import BaseModel, ConfigDict, Field


def _number(default: float, low: float, high: float) -> Any:
    return Field(default=default, ge=low, le=high, allow_inf_nan=False)


class GaitCard(BaseModel):
    """One walk. Lengths are in leg lengths (thigh and shank together), angles in degrees, phases in strides.

    The first settings are those that an animator turns; what stands last shapes the model itself and is
    seldom touched by hand.
    """

    model_config = ConfigDict(frozen=True)

    name: str = Field(default="plain", min_length=1, max_length=60)

    frames_a_step: float = _number(12.0, 2.0, 96.0)
    stride: float = _number(1.62, 0.0, 3.2)
    stance_share: float = _number(0.61, 0.25, 0.8)
    clearance: float = _number(0.03, 0.0, 0.3)
    heel_kick: float = _number(0.092, 0.0, 0.5)
    heel_roll: float = _number(17.0, -30.0, 40.0)
    toe_roll: float = _number(60.0, 0.0, 80.0)
    scuff: float = _number(0.0, 0.0, 1.0)
    stance_width: float = _number(0.16, -0.3, 1.0)

    sink: float = _number(0.018, -0.02, 0.3)
    bounce: float = _number(0.0145, -0.06, 0.08)
    bounce_phase: float = _number(0.31, 0.0, 0.5)
    surge: float = _number(0.0135, -0.06, 0.06)
    lean: float = _number(2.0, -40.0, 60.0)
    back_curl: float = _number(0.0, -40.0, 60.0)
    back_twist: float = _number(3.0, -30.0, 30.0)
    sway: float = _number(1.0, 0.0, 4.0)
    dwell: float = _number(0.0, 0.0, 0.8)
    dwell_phase: float = _number(0.0, 0.0, 0.5)

    arm_swing: float = _number(22.0, -90.0, 90.0)
    shoulder_rest: float = _number(0.0, -90.0, 90.0)
    elbow_fold: float = _number(18.0, 0.0, 150.0)
    elbow_swing: float = _number(10.0, -60.0, 60.0)
    arm_lag: float = _number(0.03, -0.25, 0.25)
    gaze_height: float = _number(0.0, -60.0, 60.0)
    nod: float = _number(1.5, -30.0, 30.0)
    nod_rate: float = _number(1.0, 0.5, 4.0)
    nod_lag: float = _number(0.06, -0.5, 0.5)

    breadth: float = _number(1.0, 0.0, 2.0)
    pace: float = _number(1.0, 0.1, 5.0)
    limp: float = _number(0.0, -1.0, 1.0)

    fore_phase: float = _number(0.25, 0.0, 1.0)
    fore_lift: float = _number(1.0, 0.0, 4.0)
    fore_sink: float = _number(0.0, -0.2, 0.3)

    roll_sharpness: float = _number(5.1, 3.0, 6.5)
    flat_from: float = _number(0.115, 0.05, 0.3)
    heel_off: float = _number(0.125, 0.05, 0.7)
    pitch_peak: float = _number(0.118, 0.08, 0.3)
    pitch_follow: float = _number(0.46, 0.0, 0.6)
    kick_at: float = _number(0.168, 0.12, 0.5)
    swing_start: float = _number(0.23, 0.1, 0.6)
    swing_end: float = _number(0.26, 0.1, 0.6)
    lift_start: float = _number(0.46, 0.1, 0.6)
    lift_end: float = _number(0.2, 0.1, 0.6)
    hip_ahead: float = _number(0.225, 0.08, 0.35)
    surge_phase: float = _number(0.16, -0.5, 0.5)
    limp_bounce: float = _number(0.0, -0.06, 0.06)
    limp_phase: float = _number(0.0, -0.5, 0.5)
    hip_turn: float = _number(0.052, -0.1, 0.15)
    hip_turn_phase: float = _number(-0.03, -0.5, 0.5)

    @classmethod
    def bounds(cls, name: str) -> tuple[float, float]:
        """What a setting is held to."""
        limits = cls.model_fields[name].metadata
        low = next(m.ge for m in limits if hasattr(m, "ge"))
        high = next(m.le for m in limits if hasattr(m, "le"))
        return float(low), float(high)

    @property
    def nods(self) -> int:
        """Nods of the head in a stride, whole ones: else the end would not meet the start."""
        return max(1, round(2 * self.nod_rate))

    @property
    def runs(self) -> bool:
        """Whether there is a flight: neither foot is down for a while."""
        return self.stance_share < 0.5

    @property
    def frames(self) -> float:
        """Frames of a stride, which is two steps."""
        return 2.0 * self.frames_a_step / self.pace
