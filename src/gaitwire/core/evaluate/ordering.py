"""The order in which the segments of a coupled group are composed: each after all that it needs.

Most often one order serves all frames. Where puppets carry each other at different times, none does:
then time is cut where the links of such a ring change, and segments of the ring come up once for each
span, so that whatever changed hands before has been laid when it is asked for.
"""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from graphlib import CycleError, TopologicalSorter
from typing import Any

import numpy as np

from gaitwire.core.conventions import IntArray
from gaitwire.core.evaluate.bearing import BearingPlan
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.evaluate.segments import Segment
from gaitwire.core.evaluate.skeleton import Levels
from gaitwire.core.evaluate.solvers import SOLVERS
from gaitwire.core.links import Hitch, Plant

Ref = tuple[int, int]
"""(member of the coupled group, node)."""


_Task = tuple[int, int]
"""(segment, span of frames)."""


@dataclass(frozen=True)
class Batch:
    """Segments that need nothing of each other: they can be laid at one time."""

    segments: tuple[Segment, ...]
    ready: Mapping[str, Any]
    """What solvers have made ready for them, by their names."""
    levels: tuple[tuple[int, tuple[int, ...], IntArray, Levels], ...]
    """(member, its segments here, their roots, all that hangs from these), for each member."""


@dataclass(frozen=True)
class Order:
    """Layers in the order in which they can be laid."""

    batches: tuple[Batch, ...]
    circle: frozenset[str] = frozenset()
    """Ids of links that go round in a circle on some frame: then there is no order."""
    again: bool = False
    """Whether segments come up more than once."""


class _Needs:
    """What segments need of each other, on spans of frames between cuts; a cut belongs to the span it ends."""

    def __init__(
        self, segments: Sequence[Segment], members: Sequence[CompiledPuppet], carriers: Mapping[str, Ref],
        bearings: Sequence[Sequence[BearingPlan]], loop: float | None,
    ) -> None:  # fmt: skip
        self.segments, self.members, self.bearings, self.loop = segments, members, bearings, loop
        self.cuts: list[float] = []
        homes: dict[Ref, int] = {}
        for n, segment in enumerate(segments):
            for node in (segment.root, *(int(i) for nodes, _ in segment.levels for i in nodes)):
                homes[segment.member, node] = n
        self.homes = homes
        self.carriers = {link: homes[ref] for link, ref in carriers.items()}

    def graph(self) -> dict[_Task, set[_Task]]:
        """Every segment on every span, with what it needs."""
        spans = range(len(self.cuts) + 1)
        return {(n, k): {*self._carried(n, k), *self._stood(n, k)} for n in range(len(self.segments)) for k in spans}

    def changes(self, segments: set[int]) -> set[float]:
        """Frames on which the links of some segments change."""
        found: set[float] = set()
        for n in segments:
            found |= {h.time for h in self.segments[n].hitches}
            found |= {t for p in self._plants(n) for t in self._reach(n, p)}
        return found - {np.inf, -np.inf}

    def links(self, segments: set[int]) -> frozenset[str]:
        """Ids of all that carries some segments."""
        found = {p.id for n in segments for p in self._plants(n)} | {
            h.id for n in segments for h in self.segments[n].hitches
        }
        return frozenset(found & self.carriers.keys())

    def _plants(self, n: int) -> list[Plant]:
        return [p for plan in self.segments[n].limbs for p in plan.plants]

    def _reach(self, n: int, plant: Plant) -> tuple[float, float]:
        """The frames on which a plant says anything; all of them on a loop, where it may come round."""
        if self.loop is not None:
            return -np.inf, np.inf
        lag = self.members[self.segments[n].member].exposure
        return plant.start - plant.soft_in, plant.stop + plant.soft_out + lag

    def _span(self, time: float) -> int:
        return bisect_left(self.cuts, time)

    def _hitches(self, n: int, span: int) -> Iterator[tuple[Hitch, Hitch | None]]:
        """The hitches that say something on a span, each with the one after it."""
        start, end = (-np.inf, *self.cuts)[span], (*self.cuts, np.inf)[span]
        row = self.segments[n].hitches
        for hitch, after in zip(row, (*row, None)[1:], strict=True):
            if hitch.time < end and (after is None or after.time > start):
                yield hitch, after

    def _carried(self, n: int, span: int) -> Iterator[_Task]:
        """What a segment goes with on a span, and how that stood when it was taken or let go."""
        segment = self.segments[n]
        parent = int(self.members[segment.member].skeleton.parent[segment.root])
        if parent >= 0:
            yield self.homes[segment.member, parent], span
        for hitch, after in self._hitches(n, span):
            for k in (self._span(hitch.time), span) if hitch.id in self.carriers else ():
                yield self.carriers[hitch.id], k
            if hitch.arc and after is not None and after.id in self.carriers:
                yield self.carriers[after.id], self._span(after.time)  # the hand that takes it
        for plant in self._plants(n):
            if plant.id in self.carriers:
                yield from ((self.carriers[plant.id], k) for k in self._asked(n, plant, span))

    def _stood(self, n: int, span: int) -> Iterator[_Task]:
        """Other spans of a segment itself: how it stood when something changed."""
        times = [t for h, _ in self._hitches(n, span) for t in (h.time, h.time - 1.0 if h.arc else h.time)]
        if self.segments[n].root == 0:
            times += [p.bearing.time for p in self.bearings[self.segments[n].member]]
        spans = {min(self._span(t), span) for t in times}
        if self.loop is None:
            spans.update(k for plant in self._plants(n) for k in self._asked(n, plant, span))
        yield from ((n, k) for k in spans - {span})

    def _asked(self, n: int, plant: Plant, span: int) -> set[int]:
        """The spans on which a plant wants to know where its spot is, for the sake of one of them."""
        first, last = (self._span(t) for t in self._reach(n, plant))
        if self.loop is not None:
            return set(range(first, last + 1))
        if not first <= span <= last:
            return set()
        # Coming and going, the limb goes by how it stands at the plant's ends.
        start, stop = self._span(plant.start), self._span(plant.stop)
        return {span, *((start,) if span < start else ()), *((stop,) if span > stop else ())}


def ordered(
    segments: Sequence[Segment], members: Sequence[CompiledPuppet], carriers: Mapping[str, Ref],
    bearings: Sequence[Sequence[BearingPlan]], loop: float | None,
) -> Order:  # fmt: skip
    """An order for the segments of a coupled group, or the links that forbid one."""
    needs = _Needs(segments, members, carriers, bearings, loop)
    while True:
        sorter = TopologicalSorter(needs.graph())
        try:
            sorter.prepare()
        except CycleError as error:
            ring = {n for n, _ in error.args[1]}
            cuts = sorted({*needs.cuts, *needs.changes(ring)})
            if cuts == needs.cuts:
                return Order((), needs.links(ring))
            needs.cuts = cuts
            continue
        batches = []
        while sorter.is_active():
            ready = sorter.get_ready()
            batches.append(_batch([segments[n] for n in sorted({n for n, _ in ready})], members))
            sorter.done(*ready)
        return Order(tuple(batches), again=bool(needs.cuts))


def _batch(segments: Sequence[Segment], members: Sequence[CompiledPuppet]) -> Batch:
    levels = []
    for member in sorted({s.member for s in segments}):
        own = [n for n, s in enumerate(segments) if s.member == member]
        roots = np.array([segments[n].root for n in own])
        levels.append((member, tuple(own), roots, _merged([segments[n].levels for n in own])))
    ready = {solver.name: solver.ready(segments, members) for solver in SOLVERS}
    return Batch(tuple(segments), ready, tuple(levels))


def _merged(rows: Sequence[Levels]) -> Levels:
    """Levels of several segments as one, counted from their roots."""
    deepest = max(len(row) for row in rows)
    at = [[row[depth] for row in rows if depth < len(row)] for depth in range(deepest)]
    return tuple((np.concatenate([n for n, _ in level]), np.concatenate([p for _, p in level])) for level in at)
