"""What is shown stays as it is: all demo scenes, and scenes with every feature, against the numbers kept of them."""

from typing import get_args

import numpy as np
import pytest

from as_shown import FOLDER, numbers_of, scenes_of, stored
from gaitwire.core.evaluate import evaluate
from gaitwire.core.scene import Scene
from gaitwire.core.timing.channel import OwnerKind
from gaitwire.core.timing.loop import RepeatKind
from gaitwire.store.documents import list_documents

WITHIN = {"points": 1e-3, "matrices": 1e-3, "nodes": 1e-3, "views": 1e-3, "opacity": 1e-3, "fade": 1e-3}
"""Pixels, shares and parts of a matrix; drawings and order are to be the same."""


@pytest.fixture(scope="module")
def shown(modules_orchard):
    workspace = modules_orchard
    numbers = {name: numbers_of(workspace, scene_id, times) for name, scene_id, times in scenes_of(workspace)}
    made = [
        workspace.scene(entry.id)
        for entry in list_documents(workspace.store, "scene")
        if entry.name.startswith("Everything")
    ]
    alone = {scene.name: _alone(workspace, scene) for scene in made}
    return numbers, made, alone


def _alone(workspace, scene):
    """By how much frames that are asked for one by one differ from those that are asked for together."""
    compiled, frames = workspace.compiled(scene.id), np.arange(float(scene.frames))
    whole = evaluate(compiled, frames)
    ones = [evaluate(compiled, frames[[n]]) for n in range(len(frames))]
    return [float(np.abs(one.nodes[0] - whole.nodes[n]).max()) for n, one in enumerate(ones)]


def test_all_scenes_are_kept(shown):
    assert {*shown[0]} == {path.stem for path in FOLDER.glob("*.npz")}


def test_every_kind_of_row_that_moves_something_stands_in_them(shown):
    rows = {name for scene in shown[1] for name, value in scene if isinstance(value, tuple) and value}
    still = {"guides", "sounds", "markers"}
    assert rows | still == {name for name, field in Scene.model_fields.items() if field.default == ()}
    channels = [c for scene in shown[1] for c in scene.channels]
    assert {*get_args(RepeatKind)} <= {c.repeat for c in channels}
    assert {c.owner_kind for c in channels} | {"phrase"} == {*get_args(OwnerKind)}  # settings of phrases are not ridden
    assert {i.exposure for scene in shown[1] for i in scene.instances} == {1, 2, 3}


def test_a_frame_alone_is_as_it_is_among_others(shown):
    for name, apart in shown[2].items():
        assert max(apart) < 1e-6, f"{name}: frame {int(np.argmax(apart))}"


@pytest.mark.parametrize("name", sorted(path.stem for path in FOLDER.glob("*.npz")))
def test_a_scene_shows_what_it_showed(shown, name):
    found, now = shown[0][name]
    names, then = stored(name)
    assert found == names
    for kind, numbers in then.items():
        assert now[kind].shape == numbers.shape, kind
        apart = np.abs(now[kind] - numbers)
        assert apart.max(initial=0.0) <= WITHIN.get(kind, 0.0), (
            f"{kind} at {np.unravel_index(apart.argmax(), apart.shape)}"
        )
