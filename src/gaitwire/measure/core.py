"""Evaluation: one frame at a time, as a drag asks for it, and all frames at once, as a bake does."""

from __future__ import annotations

from typing import Any

import numpy as np

from gaitwire.core.evaluate import evaluate
from gaitwire.measure.beside import MeasuredFigure, middle, percentiles, rate, turned_about
from gaitwire.services.session.workspace import Workspace

_SINGLE = 300
_BAKES = 7


def core_figures(workspace: Workspace, scene_id: str) -> dict[str, MeasuredFigure]:
    """evaluate_frame_ms, bake_ms and bake_realtime_ratio; nothing comes from a cache."""
    compiled = workspace.compiled(scene_id)
    scene = compiled.scene
    frames = np.random.default_rng(3).integers(0, scene.frames, _SINGLE + 20)
    single = turned_about(lambda n: evaluate(compiled, np.array([float(frames[n])])), _SINGLE, warm=20)
    everything = np.arange(scene.frames, dtype=float)
    bakes = turned_about(lambda _: evaluate(compiled, everything), _BAKES)
    lasts = scene.frames / float(scene.rate) * 1000
    return {
        "evaluate_frame_ms": percentiles(single),
        "bake_ms": middle(bakes, lambda ms: round(ms, 2)),
        "bake_realtime_ratio": rate(bakes, lambda ms: round(lasts / ms, 1)),
    }


def growth(before: dict[str, Any], after: dict[str, Any]) -> dict[str, float]:
    """Factors by which one frame and a bake cost more, in references: the machine's own drift is out of them."""

    def factor(name: str, end: str) -> float:
        now, then = (found[name].costs[end] / found[name].reference for found in (after, before))
        return round(float(now / then), 2)

    return {"evaluate_frame": factor("evaluate_frame_ms", ".p50"), "bake": factor("bake_ms", "")}
