"""Bones whose turns are stepped: each thing of that kind has a track, driven by all that is composed before it."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.solvers.solver import SegmentSolver
from gaitwire.core.motion.track import DriveOf, Stepper, Track

if TYPE_CHECKING:
    from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
    from gaitwire.core.evaluate.coupled_groups import CoupledGroup
    from gaitwire.core.evaluate.ordering import Batch
    from gaitwire.core.evaluate.segments import Segment
    from gaitwire.core.evaluate.stage import Stage


@dataclass(frozen=True, eq=False)
class Driven:
    """Things of one member that are laid at one time and stepped as one, each with its segment and its plan."""

    member: int
    nodes: tuple[int, ...]
    stepper: Stepper
    rows: tuple[tuple[Segment, Any], ...]


class SteppedSolver(SegmentSolver):
    """Tracks lie on the scene's own frames: a puppet on twos steps on ones, and shows the track on twos."""

    @abstractmethod
    def ready(self, segments: Sequence[Segment], members: Sequence[CompiledPuppet]) -> tuple[Driven, ...]:
        """What steps the plans of some segments on."""

    @abstractmethod
    def drive(self, things: Driven, stage: Stage, hung: Sequence[FloatArray]) -> FloatArray:
        """What drives things (K, F), from a stage on which all before their segments is composed, and what each
        hangs from there (6, F)."""

    @abstractmethod
    def put(self, things: Driven, stage: Stage, values: FloatArray) -> None:
        """Write values (V, F) that were read of their track into the stage."""

    def remembers(self, group: CoupledGroup) -> bool:
        return any(self.name in segment.plans for segment in group.segments)

    def bend(self, stage: Stage, batch: Batch, hung: Sequence[FloatArray]) -> None:
        if stage.blocking:
            return
        hangs = dict(zip(batch.segments, hung, strict=True))
        for things in batch.ready[self.name]:
            if any(segment in stage.withheld for segment, _ in things.rows):
                continue
            if stage.group.again:  # laid before, and turned then
                stage.compositions[things.member].straighten(np.array(things.nodes))
            shown = stage.times.shown[things.member]
            self.put(things, stage, self._track(stage, things).at(shown, self._driven(stage, things, hangs)))

    def _driven(self, stage: Stage, things: Driven, hangs: Mapping[Segment, FloatArray]) -> DriveOf:
        segments = [segment for segment, _ in things.rows]

        def driven(frames: FloatArray) -> FloatArray:
            at = stage.found(frames)
            if at is not None:  # all that drives them is composed here already
                return self.drive(things, stage, [hangs[s] for s in segments])[:, at]
            upstream = stage.upstream(segments, frames)
            return self.drive(things, upstream, [upstream.hung(s) for s in segments])[:, : len(frames)]

        return driven

    def _track(self, stage: Stage, things: Driven) -> Track:
        loop = stage.group.loop
        made = Track(things.stepper, None if loop is None else int(np.rint(loop)))
        return stage.group.tracks.find((self.name, things.member, things.nodes), made)
