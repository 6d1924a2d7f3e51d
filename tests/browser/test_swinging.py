"""A loose hat by hand: let swing, seen swinging, set, made into keys, and those edited."""

import numpy as np

from browser.hands import act, pick, turn_of, typed, unfold


def course(program, bone="hat"):
    return np.array([turn_of(program, bone, frame) for frame in range(0, 40, 4)])


def test_a_hat_is_let_swing_is_set_made_keys_and_edited(program):
    page = program.floor("Stook has his say")
    unfold(page)
    before = course(program)
    pick(program, "hat")
    act(program, page.get_by_role("button", name="let it swing").click)
    first = course(program) - before
    assert np.abs(first).max() > 3
    field = page.get_by_role("textbox", name="Swing: damping")
    field.fill("90")
    act(program, lambda: field.press("Enter"))
    assert np.abs(course(program) - before - first).max() > 1
    act(program, lambda: page.get_by_label("stands still as it is drawn").click())
    assert not page.get_by_label("stands still as it is drawn").is_checked()
    act(program, lambda: page.keyboard.press("Control+z"))
    now = course(program)
    act(program, page.locator("[data-act=loose-own]").click)
    assert np.abs(course(program) - now).max() < 0.2
    typed(program, "turn", 7)
    assert abs(float(page.locator("#card input[name=turn]").input_value()) - 7) < 0.05
    act(program, lambda: page.keyboard.press("Control+z"))
    act(program, lambda: page.keyboard.press("Control+z"))
    assert np.abs(course(program) - now).max() < 1e-4
    act(program, page.get_by_role("button", name="stiff again").click)
    assert np.abs(course(program) - before).max() < 1e-4


def test_sliders_are_pulled_while_it_plays_and_it_plays_on(program):
    page = program.floor("Stook has his say")
    unfold(page)
    pick(program, "hat")
    act(program, page.get_by_role("button", name="let it swing").click)
    before = course(program)
    page.keyboard.press("Space")
    program.until("window.gaitwire.player.playing")
    slider, field = (page.get_by_role(role, name="Swing: damping") for role in ("slider", "textbox"))
    box = slider.bounding_box()
    page.mouse.move(box["x"] + box["width"] / 4, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] * 0.9, box["y"] + box["height"] / 2, steps=4)
    assert 80 < float(field.input_value()) <= 100  # the number goes along
    page.mouse.up()
    program.settled()
    now = float(field.input_value())
    assert page.evaluate("window.gaitwire.player.playing")
    page.keyboard.press("Space")
    program.settled()
    assert np.abs(course(program) - before).max() > 1
    assert float(page.get_by_role("textbox", name="Swing: damping").input_value()) == now
    act(program, lambda: page.keyboard.press("Control+z"))
    assert np.abs(course(program) - before).max() < 1e-4  # one step of history


def test_bones_are_made_to_swing_as_one_of_them_does(program):
    page = program.floor("Stook has his say")
    unfold(page)
    pick(program, "hat")
    act(program, page.get_by_role("button", name="let it swing").click)
    typed(program, "loose-damping", 70)
    page.get_by_role("group", name="Wire of coat", exact=True).locator(".pick").click(modifiers=["ControlOrMeta"])
    page.locator("#card h2", has_text="2 bones").wait_for()
    act(program, page.get_by_role("button", name="all like hat").click)
    assert page.get_by_role("textbox", name="Swing: damping").input_value() == "70"
    assert page.get_by_role("button", name="all like").count() == 0
