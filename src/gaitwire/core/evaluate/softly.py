"""The stage of evaluation that bends soft parts."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.evaluate.controls import ControlShares
from gaitwire.core.evaluate.puppet_build import SoftPart
from gaitwire.core.geometry import affine

_BLOCK = 48
"""Frames that are bent at a time: what is worked out for more would not stay in the cache."""


def soft_points(puppet: CompiledPuppet, world: FloatArray, control_shares: ControlShares) -> np.ndarray:
    """Points (2, K, F) of all soft and reshaped parts of a compiled puppet, each in its part's own pixels; float32."""
    out = np.empty((2, puppet.points, world.shape[-1]), np.float32)
    for start in range(0, world.shape[-1], _BLOCK):
        block = slice(start, start + _BLOCK)
        wide = min(_BLOCK, world.shape[-1] - start)
        for number, soft in enumerate(puppet.softs):
            bent = _bent(soft, world[..., block]) if soft.skin.bends else np.repeat(soft.skin.rest[:, None], wide, 1)
            for away, weights in _reshaped(puppet, control_shares, number):
                bent = bent + away.T @ weights[:, block]
            span = slice(soft.points.start, soft.points.start + soft.points.count)
            out[0, span, block], out[1, span, block] = bent.real, bent.imag
    return out


def _reshaped(
    puppet: CompiledPuppet, control_shares: ControlShares, soft: int
) -> Iterator[tuple[np.ndarray, FloatArray]]:
    """By how much (E, K) the entries of each control move the points of a soft part, and their shares (E, F)."""
    for blend, shares in zip(puppet.blends, control_shares, strict=True):
        if shares is not None:
            yield from ((shape.away, shares.weights) for shape in blend.shapes if shape.soft == soft)


def _bent(soft: SoftPart, world: FloatArray) -> np.ndarray:
    home = affine.invert(world[:, soft.own])
    own_x, own_y = soft.pivots[:, 0]
    matrices = affine.compose(home[:, None], world[:, soft.bones])
    # From a bone's own space to the puppet's pixels at rest, on both sides.
    pivot_x, pivot_y = soft.pivots[:, :, None]
    x, y = affine.apply_linear(matrices, -pivot_x, -pivot_y)
    matrices[4] += x + own_x
    matrices[5] += y + own_y
    pins = affine.compose(home[:, None], world[:, soft.pins])
    a, b, c, d, e, f = pins
    return soft.skin.bend(matrices, (e + own_x) + 1j * (f + own_y), np.arctan2(b - c, a + d))
