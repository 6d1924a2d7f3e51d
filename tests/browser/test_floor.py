"""The Floor by hand: posing makes keys, beads are chosen, slid, eased; playing; files."""

import json

import pytest

from browser.conftest import patiently
from builders.making import lead


def joint(page, name):
    return page.evaluate("n => window.gaitwire.joint(n)", name)


def keys_of(program, scene, bone, prop):
    found = program.workspace.scene(scene)
    front = lead(found)
    puppet = program.workspace.puppet(front.puppet_id)
    owner = next((b.id for b in puppet.bones if b.name == bone), front.id)
    channel = next((c.id for c in found.channels if (c.owner_id, c.property) == (owner, prop)), None)
    return {k.time: k for k in found.keys if k.channel_id == channel}


def seek(program, frame):
    program.page.evaluate("f => window.gaitwire.player.seek(f)", frame)
    program.until(f"document.getElementById('frame').textContent === 'frame {frame}'")


@pytest.mark.parametrize("gesture", ["turn", "shift", "stretch", "skew"])
def test_a_drag_makes_keys_of_what_it_changed_and_nothing_else(program, gesture):
    page = program.floor("Tamsin waits")
    scene = program.id_of("scene", "Tamsin waits")
    before = len(program.workspace.scene(scene).keys)
    page.get_by_role("toolbar").get_by_role("button", name=gesture, exact=True).click()
    seek(program, 20)
    start = program.at(*joint(page, "basket")["end"])
    program.drag(start, (start[0] - 30, start[1] - 24))
    props = {"turn": ["turn"], "shift": ["shift_x", "shift_y"], "stretch": ["stretch"], "skew": ["skew"]}[gesture]
    assert all(20.0 in keys_of(program, scene, "basket", p) for p in props)
    # Besides, what has no keys yet is keyed as it stands where the body has poses, and the page says so.
    poses = {p.time for p in program.workspace.scene(scene).poses}
    for prop in props:
        made = keys_of(program, scene, "basket", prop)
        assert set(made) == {20.0} | poses and len({made[t].value for t in poses}) == 1
    assert len(program.workspace.scene(scene).keys) == before + len(props) * (1 + len(poses))
    assert "Kept as it was on 0, 24" in page.locator("#remarks").inner_text()
    if gesture == "turn":  # the tip now points where the pointer is
        (px, py), (tx, ty) = (program.at(*joint(page, "basket")[k]) for k in ("at", "end"))
        mx, my = start[0] - 30 - px, start[1] - 24 - py
        assert abs(mx * (ty - py) - my * (tx - px)) < 2.0 * (mx**2 + my**2) ** 0.5
    page.keyboard.press("Control+z")
    program.settled()
    assert len(program.workspace.scene(scene).keys) == before


def test_typed_values_locked_bones_and_escape(program):
    page = program.floor("Tamsin waits")
    scene = program.id_of("scene", "Tamsin waits")
    seek(program, 10)
    page.mouse.click(*program.at(*joint(page, "basket")["at"]))
    field = page.locator("#card input[name=turn]")
    field.fill("-7,5")
    field.press("Enter")
    program.settled()
    assert keys_of(program, scene, "basket", "turn")[10.0].value == -7.5
    before = page.locator("#undo").inner_text()
    start = program.at(*joint(page, "basket")["end"])
    page.mouse.move(*start)
    page.mouse.down()
    page.mouse.move(start[0] + 40, start[1], steps=4)
    page.keyboard.press("Escape")
    page.mouse.up()
    program.settled()
    assert page.locator("#undo").inner_text() == before


def test_beads_are_boxed_dragged_duplicated_deleted_and_eased(program):
    page = program.floor("Pip hops")
    scene = program.id_of("scene", "Pip hops")
    page.get_by_role("button", name="unfold all").click()
    wire = page.get_by_role("group", name="Wire of leaf")
    wire.scroll_into_view_if_needed()
    box = wire.bounding_box()
    program.drag((180, box["y"] + 3), (760, box["y"] + 21))
    picked = page.evaluate("window.gaitwire.timeline.picked.list.map(b => b[2])")
    assert picked and set(picked) <= set(keys_of(program, scene, "leaf", "turn"))
    page.wait_for_selector("#curve")
    page.get_by_role("button", name="back-out", exact=True).click()
    program.settled()
    assert all(keys_of(program, scene, "leaf", "turn")[t].ease == "back-out" for t in picked)
    first = wire.locator(f'.bead[data-time="{picked[0]:.1f}"]').bounding_box()
    ppf = page.evaluate("window.gaitwire.timeline.ppf")
    start = (first["x"] + first["width"] / 2, first["y"] + first["height"] / 2)
    program.drag(start, (start[0] + 2 * ppf, start[1]))
    moved = page.evaluate("window.gaitwire.timeline.picked.list.map(b => b[2])")
    assert sorted(moved) == sorted((t + 2) % 24 for t in picked)
    count = len(keys_of(program, scene, "leaf", "turn"))
    seek(program, 1)
    page.keyboard.press("d")
    program.settled()
    assert 1.0 in keys_of(program, scene, "leaf", "turn")
    page.keyboard.press("Delete")
    program.settled()
    assert len(keys_of(program, scene, "leaf", "turn")) <= count


def test_a_free_curve_is_shaped_by_its_handles_and_reused(program):
    page = program.floor("Pip hops")
    scene = program.id_of("scene", "Pip hops")
    wire = page.get_by_role("group", name="Wire of Pip, whole")
    wire.focus()
    page.keyboard.press("ArrowRight")
    page.wait_for_selector("#curve")
    handle = page.get_by_role("button", name="First handle; arrows move it")
    box = handle.bounding_box()
    middle = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    program.drag(middle, (middle[0] + 30, middle[1]))
    time = page.evaluate("window.gaitwire.timeline.picked.list[0][2]")
    shaped = keys_of(program, scene, "seat", "shift_y")[time]
    assert shaped.ease == "free" and shaped.curve.x1 > 0.4
    page.get_by_role("button", name="take this spacing").click()
    wire.focus()
    page.keyboard.press("ArrowRight")
    program.settled()
    page.get_by_role("button", name="reuse it here").click()
    program.settled()
    other = page.evaluate("window.gaitwire.timeline.picked.list[0][2]")
    assert keys_of(program, scene, "seat", "shift_y")[other].curve.x1 == shaped.curve.x1


def test_playing_loops_follows_the_clock_and_stops(program):
    page = program.floor("Pip hops")
    page.keyboard.press(" ")
    clock = "((p) => p.from + ((performance.now() - p.began) / 1000) * p.info.rate)(window.gaitwire.player)"
    program.until(f"{clock} > 30")  # the loop has 24 frames
    since, frame, shown = page.evaluate(f"[{clock}, window.gaitwire.player.frame, window.gaitwire.player.shown]")
    assert (since - frame) % 24 < 8, "it keeps with the clock; a busy machine shows its pictures late"
    assert 0 < shown <= since + 1, "and skips some rather than going slower"
    page.keyboard.press(" ")
    program.until("window.gaitwire.player.playing === false")
    before = page.evaluate("window.gaitwire.frame")
    page.keyboard.press(".")
    assert page.evaluate("window.gaitwire.frame") == (before + 1) % 24
    page.keyboard.press(",")
    assert page.evaluate("window.gaitwire.frame") == before
    page.keyboard.press("Home")
    page.keyboard.press("}")
    assert page.evaluate("window.gaitwire.frame") > 0


def test_everything_is_there_after_closing_and_coming_back(program):
    page = program.floor("Pip hops")
    seek(program, 5)
    start = program.at(*joint(page, "leaf")["end"])
    program.drag(start, (start[0] - 20, start[1] - 30))
    stored = page.evaluate("window.gaitwire.joint('leaf').end")
    page.goto("about:blank")
    program.floor("Pip hops")
    seek(program, 5)
    program.settled()
    assert page.evaluate("window.gaitwire.joint('leaf').end") == pytest.approx(stored, abs=1e-3)
    page.keyboard.press("Control+z")
    program.settled()
    assert json.dumps(page.evaluate("window.gaitwire.joint('leaf').end")) != json.dumps(stored)


def test_two_windows_do_not_overwrite_each_other(program, chromium):
    page = program.floor("Pip hops")
    other = page.context.new_page()
    other.route("**/standing/**", lambda route: route.fulfill(json={"revision": 0}))  # it hears of nothing by itself
    other.goto(page.url)
    program.until("window.gaitwire?.player.all", other)
    scene = program.id_of("scene", "Pip hops")

    def stands(name, value):
        key = keys_of(program, scene, "seat", name).get(3.0)
        return key is not None and key.value == value

    def turn(who, value):
        who.locator("#card input[name=turn]").fill(value)
        who.locator("#card input[name=turn]").press("Enter")

    for who in (page, other):
        who.evaluate("window.gaitwire.player.seek(3)")
        who.get_by_role("group", name="Wire of Pip, whole").locator(".pick").click()
        who.locator("#card input[name=turn]").wait_for()
    turn(page, "11")
    patiently(page, lambda: stands("turn", 11))
    turn(other, "22")  # the same key, which this window has not seen: refused, and shown as it stands
    other.get_by_role("alert").filter(has_text="another window").wait_for()
    assert stands("turn", 11)
    patiently(other, lambda: other.locator("#card input[name=turn]").input_value() == "11")
    turn(other, "22")
    patiently(other, lambda: stands("turn", 22))
    page.locator("#card input[name=skew]").fill("4")  # another row: it goes through from an old page too
    page.locator("#card input[name=skew]").press("Enter")
    patiently(page, lambda: stands("skew", 4))
    other.close()
