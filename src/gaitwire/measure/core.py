"""Evaluation: one frame at a time, as a drag asks for it, and all frames at once, as a bake does."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from typing import Any

import numpy as np

from gaitwire.core.evaluate import evaluate
from gaitwire.services.workspace import Workspace

_SINGLE = 300
_BAKES = 7


def percentiles(values: Sequence[float]) -> dict[str, float]:
    """Median and 95th percentile, to the microsecond."""
    return {"p50": round(float(np.percentile(values, 50)), 3), "p95": round(float(np.percentile(values, 95)), 3)}


def timed(work: Callable[[], object]) -> float:
    """Milliseconds that work takes."""
    start = time.perf_counter()
    work()
    return (time.perf_counter() - start) * 1000


def core_figures(workspace: Workspace, scene_id: str) -> dict[str, Any]:
    """evaluate_frame_ms, bake_ms and bake_realtime_ratio; nothing comes from a cache."""
    compiled = workspace.compiled(scene_id)
    scene = compiled.scene
    frames = np.random.default_rng(3).integers(0, scene.frames, _SINGLE + 20)
    single = [timed(lambda f=f: evaluate(compiled, np.array([float(f)]))) for f in frames][20:]  # type: ignore[misc]
    everything = np.arange(scene.frames, dtype=float)
    bakes = [timed(lambda: evaluate(compiled, everything)) for _ in range(_BAKES)]
    bake = float(np.median(bakes))
    return {
        "evaluate_frame_ms": percentiles(single),
        "bake_ms": round(bake, 2),
        "bake_realtime_ratio": round(scene.frames / float(scene.rate) * 1000 / bake, 1),
    }


def growth(before: dict[str, Any], after: dict[str, Any]) -> dict[str, float]:
    """Factors by which one frame and a bake take longer."""
    frame = after["evaluate_frame_ms"]["p50"] / before["evaluate_frame_ms"]["p50"]
    return {"evaluate_frame": round(frame, 2), "bake": round(after["bake_ms"] / before["bake_ms"], 2)}
