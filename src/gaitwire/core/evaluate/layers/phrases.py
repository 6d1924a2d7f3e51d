"""Phrases: each on top of those that began before it."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from gaitwire.core.addresses import OwnAddress
from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet, Phrased
from gaitwire.core.evaluate.layers.layer import EVERY, Layer, Sampling
from gaitwire.core.scene import Scene


class Phrases(Layer):
    tables = affine = EVERY

    def compose(self, name: str, table: FloatArray, at: Sampling) -> None:
        for phrased in at.puppet.phrases:
            if phrased.table == name:
                held = _held(phrased, at)
                table[phrased.columns] = phrased.lanes.composed(table[phrased.columns], at.frames, held)

    def is_in(self, scene: Scene) -> bool:
        return bool(scene.phrase_uses)

    def is_on(self, puppet: CompiledPuppet) -> bool:
        return bool(puppet.phrases)

    def moves(self, puppet: CompiledPuppet, times: FloatArray) -> set[OwnAddress]:
        return {address for p in puppet.phrases for address in p.lanes.addresses}

    def by(self, puppet: CompiledPuppet, name: str) -> Mapping[int, str]:
        return {int(n): p.lanes.name for p in puppet.phrases if p.table == name for n in p.columns}


def _held(phrased: Phrased, at: Sampling) -> FloatArray:
    """What lies beneath all phrases when one begins (L,); asked for only where it holds that still."""
    use, puppet = phrased.lanes.course.use, at.puppet
    if not use.still or at.compose is None:
        return np.zeros(len(phrased.columns))
    key = (phrased.table, use.start)
    if key not in puppet.held:
        begun = at.at(np.array([use.start]), puppet.beneath_phrases)
        puppet.held[key] = at.compose(phrased.table, begun).reshape(-1)
    return puppet.held[key][phrased.columns]
