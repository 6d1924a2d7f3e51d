"""Requests for smears, the camera, shadows and sounds that do not fit: told where they are made, and nothing changes."""

import json

import numpy as np
import pytest

from builders.making import lead
from builders.named import id_of
from builders.posting import post_to_floor
from gaitwire.formats.sound_files import write_wav
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.sounds import find_sound


@pytest.fixture
def crate(orchard):
    return orchard.scene(id_of(orchard, "scene", "Off the crate"))


def whole(orchard, scene):
    return orchard.scene(scene.id).model_dump(exclude={"revision"})


@pytest.mark.parametrize(
    ("data", "said"),
    [
        ({"kind": "blurred"}, ""), ({"frames": "many"}, "is no number"), ({"frames": "40"}, "up to 12 frames"),
        ({"tail": "130"}, "share from 0 to 100"), ({"frame": "66"}, "comes far enough"), ({"nodes": "["}, "could not be read"),
    ],
)  # fmt: skip
def test_a_smear_that_cannot_be_is_refused(client, orchard, crate, data, said):
    pip = next(i for i in crate.instances if i.name == "Pip")
    fields = {"nodes": json.dumps([[pip.id, pip.id]]), "frame": "30", "kind": "swept", "frames": "1"}
    answer = post_to_floor(client, crate, "smears", **{**fields, "tail": "30", "keep": "50", "hangers": "true", **data})
    assert answer.status_code == 422 and said in answer.text
    assert whole(orchard, crate) == crate.model_dump(exclude={"revision"})


def test_a_scene_has_one_camera_and_frames_are_filmed_for_who_asks(client, orchard, crate):
    assert "has its camera" in post_to_floor(client, crate, "camera/add").text
    plain, filmed = (client.get(f"/floor/{crate.id}/frames.bin?at=40{q}").content for q in ("", "&lens=true"))
    assert len(plain) == len(filmed) and plain != filmed
    told = client.get(f"/floor/{crate.id}/stage.json").json()
    assert told["camera"]["instance"] == crate.camera.id and len(told["sounds"]) == 2
    bare = id_of(orchard, "scene", "Pip hops")
    plain, filmed = (client.get(f"/floor/{bare}/frames.bin?at=4{q}").content for q in ("", "&lens=true"))
    assert plain == filmed, "without a camera it is the stage that is filmed"


def test_a_distance_that_cannot_be_is_refused(client, orchard, crate):
    for value in ("-10", "500", "far"):
        answer = post_to_floor(client, crate, f"puppets/{lead(crate).id}/set", field="distance", value=value)
        assert answer.status_code == 422
    assert whole(orchard, crate) == crate.model_dump(exclude={"revision"})


def test_sounds_that_cannot_be_are_refused_whole(client, orchard, crate):
    sound = crate.sounds[0]
    wav = write_wav(np.zeros((1, 480), np.int16))
    bad = [("file", ("good.wav", wav, "audio/wav")), ("file", ("bad.mp3", b"nothing", "audio/mpeg"))]
    assert "cannot be read" in post_to_floor(client, crate, "sounds/add", files=bad, frame="3").text
    for field, value in (("volume", "loud"), ("volume", "900"), ("cut_in", "40"), ("name", " "), ("rank", "1")):
        answer = post_to_floor(client, crate, f"sounds/{sound.id}/set", field=field, value=value)
        assert answer.status_code == 422, (field, answer.text)
    assert post_to_floor(client, crate, "sounds/gone/drag", by="2").status_code == 404
    assert whole(orchard, crate) == crate.model_dump(exclude={"revision"})


def test_a_sound_is_served_as_it_is_kept_and_its_card_tells_of_it(client, orchard, crate):
    sound = crate.sounds[1]
    served = client.get(f"/blobs/{sound.blob}")
    assert served.headers["content-type"] == "audio/flac" and served.content[:4] == b"fLaC"
    assert client.get(f"/blobs/{sound.peaks}").headers["content-type"] == "application/octet-stream"
    card = post_to_floor(client, crate, "card", frame="0", sound=sound.id).text
    assert "landing" in card and "a sound of 0.4 s" in card
    answer = post_to_floor(client, crate, f"sounds/{sound.id}/drag", by="4", edge="out")
    assert answer.status_code == 200 and 'aria-label="Sound landing, from 37' in answer.text
    assert find_sound(Floor(orchard, crate.id), sound.id).cut_out == 0, "there is no more of it"


def test_a_shadow_is_laid_once_art_is_there(client, orchard):
    puppet = id_of(orchard, "puppet", "Stook")
    before = orchard.puppet(puppet)
    answer = client.post(f"/bench/{puppet}/shadow", headers={"HX-Request": "true"})
    assert answer.status_code == 200 and "fades as the body rises" in answer.text
    (shadow,) = (p for p in orchard.puppet(puppet).parts if p.shadow)
    assert shadow.rank == 0 and len(orchard.puppet(puppet).parts) == len(before.parts) + 1
    fields = {"ids": shadow.id, "field": "shadow", "value": "-3"}
    assert client.post(f"/bench/{puppet}/parts/set", data=fields, headers={"HX-Request": "true"}).status_code == 422
