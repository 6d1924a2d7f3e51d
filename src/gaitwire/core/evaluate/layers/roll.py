"""What rolls: turned by how far the seat has gone."""

from __future__ import annotations

from collections.abc import Iterator

from gaitwire.core.addresses import OwnAddress
from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.evaluate.layers.layer import OnTop, Sampling
from gaitwire.core.scene import Scene


class Rolls(OnTop):
    tables = frozenset({"node"})

    def added(self, name: str, table: FloatArray, at: Sampling) -> Iterator[tuple[int, FloatArray]]:
        instance = at.puppet.source.instance
        for roll in at.puppet.source.rolls:
            column = at.puppet.column(roll.owner_id, "turn", instance.id)
            if column is not None:
                x, y = (at.puppet.column(instance.id, prop, instance.id) for prop in ("shift_x", "shift_y"))
                yield column, roll.turn(table[x], table[y], instance.pixels)

    def is_in(self, scene: Scene) -> bool:
        return bool(scene.rolls)

    def is_on(self, puppet: CompiledPuppet) -> bool:
        return bool(puppet.source.rolls)

    def moves(self, puppet: CompiledPuppet, times: FloatArray) -> set[OwnAddress]:
        return {(r.owner_id, "turn") for r in puppet.source.rolls}
