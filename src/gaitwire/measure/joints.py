"""What joints take on the Bench: one gap curve, and the range test of a whole puppet."""

from __future__ import annotations

from typing import Any

import numpy as np

from gaitwire.demo.puppets import make_tamsin
from gaitwire.measure.core import timed
from gaitwire.measure.load import Load, make_scene_of
from gaitwire.services.mending import Mending
from gaitwire.services.range_test import range_test
from gaitwire.services.workspace import Workspace

_TIMES = 7
BONES = 40


def joint_figures(workspace: Workspace) -> dict[str, Any]:
    """Milliseconds for the slowest of Tamsin's joints at one degree steps, art read anew; seconds for a range test."""
    mending = Mending(workspace, make_tamsin(workspace))
    curves = [np.median([timed(lambda b=g.bone_id: _curve(mending, b)) for _ in range(_TIMES)]) for g in mending.gaps()]  # type: ignore[misc]
    scene = workspace.scene(make_scene_of(workspace, Load(frames=1, puppets=1, bones=BONES)))
    loaded = scene.instances[0].puppet_id
    tests = [timed(lambda: range_test(workspace, loaded)) for _ in range(3)]
    return {"gap_curve_ms": round(float(max(curves)), 1), "range_test_s": round(float(np.median(tests)) / 1000, 3)}


def _curve(mending: Mending, bone_id: str) -> None:
    joint = mending.joint(bone_id)
    if joint is not None:
        joint.curve()
