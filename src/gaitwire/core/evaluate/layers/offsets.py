"""Offsets over spans: added, or for ratios multiplied."""

from __future__ import annotations

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.layers.layer import EVERY, Layer, Sampling, table_named
from gaitwire.core.timing.channel import PROPERTIES
from gaitwire.core.timing.offset import window


class Offsets(Layer):
    tables = EVERY | {"whole"}

    def compose(self, name: str, table: FloatArray, at: Sampling) -> None:
        for column, offset in table_named(at.puppet, name).offsets:
            share = window(offset, at.frames, at.puppet.keys.loop)
            if PROPERTIES[offset.owner_kind][offset.property].rest == 1.0:
                table[column] *= 1 + (offset.amount - 1) * share
            else:
                table[column] += offset.amount * share
