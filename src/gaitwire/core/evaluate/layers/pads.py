"""What pads and gauges say of bones, pins and parts."""

from __future__ import annotations

from gaitwire.core.addresses import OwnAddress
from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.evaluate.controls import compose_nodes, compose_parts, moved_addresses
from gaitwire.core.evaluate.layers.layer import Layer, Sampling
from gaitwire.core.scene import Scene


class Pads(Layer):
    tables = affine = frozenset({"node", "part"})
    gives_way = frozenset({"drawing", "shown"})

    def compose(self, name: str, table: FloatArray, at: Sampling) -> None:
        if at.puppet.blends:
            work = compose_nodes if name == "node" else compose_parts
            work(table, at.puppet, at.control_shares)

    def is_in(self, scene: Scene) -> bool:
        return any(c.owner_kind in ("pad", "gauge") for c in scene.channels)

    def is_on(self, puppet: CompiledPuppet) -> bool:
        return bool(puppet.blends)

    def moves(self, puppet: CompiledPuppet, times: FloatArray) -> set[OwnAddress]:
        return moved_addresses(puppet)
