"""What the pages' requests do: art in, fragments that changed, revisions, live drags, files."""

import json
import re
import struct

import numpy as np
import pytest

from builders.making import lead
from builders.named import id_of
from builders.posting import post
from builders.waiting import until
from gaitwire.services.scene.clips import save_pose
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.posing import key_pose

SVG = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><g id="Leaf"><path d="M0 0H9V9Z"/></g><text>a</text></svg>'


def test_art_comes_in_and_says_what_it_lost(client, orchard):
    found = client.post(
        "/puppets", files={"art": ("green_leaf.svg", SVG, "image/svg+xml")}, headers={"HX-Request": "true"}
    )
    assert found.status_code == 200
    assert "green leaf" in found.text and "Text was left out" in found.text
    puppet = orchard.puppet(id_of(orchard, "puppet", "green leaf"))
    assert [p.name for p in puppet.parts] == ["Leaf"]


def test_refused_art_is_told_at_the_form_and_the_server_lives(client):
    found = client.post(
        "/puppets", files={"art": ("a.svg", b"<svg><script/></svg>", "image/svg+xml")}, headers={"HX-Request": "true"}
    )
    assert found.status_code == 422
    assert found.headers["HX-Retarget"] == "#remarks"
    assert 'role="alert"' in found.text
    assert client.get("/").status_code == 200


def test_taking_off_and_undo_on_the_shelf(client, orchard):
    pip = id_of(orchard, "puppet", "Pip")
    asked = post(client, f"/shelf/discard/puppet/{pip}")
    assert asked.status_code == 428 and "Pip plays in" in asked.text and "<li>Off the crate</li>" in asked.text
    assert client.get(f"/bench/{pip}").status_code == 200
    gone = client.post(f"/shelf/discard/puppet/{pip}", headers={"HX-Request": "true", "Gw-Word": "off"})
    assert "Undo brings it back" in gone.text
    assert client.get(f"/bench/{pip}").status_code == 404
    assert "Undone: take Pip off." in post(client, "/history/shelf/shelf/undo").text
    assert client.get(f"/bench/{pip}").status_code == 200


def test_undo_names_the_act_and_the_scene_and_leads_there(client, orchard):
    """A step that was made in a scene is not taken back unseen on the Bench of a puppet that it changed too."""
    scene = orchard.scene(id_of(orchard, "scene", "Pip hops"))
    pip = lead(scene)
    floor = Floor(orchard, scene.id)
    save_pose(floor, [(pip.id, pip.id), *((pip.id, b.id) for b in orchard.puppet(pip.puppet_id).bones)], 4.0)
    said = post(client, f"/history/puppet/{pip.puppet_id}/undo").text
    assert "Undone: save a pose in “Pip hops”." in said and f'href="/floor/{scene.id}"' in said
    said = post(client, f"/history/scene/{scene.id}/redo").text
    assert "Redone: save a pose in “Pip hops”. “Pip” changed too." in said and f'href="/bench/{pip.puppet_id}"' in said


def test_an_edit_answers_with_the_wires_it_changed_and_no_others(client, orchard):
    scene = orchard.scene(id_of(orchard, "scene", "The cart jolts"))
    instance = lead(scene)
    rope = next(b.id for b in orchard.puppet(instance.puppet_id).bones if b.name == "rope end")
    values = json.dumps([[instance.id, rope, "turn", 12.5]])
    found = post(client, f"/floor/{scene.id}/values", scene.revision, frame=5, values=values)
    assert found.headers["Gw-Revision"] == str(scene.revision + 1)
    assert found.text.count('class="beads"') == 2  # the bone's wire, and its group's
    assert f"wire-{instance.id}-{rope}" in found.text


def test_a_stale_page_is_told_and_nothing_is_overwritten(client, orchard):
    tamsin = orchard.puppet(id_of(orchard, "puppet", "Tamsin"))
    ear = next(b for b in tamsin.bones if b.name == "ear")
    url = f"/bench/{tamsin.id}/bones/{ear.id}/pivot"
    assert post(client, url, tamsin.revision, x=1, y=1).status_code == 200
    stale = post(client, url, tamsin.revision, x=2, y=2)
    assert stale.status_code == 409 and "another window" in stale.text
    assert orchard.puppet(tamsin.id).bone(ear.id).x == 1


@pytest.mark.parametrize(
    ("field", "value", "words"),
    [("frames", "0", "frames"), ("frames", "many", "no number"), ("rate", "0", "between 1 and 240"), ("rate", "x", "frame rate"),
     ("background", "red", "background"), ("name", "  ", "A name is needed"), ("color", "1", "cannot be set")],
)  # fmt: skip
def test_settings_that_do_not_fit_are_refused_with_words(client, orchard, field, value, words):
    scene = id_of(orchard, "scene", "Pip hops")
    before = orchard.scene(scene)
    found = post(client, f"/floor/{scene}/set", field=field, value=value)
    assert found.status_code == 422 and words in found.text
    assert orchard.scene(scene) == before


def test_a_dozen_beads_slide_around_the_loop_and_the_seam_stays_closed(client, orchard):
    scene = orchard.scene(id_of(orchard, "scene", "The cart jolts"))
    owners = {c.id: (c.instance_id, c.owner_id) for c in scene.channels}
    wires = sorted({o for o in owners.values() if o[0] == lead(scene).id})[:3]
    beads = sorted({(*owners[k.channel_id], k.time) for k in scene.keys if owners[k.channel_id] in wires})
    assert len(beads) >= 12
    before = orchard.frames(scene.id, np.arange(32.0)).nodes
    found = post(client, f"/floor/{scene.id}/beads/move", scene.revision, beads=json.dumps(beads), by=2)
    picked = json.loads(found.text.split('data-beads="')[1].split('"')[0].replace("&#34;", '"'))
    assert sorted(t for *_, t in picked) == sorted((t + 2) % 32 for *_, t in beads)
    after = orchard.frames(scene.id, np.arange(34.0))
    assert np.array_equal(after.nodes[0], after.nodes[32])
    names = [k[1] for k in after.node_keys]
    roots = [names.index(o) for _, o in wires if orchard.puppet(lead(scene).puppet_id).bone(o).parent_id is None]
    for node in roots:  # a bone whose parents stay moves just the same, two frames later
        assert after.nodes[2:34, node] == pytest.approx(before[:, node], abs=1e-9)


def test_frames_come_packed_and_a_live_drag_answers_in_the_same_form(client, orchard):
    scene = orchard.scene(id_of(orchard, "scene", "Pip hops"))
    whole = client.get(f"/floor/{scene.id}/frames.bin").content
    assert struct.unpack("<4I", whole[:16])[1] == 24
    instance = lead(scene)
    leaf = next(b for b in orchard.puppet(instance.puppet_id).bones if b.name == "leaf")
    with client.websocket_connect(f"ws://127.0.0.1:8765/live/scene/{scene.id}") as socket:
        for text, words in (("{}", "could not be read"), ('{"kind":"dance","x":0,"y":0}', "could not be read")):
            socket.send_text(text)
            assert words in socket.receive_bytes().decode()
        move = {
            "kind": "pose",
            "gesture": "turn",
            "x": 500,
            "y": 300,
            "from_x": 480,
            "from_y": 300,
            "frame": 3,
            "began": 1,
        }
        socket.send_text(json.dumps(move | {"nodes": [[instance.id, leaf.id]]}))
        reply = socket.receive_bytes()
    size = struct.unpack("<I", reply[:4])[0]
    head = json.loads(reply[4 : 4 + size])
    assert head["values"][0][:3] == [instance.id, leaf.id, "turn"]
    assert struct.unpack("<4I", reply[4 + size : 20 + size])[1] == 1


def test_a_send_off_is_made_previewed_saved_and_can_be_cancelled(client, orchard):
    scene = id_of(orchard, "scene", "Pip hops")
    made = post(client, f"/send-off/{scene}/make", kind="svg")
    job = made.text.split('data-job="')[1].split('"')[0]
    url = f"/send-off/{scene}/jobs/{job}"
    until(lambda: "Save" in client.get(url).text)
    assert client.get(f"{url}/file").content.startswith(b"<svg")
    assert "attachment" in client.get(f"{url}/file?save=true").headers["content-disposition"]
    slow = post(client, f"/send-off/{scene}/make", kind="png", scale=400)
    other = slow.text.split('data-job="')[1].split('"')[0]
    post(client, f"/send-off/{scene}/jobs/{other}/cancel")
    until(lambda: "Cancelled" in client.get(f"/send-off/{scene}/jobs/{other}").text)
    assert "Nothing was written" in client.get(f"/send-off/{scene}/jobs/{other}").text
    assert client.get(f"/send-off/{scene}/jobs/{other}/file").status_code == 409


@pytest.mark.parametrize(
    "data",
    [
        {"scale": "900"},
        {"loops": "0", "endless": "false"},
        {"loops": "x", "endless": "false"},
        {"first": "9", "last": "3"},
        {"first": "99"},
    ],
)
def test_send_off_settings_that_do_not_fit_are_refused(client, orchard, data):
    found = post(client, f"/send-off/{id_of(orchard, 'scene', 'Pip hops')}/make", kind="gif", **data)
    assert found.status_code == 422


def test_key_pose_keys_every_property_and_changes_no_frame_there(client, orchard):
    scene = orchard.scene(id_of(orchard, "scene", "Pip hops"))
    floor = Floor(orchard, scene.id)
    before = orchard.frames(scene.id, np.array([11.0])).nodes
    nodes = [k for k in orchard.frames(scene.id, np.array([11.0])).node_keys if k[0] == lead(scene).id]
    key_pose(floor, 11.0, nodes)
    own = {c.id for c in floor.scene.channels if c.instance_id == lead(scene).id}
    keyed = [k for k in floor.scene.keys if k.time == 11.0 and k.channel_id in own]
    assert len(keyed) == 6 * len(nodes)
    assert orchard.frames(scene.id, np.array([11.0])).nodes == pytest.approx(before, abs=1e-4)


def test_no_module_is_named_under_two_addresses(client, orchard):
    """A module under two addresses runs twice, and every key and click would count double."""
    scene, puppet = id_of(orchard, "scene", "Pip hops"), id_of(orchard, "puppet", "Pip")
    for page in ("/", f"/bench/{puppet}", f"/floor/{scene}", f"/send-off/{scene}"):
        modules = re.findall(r'type="module" src="([^"]+)"', client.get(page).text)
        assert len(modules) == 2 and not any("?" in m for m in modules)


GOOD = {"kind": "pose", "gesture": "turn", "x": 500, "y": 300, "from_x": 480, "from_y": 300, "frame": 3, "began": 1}


@pytest.mark.parametrize(
    "bad",
    [
        {"frame": 1e300}, {"frame": "nan"}, {"x": 1e308}, {"kind": "snap", "x": 1e200}, {"kind": "footprint", "plant": "none", "angle": 1e300},
        {"kind": "walk", "walk": "none", "setting": "stride", "value": 1.0}, {"kind": "correct", "entry": "none"}, {"nodes": [["a", "b"]] * 501},
        {"nodes": [["\ud800", "x"]]}, {"kind": "reach", "limb": "none", "joint": 99}, {"began": 2**70}, {"kind": "stand", "control": "pad", "nodes": []},
        "[]", "", "[" * 2000, '{"kind": "pose", "x": 1e400, "y": 0}', b"\x00\xff",
    ],
)  # fmt: skip
def test_a_bad_message_gets_an_answer_and_the_line_stays(client, orchard, bad):
    scene = orchard.scene(id_of(orchard, "scene", "Pip hops"))
    instance = lead(scene)
    leaf = next(b for b in orchard.puppet(instance.puppet_id).bones if b.name == "leaf")
    good = GOOD | {"nodes": [[instance.id, leaf.id]]}
    with client.websocket_connect(f"ws://127.0.0.1:8765/live/scene/{scene.id}") as socket:
        if isinstance(bad, bytes):
            socket.send_bytes(bad)
        else:
            socket.send_text(json.dumps(good | bad) if isinstance(bad, dict) else bad)
        assert '"error"' in socket.receive_bytes().decode("utf-8", "replace")
        socket.send_json(good)
        assert '"values"' in socket.receive_bytes().decode("utf-8", "replace")


@pytest.mark.parametrize(
    "text", ["", "{}", '{"card": "plain", "changed": {"stride": 1e308}}', '{"card": "\\ud800"}', '{"card": "none"}']
)
def test_a_bad_message_to_the_desk_gets_an_answer(client, orchard, text):
    puppet = id_of(orchard, "puppet", "Tamsin")
    with client.websocket_connect(f"ws://127.0.0.1:8765/live/stride/{puppet}") as socket:
        socket.send_text(text)
        assert '"error"' in socket.receive_bytes().decode("utf-8", "replace")
        socket.send_json({"card": "plain", "coarse": True})
        assert '"rate"' in socket.receive_bytes().decode("utf-8", "replace")
