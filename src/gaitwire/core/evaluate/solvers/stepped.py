"""Bones whose turns are stepped: each thing of that kind has a track, driven by all that is composed before it."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.solvers.solver import SegmentSolver
from gaitwire.core.motion.track import DriveOf, Stepper, Track

if TYPE_CHECKING:
    from gaitwire.core.evaluate.coupled_groups import CoupledGroup
    from gaitwire.core.evaluate.ordering import Batch
    from gaitwire.core.evaluate.segments import Segment
    from gaitwire.core.evaluate.stage import Stage


class SteppedSolver(SegmentSolver):
    """Tracks lie on the scene's own frames: a puppet on twos steps on ones, and shows the track on twos."""

    @abstractmethod
    def stepper(self, plan: Any) -> Stepper:
        """What steps a plan on."""

    @abstractmethod
    def drive(self, plan: Any, segment: Segment, stage: Stage, hung: FloatArray) -> FloatArray:
        """What drives it (K, F), from a stage on which all before its segment is composed, and what that hangs from."""

    @abstractmethod
    def put(self, plan: Any, segment: Segment, stage: Stage, values: FloatArray) -> None:
        """Write values (V, F) that were read of its track into the stage."""

    def remembers(self, group: CoupledGroup) -> bool:
        return any(self.name in segment.plans for segment in group.segments)

    def bend(self, stage: Stage, batch: Batch, hung: Sequence[FloatArray]) -> None:
        for segment in batch.segments:
            if segment in stage.withheld:
                continue
            for n, plan in enumerate(segment.plans.get(self.name, ())):
                track = self._track(stage, segment, n, plan)
                values = track.at(stage.times.shown[segment.member], self._driven(stage, segment, plan))
                self.put(plan, segment, stage, values)

    def _driven(self, stage: Stage, segment: Segment, plan: Any) -> DriveOf:
        def driven(frames: FloatArray) -> FloatArray:
            upstream = stage.upstream(segment, frames)
            return self.drive(plan, segment, upstream, upstream.hung(segment))[:, : len(frames)]

        return driven

    def _track(self, stage: Stage, segment: Segment, n: int, plan: Any) -> Track:
        loop = stage.group.loop
        made = Track(self.stepper(plan), None if loop is None else int(np.rint(loop)))
        return stage.group.tracks.find((self.name, segment.member, segment.root, n), made)
