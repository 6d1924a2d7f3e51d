"""Loose ends from the card: let swing, set in the units shown, refused in words, made keys, stiff again; the weather."""

import json

import pytest

from builders.acting import Alone
from builders.posting import post_to_floor


@pytest.fixture
def stage(orchard):
    return Alone(orchard)


def test_what_is_chosen_swings_is_set_and_is_stiff_again(client, stage):
    scene, chosen = stage.floor.scene, [stage.node("plait"), stage.node("basket")]
    nodes = json.dumps(chosen)

    def found():
        by_owner = {(d.instance_id, d.owner_id): d.settings for d in stage.floor.scene.drivers}
        return [by_owner.get(node) for node in chosen]

    def card():
        return post_to_floor(client, scene, "card", nodes=nodes, frame="0").text

    assert "let them swing" in card() and "stiff again" not in card()
    assert post_to_floor(client, scene, "loose", nodes=json.dumps(chosen[:1])).status_code == 200
    assert post_to_floor(client, scene, "loose/set", nodes=nodes, field="damping", value="40").status_code == 200
    assert post_to_floor(client, scene, "loose", nodes=nodes).status_code == 200  # the first one stays as it was set
    assert [loose.damping for loose in found()] == [0.4, 0.25]
    for field, value in (("stiffness", "2,5"), ("limit", "30"), ("bends", "false"), ("off_floor", "true")):
        assert post_to_floor(client, scene, "loose/set", nodes=nodes, field=field, value=value).status_code == 200
    assert found()[1].model_dump(exclude={"damping"}) == {
        "kind": "loose", "bends": False, "stiffness": 2.5, "as_drawn": True, "weight": 1, "direction": 0, "wind": 1, "limit": 30, "off_floor": True,
    }  # fmt: skip
    assert 'placeholder="differ"' in card() and 'value="2.5"' in card()
    assert post_to_floor(client, scene, "loose/set", nodes=nodes, field="limit", value="").status_code == 200
    assert [loose.limit for loose in found()] == [None, None]
    for field, value in (("stiffness", "quick"), ("stiffness", "99"), ("damping", "nan"), ("kind", "drift")):
        before = stage.floor.scene
        answer = post_to_floor(client, scene, "loose/set", nodes=nodes, field=field, value=value)
        assert answer.status_code == 422 and stage.floor.scene == before, (field, value)
    assert (
        "led by others" in card()
        and "led by others"
        not in post_to_floor(client, scene, "card", nodes=json.dumps([stage.node("chest")]), frame="0").text
    )
    stage.key(0, "chest", 0)
    stage.key(12, "chest", 30)
    stage.key(12, "plait", 5)
    assert "drop 2 turns by hand" in card()
    assert "2 keys of turns are gone" in post_to_floor(client, scene, "loose/drop", nodes=nodes).text
    made = post_to_floor(client, scene, "loose/own", nodes=json.dumps(chosen[:1]))
    assert "of the swing" in made.text and len(stage.keys("plait")) > 4
    assert post_to_floor(client, scene, "loose/remove", nodes=nodes).status_code == 200 and found() == [None, None]
    assert post_to_floor(client, scene, "loose", nodes=json.dumps([[stage.who, stage.who]])).status_code == 422


def test_all_are_led_as_the_first_of_them_is(client, stage):
    scene, names = stage.floor.scene, ["plait", "basket", "apron"]
    chosen = [stage.node(name) for name in names]
    nodes = json.dumps(chosen)

    def found(kind):
        by_owner = {d.owner_id: d.settings for d in stage.floor.scene.drivers if d.settings.kind == kind}
        return [by_owner.get(owner) for _, owner in chosen]

    post_to_floor(client, scene, "loose", nodes=json.dumps(chosen[1:2]))
    post_to_floor(client, scene, "loose/set", nodes=nodes, field="damping", value="70")
    assert "all like basket" in post_to_floor(client, scene, "card", nodes=nodes, frame="0").text
    assert post_to_floor(client, scene, "loose/alike", nodes=nodes).status_code == 200
    assert [loose.damping for loose in found("loose")] == [0.7] * 3
    assert "all like" not in post_to_floor(client, scene, "card", nodes=nodes, frame="0").text
    assert post_to_floor(client, scene, "loose/alike", nodes=nodes).status_code == 422
    post_to_floor(client, scene, "drift", nodes=json.dumps(chosen[:2]))
    post_to_floor(client, scene, "drift/set", nodes=json.dumps(chosen[:1]), field="skew", value="4")
    post_to_floor(client, scene, "drift/set", nodes=json.dumps(chosen[:1]), field="turn", value="0")
    assert post_to_floor(client, scene, "drift/alike", nodes=nodes).status_code == 200
    assert [drift.amounts for drift in found("drift")] == [{"skew": 4.0}] * 3
    assert len({drift.seed for drift in found("drift")}) == 3


def test_the_scene_offers_its_weather_once_something_swings(client, stage):
    scene = stage.floor.scene

    def card():
        return post_to_floor(client, scene, "card", nodes="[]", frame="0").text

    assert "blows towards" not in card()
    post_to_floor(client, scene, "loose", nodes=json.dumps([stage.node("plait")]))
    assert "blows towards" in card() and 'placeholder="by height"' in card()
    for field, value in (("wind", "300"), ("gusts", "70"), ("fall", "900"), ("wind_turn", "-20")):
        assert post_to_floor(client, scene, "set", field=field, value=value).status_code == 200
    now = stage.floor.scene
    assert (now.wind, now.gusts, now.fall, now.wind_turn) == (300, 0.7, 900, -20)
    assert post_to_floor(client, scene, "set", field="fall", value="").status_code == 200
    assert stage.floor.scene.fall is None
    assert post_to_floor(client, scene, "set", field="wind", value="storm").status_code == 422
    assert post_to_floor(client, scene, "set", field="ground", value="").status_code == 200  # no floor line any more
    assert stage.floor.scene.ground is None


def test_the_stage_is_told_what_swings(client, stage):
    scene = stage.floor.scene

    def swings():
        state = client.get(f"/floor/{scene.id}/stage.json").json()
        return {node["name"] for node in state["nodes"] if node and node.get("swings")}

    assert swings() == set()
    post_to_floor(client, scene, "loose", nodes=json.dumps([stage.node("plait")]))
    assert swings() == {"plait", "plait 2"}
