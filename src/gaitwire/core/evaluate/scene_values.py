"""Values of all that stands in a scene, over time and across puppets."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np

from gaitwire.core.addresses import Address
from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.evaluate.compiled_scene import CompiledScene
from gaitwire.core.evaluate.layers.layer import table_named
from gaitwire.core.evaluate.value_tables import TABLES, ValueTable
from gaitwire.core.evaluate.values import sampling, values_of, whole_values


class SceneValues:
    """Asked for times as they are: whoever wants what is seen asks for the exposed ones."""

    def __init__(self, compiled: CompiledScene) -> None:
        self._puppets = {p.source.instance.id: p for p in compiled.compiled_puppets}
        self._known: dict[tuple[str, str, bytes], FloatArray] = {}

    def at(self, addresses: Sequence[Address], times: FloatArray) -> FloatArray:
        """Values (n, T) of some properties at times (T,), all layers together; NaN of what is not there."""
        found = np.full((len(addresses), len(times)), np.nan)
        for n, (instance_id, owner_id, prop) in enumerate(addresses):
            puppet = self._puppets.get(instance_id)
            for name in TABLES if puppet else ():
                own = table_named(puppet, name) if puppet else None
                column = own.column((instance_id, owner_id), prop) if own else None
                if puppet is not None and column is not None:
                    found[n] = self._table(puppet, name, times)[column]
        return found

    def every(self, times: FloatArray) -> dict[Address, FloatArray]:
        """Values (T,) of every property of every thing at times (T,)."""
        return {
            address: self._table(puppet, name, times)[column]
            for puppet in self._puppets.values()
            for name, own in ((name, table_named(puppet, name)) for name in TABLES)
            for column, address in _addresses(own)
        }

    def _table(self, puppet: CompiledPuppet, name: str, times: FloatArray) -> FloatArray:
        key = (puppet.source.instance.id, name, np.asarray(times, float).tobytes())
        if key not in self._known:
            at = sampling(puppet, np.asarray(times, float))
            self._known[key] = whole_values(at) if name == "whole" else values_of(name, at)
        return self._known[key]


def _addresses(own: ValueTable) -> Iterator[tuple[int, Address]]:
    for row, owner in enumerate(own.owners):
        for n, prop in enumerate(own.properties):
            yield row * len(own.properties) + n, (*owner, prop)
