"""Segments: the bones of a puppet, cut where a solver has something to do."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.evaluate.limbs import LimbPlan
from gaitwire.core.evaluate.skeleton import Levels
from gaitwire.core.evaluate.solvers import SOLVERS
from gaitwire.core.links import Hitch


@dataclass(frozen=True, eq=False)
class Segment:
    """A node of a member and what hangs from it, down to where the next segments begin."""

    member: int
    root: int
    levels: Levels
    plans: Mapping[str, tuple[Any, ...]]
    """What solvers do from its root on, by their names."""

    @property
    def limbs(self) -> tuple[LimbPlan, ...]:
        return self.plans.get("limbs", ())

    @property
    def hitches(self) -> tuple[Hitch, ...]:
        """Of its root, in order of time."""
        return self.plans.get("hitches", ())


def segments_of(member: int, puppet: CompiledPuppet, unresolved: set[str], loop: float | None) -> Iterator[Segment]:
    """A compiled puppet cut where solvers want segments to begin."""
    plans: dict[int, dict[str, list[Any]]] = {0: {}}
    for solver in SOLVERS:
        for root, plan in solver.plans(puppet, unresolved, loop):
            plans.setdefault(root, {}).setdefault(solver.name, []).append(plan)
    home = np.zeros(puppet.skeleton.count, np.int64)
    for node in range(puppet.skeleton.count):  # parents stand before their children
        home[node] = node if node in plans else home[puppet.skeleton.parent[node]]
    for root, rows in sorted(plans.items()):
        own = [(n[home[n] == root], p[home[n] == root]) for n, p in puppet.skeleton.levels]
        levels = tuple((n[n != root], p[n != root]) for n, p in own if len(n[n != root]))
        yield Segment(member, root, levels, {name: tuple(found) for name, found in rows.items()})
