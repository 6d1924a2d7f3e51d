"""A walk written from the puppet's card: chosen, written as keys, seen, undone; and what cannot walk says why."""

import numpy as np
import pytest

from browser.hands import act, unfold
from builders.making import tip
from gaitwire.services.scene.floor import add_puppet, make_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.store.documents import list_documents


@pytest.fixture
def stage(program):
    floor = Floor(program.workspace, make_scene(program.workspace, "Strolling", frames=73, loop=False, ground=640.0))
    ids = {e.name: e.id for e in list_documents(program.workspace.store, "puppet")}
    for name, x in (("Tamsin", 200.0), ("Pip", 900.0)):
        add_puppet(floor, ids[name], x=x, y=640.0)
    program.floor("Strolling")
    unfold(program.page)
    return floor


def test_a_walk_is_written_from_the_card_and_taken_back(program, stage):
    page, scene = program.page, stage.scene
    tamsin = next(i for i in scene.instances if i.name == "Tamsin")
    act(program, page.locator(".wirerow.head .pick", has_text="Tamsin").first.click)
    page.get_by_role("heading", name="Walk").wait_for()
    page.locator("#walk-card").select_option("plain")
    page.locator("#walk-other").select_option("brisk")
    page.locator("#walk-share").fill("100")
    act(program, page.get_by_role("button", name="write the walk as keys").click)
    assert "strides" in page.locator("#remarks").inner_text()
    seat = tip(program.workspace.frames(stage.scene_id, np.array([0.0, 72.0])), tamsin.id, 0)
    assert seat[1, 0] - seat[0, 0] > 300
    act(program, lambda: page.keyboard.press("Control+z"))
    assert not stage.scene.keys
    page.locator("#walk-from").fill("many")
    act(program, page.get_by_role("button", name="write the walk as keys").click)
    assert "no number" in page.get_by_role("alert").inner_text()
    page.complaints.clear()


def test_what_cannot_walk_says_which_roles_it_lacks(program, stage):
    page = program.page
    act(program, page.locator(".wirerow.head .pick", has_text="Pip").first.click)
    page.get_by_text("cannot walk yet: it has no near thigh").wait_for()
    assert page.get_by_role("button", name="write the walk as keys").count() == 0
