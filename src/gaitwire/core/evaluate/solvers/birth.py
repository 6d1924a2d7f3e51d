"""By birth a bone hangs from its parent."""

from __future__ import annotations

from typing import TYPE_CHECKING

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.solvers.solver import SegmentSolver

if TYPE_CHECKING:
    from gaitwire.core.evaluate.segments import Segment
    from gaitwire.core.evaluate.stage import Stage


class Birth(SegmentSolver):
    name = "birth"

    def hung(self, segment: Segment, stage: Stage, matrix: FloatArray) -> FloatArray:
        return stage.compositions[segment.member].parent_matrix(segment.root)
