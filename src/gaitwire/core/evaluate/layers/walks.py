"""Walks beneath a puppet's keys."""

from __future__ import annotations

from gaitwire.core.addresses import OwnAddress
from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.evaluate.layers.layer import Layer, Sampling, within
from gaitwire.core.scene import Scene
from gaitwire.core.walk.span import RATIOS, composed


class Walks(Layer):
    tables = affine = frozenset({"node"})

    def compose(self, name: str, table: FloatArray, at: Sampling) -> None:
        for (owner, prop), row in gait_values(at.puppet, at.frames).items():
            column = at.puppet.column(owner, prop, at.puppet.source.instance.id)
            if column is not None and prop in RATIOS:
                table[column] *= row
            elif column is not None:
                table[column] += row

    def is_in(self, scene: Scene) -> bool:
        return bool(scene.gaits)

    def is_on(self, puppet: CompiledPuppet) -> bool:
        return bool(puppet.gaits)

    def reads(self, puppet: CompiledPuppet) -> set[OwnAddress]:
        """Where the puppet goes, for its steps; and settings that are ridden, which say how far it has come."""
        who = puppet.source.instance.id
        ridden = {(c.owner_id, c.property) for c, _ in puppet.source.channels if c.owner_kind == "walk"}
        return ridden | {(who, prop) for prop in ("shift_x", "shift_y")}

    def moves(self, puppet: CompiledPuppet, times: FloatArray) -> set[OwnAddress]:
        return set(gait_values(puppet, times))


def gait_values(puppet: CompiledPuppet, frames: FloatArray) -> dict[OwnAddress, FloatArray]:
    """What a puppet's walks add (F,), by (owner id, property); nothing to what swings by itself."""
    if not puppet.gaits:
        return {}
    seat = puppet.source.instance.id
    rows = composed(puppet.gaits, within(puppet, frames)).items()
    return {(owner or seat, prop): row for (owner, prop), row in rows if owner not in puppet.swinging}
