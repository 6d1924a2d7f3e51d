"""Fixes, pads and gauges over HTTP: what comes of bad input, and what the card says."""

import json

import numpy as np
import pytest

from builders.named import id_of
from gaitwire.core.evaluate.frames import HEADER_BYTES

HX = {"HX-Request": "true"}


@pytest.fixture
def stook(orchard):
    return orchard.puppet(id_of(orchard, "puppet", "Stook"))


def url(puppet, *path):
    return "/".join(["/bench", puppet.id, *path])


def test_bad_input_is_refused_where_it_is_and_nothing_is_stored(client, orchard, stook):
    pad = next(c for c in stook.controls if c.kind == "pad")
    entry = stook.entries_of(pad.id)[0]
    nose = next(p for p in stook.parts if p.name == "nose")
    row = {"kind": "part", "owner_id": nose.id, "property": "turn", "value": 3.0}
    reshape = {"part_id": nose.id, "drawing": 0, "count": 4, "points": [[9, 1.0, 1.0]]}
    for path, data, status in (
        (("entries", entry.id, "rows"), {"rows": "[{]"}, 422),
        (("entries", entry.id, "rows"), {"rows": json.dumps([row | {"value": "NaN"}])}, 422),
        (("entries", entry.id, "rows"), {"rows": json.dumps([row | {"owner_id": "gone"}])}, 422),
        (("entries", entry.id, "rows"), {"rows": json.dumps([row | {"property": "wobble"}])}, 422),
        (("entries", entry.id, "rows"), {"reshapes": json.dumps([reshape])}, 422),
        (("entries", "gone", "rows"), {"rows": json.dumps([row])}, 404),
        (("entries", entry.id, "place"), {"x": "400", "y": "0"}, 422),
        (
            ("entries", entry.id, "value"),
            {"owners": json.dumps([["part", nose.id]]), "field": "turn", "value": "x"},
            422,
        ),
        (("controls", pad.id, "entries", "add"), {"x": "0", "y": "0"}, 422),
        (("controls", "gone", "set"), {"field": "name", "value": "n"}, 404),
        (("controls", pad.id, "set"), {"field": "kind", "value": "gauge"}, 422),
        (("controls", "add"), {"kind": "fix"}, 422),
        (("fixes", "add"), {"bone": "gone", "angle": "30"}, 404),
        (("rig",), {"source": stook.id}, 422),
    ):
        answer = client.post(url(stook, *path), data=data, headers=HX)
        assert answer.status_code == status, (path, answer.text)
        assert "</p>" in answer.text
    assert orchard.puppet(stook.id) == stook


def test_the_card_of_a_pad_marks_what_is_not_there(client, stook):
    pad = next(c for c in stook.controls if c.kind == "pad")
    text = client.get(url(stook, "card"), params={"controls": pad.id}).text
    assert text.count('class="place ') == 6 and "blank" not in text
    client.post(url(stook, "controls", pad.id, "set"), data={"field": "wraps", "value": "true"}, headers=HX)
    text = client.get(url(stook, "card"), params={"controls": pad.id}).text
    assert text.count('class="blank"') == 3 and "back three-quarter: nothing is stored here" in text
    mouth = next(p for p in stook.parts if p.name == "mouth")
    (gauge,) = (c for c in stook.controls if c.name == "talk")
    client.post(url(stook, "parts", mouth.id, "drawing", "1"), data={"act": "remove"}, headers=HX)
    text = client.get(url(stook, "card"), params={"controls": gauge.id}).text
    assert "No drawing of mouth" in text and text.count("undrawn") == 1


def test_a_place_is_shown_as_the_puppet_stands_there(client, stook):
    pad = next(c for c in stook.controls if c.kind == "pad")
    side = next(e for e in stook.entries_of(pad.id) if e.x == 90)
    stage = client.get(url(stook, "stage.json"), params={"entry": side.id}).json()
    assert {e["title"] for e in stage["entries"]} >= {"head, side, 90°, 0° up"}
    assert all(p["soft"] for p in stage["parts"])
    frames = [client.get(url(stook, "frame.bin"), params=q).content for q in ({}, {"entry": side.id})]
    counts = [np.frombuffer(f[:HEADER_BYTES], "<u4")[:4].tolist() for f in frames]
    assert counts[0][:4] == counts[1][:4] and len(frames[1]) > len(frames[0])
    assert client.get(url(stook, "frame.bin"), params={"entry": "gone"}).status_code == 404
