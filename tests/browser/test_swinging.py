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
    field = page.get_by_label("Swing: damping")
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
