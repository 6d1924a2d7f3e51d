"""How much each bone moves each point of a soft part."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from scipy.special import softmax

from gaitwire.core.conventions import FloatArray

FALL_OFF = 0.3
"""A bone's hold falls off over this share of the part's thickness, times the bone's reach."""

_LEAST = 0.004
"""Shares below this are left to the other bones."""


def bone_weights(
    points: FloatArray, pivots: FloatArray, tips: FloatArray, reaches: Sequence[float], thickness: float
) -> FloatArray:
    """Weights (K, B) of bones for points (K, 2); each row adds up to 1.

    Bones run from `pivots` to `tips`, (B, 2) each, in the same pixels; `reaches` are factors on
    the width of the change-over from one bone to the next.

    A point's distance from a bone is how far it lies beside it plus how far it lies beyond its
    ends, along it. Two bones in a line are then equally far beside every point, so that the
    change-over between them is the same S across the whole width of the part (a logistic function
    of the way along), and the part bends as a curve.
    """
    axis = tips - pivots
    length = np.hypot(*axis.T)
    along = axis / np.maximum(length, 1e-9)[:, None]
    dx, dy = (points[:, None, i] - pivots[None, :, i] for i in (0, 1))
    ahead = dx * along[:, 0] + dy * along[:, 1]
    beside = np.abs(dy * along[:, 0] - dx * along[:, 1])
    point = length < 1e-6  # a bone without length holds a disc
    beyond = np.where(point, np.hypot(dx, dy), np.maximum(-ahead, 0) + np.maximum(ahead - length, 0))
    distance = beyond + np.where(point, 0.0, beside)
    width = FALL_OFF * thickness * np.maximum(np.asarray(reaches, float), 0.02)
    weights = softmax(-distance / np.maximum(width, 1e-6), axis=1)
    return settled(weights)


def settled(weights: FloatArray) -> FloatArray:
    """Weights without negligible shares, each row adding up to 1."""
    kept = np.where(weights < _LEAST, 0.0, weights)
    total = kept.sum(axis=1, keepdims=True)
    whole = np.where(total > 0, kept / np.where(total > 0, total, 1.0), 1.0 / max(weights.shape[1], 1))
    return np.asarray(whole)


def brushed(
    weights: FloatArray, points: FloatArray, bone: int, centre: tuple[float, float], radius: float, amount: float
) -> FloatArray:
    """Weights after one dab of the brush: the bone's share grows by `amount` (negative: shrinks) at the
    centre, less towards the rim; the other bones share out what is left in their old proportions.
    """
    distance = np.hypot(points[:, 0] - centre[0], points[:, 1] - centre[1]) / max(radius, 1e-6)
    fall = np.where(distance < 1, (1 - np.minimum(distance, 1) ** 2) ** 2, 0.0)
    own = np.clip(weights[:, bone] + amount * fall, 0.0, 1.0)
    rest = weights.copy()
    rest[:, bone] = 0.0
    left = rest.sum(axis=1)
    others = max(weights.shape[1] - 1, 1)
    spread = np.where(left[:, None] > 1e-9, rest / np.maximum(left, 1e-9)[:, None], 1.0 / others)
    spread[:, bone] = 0.0
    out = spread * (1 - own)[:, None]
    out[:, bone] = own if weights.shape[1] > 1 else 1.0
    return np.asarray(np.where(fall[:, None] > 0, out, weights))
