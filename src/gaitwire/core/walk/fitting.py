"""The gait card whose joint angles come closest to a measured walk's."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from scipy.optimize import least_squares

from gaitwire.core.conventions import FloatArray
from gaitwire.core.walk.card import GaitCard
from gaitwire.core.walk.measures import RATE, measured
from gaitwire.core.walk.recorded import JOINTS, Recorded
from gaitwire.core.walk.stride import Stride

_FREE = (
    "heel_roll", "toe_roll", "clearance", "heel_kick", "sink", "bounce", "bounce_phase", "surge", "surge_phase",
    "roll_sharpness", "flat_from", "heel_off", "pitch_peak", "pitch_follow", "kick_at", "swing_start", "swing_end",
    "lift_start", "lift_end", "hip_ahead", "hip_turn", "hip_turn_phase", "stride",
)  # fmt: skip
"""What is sought for; the rest of a card says nothing about legs seen from the side, or is measured itself."""
_IN_PLACE = 0.1
"""Leg lengths up to which a stride goes nowhere, as on a belt: then its length is sought for too."""
_DEGREES = 5.0
"""An error of as much counts as one."""
_STIFF = 0.6
"""How much it costs to depart from the plain card by a setting's own size: noise is not followed."""
_MEASURED = 4.0
"""The same for a stride whose length was measured."""
_ROUGH = 0.25
"""How much it costs for knee and hip to be uneven."""


FAR_OFF = 14.0
"""Degrees, root mean square, from which on a joint counts as missed: half of what a hip swings."""
_LOOSE = 0.5
"""Correlation below which hip and knee do."""


@dataclass(frozen=True)
class Fit:
    """A card with how far its angles are from what was measured, by joint: degrees, and correlation."""

    card: GaitCard
    off: Mapping[str, float]
    correlation: Mapping[str, float]

    @property
    def missed(self) -> list[str]:
        """Joints whose course the card does not follow: what was measured is hardly a walk as cards make them."""
        loose = {joint for joint in ("hip", "knee") if self.correlation[joint] < _LOOSE}
        return [joint for joint in JOINTS if self.off[joint] > FAR_OFF or joint in loose]


def fit_card(walk: Recorded, name: str = "measured", plain: GaitCard | None = None) -> Fit:
    """The card closest to a measured walk, by least squares from the plain one."""
    start = plain or GaitCard()
    known = {"name": name, "stance_share": float(np.clip(walk.stance_share, 0.25, 0.8))}
    known["frames_a_step"] = float(np.clip(round(walk.seconds * RATE / 2, 2), 2.0, 96.0))
    stiff = np.full(len(_FREE), _STIFF)
    if walk.stride > _IN_PLACE:
        known["stride"] = float(np.clip(walk.stride, 0.0, 3.2))
        stiff[_FREE.index("stride")] = _MEASURED
    start = start.model_copy(update=known)
    begin = np.array([getattr(start, n) for n in _FREE])
    size = np.maximum(np.abs(begin), 0.05)
    low, high = (np.array(bounds) for bounds in zip(*map(GaitCard.bounds, _FREE), strict=True))

    def card_at(steps: FloatArray) -> GaitCard:
        values = np.clip(begin + steps * size, low, high)
        return start.model_copy(update=dict(zip(_FREE, values.tolist(), strict=True)))

    def misses(steps: FloatArray) -> FloatArray:
        found = measured(Stride(card_at(steps)))
        apart = [(getattr(found, joint) - walk.curves[joint]) / _DEGREES for joint in JOINTS]
        rough = [_ROUGH * np.diff(row, 3) for row in (found.hip, found.knee)]
        return np.concatenate([*apart, *rough, stiff * steps])

    card = card_at(least_squares(misses, np.zeros(len(_FREE)), max_nfev=14, diff_step=1e-3).x)
    found = measured(Stride(card))
    rows = {joint: (getattr(found, joint), walk.curves[joint]) for joint in JOINTS}
    return Fit(
        card,
        {joint: float(np.sqrt(np.mean((a - b) ** 2))) for joint, (a, b) in rows.items()},
        {joint: float(np.corrcoef(a, b)[0, 1]) for joint, (a, b) in rows.items()},
    )
