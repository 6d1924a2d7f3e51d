"""The ways of timing a scene, by hand: poses blocked and timed, stays, charts, repeats, offsets, ranges."""

import numpy as np
import pytest

from browser.hands import act, pick, seek, turn_of, typed, unfold, wire
from builders.named import id_of
from gaitwire.services.scene.floor import add_puppet, make_scene
from gaitwire.services.scene.gestures import Floor

STRIP = "[...document.querySelectorAll('#poses .pose')].map(p => Number(p.dataset.frame))"


def floor_of(program, name):
    return Floor(program.workspace, program.id_of("scene", name))


def until_strip(program, frames):
    """Wait until the strip shows poses on just these frames; it is drawn a moment after the stage."""
    program.until(f"JSON.stringify({STRIP}) === '{str(frames).replace(' ', '')}'")


@pytest.fixture
def bare(program):
    """Pip alone on an empty stage of two seconds that plays once."""

    floor = Floor(program.workspace, make_scene(program.workspace, "Trial", frames=48, loop=False, ground=648.0))
    add_puppet(floor, id_of(program.workspace, "puppet", "Pip"))
    program.floor("Trial")
    unfold(program.page)
    return program


def pose_at(program, frame, turn):
    """Turn the stem on a frame and key the whole body there."""
    seek(program.page, frame)
    pick(program, "stem")
    typed(program, "turn", turn)
    act(program, lambda: program.page.keyboard.press("Shift+P"))


def test_four_poses_are_blocked_and_then_timed(bare):
    page = bare.page
    for frame, turn in ((0, 0), (8, 30), (16, -20), (24, 10)):
        pose_at(bare, frame, turn)
    until_strip(bare, [0, 8, 16, 24])
    act(bare, page.get_by_role("button", name="blocking", exact=True).click)
    rest = turn_of(bare, "stem", 0)
    shown = [round(turn_of(bare, "stem", f) - rest) for f in (0, 7, 8, 15, 16, 23, 24, 40)]
    assert shown == [0, 0, 30, 30, -20, -20, 10, 10]  # no in-betweens
    page.get_by_role("button", name="Pose at frame 8", exact=True).click()
    bare.settled()
    lasts = page.locator("#card [name=duration]")
    lasts.wait_for()
    lasts.fill("500 ms")
    act(bare, lambda: lasts.press("Enter"))
    until_strip(bare, [0, 8, 20, 28])
    assert "52 frames" in page.locator("#remarks").inner_text()
    third = page.get_by_role("button", name="Pose at frame 20", exact=True)
    box, ppf = third.bounding_box(), page.evaluate("window.gaitwire.timeline.ppf")
    bare.drag((box["x"] + 30, box["y"] + 30), (box["x"] + 30 - 6 * ppf, box["y"] + 30))
    until_strip(bare, [0, 8, 14, 28])
    act(bare, lambda: page.keyboard.press("b"))
    assert round(turn_of(bare, "stem", 14) - rest) == -20
    assert -20 < turn_of(bare, "stem", 20) - rest < 10


def test_a_new_pose_in_the_blocking_view_takes_nothing_from_in_betweens(bare):
    page = bare.page
    pose_at(bare, 0, 0)
    pose_at(bare, 20, 40)
    act(bare, lambda: page.keyboard.press("b"))
    seek(page, 10)
    pick(bare, "leaf")
    typed(bare, "turn", 25)
    assert turn_of(bare, "stem", 10) == pytest.approx(turn_of(bare, "stem", 0), abs=0.01)
    until_strip(bare, [0, 10, 20])


def test_a_head_turn_is_made_to_start_late(program):
    page = program.floor("Tamsin waits")
    unfold(page)
    pick(program, "face")
    before = [turn_of(program, "face", f) for f in range(70, 97 - 1)]
    seek(page, 34)
    act(program, lambda: page.keyboard.press("y"))
    assert "held until here" in page.locator("#remarks").inner_text()
    # The face's own turn is read against its neck, which breathes on.
    floor = floor_of(program, "Tamsin waits")
    face = next(c for c in floor.scene.channels if c.property == "turn" and c.owner_id == bone_id(program, "face"))
    keys = floor.scene.keys_by_channel()[face.id]
    assert [k.time for k in keys if k.stay] == [34]
    own = floor.values_at(np.arange(30.0, 39.0))[face.instance_id, face.owner_id, "turn"]
    assert own[:5] == pytest.approx([own[0]] * 5)  # 30 to 34: it does not move before
    assert own[5] != own[4]
    assert [turn_of(program, "face", f) for f in range(70, 96)] == pytest.approx(before, abs=1e-4)
    capsule = wire(page, "face").locator(".bead.stay")
    assert capsule.count() == 1
    act(program, lambda: page.locator("#undo").click())
    assert wire(page, "face").locator(".bead.stay").count() == 0


def bone_id(program, name):
    puppet = program.workspace.puppet(program.id_of("puppet", "Tamsin"))
    return next(b.id for b in puppet.bones if b.name == name)


def test_nothing_chosen_all_that_is_shown_stays_and_a_span_may_be_dragged(bare):
    page = bare.page
    for frame, turn in ((0, 0), (20, 40)):
        pose_at(bare, frame, turn)
    act(bare, lambda: page.keyboard.press("Escape"))
    seek(page, 12)
    act(bare, lambda: page.keyboard.press("y"))
    assert turn_of(bare, "stem", 12) == pytest.approx(turn_of(bare, "stem", 0), abs=1e-3)
    ruler, ppf = page.locator("#ruler").bounding_box(), page.evaluate("window.gaitwire.timeline.ppf")
    row = wire(page, "stem").bounding_box()
    page.keyboard.down("Alt")
    bare.drag((ruler["x"] + 16 * ppf, row["y"] + 20), (ruler["x"] + 18 * ppf, row["y"] + 20))
    page.keyboard.up("Alt")
    assert page.evaluate("window.gaitwire.timeline.span") == [16, 18]
    pick(bare, "stem")
    act(bare, lambda: page.keyboard.press("y"))
    assert turn_of(bare, "stem", 16) == pytest.approx(turn_of(bare, "stem", 18), abs=1e-3)
    assert turn_of(bare, "stem", 15) < turn_of(bare, "stem", 16) < turn_of(bare, "stem", 19)


def test_the_timing_chart_is_set_dragged_and_reused(bare):
    page = bare.page
    for frame, turn in ((0, 0), (6, 60), (18, 0)):
        pose_at(bare, frame, turn)
    rest = turn_of(bare, "stem", 0)
    wire(page, "stem").locator(".bead").first.click()
    page.get_by_role("button", name="halves", exact=True).wait_for()
    act(bare, page.get_by_role("button", name="halves", exact=True).click)
    assert [turn_of(bare, "stem", f) - rest for f in range(7)] == pytest.approx(
        [0, 7.5, 15, 30, 45, 52.5, 60], abs=0.01
    )
    rung = page.get_by_role("slider", name="In-between 3", exact=True)
    box, chart = rung.bounding_box(), page.locator("#chart .rail").bounding_box()
    x, y = box["x"] + 8, box["y"] + box["height"] / 2
    bare.drag((x, y), (x, y + 0.3 * chart["height"]))
    assert turn_of(bare, "stem", 3) - rest == pytest.approx(48, abs=2.5)
    assert turn_of(bare, "stem", 2) - rest == pytest.approx(15, abs=0.01)
    rung = page.get_by_role("slider", name="In-between 1", exact=True)
    rung.focus()
    act(bare, lambda: page.keyboard.press("ArrowDown"))
    assert turn_of(bare, "stem", 1) - rest == pytest.approx(7.5 + 0.6, abs=0.01)
    page.get_by_role("button", name="take this spacing").click()
    wire(page, "stem").locator(".bead").nth(1).click()
    page.get_by_text("Timing, 6 to 18").wait_for()
    act(bare, page.get_by_role("button", name="reuse it here").click)
    assert turn_of(bare, "stem", 12) - rest == pytest.approx(60 - 48, abs=2.5)  # the same spacing over twelve frames
    act(bare, page.get_by_role("button", name="even", exact=True).click)
    assert turn_of(bare, "stem", 12) - rest == pytest.approx(30, abs=0.01)


def test_a_wire_repeats_and_an_offset_lies_on_top(bare):
    page = bare.page
    for frame, turn in ((0, 0), (4, 20), (8, 0)):
        seek(page, frame)
        pick(bare, "leaf")
        typed(bare, "turn", turn)
    rest = turn_of(bare, "leaf", 0)
    page.get_by_label("goes on").select_option("cycle")
    bare.settled()
    assert turn_of(bare, "leaf", 36) - rest == pytest.approx(20, abs=0.01)
    assert wire(page, "leaf").locator(".ghost").count() > 5
    seek(page, 20)
    bare.settled()
    page.get_by_label("Amount of the offset").fill("15")
    act(bare, page.get_by_role("button", name="add", exact=True).click)
    assert turn_of(bare, "leaf", 28) - rest == pytest.approx(20 + 15, abs=0.01)
    assert turn_of(bare, "leaf", 24) - rest == pytest.approx(15, abs=0.01)
    amount = page.get_by_label("amount of the offset of turn")
    amount.fill("-10")
    act(bare, lambda: amount.press("Enter"))
    assert turn_of(bare, "leaf", 24) - rest == pytest.approx(-10, abs=0.01)
    act(bare, page.get_by_role("button", name="Remove the offset of turn").click)
    assert turn_of(bare, "leaf", 24) - rest == pytest.approx(0, abs=0.01)


def test_bad_durations_frames_and_numbers_are_told_and_nothing_is_kept(bare):
    page = bare.page
    pose_at(bare, 0, 0)
    pose_at(bare, 10, 20)
    page.get_by_role("button", name="Pose at frame 0", exact=True).click()
    lasts = page.locator("#card [name=duration]")
    lasts.wait_for()
    lasts.fill("soon")
    lasts.press("Enter")
    page.locator(".remark.error", has_text="no duration").wait_for()
    pick(bare, "stem")
    page.get_by_label("Error allowed").fill("a bit")
    page.get_by_role("button", name="thin out").click()
    page.locator(".remark.error", has_text="no number").wait_for()
    until_strip(bare, [0, 10])
    page.complaints.clear()


def test_a_range_is_played_at_another_speed(program):
    page = program.floor("Tamsin waits")
    seek(page, 20)
    page.keyboard.press("Alt+BracketLeft")
    seek(page, 30)
    page.keyboard.press("Alt+BracketRight")
    assert page.evaluate("window.gaitwire.player.range") == [20, 30]
    page.locator("#speed").select_option("2")
    page.evaluate("window.seen = new Set(); setInterval(() => window.seen.add(window.gaitwire.frame), 4)")
    page.keyboard.press("Space")
    program.until("window.seen.has(20) && window.seen.has(30)")
    page.keyboard.press("Space")
    seen = page.evaluate("[...window.seen]")
    assert min(seen) == 20 and max(seen) == 30
    assert page.evaluate("window.gaitwire.player.speed") == 2


def test_wires_are_found_by_name_and_by_beads_and_markers_lead_to_frames(program):
    page = program.floor("Tamsin waits")
    unfold(page)
    page.locator("#wire-search").fill("scarf")
    names = "[...document.querySelectorAll('#wires .wirerow.bone')].filter(r => r.offsetParent).map(r => r.querySelector('.pick').textContent)"
    assert set(page.evaluate(names)) == {"scarf", "scarf tail", "scarf tail 2", "scarf tail 3"}
    page.locator("#wire-search").fill("")
    everything = len(page.evaluate(names))
    page.locator("#wire-keyed").click()
    assert 0 < len(page.evaluate(names)) < everything
    seek(page, 38)
    page.keyboard.press("m")
    page.locator("#marker-name").fill("the look")
    act(program, lambda: page.locator("#marker-name").press("Enter"))
    seek(page, 0)
    page.get_by_role("button", name="the look · 38").click()
    assert page.evaluate("window.gaitwire.frame") == 38
    mark = page.locator("#ruler .marker text")
    assert mark.text_content() == "the look"
    box, ppf = mark.bounding_box(), page.evaluate("window.gaitwire.timeline.ppf")
    program.drag((box["x"] + 4, box["y"] + 5), (box["x"] + 4 + 10 * ppf, box["y"] + 5))
    assert [m.time for m in floor_of(program, "Tamsin waits").scene.markers] == [48]


def test_the_body_map_picks_regions_and_shows_what_is_keyed_here(program):
    page = program.floor("Tamsin waits")
    page.locator("#mapbox .area", has_text="Near arm").click()
    program.settled()
    assert page.locator("#card h2").inner_text() == "3 bones"
    page.locator("#mapbox [data-stick]", has=page.locator("title", has_text="face")).first.click(modifiers=["Shift"])
    program.settled()
    assert page.locator("#card h2").inner_text() == "4 bones"
    seek(page, 0)
    program.settled()
    keyed = page.locator("#mapbox .stick.keyed").count()
    assert keyed > 0 and page.locator("#map-said").inner_text().startswith(f"{keyed} of")
