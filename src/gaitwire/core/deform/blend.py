"""Blending bones: every point of a soft part goes with several bones, and keeps its distance.

A weighted mean of matrices makes a bent arm thin at the elbow. So each bone's motion is split into
a stretch about its own pivot and a rigid motion; the rigid motions are blended as dual complex
numbers, which turn about the point that both bones hold (Kavan et al. 2008, dual quaternion linear
blending, in the plane).
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from gaitwire.core.conventions import FloatArray, IntArray
from gaitwire.core.geometry import affine


def to_complex(points: FloatArray) -> np.ndarray:
    """Points (..., 2) as complex numbers x + iy."""
    return np.ascontiguousarray(points[..., 0] + 1j * points[..., 1])


def _turns(matrices: FloatArray, before: IntArray) -> FloatArray:
    """Turn of each bone in radians, (B, F); each within half a turn of the bone it comes after."""
    a, b, c, d, _, _ = matrices
    raw: FloatArray = np.arctan2(b - c, a + d)
    out: FloatArray = np.empty_like(raw)
    for bone, first in enumerate(before):
        base = out[first] if first >= 0 else 0.0
        away = raw[bone] - base
        out[bone] = base + away - _ROUND * np.rint(away / _ROUND)
    return out


_ROUND = 2 * np.pi

_NOTHING = 1e-18
"""The square of a mean of turns that leaves none."""
_RIGID = 1e-12
"""A stretch that is less than this is none."""


def _weighted(weights: FloatArray, rows: Sequence[np.ndarray]) -> list[np.ndarray]:
    """weights (K, B) @ each of some complex (B, F), in one real product: (K, F) each."""
    side = np.ascontiguousarray(np.concatenate(rows, axis=1))
    mixed = np.ascontiguousarray(weights @ side.view(float)).view(complex)
    width = rows[0].shape[1]
    return [mixed[:, start : start + width] for start in range(0, mixed.shape[1], width)]


def blend(
    points: np.ndarray, weights: FloatArray, pivots: np.ndarray, matrices: FloatArray, before: IntArray
) -> tuple[np.ndarray, np.ndarray]:
    """Points (K,) carried by bones: where they are (K, F), and the turn there as a unit number (K, F).

    `weights` (K, B); `pivots` (B,) complex, at rest; `matrices` (6, B, F) from rest to now, in one
    space; `before` (B,) the bone that each is turned against (-1: the space itself), earlier in order.
    """
    turn = _turns(matrices, before)
    a, b, c, d, _, _ = matrices
    cos, sin = np.cos(turn), np.sin(turn)
    # The stretch that is left when the turn is taken out, symmetric; p and q act as z -> p z + q conj(z).
    xx, xy = cos * a + sin * b, cos * c + sin * d
    yx, yy = cos * b - sin * a, cos * d - sin * c
    p, q = (xx + yy) / 2 + 1j * (yx - xy) / 2, (xx - yy) / 2 + 1j * (yx + xy) / 2
    px, py = affine.apply(matrices, pivots.real[:, None], pivots.imag[:, None])
    place = (px + 1j * py) - np.exp(1j * turn) * pivots[:, None]
    half = np.exp(0.5j * turn)
    # Stretched about each bone's pivot, then blended: z + sum of w (S - 1)(z - pivot).
    grow, shear, held = p - 1.0, q, pivots[:, None]
    rigid = [half, 0.5 * place * np.conj(half)]
    stretched = max(np.abs(grow).max(), np.abs(shear).max()) > _RIGID
    rows = [*rigid, grow, grow * held, shear, shear * np.conj(held)] if stretched else rigid
    real, dual, *more = _weighted(weights, rows)
    size = real.real**2 + real.imag**2
    turned = real / np.where(size < _NOTHING, 1.0, size)
    moved = points[:, None]
    if stretched:
        grows, grown, shears, sheared = more
        moved = moved + grows * moved - grown + shears * np.conj(moved) - sheared
    return turned * (real * moved + 2 * dual), real * turned
