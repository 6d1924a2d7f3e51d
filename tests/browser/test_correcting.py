"""Fixes, pads and rest mended by hand: a fix for both sides, a pad and a head that turns, a pivot moved afterwards."""

import re
from importlib.resources import files

import numpy as np
import pytest

from browser.hands import act, seek, typed
from gaitwire.core.evaluate import evaluate
from gaitwire.services.library.art_in import import_art
from gaitwire.services.session.rest_compensation import ALLOWED


def middle(program, part):
    """Where the middle of a part's art is on the page."""
    return program.page.evaluate(
        "(name) => { const { stage, toPage } = window.gaitwire, n = stage.parts.findIndex((p) => p.name === name);"
        " const [x0, y0, x1, y1] = stage.art.get(stage.parts[n].arts[0]).box, [a, b, c, d, e, f] = stage.frames.matrix(0, n);"
        " const x = (x0 + x1) / 2, y = (y0 + y1) / 2; return toPage(a * x + c * y + e, b * x + d * y + f); }",
        part,
    )


def puppet(program, name):
    return program.workspace.puppet(program.id_of("puppet", name))


def drag_part(program, part, dx, dy):
    x, y = middle(program, part)
    program.drag((x, y), (x + dx, y + dy))


def test_a_fix_is_made_by_dragging_and_goes_to_the_other_side(program):
    page = program.bench("Bramble")
    page.locator(".rowline .pick", has_text="near hind cannon").first.click()
    page.get_by_label("Angle in degrees").fill("50")
    act(program, page.get_by_role("button", name="correct it at").click)
    page.get_by_text("correcting near hind cannon, 50°").wait_for()
    scale = page.evaluate("window.gaitwire.stage.view.scale")
    drag_part(program, "near hind cannon", 9, -6)
    act(program, page.get_by_role("button", name="forward", exact=True).click)
    made = puppet(program, "Bramble").entries[0]
    assert made.x == 50 and {r.property for r in made.rows} == {"shift_x", "shift_y", "place"}
    way = {r.property: r.value for r in made.rows}
    assert np.hypot(way["shift_x"], way["shift_y"]) == pytest.approx(np.hypot(9, 6) / scale, abs=1.2)
    assert page.locator("#card input[name=place]").input_value() == "1"
    typed(program, "turn", "4")
    page.get_by_role("radio", name="points").click()
    page.locator(".anchorpoint").first.wait_for()
    box = page.locator(".anchorpoint").first.bounding_box()
    program.drag((box["x"] + 4, box["y"] + 4), (box["x"] + 14, box["y"] + 4))
    assert puppet(program, "Bramble").entries[0].reshapes[0].points
    act(program, page.get_by_role("button", name="done", exact=True).click)
    act(program, page.get_by_role("button", name="other side", exact=True).click)
    found = puppet(program, "Bramble")
    near, far = (found.entries_of(c.id)[0] for c in found.controls)
    parts = {p.name: p.id for p in found.parts}
    said = [{(r.property, r.value) for r in e.rows} for e in (near, far)]
    assert said[0] == said[1] and {r.owner_id for r in far.rows} == {parts["far hind cannon"]}
    assert ("turn", 4.0) in said[0] and far.x == near.x
    page.keyboard.press("Control+z")
    program.settled()
    assert len(puppet(program, "Bramble").controls) == 1


def test_a_pad_of_seven_places_is_built_and_turns_a_head_on_the_floor(program):
    page = program.bench("Tamsin, front")
    act(program, page.get_by_role("button", name="a facing pad").click)
    for blank, dx, dy in (("three-quarter", 9, 0), ("side", 16, 1), ("up", 0, -7), ("down", 0, 8)):
        act(program, page.get_by_role("button", name=f"Nothing stored for {blank}: store it").click)
        page.get_by_text("correcting facing pad").wait_for()
        for part in ("mouth", "eyes"):
            drag_part(program, part, dx, dy)
        page.keyboard.press("Escape")
        page.locator(".dial").wait_for()
        program.settled()
    box = page.locator(".dial").bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    program.drag((x, y), (x + box["width"] * 0.25, y - box["height"] * 0.12))
    act(program, page.get_by_role("button", name="store this place").click)
    page.keyboard.press("Escape")
    page.locator(".dial").wait_for()
    program.settled()
    act(program, page.get_by_role("button", name="the other half").click)
    found = puppet(program, "Tamsin, front")
    pad = found.controls[0]
    assert len(found.entries_of(pad.id)) == 8
    assert page.locator(".dial .place").count() == 8

    page = program.floor("Down the lane")
    act(program, page.locator(".wirename .pick", has_text="Pads").click)
    for frame, across in ((0, -0.3), (12, 0.3)):
        act(program, lambda frame=frame: seek(page, frame))
        box = page.locator(".dial").bounding_box()
        x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
        program.drag((x, y), (x + box["width"] * across, y))
    values = page.locator("#card input[data-set=dial]").evaluate_all("all => all.map((e) => Number(e.value))")
    assert values[0] > 40
    compiled = program.workspace.compiled(program.id_of("scene", "Down the lane"))
    mouth = next(b.id for b in found.bones if b.name == "mouth")
    head = next(b.id for b in found.bones if b.name == "face")
    frames = evaluate(compiled, np.array([0.0, 6.0, 12.0]))
    at = [next(n for n, key in enumerate(frames.node_keys) if key[1] == owner) for owner in (mouth, head)]
    across = frames.nodes[:, at[0], 4] - frames.nodes[:, at[1], 4]
    assert across[0] < across[1] - 1 < across[2] - 2
    typed(program, "x", "0")
    assert page.locator("#card input[name=x]").input_value() == "0"


def test_a_pivot_is_moved_after_animating_and_the_picture_has_not_moved(program):
    scene = program.id_of("scene", "Pip hops")
    before = program.workspace.frames(scene, np.arange(24.0))
    page = program.bench("Pip")
    page.locator(".rowline .pick", has_text="leaf").first.click()
    typed(program, "x", "120")
    said = page.locator("#remarks").inner_text()
    found = re.search(r"In 3 scenes the picture (has not moved at any|moves by (0\.\d+) px)", said)
    assert found and float(found.group(2) or 0) < 0.15 and "keys adjusted" in said
    after = program.workspace.frames(scene, np.arange(24.0))
    keyed = sorted({k.time for k in program.workspace.scene(scene).keys})
    rows = [int(t) for t in keyed if t == int(t) and t < 24]
    moved = np.abs(after.matrices - before.matrices).max(axis=(1, 2))
    assert moved[rows].max() < 0.15
    page.locator("#stage").focus()
    act(program, lambda: page.keyboard.press("Control+z"))
    assert program.workspace.frames(scene, np.arange(24.0)).matrices == pytest.approx(before.matrices)


def test_what_would_move_pictures_waits_for_a_word(program):
    page = program.bench("Pip")
    before = puppet(program, "Pip")
    page.locator(".rowline .pick", has_text="stem").first.click()
    page.locator("#stage").focus()
    page.keyboard.press("Delete")
    page.locator(".ask").wait_for()
    assert page.locator(".ask li").count() > 2
    assert float(page.locator(".ask [data-allowed]").input_value()) == ALLOWED
    program.settled()
    assert puppet(program, "Pip").bones == before.bones
    act(program, page.get_by_role("button", name="leave it as it was").click)
    assert page.locator(".ask").count() == 0 and puppet(program, "Pip").bones == before.bones
    page.locator("#stage").focus()
    page.keyboard.press("Delete")
    act(program, page.get_by_role("button", name="do it, and keep what can be kept").click)
    assert len(puppet(program, "Pip").bones) == len(before.bones) - 1
    page.complaints.clear()  # the answers that asked


def test_a_rig_is_compared_and_copied_onto_other_art(program):
    art = files("gaitwire.demo").joinpath("art", "tamsin.svg").read_bytes()
    other = import_art(program.workspace, art, "picker.svg", "Another picker").puppet_id
    page = program.bench("Another picker")
    page.get_by_label("Puppet whose rig is copied").select_option(label="Tamsin")
    page.get_by_text("without a match: not copied").wait_for()
    assert "part “neck patch”" in page.locator("#rig-found").inner_text()
    act(program, page.get_by_role("button", name="copy it here").click)
    made, source = program.workspace.puppet(other), puppet(program, "Tamsin")
    assert len(made.limbs) == len(source.limbs) and len(made.controls) == len(source.controls)
    assert "No match for part" in page.locator("#remarks").inner_text()
