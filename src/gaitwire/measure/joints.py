"""What joints take on the Bench: one gap curve, and the range test of a whole puppet."""

from __future__ import annotations

from gaitwire.demo.puppets import make_tamsin
from gaitwire.measure.beside import MeasuredFigure, middle, turned_about
from gaitwire.measure.load import Load, make_scene_of
from gaitwire.services.rig.joint_gaps import Mending
from gaitwire.services.rig.range_test import range_test
from gaitwire.services.session.workspace import Workspace

_TIMES = 7
BONES = 40


def joint_figures(workspace: Workspace) -> dict[str, MeasuredFigure]:
    """Milliseconds for the slowest of Tamsin's joints at one degree steps, art read anew; seconds for a range test."""
    mending = Mending(workspace, make_tamsin(workspace))
    bones = [gap.bone_id for gap in mending.gaps()]
    curves = [turned_about(lambda _, bone=bone: _curve(mending, bone), _TIMES) for bone in bones]  # type: ignore[misc]
    slowest = max(curves, key=lambda samples: samples.median)
    scene = workspace.scene(make_scene_of(workspace, Load(frames=1, puppets=1, bones=BONES)))
    loaded = scene.instances[0].puppet_id
    tests = turned_about(lambda _: range_test(workspace, loaded), 3)
    return {
        "gap_curve_ms": middle(slowest, lambda ms: round(ms, 1)),
        "range_test_s": middle(tests, lambda ms: round(ms / 1000, 3)),
    }


def _curve(mending: Mending, bone_id: str) -> None:
    joint = mending.joint(bone_id)
    if joint is not None:
        joint.curve()
