"""Requests about plants, hitches and bearings: what fits, what does not, and that nothing is half-stored."""

import json

import numpy as np
import pytest

from builders.making import tip
from builders.named import id_of
from builders.posting import post_to_floor
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.links import update_plant
from gaitwire.web.live import Session, reply


@pytest.fixture
def climb(orchard):
    return orchard.scene(id_of(orchard, "scene", "Tamsin climbs"))


def named(orchard, scene, puppet, bone):
    instance = next(i for i in scene.instances if i.name == puppet)
    return instance.id, next(b.id for b in orchard.puppet(instance.puppet_id).bones if b.name == bone)


def links(scene):
    return scene.plants, scene.hitches, scene.bearings


@pytest.mark.parametrize(
    ("action", "data", "said"),
    [
        ("links/plants/{plant}/set", {"field": "start", "value": "soon"}, "no number for a frame"),
        ("links/plants/{plant}/set", {"field": "limb_id", "value": "x"}, "cannot be set here"),
        ("links/plants/{plant}/set", {"field": "stop", "value": "-3"}, "begins"),
        ("links/plants/{plant}/set", {"field": "soft_in", "value": "-1"}, "soft"),
        ("links/bogus/{plant}/set", {"field": "start", "value": "3"}, "cannot be set here"),
        ("links/bogus/{plant}/move", {"start": "3", "stop": "4"}, "no “bogus” to move"),
        ("links/bogus/{plant}/remove", {}, "no “bogus” to remove"),
        ("links/plants/{plant}/place", {"x": "1", "y": "2", "angle": "steep"}, "no number for an angle"),
        ("links/plant", {"nodes": "[]", "frame": "3"}, "No limb is chosen"),
        ("links/lift", {"nodes": "[]", "frame": "3"}, "Nothing that is chosen is planted"),
        ("links/bear", {"nodes": "[]", "frame": "3"}, "Nothing is chosen"),
        ("links/hitch", {"nodes": "[]", "frame": "3"}, "Nothing is chosen that can be carried"),
        ("links/solve", {"nodes": "[]", "frame": "3", "solved": "true"}, "No limb is chosen"),
    ],
)
def test_what_does_not_fit_is_refused_where_the_user_is_and_nothing_changes(client, orchard, climb, action, data, said):
    found = post_to_floor(client, climb, action.format(plant=climb.plants[0].id), **data)
    assert found.status_code == 422 and said in found.text, found.text
    assert links(orchard.scene(climb.id)) == links(climb)


def test_what_is_gone_is_not_found_and_locked_puppets_are_not_planted(client, orchard, climb):
    assert post_to_floor(client, climb, "links/plants/none/remove").status_code == 404
    hand = named(orchard, climb, "Tamsin", "near hand")
    post_to_floor(client, climb, f"puppets/{hand[0]}/set", field="locked", value="true")
    found = post_to_floor(client, climb, "links/plant", nodes=json.dumps([hand]), frame=200)
    assert found.status_code == 422 and "“Tamsin” is locked" in found.text
    assert orchard.scene(climb.id).plants == climb.plants


def test_frames_are_typed_as_the_scene_numbers_them(client, orchard, climb):
    post_to_floor(client, climb, "set", field="first_number", value="1")
    plant = next(p for p in climb.plants if p.start == 31)
    assert post_to_floor(client, climb, f"links/plants/{plant.id}/set", field="start", value="33").status_code == 200
    assert next(p for p in orchard.scene(climb.id).plants if p.id == plant.id).start == 32
    bearing = climb.bearings[0]
    assert post_to_floor(client, climb, f"links/bearings/{bearing.id}/move", start=130, stop=130).status_code == 200
    assert orchard.scene(climb.id).bearings[0].time == 130


def test_the_card_tells_of_plants_near_the_frame_and_of_what_carries(client, orchard, climb):
    leg = named(orchard, climb, "Tamsin", "near shin")
    text = post_to_floor(client, climb, "card", nodes=json.dumps([leg]), frame=40).text
    assert "near leg is planted here" in text and "on rung 2" in text and "on rung 4" not in text
    between = post_to_floor(client, climb, "card", nodes=json.dumps([leg]), frame=55).text
    assert "is turned by its bones" in between and "on rung 2" in between and "on rung 4" in between
    assert "near shin</strong>" in text and "carries it" in text
    apples = named(orchard, climb, "Tamsin", "apples")
    assert "flies" in post_to_floor(client, climb, "card", nodes=json.dumps([apples]), frame=150).text


def test_the_wires_and_the_stage_show_what_holds(client, orchard, climb):
    page = client.get(f"/floor/{climb.id}").text
    assert page.count('data-link="plants"') == len(climb.plants)
    assert page.count('data-link="bearings"') == 1 and page.count('data-link="hitches"') == 1
    shown = client.get(f"/floor/{climb.id}/stage.json").json()["plants"]
    assert len(shown) == len(climb.plants)
    ground = next(p for p in shown if p["node"] < 0 and p["name"] == "near leg")
    assert ground["heel"] != ground["ball"] and ground["facing"] == 1


def test_a_footprint_in_the_hand_shows_the_leg_there_and_stores_nothing(orchard, climb):
    plant = next(p for p in climb.plants if p.start == 0 and not p.carrier_id)
    session = Session(orchard, "scene", climb.id)
    message = {"kind": "footprint", "plant": plant.id, "x": plant.x - 9, "y": plant.y - 12, "angle": 5.0, "frame": 4}
    answer = reply(session, json.dumps(message))
    size = int.from_bytes(answer[:4], "little")
    assert json.loads(answer[4 : 4 + size]) == {"values": [], "said": ""} and len(answer) > 4 + size + 1000
    assert links(orchard.scene(climb.id)) == links(climb)
    assert b"could not be read" in reply(session, json.dumps({"kind": "bogus", "x": 0, "y": 0}))


def test_notes_are_listed_with_their_frames_and_bones(client, orchard, climb):
    text = client.post(f"/floor/{climb.id}/panels/notes").text
    assert "data-choose" in text or "Nothing to note" in text
    floor = Floor(orchard, climb.id)
    plant = climb.plants[0]
    update_plant(floor, plant.id, {"x": plant.x - 300})
    text = client.post(f"/floor/{climb.id}/panels/notes").text
    assert "out of reach" in text and plant.instance_id in text


def test_the_demo_keeps_its_holds_its_carriers_and_its_bearing(orchard, climb):
    """On the real performance: spots are kept, and no change of what carries makes a jump."""
    compiled = orchard.compiled(climb.id)
    for time in (*(b.time for b in climb.bearings), *(h.time for h in climb.hitches)):
        before, after = orchard.frames(climb.id, np.array([time - 1e-5, time + 1e-5])).nodes
        assert np.abs(after - before).max() < 0.01
    wrist = {i.id: i for i in orchard.puppet(compiled.compiled_puppets[-1].source.puppet.id).limbs}
    held = [p for p in climb.plants if p.limb_id in wrist and not p.carrier_id and p.start > 80]
    for plant in held:  # both hands on the branch
        frames = orchard.frames(climb.id, np.arange(plant.start, plant.stop + 1))
        place = tip(frames, wrist[plant.limb_id].tip_id, 0)
        assert np.abs(place - (plant.x, plant.y)).max() < 0.2
    knee = tip(orchard.frames(climb.id, np.arange(134.0, 228.0)), named(orchard, climb, "Tamsin", "near shin")[1], 0)
    assert np.abs(knee - knee[0]).max() < 0.01
