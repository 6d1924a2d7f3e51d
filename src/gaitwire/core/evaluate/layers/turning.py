"""Turning round: as wide as it is seen, about the point on which it stands; pads and drawings from other sides."""

from __future__ import annotations

import numpy as np

from gaitwire.core.addresses import OwnAddress
from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.evaluate.layers.layer import Layer, Sampling
from gaitwire.core.scene import Scene
from gaitwire.core.timing.channel import CONTROL_PROPERTIES, LED, PART_PROPERTIES

_REACH = 0.012
"""By how much what is of one piece is taller for each degree that it leans ahead in a turn, and less tall back."""
_DRAWING = PART_PROPERTIES.index("drawing")


class Turns(Layer):
    tables = frozenset({"node", "control", "part"})
    affine = frozenset({"node", "control"})

    def compose(self, name: str, table: FloatArray, at: Sampling) -> None:
        turning = at.puppet.turning
        if turning is None:
            return
        if name == "control":
            turning.compose_pads(table.reshape(-1, len(CONTROL_PROPERTIES), len(at.frames)), at.frames)
        elif name == "node":
            _widen(table, at)
        else:
            for part, numbers in turning.shown(at.frames):  # where nothing else chooses a drawing
                column = part * len(PART_PROPERTIES) + _DRAWING
                free = (table[column] == LED) & ~np.isnan(numbers)
                table[column] = np.where(free, numbers, table[column])

    def is_in(self, scene: Scene) -> bool:
        return bool(scene.turns)

    def is_on(self, puppet: CompiledPuppet) -> bool:
        return puppet.turning is not None

    def moves(self, puppet: CompiledPuppet, times: FloatArray) -> set[OwnAddress]:
        who, turning = puppet.source.instance.id, puppet.turning
        if turning is None:
            return set()
        lifted = {(bone_id, "turn") for bone_id, _, _ in turning.lifts}
        pads = {(puppet.controls.owners[row][1], "x") for row, _, _ in turning.fronts}
        whole = {(who, prop) for prop in ("turn", "stretch") if not turning.segments}
        return {(who, "widen"), (who, "shift_x")} | lifted | pads | whole


def _widen(table: FloatArray, at: Sampling) -> None:
    puppet, frames, source = at.puppet, at.frames, at.puppet.source
    turning, who = puppet.turning, puppet.source.instance.id
    if turning is None:
        return
    seen = turning.widths(frames)
    wide, across = (puppet.column(who, prop, who) for prop in ("widen", "shift_x"))
    table[wide] *= seen
    table[across] += (1 - seen) * source.instance.pixels * (puppet.pivot - source.puppet.base_x)
    lean = turning.leaning(frames)
    if lean is not None and lean.any():
        turn, tall = (puppet.column(who, prop, who) for prop in ("turn", "stretch"))
        table[turn] += lean * np.sign(seen) * (-1 if source.instance.turned else 1)
        table[tall] *= 1 + _REACH * lean
    for bone_id, degrees in turning.lifted(frames):
        column = puppet.column(bone_id, "turn", who)
        if column is not None:
            table[column] += degrees
