"""How fast the machine is just now: a fixed task, turned about with what is measured.

A machine's speed may drift by half within an hour. So no time is told alone: between the samples of
each figure a reference task runs, and how often that would fit into the figure is its relative cost.
Costs of two runs can be compared where their milliseconds can not.
"""

from __future__ import annotations

import math
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

_ROUNDS_OF_REFERENCE = 25


@dataclass(frozen=True)
class Timings:
    """What was timed, in milliseconds, and what the reference task took beside it (its median, ms)."""

    ms: tuple[float, ...]
    reference: float

    @property
    def median(self) -> float:
        return float(np.median(self.ms))


@dataclass(frozen=True)
class MeasuredFigure:
    """A figure as it is told, and what it costs: milliseconds by the end of its name, more is worse."""

    told: Any
    costs: dict[str, float]
    reference: float


def timed(work: Callable[[], object]) -> float:
    """Milliseconds that work takes."""
    start = time.perf_counter()
    work()
    return (time.perf_counter() - start) * 1000


def reference_task() -> float:
    """Some two milliseconds of what the program's own work is made of: small arrays, a larger one, Python."""
    local = np.linspace(0.5, 1.5, 6 * 32).reshape(6, 32)
    world = local
    for _ in range(120):  # matrices put together, frame by frame
        world = local * world[[0, 1, 2, 3, 5, 4]] + 1e-3
        world = world / (1.0 + np.abs(world))
    points = np.sin(np.arange(20_000.0)) @ np.linspace(0.0, 1.0, 20_000)
    names: dict[str, float] = {}
    for n in range(1500):
        names[f"bone {n % 40}"] = names.get(f"bone {n % 40}", 0.0) + math.hypot(n, 3.0)
    return float(world.sum() + points + len(names))


def turned_about(work: Callable[[int], object], times: int, warm: int = 0) -> Timings:
    """Times each call of work(n), the reference task between; the first `warm` calls are not counted."""
    ms, reference = [], []
    for n in range(warm + times):
        reference.append(timed(reference_task))
        ms.append(timed(lambda: work(n)))  # noqa: B023 - called at once
    return Timings(tuple(ms[warm:]), float(np.median(reference[warm:])))


def in_rounds(work: Callable[[int], Sequence[float]], rounds: int) -> Timings:
    """For what times itself, as a page does: milliseconds from each round, the reference task before each and after."""
    ms: list[float] = []
    reference = [_reference()]
    for n in range(rounds):
        ms.extend(work(n))
        reference.append(_reference())
    return Timings(tuple(ms), float(np.median(reference)))


def _reference() -> float:
    return float(np.median([timed(reference_task) for _ in range(_ROUNDS_OF_REFERENCE)]))


def percentiles(samples: Timings, **more: Any) -> MeasuredFigure:
    """Median and 95th percentile in milliseconds, to the microsecond; what else is told of them."""
    p50, p95 = (round(float(np.percentile(samples.ms, q)), 3) for q in (50, 95))
    return MeasuredFigure({"p50": p50, "p95": p95, **more}, {".p50": p50, ".p95": p95}, samples.reference)


def middle(samples: Timings, told: Callable[[float], Any]) -> MeasuredFigure:
    """The median, told in a unit of its own (a function of milliseconds)."""
    return MeasuredFigure(told(samples.median), {"": samples.median}, samples.reference)


def rate(samples: Timings, told: Callable[[float], float] = lambda ms: round(1000 / ms, 1)) -> MeasuredFigure:
    """A rate from the milliseconds that one of them takes: a second's worth, or as it is told."""
    return MeasuredFigure(told(samples.median), {"": samples.median}, samples.reference)


def apart(found: dict[str, Any]) -> tuple[dict[str, Any], dict[str, Any]]:
    """The figures as they are told, and beside each its reference (ms) and its cost in references."""
    told = {name: one.told if isinstance(one, MeasuredFigure) else one for name, one in found.items()}
    beside = {
        name + end: {"reference_ms": round(one.reference, 3), "cost": round(ms / one.reference, 4)}
        for name, one in found.items()
        if isinstance(one, MeasuredFigure)
        for end, ms in one.costs.items()
    }
    return told, beside


def compared(now: dict[str, Any], then: dict[str, Any]) -> dict[str, float]:
    """By what each figure's cost has changed since an earlier run: 1.0 as it was, 1.05 a twentieth more."""
    return {
        name: round(one["cost"] / before["cost"], 3)
        for name, one in now.items()
        if (before := then.get(name)) and before["cost"]
    }
