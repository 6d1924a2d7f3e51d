"""The last picture of a drag is the picture after release: on every demo scene, and where every feature stands once."""

import numpy as np
import pytest
from hypothesis import HealthCheck, given, note, settings
from hypothesis import strategies as st

from builders.everything import make_everything
from builders.followers import Followers
from conftest import KNOWN
from gaitwire.core.errors import GaitWireError
from gaitwire.core.evaluate import evaluate
from gaitwire.core.evaluate.solvers import SOLVERS
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.poses import block_pose
from gaitwire.services.scene.posing import set_values
from gaitwire.services.session.workspace import Workspace
from gaitwire.store.documents import list_documents
from gaitwire.store.history import take_step
from gaitwire.web.live import Session
from gaitwire.web.live_messages import MESSAGES

WITHIN = 0.01
"""Pixels, and parts of a matrix."""

WAYS = ["turn", "shift", "stretch", "squash"]


class Stage:
    """A workspace with all scenes, and what can be dragged in them: (instance id, owner id)."""

    def __init__(self, store, scenes):
        self.store, self.workspace = store, Workspace(store, KNOWN)
        self.scenes = [(scene, _nodes(self.workspace, scene)) for scene in scenes]


@pytest.fixture(scope="module")
def stage(modules_orchard):
    workspace = modules_orchard
    make_everything(workspace)
    scenes = [workspace.scene(e.id) for e in list_documents(workspace.store, "scene")]
    return Stage(workspace.store, sorted(scenes, key=lambda s: (not s.name.startswith("Everything"), s.name)))


def _nodes(workspace, scene):
    return [
        (i.id, owner)
        for i in sorted(scene.instances, key=lambda i: i.name)
        if not i.locked
        for owner in (i.id, *(b.id for b in workspace.puppet(i.puppet_id).bones if not b.locked))
    ]


@pytest.fixture
def remembering(stage):
    """The same, compiled while some bones follow what they hang from."""
    SOLVERS.append(Followers("plait", "head", "basket"))
    yield Stage(stage.store, [scene for scene, _ in stage.scenes])
    SOLVERS.pop()


def dragged_and_released(workspace, scene, message, blocking):
    """Frames of the scene at the end of a drag and after release; None where either is refused, or asked about."""
    floor, frame = Floor(workspace, scene.id), message["frame"]
    try:
        head, last = Session(workspace, "scene", scene.id).answer(MESSAGES.validate_python(message))
        wanted = {(i, o, p): v for i, o, p, v in head["values"]}
        (block_pose if blocking else set_values)(floor, frame, wanted)
    except GaitWireError:
        return None
    released = evaluate(workspace.compiled(scene.id), np.array([frame]), blocking=blocking)
    take_step(workspace.store, scene.id, "undo")
    return last, released


def gap(one, other):
    """The largest difference of two pictures, and of what."""
    rows = [(name, np.abs(getattr(one, name) - getattr(other, name))) for name in ("nodes", "matrices", "points")]
    rows += [(name, np.abs(getattr(one, name) - getattr(other, name))) for name in ("opacity", "order", "drawing")]
    name, apart = max(rows, key=lambda row: float(row[1].max(initial=0.0)))
    return float(apart.max(initial=0.0)), f"{name} {np.argwhere(apart > WITHIN)[:4].tolist()}"


drags = st.fixed_dictionaries(
    {"gesture": st.sampled_from(WAYS), "x": st.integers(-80, 80), "y": st.integers(-80, 80), "share": st.floats(0, 1)}
)


def held(stage, which, node, drag, blocking):
    """One drag on one of the scenes, by any node, on any frame."""
    scene, nodes = stage.scenes[which % len(stage.scenes)]
    who, owner = nodes[node % len(nodes)]
    frame = round(drag["share"] * (scene.frames - 1))
    message = {
        "kind": "pose", "gesture": drag["gesture"], "x": 640 + drag["x"], "y": 400 + drag["y"], "from_x": 640,
        "from_y": 400, "frame": frame, "nodes": [[who, owner]], "began": 1, "blocking": blocking,
    }  # fmt: skip
    note(f"{scene.name}, {who}, {owner}, frame {frame}, {message}")
    return dragged_and_released(stage.workspace, scene, message, blocking)


@settings(max_examples=25, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.integers(0, 40), st.integers(0, 10**4), drags, st.booleans())
def test_the_last_picture_of_a_drag_is_the_picture_after_release(stage, which, node, drag, blocking):
    found = held(stage, which, node, drag, blocking)
    if found is not None:
        apart, what = gap(*found)
        assert apart <= WITHIN, what


@settings(max_examples=12, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.integers(0, 40), st.integers(0, 10**4), drags)
def test_so_it_is_where_something_remembers(remembering, which, node, drag):
    found = held(remembering, which, node, drag, False)
    if found is not None:
        apart, what = gap(*found)
        assert apart <= WITHIN, what
