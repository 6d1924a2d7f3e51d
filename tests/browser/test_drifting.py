"""Drift from the card: what is chosen wanders, is set, goes another way, and is let be."""

import numpy as np

from browser.hands import act, pick, turn_of, typed, unfold, wire


def course(program):
    return np.array([turn_of(program, "face", frame) for frame in range(0, 96, 8)])


def test_two_bones_drift_are_set_go_another_way_and_are_let_be(program):
    page = program.floor("Tamsin waits")
    unfold(page)
    before = course(program)
    pick(program, "neck")
    act(program, lambda: wire(page, "face").locator(".pick").click(modifiers=["ControlOrMeta"]))
    act(program, page.get_by_role("button", name="let them drift").click)
    first = course(program) - before
    assert 0.3 < np.abs(first).max() < 12
    field = page.get_by_label("Drift: turn, °")
    field.fill("4")
    act(program, lambda: field.press("Enter"))
    assert np.abs(course(program) - before).max() > 1.5 * np.abs(first).max()
    act(program, page.get_by_role("button", name="another way").click)
    other = course(program) - before
    assert np.abs(other - first * 4 / 1.5).max() > 0.5
    pick(program, "face")
    typed(program, "turn", 7)  # a pose made on top shows as it was made, and only there
    assert abs(float(page.locator("#card input[name=turn]").input_value()) - 7) < 0.05
    act(program, lambda: page.keyboard.press("Control+z"))
    assert np.abs(course(program) - before - other).max() < 1e-6
    act(program, page.get_by_role("button", name="no more").click)
    act(program, lambda: page.keyboard.press("Control+z"))
    assert np.abs(course(program) - before - other).max() < 1e-6
    field = page.get_by_label("Drift: turn, °")
    field.fill("999")
    act(program, lambda: field.press("Enter"))
    assert "Nothing drifts that far. Type 0 to 180 °" in page.locator("#remarks").inner_text()
    page.complaints.clear()
