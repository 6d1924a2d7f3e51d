"""The stage of one evaluation: a coupled group on planned frames, its bones composed batch by batch."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from gaitwire.core.conventions import FloatArray, IntArray
from gaitwire.core.evaluate.bearing import Anchor
from gaitwire.core.evaluate.coupled_groups import CoupledGroup
from gaitwire.core.evaluate.limbs import LimbPlan, Release
from gaitwire.core.evaluate.ordering import Batch
from gaitwire.core.evaluate.segments import Segment
from gaitwire.core.evaluate.skeleton import Composition
from gaitwire.core.evaluate.solvers import SOLVERS
from gaitwire.core.evaluate.values import Overrides, limb_values, node_values, sampling, shown_times

Anchors = Sequence[Sequence[Anchor]]
"""Of each member of a coupled group, of its first bearings."""


@dataclass(frozen=True)
class StagedTimes:
    """The frames asked for and, behind them, those on which something changes hands."""

    count: int
    """How many are asked for."""
    raw: FloatArray  # (F,)
    shown: tuple[FloatArray, ...]
    """Of each member, the times (F,) whose picture it shows."""
    columns: Mapping[float, int]
    """Where the frames lie that nobody asked for."""


def planned_times(group: CoupledGroup, frames: FloatArray, shown: Sequence[FloatArray]) -> StagedTimes:
    """The frames (F,), whose pictures are those of times `shown` of each member, with what they depend on."""
    wanted, found = np.concatenate([frames, *shown]), set[float]()
    asked = wanted
    while True:  # what a frame depends on may depend on others itself
        new = {time for solver in SOLVERS for time in solver.times(group, asked)} - found
        if not new:
            break
        found |= new
        asked = np.concatenate([wanted, sorted(found)])
    more = np.array(sorted(found))
    return StagedTimes(
        len(frames), np.concatenate([frames, more]), tuple(np.concatenate([s, more]) for s in shown),
        {float(t): len(frames) + n for n, t in enumerate(more)},
    )  # fmt: skip


def depends_on(group: CoupledGroup, frames: FloatArray, blocking: bool = False) -> set[float]:
    """Other frames on which how a group stands on frames (F,) depends, but for what it remembers."""
    shown = [shown_times(m, frames, blocking) for m in group.members]
    return set(planned_times(group, frames, shown).columns) if group.batches else set()


def remembers(group: CoupledGroup) -> bool:
    """Whether how a group stands depends on all that was before."""
    return bool(group.batches) and any(solver.remembers(group) for solver in SOLVERS)


class Stage:
    """Values sampled on all planned frames, and the world as it comes about."""

    def __init__(
        self, group: CoupledGroup, times: StagedTimes, anchors: Anchors, overrides: Overrides | None = None,
        blocking: bool = False,
    ) -> None:  # fmt: skip
        self.group, self.times, self.anchors, self.blocking = group, times, anchors, blocking
        self.overrides = overrides
        # A drag changes the frames that are asked for, not those on which something changed hands.
        rows = zip(group.members, times.shown, strict=True)
        every = [sampling(m, t, wanted=overrides, asked=times.count) for m, t in rows]
        self.sampled = [at.sampled for at in every]
        self.compositions = [
            Composition(at.puppet.skeleton, node_values(at), at.puppet.flips(at.frames)) for at in every
        ]
        self.limbs = [limb_values(at) for at in every]
        self.controls = [at.controls for at in every]
        self.bearing_limbs: list[list[tuple[LimbPlan, np.ndarray, list[Release]]]] = [[] for _ in group.members]
        """Limbs that carry the body, with the frames on which they do, and what they give way to there and after."""
        self.withheld: tuple[Segment, ...] = ()
        """Segments that are left as keys have them, since what drives them is being worked out."""
        for solver in SOLVERS:
            solver.begin(self)
        if group.again:
            for composition in self.compositions:
                composition.begin()

    @classmethod
    def at(
        cls, group: CoupledGroup, frames: FloatArray, anchors: Anchors, overrides: Overrides | None = None,
        blocking: bool = False,
    ) -> Stage:  # fmt: skip
        """A group at the frames (F,) as they are seen, by exposure and blocking."""
        shown = [shown_times(m, frames, blocking) for m in group.members]
        return cls(group, planned_times(group, frames, shown), anchors, overrides, blocking)

    def found(self, frames: FloatArray) -> IntArray | None:
        """Where whole frames (F,) of the scene stand on this stage; None where it is not as these are."""
        raw = self.times.raw
        if self.overrides or self.group.again or self.blocking or len(frames) > len(raw):
            return None
        order = np.argsort(raw, kind="stable")
        at = order[np.minimum(np.searchsorted(raw, frames, sorter=order), len(raw) - 1)]
        as_shown = all(shown is raw or np.array_equal(shown, raw) for shown in self.times.shown)
        return at if as_shown and np.array_equal(raw[at], frames) else None

    def upstream(self, segments: Collection[Segment], frames: FloatArray) -> Stage:
        """The same group at whole frames (F,) of the scene, whatever its exposure, composed up to some segments."""
        batches = self.group.batches
        last = max(n for n, batch in enumerate(batches) if any(s in segments for s in batch.segments))
        times = planned_times(self.group, frames, [frames] * len(self.group.members))
        other = Stage(self.group, times, self.anchors)
        # Where a segment comes up more than once, it is not to wait for itself.
        other.withheld = (*self.withheld, *segments)
        for batch in batches[:last]:
            other.compose(batch)
        return other

    def limbs_of(self, member: int) -> list[LimbPlan]:
        """The limbs of a member that are solved on some frame."""
        return [plan for s in self.group.segments if s.member == member for plan in s.limbs]

    def compose(self, batch: Batch) -> None:
        """Compose the segments of one batch; all that they need is composed already."""
        hung = [self.hung(segment) for segment in batch.segments]
        for solver in SOLVERS:
            solver.bend(self, batch, hung)
        for member, own, roots, levels in batch.levels:
            self.compositions[member].compose(roots, levels, np.stack([hung[n] for n in own], axis=1))

    def hung(self, segment: Segment) -> FloatArray:
        """What a segment's root hangs from (6, F): by birth, by its hitches, as the body is borne."""
        matrix = np.empty((6, 0))
        for solver in SOLVERS:
            matrix = solver.hung(segment, self, matrix)
        return matrix
