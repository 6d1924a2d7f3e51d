"""Requests for phrases, on the Floor and on the Shelf: what is done, what is told, what is refused."""

import json

import pytest

from builders.named import id_of
from gaitwire.services.library.phrases import keep_phrase, list_phrases, phrase_at
from gaitwire.services.scene.floor import add_puppet, make_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.phrases import find_use
from gaitwire.services.scene.posing import set_values

HX = {"HX-Request": "true"}


@pytest.fixture
def floor(orchard):
    return Floor(orchard, make_scene(orchard, "Saying", frames=40, loop=False, first_number=1))


@pytest.fixture
def who(orchard, floor):
    return add_puppet(floor, id_of(orchard, "puppet", "Tamsin"))


@pytest.fixture
def send(client, floor):
    def post(action, **data):
        return client.post(f"/floor/{floor.scene_id}/phrases/{action}", data=data, headers=HX)

    return post


def test_a_phrase_is_laid_changed_and_taken_away(client, floor, who, send):
    found = send("lay", instance=who, ref="nod", frame=4)
    made = found.headers["Gw-Made"]
    assert "Nod" in found.text and find_use(floor, made).start == 4
    for field, value in {"start": "8", "repeats": "", "pace": "50", "amount": "-80", "ending": "stays"}.items():
        assert send(f"{made}/set", field=field, value=value).status_code == 200
    use = find_use(floor, made)
    assert (use.start, use.repeats, use.pace, use.amount, use.goes_on, use.change_in) == (7, 0, 0.5, -0.8, True, 0)
    assert send(f"{made}/setting", field="depth", value="9,5").status_code == 200
    assert find_use(floor, made).settings["depth"] == 9.5
    card = client.post(f"/floor/{floor.scene_id}/card", data={"nodes": json.dumps([[who, made]])}, headers=HX).text
    assert "from here on" in card and "How far the chin goes down" in card
    assert send(f"{made}/remove").status_code == 200 and not floor.scene.phrase_uses


@pytest.mark.parametrize(
    ("action", "data", "said"),
    [
        ("set", {"field": "pace", "value": "quick"}, "no number"),
        ("set", {"field": "pace", "value": "1"}, "That pace cannot be used"),
        ("set", {"field": "phrase", "value": "x"}, "cannot be set here"),
        ("set", {"field": "repeats", "value": "-2"}, "Type 0 or more"),
        ("setting", {"field": "depth", "value": "900"}, "goes from 1 to 60"),
    ],
)
def test_what_does_not_fit_is_refused_where_it_is_typed(floor, who, send, action, data, said):
    made = send("lay", instance=who, ref="nod", frame=0).headers["Gw-Made"]
    before = find_use(floor, made)
    found = send(f"{made}/{action}", **data)
    assert found.status_code == 422 and said in found.text
    assert find_use(floor, made) == before


def test_a_phrase_too_long_for_its_scene_is_told(send, who):
    assert "its last 53 frames do not show" in send("lay", instance=who, ref="wave", frame=30).text


def test_beads_become_a_phrase_on_the_shelf_and_are_renewed(orchard, floor, who, send):
    bone = orchard.puppet(floor.instance(who).puppet_id).bones[0].id
    for time, value in ((2.0, 0.0), (9.0, 30.0)):
        set_values(floor, time, {(who, bone, "turn"): value})
    beads = json.dumps([[who, bone, 2.0], [who, bone, 9.0]])
    assert send("make", beads=beads, name="Bows", tags="Body, greet ,body", put="true").status_code == 200
    listed = list_phrases(orchard)[0]
    assert (listed.name, listed.tags, listed.length) == ("Bows", ("body", "greet"), 7)
    assert send("make", beads=json.dumps([[who, bone, 2.0]]), into=listed.ref).status_code == 200
    assert phrase_at(orchard, listed.ref).length == 1
    assert send("make", beads="[]", name="None").status_code == 422


def test_the_shelf_names_saves_and_opens_phrases(client, orchard):
    ref = keep_phrase(orchard, phrase_at(orchard, "shrug"))

    def set_(field, value, status=200):
        sent = client.post(f"/shelf/phrases/{ref}/set", data={"field": field, "value": value}, headers=HX)
        assert sent.status_code == status

    set_("name", "Who knows")
    set_("tags", "arm; doubt")
    set_("view", "front")
    set_("view", "from behind", 422)
    set_("length", "4", 422)
    file = client.get(f"/shelf/phrases/{ref}/phrase.json")
    assert "Who knows.phrase.json" in file.headers["Content-Disposition"]
    assert client.post(f"/shelf/phrases/{ref}/take-off", headers=HX).status_code == 200
    assert client.post("/shelf/phrases/nod/take-off", headers=HX).status_code == 422
    brought = client.post("/shelf/phrases/bring", files={"file": ("a.json", file.content)}, headers=HX)
    assert "Who knows" in brought.text
    own = list_phrases(orchard)[0]
    assert (own.name, own.tags, own.view) == ("Who knows", ("arm", "doubt"), "front")
    page = client.get("/").text
    assert page.count("phraserow") == len(list_phrases(orchard)) and "/pictures/phrase/nod/" in page


def test_a_phrase_has_a_picture(client, orchard, who):
    puppet = id_of(orchard, "puppet", "Tamsin")
    pictures = {ref: client.get(f"/pictures/phrase/{ref}/{puppet}.png").content for ref in ("nod", "point")}
    assert all(p.startswith(b"\x89PNG") for p in pictures.values()) and len(set(pictures.values())) == 2
