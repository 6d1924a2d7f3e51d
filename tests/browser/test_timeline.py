"""The timeline by hand: zoom, overview, folds, the playhead, poses, numbers, the height of it all."""

from itertools import pairwise

import pytest

from browser.conftest import patiently
from gaitwire.services.scene.found_poses import mark_all_poses, poses_of, unmarked_poses_of
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.poses import delete_pose


def ppf(page):
    return page.evaluate("window.gaitwire.timeline.ppf")


def rows(page):
    """Names of the wires that can be seen."""
    return page.evaluate(
        "[...document.querySelectorAll('#wires .wirerow')].filter(r => r.offsetParent).map(r => r.querySelector('.pick').textContent)"
    )


def test_the_timeline_zooms_by_button_key_and_wheel_about_the_pointer(program):
    page = program.floor("Tamsin waits")
    start = ppf(page)
    page.get_by_role("button", name="Zoom the timeline in").click()
    assert ppf(page) == pytest.approx(start * 1.4)
    page.keyboard.press("-")
    assert ppf(page) == pytest.approx(start * 1.4 / 1.3)
    page.keyboard.press("+")
    bead = page.locator(".tl-group:not(.seat) .bead").nth(3)
    before = bead.bounding_box()
    page.mouse.move(before["x"] + 4, before["y"] + 4)
    page.keyboard.down("Control")
    page.mouse.wheel(0, -400)
    page.keyboard.up("Control")
    patiently(page, lambda: ppf(page) > start * 1.6)
    assert bead.bounding_box()["x"] == pytest.approx(before["x"], abs=3)


def test_the_overview_shows_what_is_seen_scrolls_and_zooms(program):
    page = program.floor("Tamsin waits")
    for _ in range(4):
        page.get_by_role("button", name="Zoom the timeline in").click()
    bar = page.locator("#overview").bounding_box()
    window = page.locator("#overview-window").bounding_box()
    assert window["width"] < 0.5 * bar["width"]
    seen = "document.getElementById('tl-scroll').scrollLeft"
    page.mouse.move(window["x"] + window["width"] / 2, bar["y"] + 6)
    page.mouse.down()
    page.mouse.move(window["x"] + window["width"] / 2 + 200, bar["y"] + 6, steps=4)
    page.mouse.up()
    assert page.evaluate(seen) > 100
    before = ppf(page)
    edge = page.locator("#overview i[data-edge=right]").bounding_box()
    page.mouse.move(edge["x"] + 3, edge["y"] + 3)
    page.mouse.down()
    page.mouse.move(edge["x"] - 60, edge["y"] + 3, steps=4)
    page.mouse.up()
    assert ppf(page) > before * 1.1  # less is seen, so it is larger


def test_the_playhead_is_kept_in_sight_and_pages_are_turned(program):
    page = program.floor("Tamsin waits")
    for _ in range(5):
        page.keyboard.press("+")
    seen = "document.getElementById('tl-scroll').scrollLeft"
    assert page.evaluate(seen) == 0
    page.keyboard.press("End")
    playhead, view = page.locator("#playhead").bounding_box(), page.viewport_size
    assert 172 < playhead["x"] < view["width"]
    far = page.evaluate(seen)
    page.keyboard.press("PageUp")
    assert page.evaluate(seen) < far - 300
    page.keyboard.press("Home")
    assert page.evaluate(seen) < 20


def test_groups_and_puppets_fold_and_stay_folded_after_an_edit(program):
    page = program.floor("Pip hops")
    assert rows(page) == ["Pip", "Head", "Prop", "Orchard rows"]  # the backdrop begins shut
    page.get_by_role("button", name="Unfold Head").click()
    assert rows(page) == ["Pip", "Head", "eyes", "mouth", "Prop", "Orchard rows"]
    page.locator("#card input[name=frames]").fill("30")
    page.locator("#card input[name=frames]").press("Enter")
    program.settled()
    assert rows(page)[:4] == ["Pip", "Head", "eyes", "mouth"]
    page.get_by_role("button", name="fold all", exact=True).click()
    assert rows(page) == ["Pip", "Head", "Prop", "Orchard rows"]
    page.get_by_role("button", name="Unfold Pip").click()
    assert rows(page) == ["Pip", "Orchard rows"]


def test_the_ruler_is_dragged_and_the_playhead_goes_along(program):
    page = program.floor("Pip hops")
    ruler = page.locator("#ruler").bounding_box()
    page.mouse.move(ruler["x"] + 2, ruler["y"] + 15)
    page.mouse.down()
    page.mouse.move(ruler["x"] + 9.2 * ppf(page), ruler["y"] + 15, steps=5)
    page.mouse.up()
    assert page.evaluate("window.gaitwire.frame") == 9
    assert page.locator("#flag").inner_text() == "9"
    assert "0.38 of 1.00 s" in page.locator("#seconds").inner_text()
    head = page.locator("#playhead").bounding_box()
    assert head["x"] + head["width"] / 2 == pytest.approx(ruler["x"] + 9 * ppf(page), abs=1.5)
    page.locator("#ruler").focus()
    page.keyboard.press("End")
    assert page.locator("#ruler").get_attribute("aria-valuenow") == "23"


def test_a_scene_may_show_one_as_its_first_number(program):
    page = program.floor("Pip hops")
    page.get_by_label("first number").select_option("1")
    program.settled()
    assert page.locator("#frame").inner_text() == "frame 1"
    assert page.locator("#ruler .tick text").first.text_content() == "1"
    page.get_by_role("group", name="Wire of Pip, whole").locator(".pick").click()
    page.locator("#card .sub", has_text="at frame 1").wait_for()


def test_poses_are_shown_where_they_are_marked_and_lead_there(program):
    page = program.floor("Pip hops")
    page.locator("#poses .pose").first.wait_for()
    frames = page.evaluate("[...document.querySelectorAll('#poses .pose')].map(p => Number(p.dataset.frame))")
    assert frames == sorted(frames) and 4 <= len(frames) <= 12
    boxes = [t.bounding_box() for t in page.locator("#poses .pose").all()]
    assert all(b["x"] >= a["x"] + a["width"] for a, b in pairwise(boxes))
    inked = page.evaluate(
        "[...document.querySelectorAll('#poses canvas')].map(c => c.getContext('2d').getImageData(0, 0, c.width, c.height).data.some(v => v))"
    )
    assert all(inked)
    page.get_by_role("button", name=f"leap at frame {frames[2]}", exact=True).click()
    assert page.evaluate("window.gaitwire.frame") == frames[2]
    assert page.locator("#poses .pose.here").get_attribute("data-frame") == str(frames[2])
    assert "Pip ·" in page.locator("#poses-of").inner_text()


def test_the_line_below_the_timeline_moves_by_pointer_and_key_and_is_remembered(program):
    page = program.floor("The cart jolts")
    height = "document.getElementById('wires').clientHeight"
    before = page.evaluate(height)
    bar = page.get_by_role("separator", name="Height of the timeline")
    box = bar.bounding_box()
    page.mouse.move(box["x"] + 300, box["y"] + 3)
    page.mouse.down()
    page.mouse.move(box["x"] + 300, box["y"] - 57, steps=3)
    page.mouse.up()
    assert page.evaluate(height) == pytest.approx(before - 60, abs=3)
    bar.focus()
    page.keyboard.press("ArrowUp")
    kept = page.evaluate(height)
    assert kept == pytest.approx(before - 84, abs=3)
    program.floor("The cart jolts")
    assert page.evaluate(height) == kept


def test_arrows_go_along_a_wire_and_from_wire_to_wire(program):
    page = program.floor("Pip hops")
    page.get_by_role("group", name="Wire of Pip, whole").focus()
    page.keyboard.press("ArrowDown")
    assert page.evaluate("document.activeElement.getAttribute('aria-label')") == "Wire of Head"
    page.keyboard.press("ArrowRight")
    page.keyboard.press("Shift+ArrowRight")
    program.settled()
    picked = page.evaluate("[...new Set(window.gaitwire.timeline.picked.list.map(b => b[2]))]")
    assert picked == [0, 4]  # a group's bead stands for its bones' beads
    page.keyboard.press("Enter")
    page.locator("#card h2", has_text="2 bones").wait_for()


def test_a_box_with_shift_adds_to_what_is_chosen(program):
    page = program.floor("Pip hops")
    seat = page.get_by_role("group", name="Wire of Pip, whole").bounding_box()
    left = page.locator("#ruler").bounding_box()["x"]
    one = ppf(page)
    program.drag((left - 8, seat["y"] + 2), (left + 3 * one, seat["y"] + 22))
    assert page.evaluate("window.gaitwire.timeline.picked.list.map(b => b[2])") == [0]
    page.keyboard.down("Shift")
    program.drag((left + 12 * one, seat["y"] + 2), (left + 22 * one, seat["y"] + 22))
    page.keyboard.up("Shift")
    assert page.evaluate("window.gaitwire.timeline.picked.list.map(b => b[2])") == [0, 14, 17, 20, 21]
    page.keyboard.press("Escape")
    assert page.evaluate("window.gaitwire.timeline.picked.size") == 0


def test_escape_lets_go_of_dragged_beads(program):
    page = program.floor("Pip hops")
    bead = page.get_by_role("group", name="Wire of Pip, whole").locator(".bead").nth(1)
    box = bead.bounding_box()
    page.mouse.move(box["x"] + 6, box["y"] + 6)
    page.mouse.down()
    page.mouse.move(box["x"] + 106, box["y"] + 6, steps=4)
    assert bead.bounding_box()["x"] > box["x"] + 50
    page.keyboard.press("Escape")
    page.mouse.up()
    program.settled()
    assert bead.bounding_box()["x"] == pytest.approx(box["x"], abs=1)
    assert page.locator("#undo").inner_text() == "undo 0"


def unmarked(program):
    """The Floor of Pip, none of whose poses are marked."""
    floor = Floor(program.workspace, program.id_of("scene", "Pip hops"))
    who = floor.scene.instances[-1].id
    for pose in poses_of(floor, who):
        delete_pose(floor, pose.id, with_keys=False)
    return floor, who


def test_every_one_of_nine_poses_in_a_row_can_be_taken_at_any_zoom(program):
    floor, who = unmarked(program)
    mark_all_poses(floor, who, range(9))
    page = program.floor("Pip hops")
    page.get_by_role("button", name="unfold all").click()
    for zoom in ("", "-", "+", "+", "+", "+"):
        if zoom:
            page.keyboard.press(zoom)
            program.settled()
        for frame in range(9):
            program.until(f"document.querySelectorAll('#poses [data-frame=\"{frame}\"]').length === 1")
            page.locator(f"#poses [data-frame='{frame}']").click()
            program.settled()
            assert f"frame {frame} ·" in page.locator("#card").inner_text()
            assert page.evaluate("window.gaitwire.frame") == frame
    # From pose to pose by bracket: the card is that pose's, unless something of the body is worked on.
    page.locator("#stage").focus()
    page.keyboard.press("Escape")
    page.keyboard.press("Home")
    page.keyboard.press("]")
    program.settled()
    assert "frame 1 ·" in page.locator("#card").inner_text()
    page.get_by_role("group", name="Wire of leaf", exact=True).locator(".pick").evaluate("e => e.click()")
    program.settled()
    page.keyboard.press("]")
    program.settled()
    assert page.locator("#card h2").inner_text() == "leaf"


def test_a_pose_that_was_found_is_named_on_its_card_and_marked_so(program):
    floor, who = unmarked(program)
    found = unmarked_poses_of(floor, who)
    page = program.floor("Pip hops")
    page.locator(f"#poses [data-frame='{found[1]:g}']").click()
    program.settled()
    assert page.locator("#card h2").inner_text() == "Pose, not marked"
    page.locator("#card input[name=name]").fill("down")
    page.locator("#card input[name=name]").press("Enter")
    program.settled()
    assert page.locator("#card h2").inner_text() == "down"
    assert [(p.time, p.name) for p in poses_of(floor, who)] == [(found[1], "down")]
    page.keyboard.press("Delete")
    program.settled()
    assert poses_of(floor, who) == [] and found[1] not in {k.time for k in floor.scene.keys}


def test_looking_at_poses_alone_changes_no_meaning_of_a_key(program):
    floor = Floor(program.workspace, program.id_of("scene", "Tamsin waits"))
    marked = len(floor.scene.poses)
    page = program.floor("Tamsin waits")
    page.get_by_role("button", name="unfold all").click()
    page.keyboard.press("Alt+b")
    program.settled()
    assert page.locator("#blocking-look").is_checked()
    page.evaluate("window.gaitwire.player.seek(30)")
    page.get_by_role("group", name="Wire of basket", exact=True).locator(".pick").click()
    program.settled()
    page.locator("#card input[name=turn]").fill("-9")
    page.locator("#card input[name=turn]").press("Enter")
    program.settled()
    assert len(floor.scene.poses) == marked
    page.locator("#blocking-look").uncheck()
    page.locator("#card input[name=turn]").fill("-12")
    page.locator("#card input[name=turn]").press("Enter")
    program.settled()
    assert len(floor.scene.poses) == marked + 1
