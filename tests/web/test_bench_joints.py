"""Requests about joints on the Bench."""

import json
import struct

import pytest

from builders.named import id_of

HX = {"HX-Request": "true"}


@pytest.fixture
def tamsin(orchard):
    return orchard.puppet(id_of(orchard, "puppet", "Tamsin"))


def bone(puppet, name):
    return next(b.id for b in puppet.bones if b.name == name)


def test_a_joint_tells_its_gap_and_what_can_be_done(client, tamsin):
    url = f"/bench/{tamsin.id}/gap/{bone(tamsin, 'near thigh')}"
    plain = client.get(url).text
    assert "<polyline" in plain and "what can be done" in plain and "data-mend" not in plain
    asked = client.get(url, params={"remedies": "true"}).text
    assert asked.count("data-mend") >= 2
    found = client.post(f"{url}/mend", data={"kind": "pivot"}, headers=HX)
    assert found.status_code == 428 and found.headers["HX-Retarget"] == "#ask" and "keys adjusted" in found.text
    found = client.post(f"{url}/mend", data={"kind": "pivot"}, headers={**HX, "Gw-Word": "keep"})
    assert found.status_code == 200 and "It opened by" in found.text and "In 6 scenes" in found.text
    assert client.post(f"{url}/mend", data={"kind": "glue"}, headers=HX).status_code == 422


def test_what_has_nothing_to_open_says_so(client, tamsin):
    assert "nothing to open" in client.get(f"/bench/{tamsin.id}/gap/{bone(tamsin, 'pelvis')}").text
    assert client.get(f"/bench/{tamsin.id}/gap/no-such").status_code == 404


def test_joints_are_listed_the_worst_first(client, tamsin):
    text = client.get(f"/bench/{tamsin.id}/gaps").text
    areas = [int(part.split(" px²")[0].split(" ")[-1]) for part in text.split("· ")[1:]]
    assert len(areas) > 5 and areas == sorted(areas, reverse=True)


def test_the_range_test_comes_as_frames_with_a_head(client, tamsin):
    data = client.get(f"/bench/{tamsin.id}/range.bin").content
    (long,) = struct.unpack_from("<I", data)
    head = json.loads(data[4 : 4 + long])
    assert head["together"] == 16 * len(head["joints"]) and len(data) > 100_000
    assert any(joint["open"] for joint in head["joints"])
