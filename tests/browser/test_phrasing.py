"""Phrases on the Floor: found by a tag, laid, dragged by its bar, made from beads, undone."""

import pytest

from browser.hands import act, pick, seek, turn_of, unfold
from gaitwire.services.library.phrases import list_phrases
from gaitwire.services.scene.floor import add_puppet, make_scene
from gaitwire.services.scene.gestures import Floor


def test_a_phrase_is_found_laid_trimmed_and_one_is_made_from_beads(program):
    floor = Floor(program.workspace, make_scene(program.workspace, "Saying", frames=72, loop=False, ground=640.0))
    who = add_puppet(floor, program.id_of("puppet", "Tamsin"), x=600.0, y=640.0)
    page = program.floor("Saying")
    act(program, page.locator(f".seat .wirerow[data-instance='{who}'] .pick").click)
    page.locator("#phrase-find").fill("farewell")
    assert page.locator(".phrasetile:visible").all_inner_texts() == ["Wave"]
    seek(page, 6)
    act(program, page.locator(".phrasetile", has_text="Wave").click)
    assert page.locator("#card h2").inner_text() == "Wave"
    (use,) = floor.scene.phrase_uses
    assert use.start == 6 and abs(turn_of(program, "near upper arm", 24)) > 60

    bar = page.locator(".linkbar.phrase_uses .hold").bounding_box()
    middle = bar["y"] + bar["height"] / 2
    program.drag((bar["x"] + bar["width"] - 2, middle), (bar["x"] + bar["width"] / 2 - 2, middle))
    assert floor.scene.phrase_uses[0].ends == pytest.approx(31, abs=1)
    high = page.locator("#card input[name=high]")
    high.fill("60")
    act(program, lambda: high.press("Enter"))
    assert floor.scene.phrase_uses[0].settings["high"] == 60
    act(program, page.get_by_role("button", name="make keys").click)
    assert not floor.scene.phrase_uses and len(floor.scene.keys) > 12

    unfold(page)
    pick(program, "near upper arm")
    seen = turn_of(program, "near upper arm", 20)
    act(program, page.get_by_role("button", name="choose their beads").click)
    page.locator("#make-name").fill("Raises her arm")
    page.locator("#make-tags").fill("arm, hail")
    page.locator("#make-put").check()
    act(program, page.get_by_role("button", name="make a phrase", exact=True).click)
    assert list_phrases(program.workspace)[0].tags == ("arm", "hail")
    assert len(floor.scene.phrase_uses) == 1 and turn_of(program, "near upper arm", 20) == pytest.approx(seen, abs=1e-3)
    act(program, lambda: page.keyboard.press("Control+z"))
    assert not floor.scene.phrase_uses and turn_of(program, "near upper arm", 20) == pytest.approx(seen, abs=1e-3)

    page.goto(program.home + "/")
    page.locator("#phrase-find").fill("hail")
    assert page.locator(".phraserow:visible").count() == 1
    assert page.locator(".phraserow:visible input.name").input_value() == "Raises her arm"
