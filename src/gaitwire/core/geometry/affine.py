"""Affine matrices as six component arrays (a, b, c, d, e, f), as in SVG's matrix(a b c d e f).

A point (x, y) maps to (a x + c y + e, b x + d y + f). Arrays have shape (6, ...): one
component after the other keeps numpy's inner loops long when there are few bones and many frames.
"""

from __future__ import annotations

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.tolerances import DETERMINANT


def identity(*shape: int) -> FloatArray:
    """Identity matrices, shape (6, *shape)."""
    out = np.zeros((6, *shape))
    out[0] = out[3] = 1.0
    return out


def compose(outer: FloatArray, inner: FloatArray) -> FloatArray:
    """The matrix that applies `inner` first and `outer` after it; shapes broadcast."""
    # Columns at a time: with few matrices, the number of calls is what counts.
    along, across, place = outer[0:2], outer[2:4], outer[4:6]
    return np.concatenate(
        [
            along * inner[0] + across * inner[1],
            along * inner[2] + across * inner[3],
            along * inner[4] + across * inner[5] + place,
        ]
    )


def apply(matrix: FloatArray, x: FloatArray | float, y: FloatArray | float) -> tuple[FloatArray, FloatArray]:
    """Map points; `matrix` is (6, ...), x and y broadcast against its trailing shape."""
    a, b, c, d, e, f = matrix
    return a * x + c * y + e, b * x + d * y + f


def apply_linear(matrix: FloatArray, x: FloatArray | float, y: FloatArray | float) -> tuple[FloatArray, FloatArray]:
    """Map directions: like `apply` without the translation."""
    a, b, c, d, _, _ = matrix
    return a * x + c * y, b * x + d * y


def determinant(matrix: FloatArray) -> FloatArray:
    """Signed factor of area, shape of the trailing axes."""
    det: FloatArray = matrix[0] * matrix[3] - matrix[1] * matrix[2]
    return det


def invert(matrix: FloatArray) -> FloatArray:
    """Inverse matrices, same shape.

    Raises InvalidInputError when a matrix flattens the plane (|determinant| < 1e-12).
    """
    a, b, c, d, e, f = matrix
    det = determinant(matrix)
    if np.any(np.abs(det) < DETERMINANT):
        raise InvalidInputError(
            "This bone is stretched flat, so its space cannot be used.", "Undo the stretch of it or of its parents."
        )
    out = np.empty(matrix.shape)
    out[0], out[1], out[2], out[3] = d, -b, -c, a
    out[4], out[5] = c * f - d * e, b * e - a * f
    out /= det
    return out


def bone_matrix(
    x: FloatArray | float,
    y: FloatArray | float,
    turn: FloatArray | float,
    skew: FloatArray | float,
    along: FloatArray | float,
    across: FloatArray | float,
    angle: FloatArray | float,
) -> FloatArray:
    """Local transform of a bone: translate . rotate(turn) . skew . scale(along, across).

    Skew and scale act in axes turned by `angle`, the bone's direction at rest, so that at rest
    values (turn 0, skew 0, scales 1) the matrix is a translation whatever the bone's direction.
    A positive skew slides the tip clockwise and leaves the bone's root edge where it is.

    All arguments broadcast; x and y in pixels, turn, skew and angle in degrees. Returns (6, ...).
    """
    rad_out, rad_in = np.deg2rad(np.asarray(turn) + angle), np.deg2rad(angle)
    co, so = np.cos(rad_out), np.sin(rad_out)
    ci, si = np.cos(rad_in), np.sin(rad_in)
    slide = np.tan(np.deg2rad(skew)) * along
    # K.S.R(-angle), with K.S = [[along, 0], [slide, across]]
    m00, m01 = along * ci, along * si
    m10, m11 = slide * ci - across * si, slide * si + across * ci
    parts = np.broadcast_arrays(
        co * m00 - so * m10,
        so * m00 + co * m10,
        co * m01 - so * m11,
        so * m01 + co * m11,
        np.asarray(x, float),
        np.asarray(y, float),
    )
    return np.stack(parts)
