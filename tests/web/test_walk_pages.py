"""Requests for walks: what is written is told, and what does not fit is refused with nothing stored."""

import numpy as np
import pytest

from builders.named import id_of
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate import evaluate
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.services.scene.floor import add_puppet, make_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.rides import record_setting
from gaitwire.services.scene.walks import find_gait, put_gait
from gaitwire.web.live import Session
from gaitwire.web.live_messages import WalkMove


@pytest.fixture
def walk(client, orchard):
    """Posts a walk on Tamsin in a looped scene of 24 frames; the answer, and the scene after it."""
    floor = Floor(orchard, make_scene(orchard, "Round", frames=24, loop=True, first_number=1))
    who = add_puppet(floor, id_of(orchard, "puppet", "Tamsin"))

    def post(**data):
        sent = {"card": "plain", "start": "1", "stop": "24", **data}
        found = client.post(f"/floor/{floor.scene_id}/walk/{who}", data=sent, headers={"HX-Request": "true"})
        return found, floor.scene

    return post


def test_a_loop_that_is_a_whole_stride_is_written_and_one_that_is_not_is_told(walk):
    found, scene = walk()
    assert found.status_code == 200 and "does not meet" not in found.text
    assert {k.time for k in scene.keys} == set(range(24))
    found, _ = walk(card="weary")
    assert "a stride takes 32 frames" in found.text


@pytest.mark.parametrize(
    ("data", "status", "said"),
    [
        ({"card": "strolling"}, 404, "no gait card"),
        ({"other": "strolling"}, 404, "no gait card"),
        ({"other": "weary", "share": "half"}, 422, "no number for a share"),
        ({"start": "soon"}, 422, "no number for a frame"),
        ({"stop": "400"}, 422, "not all in the scene"),
        ({"stop": "1"}, 422, "too short"),
    ],
)
def test_what_does_not_fit_is_refused(walk, data, status, said):
    found, scene = walk(**data)
    assert found.status_code == status and said in found.text
    assert not scene.keys and not scene.poses


def test_while_a_setting_is_ridden_again_it_looks_as_it_will(orchard):
    floor = Floor(orchard, make_scene(orchard, "Again", frames=24))
    who = add_puppet(floor, id_of(orchard, "puppet", "Tamsin"))
    gait = find_gait(floor, put_gait(floor, who, CHARACTERS["plain"]))
    record_setting(floor, gait, "lean", [(5.0, 20.0), (20.0, 20.0)])
    session, again = Session(orchard, "scene", floor.scene_id), 6.0
    message = WalkMove(kind="walk", walk=gait.id, setting="lean", value=again, frame=12.0)
    _, shown = session.walk(message)
    record_setting(floor, gait, "lean", [(5.0, again), (20.0, again)])
    kept = evaluate(orchard.compiled(floor.scene_id), np.array([12.0]))
    assert np.abs(shown.nodes - kept.nodes).max() < 1e-9
    with pytest.raises(InvalidInputError, match="not there"):
        session.walk(message.model_copy(update={"setting": "stride"}))
