"""Requests for walks: what is written is told, and what does not fit is refused with nothing stored."""

import pytest

from gaitwire.services.floor import Floor, make_scene
from gaitwire.store.documents import list_documents


@pytest.fixture
def walk(client, orchard):
    """Posts a walk on Tamsin in a looped scene of 24 frames; the answer, and the scene after it."""
    floor = Floor(orchard, make_scene(orchard, "Round", frames=24, loop=True, first_number=1))
    who = floor.add_puppet(next(e.id for e in list_documents(orchard.store, "puppet") if e.name == "Tamsin"))

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
