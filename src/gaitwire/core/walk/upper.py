"""What is above the hips over a stride: trunk, head and arms, by common practice rather than by measurement."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.walk.card import GaitCard

TAU = 2 * np.pi
_ELBOW_LAG = 0.04
"""Shares of a stride by which the forearm comes after the upper arm."""
_SETTLE = 0.06
"""Degrees by which an upright trunk bows as the weight comes down, for each percent of bounce."""


class Upper(NamedTuple):
    """Angles in degrees, (P,) or (2, P) with the near side first; forward and up positive."""

    trunk: FloatArray  # the lower trunk against the vertical
    chest: FloatArray  # what the back adds
    twist: FloatArray  # of the shoulders against the hips, the near one forward
    head: FloatArray  # where the face looks, against level
    shoulder: FloatArray  # (2, P) of the upper arms against the vertical
    elbow: FloatArray  # (2, P) bend


def upper_body(card: GaitCard, phase: FloatArray, lands: tuple[float, float]) -> Upper:
    """The upper body at phases (P,); arms go with the legs of the other side."""
    low = np.cos(2 * TAU * (phase - card.bounce_phase - 0.25))  # 1 when the body is lowest
    nods = np.cos(card.nods * TAU * (phase - card.bounce_phase - 0.25 - card.nod_lag))
    give = _SETTLE * 100 * card.bounce
    lean = card.lean + give * low * (1 + abs(card.lean) / 20)
    swings = np.stack([np.cos(TAU * (phase - opposite - card.arm_lag)) for opposite in lands[::-1]])
    folds = np.stack([np.cos(TAU * (phase - opposite - card.arm_lag - _ELBOW_LAG)) for opposite in lands[::-1]])
    return Upper(
        trunk=lean,
        chest=card.back_curl + 0.5 * give * low,
        twist=card.back_twist * np.cos(TAU * (phase - lands[1])),
        head=card.gaze_height - card.nod * nods,
        shoulder=card.shoulder_rest + card.arm_swing * swings,
        elbow=np.maximum(card.elbow_fold + card.elbow_swing * folds, 0.0),
    )
