"""The Floor's requests: locked things, nudges, places, cards, and values that do not fit."""

import json

import numpy as np
import pytest

from builders.making import lead
from builders.named import id_of
from builders.posting import post_to_floor
from gaitwire.formats.exporting import ExportSettings
from gaitwire.services.output.sendoff import prepare
from gaitwire.services.scene.floor import update_instance
from gaitwire.services.scene.gestures import Floor


@pytest.fixture
def pip(orchard):
    return orchard.scene(id_of(orchard, "scene", "Pip hops"))


def owner(workspace, scene, name):
    return next(b.id for b in workspace.puppet(lead(scene).puppet_id).bones if b.name == name)


def beads_of(scene, owner_id):
    channels = {c.id: c for c in scene.channels if c.owner_id == owner_id}
    times = sorted({k.time for k in scene.keys if k.channel_id in channels})
    return [[lead(scene).id, owner_id, t] for t in times]


def test_a_locked_puppet_refuses_keys_and_its_beads_stay(client, orchard, pip):
    instance = lead(pip).id
    leaf = owner(orchard, pip, "leaf")
    post_to_floor(client, pip, f"puppets/{instance}/set", field="locked", value="true")
    for action, data in (
        ("values", {"frame": 3, "values": json.dumps([[instance, leaf, "turn", 9.0]])}),
        ("typed", {"frame": 3, "nodes": json.dumps([[instance, leaf]]), "field": "turn", "value": "9"}),
        ("nudge", {"frame": 3, "nodes": json.dumps([[instance, leaf]]), "dx": 4, "dy": 0}),
        ("key-pose", {"frame": 3, "nodes": json.dumps([[instance, leaf]])}),
        ("beads/move", {"beads": json.dumps(beads_of(pip, leaf)), "by": 2}),
        ("beads/delete", {"beads": json.dumps(beads_of(pip, leaf))}),
        ("beads/ease", {"beads": json.dumps(beads_of(pip, leaf)), "ease": "linear"}),
    ):
        found = post_to_floor(client, pip, action, **data)
        assert found.status_code == 422 and "“Pip” is locked" in found.text, action
    assert orchard.scene(pip.id).keys == pip.keys


def test_a_nudge_moves_by_pixels_of_the_stage_whatever_hangs_above(client, orchard, pip):
    instance, leaf = lead(pip).id, owner(orchard, pip, "leaf")
    at = np.array([10.0])

    def place(scene):
        frames = orchard.frames(scene.id, at)
        return frames.nodes[0, frames.node_keys.index((instance, leaf)), 4:]

    before = place(pip)
    assert (
        post_to_floor(client, pip, "nudge", frame=10, nodes=json.dumps([[instance, leaf]]), dx=7, dy=-3).status_code
        == 200
    )
    assert place(pip) - before == pytest.approx([7, -3], abs=1e-3)


def test_a_whole_selection_is_not_nudged_twice(client, orchard, pip):
    instance = lead(pip).id
    nodes = [[instance, instance], *([instance, b.id] for b in orchard.puppet(lead(pip).puppet_id).bones)]
    before = orchard.frames(pip.id, np.array([0.0])).nodes[0]
    post_to_floor(client, pip, "nudge", frame=0, nodes=json.dumps(nodes), dx=5, dy=0)
    after = orchard.frames(pip.id, np.array([0.0]))
    own = [n for n, key in enumerate(after.node_keys) if key[0] == instance]
    assert (after.nodes[0] - before)[own, 4] == pytest.approx(5.0)


def test_typed_values_are_in_the_unit_that_is_shown_and_held_to_their_bounds(client, orchard, pip):
    instance, apple = lead(pip).id, owner(orchard, pip, "apple")
    nodes = json.dumps([[instance, apple]])

    def value(prop):
        scene = orchard.scene(pip.id)
        channel = next(c.id for c in scene.channels if (c.owner_id, c.property) == (apple, prop))
        return next(k.value for k in scene.keys if k.channel_id == channel and k.time == 2.0)

    post_to_floor(client, pip, "typed", frame=2, nodes=nodes, field="stretch", value="130")
    post_to_floor(client, pip, "typed", frame=2, nodes=nodes, field="skew", value="400")
    assert value("stretch") == pytest.approx(1.3) and value("skew") == 80
    for text in ("", "wide", "nan", "inf"):
        assert post_to_floor(client, pip, "typed", frame=2, nodes=nodes, field="turn", value=text).status_code == 422
    assert post_to_floor(client, pip, "typed", frame=2, nodes=nodes, field="colour", value="1").status_code == 422


def test_what_cannot_be_read_is_refused(client, pip):
    for action, data in (
        ("beads/move", {"beads": "[[1]]", "by": 1}),
        ("beads/move", {"beads": "[]", "by": 1}),
        ("beads/ease", {"beads": json.dumps([["a", "b", 0]]), "ease": "quad-in"}),
        ("values", {"frame": 0, "values": '{"a": 1}'}),
        ("values", {"frame": "nan", "values": "[]"}),
        ("beads/reuse", {"beads": "[]", "source": "[]"}),
        ("nudge", {"frame": 0, "nodes": "[", "dx": 1, "dy": 1}),
        ("key-pose", {"frame": 0, "nodes": "[1, 2]"}),
        ("typed", {"frame": 0, "nodes": "x", "field": "turn", "value": "1"}),
        ("card", {"frame": 0, "nodes": "{}"}),
        ("puppets/nobody/set", {"field": "x", "value": "1"}),
        ("set", {"field": "width", "value": "4"}),
    ):
        assert 400 <= post_to_floor(client, pip, action, **data).status_code < 500, action


def test_places_sizes_and_depths_of_puppets(client, orchard, pip):
    instance = lead(pip).id
    for field, value in (("x", "100.5"), ("scale", "50"), ("turned", "true"), ("name", "Pip at the left")):
        assert post_to_floor(client, pip, f"puppets/{instance}/set", field=field, value=value).status_code == 200
    post_to_floor(client, pip, f"puppets/{instance}/depth/-1")
    found = {i.id: i for i in orchard.scene(pip.id).instances}
    one = found[instance]
    assert (one.x, one.scale, one.turned, one.name, one.depth) == (100.5, 0.5, True, "Pip at the left", 0)
    bad = post_to_floor(client, pip, f"puppets/{instance}/set", field="scale", value="0")
    assert bad.status_code == 422 and "scale" in bad.text
    out = post_to_floor(client, pip, f"puppets/{instance}/remove")
    assert "Undo brings it back" in out.text
    assert len(orchard.scene(pip.id).instances) == 1


def test_the_card_speaks_of_the_scene_of_bones_and_of_beads(client, orchard, pip):
    instance, leaf = lead(pip).id, owner(orchard, pip, "leaf")
    scene = post_to_floor(client, pip, "card", frame=0).text
    assert "24 frames, 1.00 s, loops" in scene and "Orchard rows" in scene
    bones = post_to_floor(client, pip, "card", frame=10, nodes=json.dumps([[instance, leaf]])).text
    assert "<h2>leaf</h2>" in bones and 'class="keyed">turn' in bones
    beads = post_to_floor(client, pip, "card", frame=0, beads=json.dumps(beads_of(pip, leaf))).text
    assert "11 beads" in beads and 'data-ease="elastic-in-out"' in beads
    gone = post_to_floor(client, pip, "card", frame=0, nodes='[["a", "b"]]', beads='[["a", "b", 1]]').text
    assert "24 frames" in gone


def test_a_backdrop_leaves_with_the_background(orchard, pip):
    whole, bare = (prepare(orchard, pip.id, ExportSettings(background=b)) for b in (True, False))
    assert len(whole.frames.part_keys) == 30 and len(bare.frames.part_keys) == 6
    update_instance(Floor(orchard, pip.id), pip.instances[0].id, backdrop=False)
    assert len(prepare(orchard, pip.id, ExportSettings(background=False)).frames.part_keys) == 30


def test_a_hop_that_cannot_be_is_refused_with_a_word_and_writes_nothing(client, orchard, pip):
    who = lead(pip).id
    for settings, frame, status in (
        ({"height": "many"}, 0, 422),
        ({"height": "-5"}, 0, 422),
        ({"height": "20", "drop": "-40"}, 0, 422),
        ({"air": "400"}, 0, 428),
        ({"heft": "140"}, 0, 422),
        ("[", 0, 422),
    ):
        said = settings if isinstance(settings, str) else json.dumps(settings)
        answer = post_to_floor(client, pip, "hops/plan", instance=who, frame=frame, settings=said)
        assert answer.status_code == status and "</p>" in answer.text, (settings, answer.text)
    assert post_to_floor(client, pip, "hops/plan", instance="gone", frame=0, settings="{}").status_code == 404
    post_to_floor(client, pip, f"puppets/{who}/set", field="locked", value="true")
    small = json.dumps({"crouch": "3", "air": "6", "heft": "0"})
    assert "is locked" in post_to_floor(client, pip, "hops/plan", instance=who, frame=0, settings=small).text
    assert orchard.scene(pip.id).keys == pip.keys
