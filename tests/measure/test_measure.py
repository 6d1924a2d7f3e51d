"""The measure itself: its scenes are of the stated size and always the same; every figure has its key."""

import numpy as np
import pytest

from builders.named import id_of
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.measure import earlier_figures
from gaitwire.measure.beside import Timings, apart, compared, in_rounds, percentiles, rate, turned_about
from gaitwire.measure.core import core_figures, growth
from gaitwire.measure.load import Load, make_scene_of
from gaitwire.measure.sending import export_png_fps
from gaitwire.measure.soft import import_seconds, pin_drag_figures
from gaitwire.measure.walking import slip
from gaitwire.services.gait.preview import preview
from gaitwire.services.session.workspace import Workspace
from gaitwire.store import Store

SMALL = Load(frames=24, puppets=2, bones=7, parts=9)


@pytest.fixture
def briefly(monkeypatch):
    """Each thing is done a few times: that it can be measured is looked at here, not how quick it is."""
    for module, name, times in (
        ("core", "_SINGLE", 5),
        ("soft", "_MOVES", 5),
        ("sending", "_FRAMES", 6),
        ("sending", "_TIMES", 1),
    ):
        monkeypatch.setattr(f"gaitwire.measure.{module}.{name}", times)


def test_a_load_is_as_large_as_it_says_and_always_the_same(workspace, tmp_path):
    scene = make_scene_of(workspace, SMALL)
    frames = workspace.frames(scene, np.arange(24.0))
    assert frames.matrices.shape == (24, 18, 6) and frames.nodes.shape == (24, 16, 6)
    keyed = {c.owner_id for c in workspace.scene(scene).channels}
    assert len(keyed) == 14  # every bone
    assert len(workspace.scene(scene).keys) == 14 * 2 * 24 // Load().key_every
    other = Workspace(Store(tmp_path / "other"))
    again = other.frames(make_scene_of(other, SMALL), np.arange(24.0))
    other.store.close()
    assert np.array_equal(frames.matrices, again.matrices)


def test_figures_of_the_core_and_of_exports(workspace, briefly):
    scene = make_scene_of(workspace, SMALL)
    figures = core_figures(workspace, scene)
    found, beside = apart({**figures, "export_png_fps": export_png_fps(workspace, scene)})
    assert found["evaluate_frame_ms"]["p95"] >= found["evaluate_frame_ms"]["p50"] > 0
    assert found["bake_realtime_ratio"] > 0 and found["export_png_fps"] > 0
    assert growth(figures, figures) == {"evaluate_frame": 1.0, "bake": 1.0}
    assert {*beside} == {
        "evaluate_frame_ms.p50", "evaluate_frame_ms.p95", "bake_ms", "bake_realtime_ratio", "export_png_fps"
    }  # fmt: skip


def test_costs_are_told_in_references_and_compared():
    def run(slower: float, machine: float) -> dict:
        ms = tuple(machine * slower * n for n in (10.0, 20.0, 30.0))
        return apart(
            {"fps": rate(Timings(ms, machine * 2.0)), "drag_ms": percentiles(Timings(ms, machine * 2.0)), "who": 3}
        )

    (told, then), (_, slow_machine), (_, slow_program) = run(1.0, 1.0), run(1.0, 1.6), run(1.1, 1.6)
    assert told == {"fps": 50.0, "drag_ms": {"p50": 20.0, "p95": 29.0}, "who": 3}
    assert then["fps"] == {"reference_ms": 2.0, "cost": 10.0} and then["drag_ms.p95"]["cost"] == 14.5
    assert compared(slow_machine, then) == {"fps": 1.0, "drag_ms.p50": 1.0, "drag_ms.p95": 1.0}
    assert compared(slow_program, then) == {"fps": 1.1, "drag_ms.p50": 1.1, "drag_ms.p95": 1.1}


def test_work_and_reference_take_turns():
    done = []
    samples = turned_about(done.append, 3, warm=2)
    assert done == [0, 1, 2, 3, 4] and len(samples.ms) == 3 and samples.reference > 0
    assert in_rounds(lambda n: [n, n + 0.5], 2).ms == (0, 0.5, 1, 1.5)


def test_an_earlier_run_that_is_none_is_refused(tmp_path):
    for text in ("", "[]", '{"beside": 3}', '{"beside": {"drag_ms": 2}}', "{}"):
        (tmp_path / "run.json").write_text(text)
        with pytest.raises(InvalidInputError, match="bench --json"):
            earlier_figures(tmp_path / "run.json")
    (tmp_path / "run.json").write_text('{"beside": {"fps": {"cost": 2.0}}}')
    assert earlier_figures(tmp_path / "run.json")["beside"] == {"fps": {"cost": 2.0}}


def test_figures_of_soft_parts_and_of_art_in(workspace, briefly):
    found, _ = apart({**pin_drag_figures(workspace), "import": import_seconds(workspace)})
    for wanted in (300, 1000):
        figure = found[f"pin_drag_{wanted}_ms"]
        assert figure["vertices"] == pytest.approx(wanted, rel=0.12)
        assert figure["p95"] >= figure["p50"] > 0
    assert found["import"] > 0


def test_feet_that_are_down_are_measured_and_one_that_slides_is_seen(orchard):
    tamsin = id_of(orchard, "puppet", "Tamsin")
    for name in ("plain", "weary", "limping", "run"):
        for travels in (False, True):
            assert slip(preview(orchard, tamsin, CHARACTERS[name], travels)) < 1e-6
    shown = preview(orchard, tamsin, CHARACTERS["plain"])
    object.__setattr__(shown, "way", lambda: [0.0] * 24)  # a floor that stands under a walk in place
    assert slip(shown) > 5
