"""All figures in one go: of the core, of exports, and of the pages in a headless browser."""

from __future__ import annotations

import json
import os
import platform
import tempfile
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

from gaitwire.core.errors import InvalidInputError
from gaitwire.measure.beside import apart, compared
from gaitwire.measure.core import core_figures, growth
from gaitwire.measure.joints import joint_figures
from gaitwire.measure.load import Load, make_scene_of
from gaitwire.measure.pages import long_scene_figures, page_figures
from gaitwire.measure.planted import planted_drag_figures
from gaitwire.measure.sending import export_png_fps
from gaitwire.measure.smears import smear_figures
from gaitwire.measure.soft import import_seconds, pin_drag_figures
from gaitwire.measure.sounding import sound_figures
from gaitwire.measure.swinging import swinging_figures
from gaitwire.measure.walking import FRAMES, WALKERS, walk_figures, walk_preview_figures
from gaitwire.services.session.workspace import Workspace
from gaitwire.store import Store

Say = Callable[[str], None]

GOALS = {
    "evaluate_frame_ms.p95": "at most 4",
    "bake_realtime_ratio": "at least 100",
    "pin_drag_300_ms.p95": "at most 5",
    "pin_drag_1000_ms.p95": "at most 12",
    "planted_drag_ms.p95": "at most 6",
    "gap_curve_ms": "at most 150",
    "range_test_s": "at most 2",
    "smear_60_ms": "at most 30",
    "sound_apart_frames": "at most 1",
    "walk_bake_ratio": "at least 50",
    "walk_slip_px": "at most 0.05",
    "walk_preview_ms.p95": "at most 50",
    "loose_bake_ratio": "at least 20",
    "loose_bake_5_ratio": "at least 8",
    "loose_drag_ms.p95": "at most 12",
    "loose_drag_far_ms.p95": "at most 60",
    "import_300_paths_s": "at most 2",
    "drag_ms.p95": "at most 16.7",
    "stage_fps": "at least 30",
    "export_png_fps": "at least 12",
    "long_ready_ms": "at most 1500",
    "long_edit_seen_ms.p95": "at most 150",
    "long_scroll_ms.p95": "at most 33",
}

LONG = Load(frames=960, key_every=74)
"""40 seconds: three puppets of 40 bones, each keyed on two properties thirteen times, 3,120 keys in all."""


def _with_scene(load: Load, work: Callable[[Workspace, str], Any]) -> Any:
    """Work on a scene of that size in a passing store."""
    return _in_passing_store(lambda workspace: work(workspace, make_scene_of(workspace, load)))


def _in_passing_store(work: Callable[[Workspace], Any]) -> Any:
    with tempfile.TemporaryDirectory(prefix="gaitwire-bench-") as folder:
        store = Store(Path(folder))
        try:
            return work(Workspace(store))
        finally:
            store.close()


def all_figures(say: Say, load: Load | None = None, earlier: dict[str, Any] | None = None) -> dict[str, Any]:
    """Every figure by its key; `say` is told what is being measured.

    A figure that cannot be measured here is null, and `not_measured` says why. Under `beside` stands what each
    costs in runs of the reference task; with the figures of an `earlier` run, `compared` says by what that changed.
    """
    load = load or Load()
    found, beside = apart(_measured(say, load))
    found["load"] = {"frames": load.frames, "puppets": load.puppets, "bones": load.bones, "parts": load.parts}
    found["machine"] = {"cores": os.cpu_count(), "python": platform.python_version(), "machine": platform.machine()}
    found["goals"] = GOALS
    found["beside"] = beside
    if earlier is not None:
        found["compared"] = compared(beside, earlier.get("beside", {}))
    return found


def earlier_figures(path: Path) -> dict[str, Any]:
    """What an earlier run printed as JSON; raises InvalidInputError if this is none."""
    try:
        found = json.loads(path.read_text(encoding="utf-8"))
        compared(found["beside"], found["beside"])
    except (ValueError, KeyError, TypeError, AttributeError) as error:
        raise InvalidInputError(
            f"{path} holds no figures with references beside them.", "Make one with: gaitwire bench --json > FILE"
        ) from error
    return dict(found)


def _measured(say: Say, load: Load) -> dict[str, Any]:
    say(f"the core: {load.frames} frames, {load.puppets} puppets of {load.bones} bones and {load.parts} parts")
    found: dict[str, Any] = _with_scene(load, core_figures)
    say("how it grows when frames, bones and parts double")
    found["growth"] = {}
    for name in ("frames", "bones", "parts"):
        doubled = replace(load, **{name: 2 * getattr(load, name)})
        found["growth"][name] = growth(found, _with_scene(doubled, core_figures))
    say("soft parts and art in")
    found |= _in_passing_store(pin_drag_figures)
    say("a body dragged while hands and feet hold")
    found |= _in_passing_store(planted_drag_figures)
    found |= _in_passing_store(joint_figures)
    found |= smear_figures()
    found["import_300_paths_s"] = _in_passing_store(import_seconds)
    say(f"walks: {WALKERS} travelling walkers, {FRAMES} frames; the feet of every card; a card that is changed")
    found |= _in_passing_store(walk_figures)
    found |= walk_preview_figures()
    say("what swings: Tamsin walking, and dragged")
    found |= _in_passing_store(swinging_figures)
    say("export: PNG at 1280x720 with two worker processes")
    found["export_png_fps"] = _with_scene(load, export_png_fps)
    say("the pages in headless Chromium: one such puppet")
    found |= page_figures(replace(load, puppets=1, rate=60), load)
    say("sound and pictures for a minute")
    found |= sound_figures()
    say("a long scene: 960 frames, 3 puppets, 3,120 keys")
    found |= long_scene_figures(LONG)
    return found
