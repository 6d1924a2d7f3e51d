"""The Bench's requests: what may be typed, what the card says, what an edit answers with."""

import pytest

from builders.named import id_of
from builders.posting import post_to_bench


@pytest.fixture
def tamsin(orchard):
    return orchard.puppet(id_of(orchard, "puppet", "Tamsin"))


def bone(puppet, name):
    return next(b for b in puppet.bones if b.name == name)


@pytest.mark.parametrize(
    ("field", "value", "words"),
    [("x", "here", "no number"), ("x", "1e9", "out of range"), ("x", "nan", "out of range"), ("length", "-4", "length"),
     ("region", "wing", "region"), ("side", "left", "side"), ("role", "captain", "no role"), ("name", " \n", "A name is needed"),
     ("puppet_id", "x", "cannot be set"), ("id", "x", "cannot be set"), ("opacity", "50", "opacity")],
)  # fmt: skip
def test_what_does_not_fit_a_bone_is_refused_with_words(client, orchard, tamsin, field, value, words):
    found = post_to_bench(client, tamsin, "bones/set", ids=bone(tamsin, "ear").id, field=field, value=value)
    assert found.status_code == 422 and words in found.text
    assert orchard.puppet(tamsin.id) == tamsin


def test_one_field_is_set_on_several_bones_at_once(client, orchard, tamsin):
    ids = [bone(tamsin, n).id for n in ("near thigh", "far thigh")]
    assert (
        post_to_bench(client, tamsin, "bones/set", ids=",".join(ids), field="region", value="prop").status_code == 200
    )
    assert {orchard.puppet(tamsin.id).bone(i).region for i in ids} == {"prop"}
    assert (
        post_to_bench(client, tamsin, "bones/set", ids=",".join(ids), field="keep_volume", value="true").status_code
        == 200
    )
    assert all(orchard.puppet(tamsin.id).bone(i).keep_volume for i in ids)


def test_a_locked_bone_refuses_all_but_being_unlocked(client, orchard, tamsin):
    ear = bone(tamsin, "ear")
    post_to_bench(client, tamsin, "bones/set", ids=ear.id, field="locked", value="true")
    for action, data in (
        ("bones/set", {"ids": ear.id, "field": "x", "value": "5"}),
        (f"bones/{ear.id}/pivot", {"x": 5, "y": 5}),
        ("bones/remove", {"ids": ear.id}),
        ("bones/hang", {"ids": ear.id, "parent": ""}),
    ):
        found = post_to_bench(client, tamsin, action, **data)
        assert found.status_code == 422 and "“ear” is locked" in found.text, action
    post_to_bench(client, tamsin, "bones/set", ids=ear.id, field="locked", value="false")
    assert post_to_bench(client, tamsin, "bones/set", ids=ear.id, field="x", value="5").status_code == 200


def test_the_card_shows_what_several_share_and_says_where_they_differ(client, tamsin):
    thighs = ",".join(bone(tamsin, n).id for n in ("near thigh", "far thigh"))
    text = client.get(f"/bench/{tamsin.id}/card?bones={thighs}").text
    assert "2 bones" in text and text.count('placeholder="several"') == 4  # pivot, length and direction
    assert '<option value="leg" selected>' in text
    assert '<option value="" selected disabled>several</option>' in text  # the sides
    single = client.get(f"/bench/{tamsin.id}/card?bones={bone(tamsin, 'near shin').id}").text
    assert "hangs from near thigh, 1 part" in single
    part = client.get(f"/bench/{tamsin.id}/card?parts={tamsin.parts[0].id}").text
    assert "to the front" in part
    assert f"{len(tamsin.parts)} parts on {len(tamsin.bones)} bones" in client.get(f"/bench/{tamsin.id}/card").text
    assert client.get(f"/bench/{tamsin.id}/card?bones=gone").status_code == 200


def test_parts_are_hung_faded_ordered_and_removed(client, orchard, tamsin):
    apples, eye = (next(p for p in tamsin.parts if p.name == n) for n in ("apples", "eye"))
    post_to_bench(client, tamsin, "parts/set", ids=apples.id, field="bone_id", value=bone(tamsin, "chest").id)
    post_to_bench(client, tamsin, "parts/set", ids=apples.id, field="opacity", value="40")
    post_to_bench(client, tamsin, "parts/order", ids=eye.id, steps="-100000")
    found = orchard.puppet(tamsin.id)
    assert found.part(apples.id).bone_id == bone(tamsin, "chest").id
    assert found.part(apples.id).opacity == 0.4
    assert min(found.parts, key=lambda p: p.rank).id == eye.id
    assert sorted(p.rank for p in found.parts) == list(range(len(found.parts)))
    assert post_to_bench(client, tamsin, "parts/remove", ids=eye.id).status_code == 200
    assert orchard.puppet(tamsin.id).part(eye.id) is None
    assert post_to_bench(client, tamsin, "parts/order", ids=eye.id, steps="1").status_code in (200, 404)


def test_what_is_gone_is_told_kindly(client, tamsin):
    assert client.get("/bench/nobody").status_code == 404
    assert "Go back to the Shelf" in client.get("/bench/nobody").text
    assert client.get("/pictures/puppet/nobody.png").status_code == 404
    gone = post_to_bench(client, tamsin, "bones/nobody/pivot", x=1, y=1)
    assert gone.status_code == 404 and "Choose another" in gone.text
    assert client.get("/art?h=nothing").status_code == 404
    assert client.get("/blobs/nothing", headers={"Accept": "application/json"}).json()["message"]


def test_a_bone_that_would_hang_from_itself_is_refused_by_name(client, tamsin):
    found = post_to_bench(client, tamsin, "bones/hang", ids=bone(tamsin, "chest").id, parent=bone(tamsin, "face").id)
    assert found.status_code == 422 and "“chest” cannot hang from “face”" in found.text
