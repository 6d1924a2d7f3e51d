"""Shadows on the ground: parts that lie under what they hang from, and shrink and fade as it rises."""

from __future__ import annotations

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet


def compose_shadows(
    matrices: FloatArray,
    opacity: FloatArray,
    carried: FloatArray,
    compiled_puppet: CompiledPuppet,
    ground: float | None,
) -> None:
    """Lay a puppet's shadows, in its tables of matrices (6, P, F) and opacity (P, F), in place.

    `carried` (6, P, F) are the world matrices of the bones they hang from; `ground` is the height of
    the floor in scene pixels (None: where the puppet stands). A shadow keeps its drawing's size and
    strength while its bone is no higher above the ground than at rest; risen by h it has
    1 / (1 + h / r) of its size and the square of that of its strength, r being the height that its part says.
    """
    shadows = np.flatnonzero(compiled_puppet.parts.shadow > 0)
    if not len(shadows):
        return
    instance, puppet = compiled_puppet.source.instance, compiled_puppet.source.puppet
    floor = instance.y if ground is None else ground
    size = instance.scale
    pivot_x, pivot_y = compiled_puppet.parts.pivot[:, shadows, None]
    rests = (puppet.base_y - pivot_y) * size
    risen = np.maximum(floor - carried[5, shadows] - rests, 0.0)
    share = 1.0 / (1.0 + risen / (compiled_puppet.parts.shadow[shadows, None] * size))
    along, across = share * instance.pixels, share * size
    zero = np.zeros_like(share)
    matrices[:, shadows] = np.stack(
        [along, zero, zero, across, carried[4, shadows] - along * pivot_x, floor - across * puppet.base_y]
    )
    opacity[shadows] *= share**2
