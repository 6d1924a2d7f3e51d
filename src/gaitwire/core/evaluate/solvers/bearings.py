"""The body is carried by another bone than its root: it is moved so that this bone stays where it is."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.bearing import Anchor, borne
from gaitwire.core.evaluate.limbs import STRETCH, TURN, LimbPlan, Release, released
from gaitwire.core.evaluate.skeleton import Composition
from gaitwire.core.evaluate.solvers.solver import SegmentSolver
from gaitwire.core.tolerances import TIME

if TYPE_CHECKING:
    from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
    from gaitwire.core.evaluate.coupled_groups import CoupledGroup
    from gaitwire.core.evaluate.segments import Segment
    from gaitwire.core.evaluate.stage import Stage


class Bearings(SegmentSolver):
    name = "bearings"

    def joins(self, puppet: CompiledPuppet) -> bool:
        return bool(puppet.source.bearings)

    def times(self, group: CoupledGroup, asked: FloatArray) -> set[float]:
        last = float(asked.max(initial=0.0))
        return {p.bearing.time for plans in group.bearings for p in plans if p.bearing.time <= last + TIME}

    def begin(self, stage: Stage) -> None:
        for member in range(len(stage.group.members)):
            if stage.anchors[member]:
                stage.bearing_limbs[member] = [_own_turns(stage, member, limb) for limb in stage.limbs_of(member)]

    def hung(self, segment: Segment, stage: Stage, matrix: FloatArray) -> FloatArray:
        plans = stage.group.bearings[segment.member]
        if segment.root != 0 or not plans:
            return matrix
        composition, anchors = stage.compositions[segment.member], stage.anchors[segment.member]
        return borne(composition, matrix, plans, anchors, stage.times.raw, stage.times.columns)

    def placed(self, group: CoupledGroup, member: int) -> set[int]:
        plans = group.bearings[member]
        return {0, *(n for plan in plans for n in plan.path[2:])} if plans else set()


def _own_turns(stage: Stage, member: int, limb: LimbPlan) -> tuple[LimbPlan, np.ndarray, list[Release]]:
    """A limb, the frames on which it carries the body, and what it gives way to there and after.

    It turns by its own keys meanwhile: those are set right here, before the body is laid.
    """
    plans, anchors = stage.group.bearings[member], stage.anchors[member]
    composition, raw = stage.compositions[member], stage.times.raw
    nodes = limb.nodes
    borne_by = np.zeros(len(raw), bool)
    after: list[Release] = []
    last = False
    for k, (plan, anchor) in enumerate(zip(plans, anchors, strict=False)):
        column = stage.times.columns.get(plan.bearing.time)
        if column is None:
            break
        mine = plan.bone in nodes
        until = plans[k + 1].bearing.time if k + 1 < len(anchors) else np.inf
        span = (raw >= plan.bearing.time - TIME) & (raw < until - TIME)
        if mine or last:
            own = np.concatenate([composition.values[nodes, TURN], np.ones((1, len(raw)))])
            release = Release(plan.bearing.time, column, plan.bearing.soft, _stood(composition, limb, anchor, column))
            if mine:
                rows = np.where(span, released(own, raw, release), own)
                composition.bend(nodes, rows[:-1], limb.chain, np.broadcast_to(rows[-1], (len(limb.chain), len(raw))))
                borne_by |= span
            else:
                after.append(release)
        last = mine
    return limb, borne_by, after


def _stood(composition: Composition, limb: LimbPlan, anchor: Anchor, column: int) -> FloatArray:
    """How a limb stood when a bearing changed: turns, and its length against what its keys say there."""
    first = int(limb.chain[0])
    factor = anchor.stretches[first] / composition.values[first, STRETCH, column]
    return np.array([*(anchor.turns[int(n)] for n in limb.nodes), factor])
