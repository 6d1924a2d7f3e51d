"""Footprints of walks in a scene: where their feet stand, each time that they come down."""

import numpy as np
import pytest

from builders.named import id_of
from gaitwire.core.evaluate import evaluate
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.services.scene.floor import add_puppet, make_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.walks import put_gait, set_gait, walks_of
from gaitwire.services.views.walk_prints import walk_prints


@pytest.fixture
def lane(orchard):
    return Floor(orchard, make_scene(orchard, "Lane", frames=97, loop=False, ground=600.0))


def puppet(workspace, name):
    return id_of(workspace, "puppet", name)


@pytest.mark.parametrize("walk", [{}, {"pace": "stands"}, {"slope": 8.0}])
def test_they_lie_on_the_floor_a_stride_apart(orchard, lane, walk):
    who = add_puppet(lane, puppet(orchard, "Tamsin"), x=200.0, y=600.0)
    put_gait(lane, who, CHARACTERS["plain"], travels=True, **walk)
    compiled = orchard.compiled(lane.scene_id)
    found = walk_prints(compiled)
    gait = walks_of(lane, who)[0]
    for side in ("near", "far"):
        own = [p for p in found if p.side == side]
        assert len(own) >= 3
        heels = np.array([complex(*p.heel) for p in own])
        if walk != {"pace": "stands"}:
            stride = gait.stride.length * gait.walker.length
            assert np.abs(np.diff(heels)) == pytest.approx(np.full(len(own) - 1, stride), abs=0.1)
        angle = np.degrees(np.angle(np.array([complex(*p.ball) for p in own]) - heels))
        assert angle == pytest.approx(np.full(len(own), -walk.get("slope", 0.0)), abs=0.2)
    nodes = evaluate(compiled, np.array([p.frame for p in found]))
    feet = [k[1] for k in nodes.node_keys]
    for n, one in enumerate(found):
        ankle = nodes.nodes[n, feet.index(gait.walker.legs[one.side == "far"].foot.id), 4]
        assert one.heel[0] < ankle < one.ball[0]


def test_four_feet_leave_prints_and_a_walk_in_place_none(orchard, lane):
    who = add_puppet(lane, puppet(orchard, "Bramble"), x=200.0, y=600.0, scale=0.4)
    gait = put_gait(lane, who, CHARACTERS["plod"], travels=True)
    found = walk_prints(orchard.compiled(lane.scene_id))
    assert len(found) >= 8 and max(abs(p.heel[1] - 600) for p in found) < 0.1
    set_gait(lane, gait, {"travels": False})
    assert walk_prints(orchard.compiled(lane.scene_id)) == []


def test_the_page_is_told_of_them(client, orchard, lane):
    who = add_puppet(lane, puppet(orchard, "Tamsin"), x=200.0, y=600.0)
    assert client.get(f"/floor/{lane.scene_id}/prints.json").json() == []
    put_gait(lane, who, CHARACTERS["plain"], travels=True)
    rows = client.get(f"/floor/{lane.scene_id}/prints.json").json()
    assert {row[4] for row in rows} == {"near", "far"} and all(len(row) == 6 for row in rows)
