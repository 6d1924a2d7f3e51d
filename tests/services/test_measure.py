"""The measure itself: its scenes are of the stated size and always the same; every figure has its key."""

import numpy as np
import pytest

from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.measure.core import core_figures, growth
from gaitwire.measure.load import Load, make_scene_of
from gaitwire.measure.sending import export_png_fps
from gaitwire.measure.soft import import_seconds, pin_drag_figures
from gaitwire.measure.walking import slip
from gaitwire.services.stride_preview import preview
from gaitwire.services.workspace import Workspace
from gaitwire.store import Store
from gaitwire.store.documents import list_documents

SMALL = Load(frames=24, puppets=2, bones=7, parts=9)


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


def test_figures_of_the_core_and_of_exports(workspace):
    scene = make_scene_of(workspace, SMALL)
    found = core_figures(workspace, scene)
    assert found["evaluate_frame_ms"]["p95"] >= found["evaluate_frame_ms"]["p50"] > 0
    assert found["bake_realtime_ratio"] > 0
    assert growth(found, found) == {"evaluate_frame": 1.0, "bake": 1.0}
    assert export_png_fps(workspace, scene) > 0


def test_figures_of_soft_parts_and_of_art_in(workspace):
    found = pin_drag_figures(workspace)
    for wanted in (300, 1000):
        figure = found[f"pin_drag_{wanted}_ms"]
        assert figure["vertices"] == pytest.approx(wanted, rel=0.12)
        assert figure["p95"] >= figure["p50"] > 0
    assert import_seconds(workspace) > 0


def test_feet_that_are_down_are_measured_and_one_that_slides_is_seen(orchard):
    tamsin = next(e.id for e in list_documents(orchard.store, "puppet") if e.name == "Tamsin")
    for name in ("plain", "weary", "limping", "run"):
        for travels in (False, True):
            assert slip(preview(orchard, tamsin, CHARACTERS[name], travels)) < 1e-6
    shown = preview(orchard, tamsin, CHARACTERS["plain"])
    object.__setattr__(shown, "way", lambda: [0.0] * 24)  # a floor that stands under a walk in place
    assert slip(shown) > 5
