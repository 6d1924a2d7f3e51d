"""What a drag wants stands in for all below."""

from __future__ import annotations

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.layers.layer import Layer, Sampling, table_named


class Wanted(Layer):
    tables = frozenset({"node", "limb", "control"})

    def compose(self, name: str, table: FloatArray, at: Sampling) -> None:
        own = table_named(at.puppet, name)
        for (instance_id, owner_id, prop), value in at.wanted.items():
            column = own.column((instance_id, owner_id), prop)
            if column is not None:
                table[column, : at.asked] = value
