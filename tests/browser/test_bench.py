"""The Bench by hand: joints that catch, bones drawn, hung, grouped, hidden, locked; undo of all."""

import re

import pytest
from playwright.sync_api import expect

from browser.conftest import painted, patiently


def pivot(program, name):
    puppet = program.workspace.puppet(program.page.evaluate("document.body.dataset.document"))
    bone = next(b for b in puppet.bones if b.name == name)
    return bone.x, bone.y


def tool(page, name):
    page.get_by_role("toolbar").get_by_role("button", name=name, exact=True).click()


def row(page, name, kind="bone"):
    return page.locator(f".rowline[data-{kind}]").filter(has=page.get_by_role("button", name=name, exact=True))


def test_a_joint_is_dragged_and_catches_unless_alt_is_held(program):
    page = program.bench("Pip")
    puppet = program.workspace.puppet(program.id_of("puppet", "Pip"))
    leaf = program.workspace.art(next(p.art_hash for p in puppet.parts if p.name == "leaf")).bounds
    tool(page, "joint")
    start = program.at(*pivot(program, "stem"))
    near = (leaf.x1 - 2, leaf.y0 + 2)
    program.drag(start, program.at(*near))
    assert pivot(program, "stem") == pytest.approx((leaf.x1, leaf.y0), abs=0.01)  # the part's corner
    page.keyboard.down("Alt")
    program.drag(program.at(leaf.x1, leaf.y0), program.at(*near))
    page.keyboard.up("Alt")
    assert pivot(program, "stem") == pytest.approx(near, abs=0.6)
    page.keyboard.press("Control+z")
    page.keyboard.press("Control+z")
    program.settled()
    assert pivot(program, "stem") == (110, 78)


def test_a_joint_is_typed_and_nudged(program):
    page = program.bench("Pip")
    row(page, "leaf").locator(".pick").click()
    field = page.locator("#card input[name=x]")
    field.wait_for()
    field.fill("101.5")
    field.press("Enter")
    program.settled()
    assert pivot(program, "leaf") == pytest.approx((101.5, 60))
    page.locator("#stage").focus()
    page.keyboard.press("Shift+ArrowDown")
    program.settled()
    assert pivot(program, "leaf") == pytest.approx((101.5, 70))


def test_a_bone_is_drawn_hung_by_dragging_and_a_ring_is_refused(program):
    page = program.bench("Pip")
    page.keyboard.press("Escape")
    tool(page, "draw bones")
    program.drag(program.at(20, 230), program.at(60, 150))
    row(page, "bone").wait_for()
    row(page, "bone").drag_to(row(page, "leaf"), target_position={"x": 60, "y": 15})
    program.settled()
    bones = {b.name: b for b in program.workspace.puppet(program.id_of("puppet", "Pip")).bones}
    assert bones["bone"].parent_id == bones["leaf"].id
    page.complaints.clear()
    row(page, "apple").drag_to(row(page, "leaf"), target_position={"x": 60, "y": 15})
    page.get_by_role("alert").wait_for()
    assert "“apple” cannot hang from “leaf”" in page.get_by_role("alert").inner_text()
    page.complaints.clear()


def test_bones_are_grouped_renamed_hidden_locked_and_given_a_role(program):
    page = program.bench("Pip")
    row(page, "eyes").locator(".pick").click()
    row(page, "mouth").locator(".pick").click(modifiers=["ControlOrMeta"])
    page.locator("#card h2", has_text="2 bones").wait_for()
    page.keyboard.press("g")
    page.locator("#card h2", has_text="group").wait_for()
    page.get_by_label("name", exact=True).fill("face")
    page.get_by_label("name", exact=True).press("Enter")
    row(page, "face").wait_for()
    page.get_by_label("role").select_option("head")
    program.settled()
    row(page, "face").hover()
    row(page, "face").get_by_role("button", name="Lock face").click()
    row(page, "leaf").hover()
    row(page, "leaf").get_by_role("button", name="Hide leaf").click()
    program.settled()
    bones = {b.name: b for b in program.workspace.puppet(program.id_of("puppet", "Pip")).bones}
    assert bones["eyes"].parent_id == bones["mouth"].parent_id == bones["face"].id
    assert (bones["face"].role, bones["face"].locked, bones["face"].length) == ("head", True, 0)
    assert bones["leaf"].hidden


def test_parts_are_reordered_by_dragging_and_change_what_lies_in_front(program):
    page = program.bench("Pip")
    assert page.evaluate("window.gaitwire.partAt(104, 138)") == "eyes"
    row(page, "eyes", "part").drag_to(row(page, "leaf", "part"), target_position={"x": 60, "y": 26})
    program.settled()
    assert page.locator("#parts .pick").all_inner_texts() == ["mouth", "apple", "stem", "leaf", "eyes", "shadow"]
    assert page.evaluate("window.gaitwire.partAt(104, 138)") == "apple"


def test_trying_a_joint_keeps_nothing(program):
    page = program.bench("Tamsin")
    before = page.locator("#undo").inner_text()
    tool(page, "try range")
    x, y = program.at(112, 330)
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x - 60, y - 20, steps=6)
    program.until("document.querySelector('.catch-label')?.textContent.includes('°')")
    page.mouse.up()
    program.settled()
    assert page.locator("#card h2").inner_text() == "basket"
    assert page.locator("#undo").inner_text() == before


def test_a_box_round_parts_chooses_them_and_g_groups_their_bones(program):
    page = program.bench("Pip")
    program.drag(program.at(-4, 112), program.at(212, 196))
    page.locator("#card h2", has_text="2 parts").wait_for()
    assert page.locator("#parts .rowline.chosen .pick").all_inner_texts() == ["mouth", "eyes"]
    page.keyboard.press("g")
    row(page, "group").wait_for()
    page.locator("#card h2", has_text="group").wait_for()
    page.keyboard.press("F2")
    page.keyboard.type("features")
    page.keyboard.press("Enter")
    row(page, "features").wait_for()
    page.mouse.click(*program.at(2, 60))
    page.locator("#card h2", has_text="Pip").wait_for()  # a click on nothing chooses nothing


def test_a_tip_is_dragged_a_part_hung_on_a_bone_and_a_bone_drawn_from_a_tip(program):
    page = program.bench("Pip")
    tool(page, "joint")
    page.keyboard.down("Alt")
    at = page.evaluate("window.gaitwire.joint('leaf')")
    program.drag(program.at(*at["end"]), program.at(at["end"][0] + 20, at["end"][1] - 20))
    page.keyboard.up("Alt")
    end = page.evaluate("window.gaitwire.joint('leaf').end")
    assert end == pytest.approx([at["end"][0] + 20, at["end"][1] - 20], abs=0.6)
    assert pivot(program, "leaf") == pytest.approx(at["at"], abs=0.01)
    tool(page, "draw bones")
    program.drag(program.at(*end), program.at(end[0] + 30, end[1] + 40))
    row(page, "bone").wait_for()
    row(page, "mouth", "part").drag_to(row(page, "bone"), target_position={"x": 60, "y": 15})
    program.settled()
    puppet = program.workspace.puppet(program.id_of("puppet", "Pip"))
    bones = {b.name: b for b in puppet.bones}
    assert bones["bone"].parent_id == bones["leaf"].id
    assert (bones["bone"].x, bones["bone"].y) == pytest.approx(end, abs=0.01)
    assert next(p for p in puppet.parts if p.name == "mouth").bone_id == bones["bone"].id


def test_found_art_is_taken_apart_and_joined_again(program):
    page = program.bench("Pip")
    row(page, "apple", "part").locator(".pick").click()
    page.get_by_role("button", name="take its 6 shapes apart").click()
    row(page, "apple 6", "part").wait_for()
    page.locator("#card h2", has_text="6 parts").wait_for()
    page.get_by_role("button", name="join", exact=True).click()
    page.locator("#card h2", has_text="apple 1").wait_for()
    assert page.locator("#parts .pick").all_inner_texts()[2] == "apple 1"
    assert page.evaluate("window.gaitwire.partAt(110, 200)") == "apple 1"


def test_escape_lets_go_of_a_joint_and_keeps_nothing(program):
    page = program.bench("Pip")
    tool(page, "joint")
    before, undo = pivot(program, "stem"), page.locator("#undo").inner_text()
    x, y = program.at(*before)
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 60, y + 20, steps=5)
    painted(page)
    page.keyboard.press("Escape")
    page.mouse.up()
    program.settled()
    assert pivot(program, "stem") == before and page.locator("#undo").inner_text() == undo
    assert page.evaluate("window.gaitwire.joint('stem').at") == pytest.approx(before)
    assert page.locator("#card h2").inner_text() == "stem"  # and it is still chosen


def test_what_is_picked_on_the_stage_is_brought_into_sight_in_its_list(program):
    page = program.bench("Tamsin")
    bones = program.workspace.puppet(program.id_of("puppet", "Tamsin")).bones
    lists = page.locator(".rowline[data-bone]")
    last = lists.nth(len(bones) - 1)
    expect(last).not_to_be_in_viewport()
    name = last.locator(".pick").inner_text()
    page.mouse.click(*program.at(*pivot(program, name)))
    expect(last).to_have_class(re.compile(r"\bchosen\b"))
    expect(last).to_be_in_viewport(ratio=0.9)


def test_what_is_clicked_while_a_gesture_waits_is_chosen_and_stays_so(program):
    page = program.bench("Stook")
    held = []
    page.route("**/bones/set", lambda route: held.append(route))
    row(page, "coat").get_by_role("button", name="coat", exact=True).click()
    expect(page.locator("#card h2")).to_have_text("coat")
    box = page.locator("#card input[name=x]")
    box.fill("151")
    box.press("Enter")
    patiently(page, lambda: held)
    row(page, "face").get_by_role("button", name="face", exact=True).click()
    expect(page.locator("#card h2")).to_have_text("face")  # at once, whatever the program is still at
    held[0].continue_()
    program.settled()
    assert pivot(program, "coat")[0] == 151
    expect(page.locator("#card h2")).to_have_text("face")


def test_the_card_is_about_the_last_of_many_quick_clicks(program):
    page = program.bench("Stook")
    held, let_go = [], []
    page.route("**/card?*", lambda route: route.continue_() if let_go else held.append(route))  # a slow answer
    for n, name in enumerate(("coat", "face", "hat", "pole")):
        row(page, name).locator(".pick").click(modifiers=["ControlOrMeta"] if n else [])
    patiently(page, lambda: held)
    let_go.append(True)
    for route in held:
        route.continue_()
    expect(page.locator("#card h2")).to_have_text("4 bones")
