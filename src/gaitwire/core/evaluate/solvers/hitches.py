"""A bone or a puppet that is hitched goes with another bone, or flies, from a frame on."""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.carrying import Air, Carrier, carried
from gaitwire.core.evaluate.solvers.solver import SegmentSolver
from gaitwire.core.links import Hitch
from gaitwire.core.tolerances import TIME

if TYPE_CHECKING:
    from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
    from gaitwire.core.evaluate.coupled_groups import CoupledGroup
    from gaitwire.core.evaluate.segments import Segment
    from gaitwire.core.evaluate.stage import Stage


class Hitches(SegmentSolver):
    name = "hitches"

    def joins(self, puppet: CompiledPuppet) -> bool:
        return bool(puppet.source.hitches)

    def plans(self, puppet: CompiledPuppet, unresolved: set[str], loop: float | None) -> Iterable[tuple[int, Hitch]]:
        for hitch in puppet.source.hitches:
            node = puppet.node(hitch.owner_id)
            if node is not None and hitch.id not in unresolved:
                yield node, hitch

    def times(self, group: CoupledGroup, asked: FloatArray) -> set[float]:
        last = float(asked.max(initial=0.0))
        found: set[float] = set()
        for member in group.members:
            thrown = False
            for hitch in member.source.hitches:
                if hitch.time <= last + TIME or thrown:
                    found.add(hitch.time)
                    found |= {hitch.time - 1.0} if hitch.arc else set()
                thrown = hitch.arc and hitch.time <= last + TIME
        return found

    def hung(self, segment: Segment, stage: Stage, matrix: FloatArray) -> FloatArray:
        if not segment.hitches:
            return matrix
        carriers = [(h, _carrier(stage, h.id)) for h in segment.hitches]
        pivot = stage.compositions[segment.member].pivot(segment.root)
        air = Air(stage.group.ground, stage.group.rate)
        return carried(matrix, pivot, carriers, stage.times.raw, stage.times.columns, air)

    def placed(self, group: CoupledGroup, member: int) -> set[int]:
        return {s.root for s in group.segments if s.member == member and s.hitches}


def _carrier(stage: Stage, link_id: str) -> Carrier | None:
    ref = stage.group.carriers.get(link_id)
    if ref is None:
        return None
    member, node = ref
    puppet = stage.group.members[member]
    bone = puppet.source.puppet.bone(puppet.nodes.owners[node][1])
    hold = 0j if bone is None else bone.length / 2 * np.exp(1j * np.radians(bone.angle))
    return Carrier(stage.compositions[member].world[:, node], complex(hold))
