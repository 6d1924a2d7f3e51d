"""Choosing several bones, and moving them as one: by box, by hangers, curled, about a point, back on their joints."""

import numpy as np
import pytest

from browser.hands import act, seek
from gaitwire.services.scene.gestures import Floor


def joint(program, name):
    return program.page.evaluate(f"window.gaitwire.joint({name!r})")


def chosen(page):
    """Names of the chosen bones."""
    return page.evaluate("[...document.querySelectorAll('.wire.chosen text')].map(t => t.textContent).sort()")


def pick_area(program, label, **more):
    act(program, lambda: program.page.locator("#mapbox .area", has_text=label).click(**more))


def press_at(program, point, **keys):
    x, y = program.at(*point)
    program.page.mouse.click(x, y, **keys)
    program.settled()


def test_a_box_on_the_stage_chooses_joints_and_shift_adds_or_takes_away(program):
    page = program.floor("Tamsin waits")
    (x0, y0), (x1, y1) = joint(program, "near thigh")["at"], joint(program, "near foot")["at"]
    left, top = program.at(min(x0, x1) - 60, y0 + 30)
    right, bottom = program.at(max(x0, x1) + 60, y1 + 40)
    program.drag((left, top), (right, bottom))
    assert {"near shin", "near foot", "far shin", "far foot"} <= set(chosen(page))
    assert "near thigh" not in chosen(page) and "chest" not in chosen(page)
    pick_area(program, "Far leg", modifiers=["Shift"])
    assert "far shin" not in chosen(page) and "near shin" in chosen(page)
    program.drag((left, top), (left + 1, top))
    assert chosen(page) == []


def test_one_click_with_alt_takes_all_that_hangs_from_a_bone_and_two_clicks_all_beyond_it(program):
    page = program.floor("Tamsin waits")
    page.keyboard.down("Alt")
    press_at(program, joint(program, "near upper arm")["at"])
    page.keyboard.up("Alt")
    assert chosen(page) == ["near forearm", "near hand", "near upper arm"]
    x, y = program.at(*joint(program, "plait")["at"])
    page.mouse.dblclick(x, y)
    program.settled()
    assert chosen(page) == ["plait 2"]


def test_a_curl_turns_every_joint_of_a_tail_by_the_same(program):
    page = program.floor("Tamsin waits")
    seek(page, 10)
    page.keyboard.press("c")
    pick_area(program, "Head")  # something else first: the chain is the scarf's own
    act(program, lambda: page.keyboard.press("Escape"))
    row = page.get_by_role("group", name="Wire of scarf tail", exact=True)
    page.locator("#fold-all").click()
    act(program, row.locator(".pick").click)
    names = ("scarf tail", "scarf tail 2", "scarf tail 3")
    before = [own_turn(program, n, 10) for n in names]
    end = program.at(*joint(program, "scarf tail")["end"])
    program.drag(end, (end[0] + 4, end[1] - 16))
    turned = [own_turn(program, n, 10) - b for n, b in zip(names, before, strict=True)]
    assert abs(turned[0]) > 2
    assert turned == pytest.approx([turned[0]] * 3, abs=0.01)


def own_turn(program, name, frame):
    """A bone's own turn, as its channel has it with all layers."""
    floor = Floor(program.workspace, program.id_of("scene", "Tamsin waits"))
    puppet = program.workspace.puppet(program.id_of("puppet", "Tamsin"))
    bone = next(b.id for b in puppet.bones if b.name == name)
    values = floor.values_at(np.array([float(frame)]))
    return next(float(v[0]) for (_, owner, prop), v in values.items() if owner == bone and prop == "turn")


def middle(page, selector):
    box = page.locator(selector).bounding_box()
    return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2


def test_the_box_turns_an_arm_about_a_placed_point_and_scales_a_whole_puppet(program):
    page = program.floor("Tamsin waits")
    page.keyboard.press("q")
    pick_area(program, "Near arm")
    page.locator(".boxframe").wait_for()
    shoulder = joint(program, "near upper arm")["at"]
    program.drag(middle(page, ".boxabout"), program.at(*shoulder))
    hand = joint(program, "near hand")["at"]
    reach = ((hand[0] - shoulder[0]) ** 2 + (hand[1] - shoulder[1]) ** 2) ** 0.5
    ring = middle(page, ".boxring")
    program.drag(ring, (ring[0] + 60, ring[1] + 40))
    after = joint(program, "near upper arm")["at"]
    assert after == pytest.approx(shoulder, abs=0.05)  # the point stands still
    moved = joint(program, "near hand")["at"]
    assert ((moved[0] - after[0]) ** 2 + (moved[1] - after[1]) ** 2) ** 0.5 == pytest.approx(reach, abs=0.05)
    assert abs(moved[0] - hand[0]) > 8
    act(program, lambda: page.locator("#undo").click())
    act(program, page.get_by_role("group", name="Wire of Tamsin, whole").locator(".pick").click)
    page.locator(".boxframe").wait_for()
    foot, head = joint(program, "near foot")["at"], joint(program, "face")["at"]
    about = middle(page, ".boxabout")
    corner = page.locator(".boxhandle.scale").nth(0).bounding_box()
    x, y = corner["x"] + 5, corner["y"] + 5
    program.drag((x, y), (x + 0.2 * (about[0] - x), y + 0.2 * (about[1] - y)))
    grown = (joint(program, "near foot")["at"][1] - joint(program, "face")["at"][1]) / (foot[1] - head[1])
    assert grown == pytest.approx(0.8, abs=0.01)


def test_bones_that_slipped_out_are_put_back_with_one_press(program):
    page = program.floor("Tamsin waits")
    before = joint(program, "near forearm")["at"]
    page.keyboard.press("s")
    start = program.at(*before)
    program.drag(start, (start[0] + 14, start[1] + 9))
    assert joint(program, "near forearm")["at"] != pytest.approx(before, abs=1)
    act(program, page.get_by_role("button", name="back on joints").click)
    assert joint(program, "near forearm")["at"] == pytest.approx(before, abs=0.05)
    page.get_by_role("button", name="back on joints").click()
    page.locator(".remark.error", has_text="off its joint").wait_for()
    page.complaints.clear()


def test_a_drag_says_how_long_a_limb_is_against_rest(program):
    page = program.floor("Tamsin waits")
    page.keyboard.press("e")
    tip = program.at(*joint(program, "near forearm")["end"])
    page.mouse.move(*tip)
    page.mouse.down()
    page.mouse.move(tip[0], tip[1] + 12, steps=4)
    program.until("document.querySelector('.said').getAttribute('display') === 'inline'")
    said = page.locator(".said").text_content()
    assert said.startswith("long 1") and "near arm 1" in said
    page.keyboard.press("Escape")
    page.mouse.up()
    program.until("document.querySelector('.said').getAttribute('display') === 'none'")


def test_a_puppet_is_dropped_from_the_shelf_where_it_is_to_stand(program):
    page = program.floor("Pip hops")
    x, y = program.at(900, 640)
    stage = page.locator("#stage").bounding_box()
    page.get_by_role("button", name="Bring in Gander").drag_to(
        page.locator("#stage"), target_position={"x": x - stage["x"], "y": y - stage["y"]}
    )
    program.settled()
    scene = program.workspace.scene(program.id_of("scene", "Pip hops"))
    gander = next(i for i in scene.instances if i.name == "Gander")
    assert (gander.x, gander.y) == pytest.approx((900, 640), abs=3)
    assert gander.depth == max(i.depth for i in scene.instances)
    assert page.locator("#card h2").inner_text() == "Gander, whole"
    act(program, lambda: page.keyboard.press("Escape"))
    act(program, page.get_by_role("button", name="Gander backward").click)
    scene = program.workspace.scene(scene.id)
    order = [i.name for i in sorted(scene.instances, key=lambda i: i.depth)]
    assert order == ["Orchard rows", "Gander", "Pip"]
