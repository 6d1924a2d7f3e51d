"""A panel and a section of the card, added by one line each: the page lists them, and they are drawn."""

import json

import pytest
from jinja2 import ChoiceLoader, DictLoader

from builders.making import lead
from gaitwire.services.output.sendoff import find_scene
from gaitwire.web.routers.floor import sections
from gaitwire.web.routers.floor.panels import PANELS, Panel
from gaitwire.web.routers.floor.sections import CARD, Section
from gaitwire.web.templating import environment

OWN = {
    "floor/panels/tally.html": "<p>{{ count }} chosen of {{ scene.name }} on {{ at }}</p>",
    "floor/card/tally.html": "<section><h3>Tally</h3>{{ count }} nodes</section>",
}


@pytest.fixture(autouse=True)
def tallied(monkeypatch):
    panel = Panel(
        "tally", "tally", "Shift+7", "How many are chosen", "counts what is chosen",
        lambda asked: {"count": len(asked.nodes), "at": asked.frame} if asked.nodes else None, frozenset({"chosen"}),
    )  # fmt: skip
    monkeypatch.setitem(PANELS, "tally", panel)
    mine = Section("nodes", "tally", lambda chosen: {"count": len(chosen.nodes)} if len(chosen.nodes) > 1 else None)
    monkeypatch.setattr(sections, "CARD", (*CARD, mine))
    monkeypatch.setattr(environment, "loader", ChoiceLoader([environment.loader, DictLoader(OWN)]))


@pytest.fixture
def scene(orchard):
    return orchard.scene(find_scene(orchard, "Pip hops"))


def test_the_page_has_its_button_its_key_and_its_place(client, scene):
    page = client.get(f"/floor/{scene.id}").text
    assert 'data-panel="tally" data-key="Shift+7" data-follows="chosen"' in page
    assert 'title="How many are chosen (Shift 7)"' in page and "<kbd>Shift 7</kbd></dt><dd>counts" in page
    assert '<div class="panel-over" id="panel-tally" hidden></div>' in page


def test_it_is_drawn_for_what_is_chosen_and_not_seen_for_nothing(client, scene):
    pip = lead(scene).id
    shown = client.post(f"/floor/{scene.id}/panels/tally", data={"nodes": json.dumps([[pip, pip]]), "frame": 5})
    assert shown.text == "<p>1 chosen of Pip hops on 5.0</p>"
    assert client.post(f"/floor/{scene.id}/panels/tally", data={"nodes": "[]"}).status_code == 204
    assert client.post(f"/floor/{scene.id}/panels/nobody").status_code == 404


def test_a_section_is_on_the_card_where_it_applies(client, orchard, scene):
    pip = lead(scene)
    bones = [[pip.id, b.id] for b in orchard.puppet(pip.puppet_id).bones]
    card = client.post(f"/floor/{scene.id}/card", data={"nodes": json.dumps(bones)}).text
    assert f"<h3>Tally</h3>{len(bones)} nodes" in card and "Hold and repeat" in card
    for other in ([], bones[:1]):
        assert "Tally" not in client.post(f"/floor/{scene.id}/card", data={"nodes": json.dumps(other)}).text
