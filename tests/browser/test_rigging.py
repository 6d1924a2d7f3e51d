"""Rigging by mouse and keyboard on the Bench, and what it gives on the Floor."""

import json

import pytest

from gaitwire.core.timing.channel import LED
from gaitwire.services.library.art_in import import_art
from gaitwire.services.rig.bench import Bench
from gaitwire.services.rig.limbs import Limbs
from gaitwire.services.scene.floor import add_puppet, make_scene
from gaitwire.services.scene.gestures import Floor

ART = b"""<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 400 400">
<rect id="far shirt" x="20" y="160" width="60" height="180" fill="#363"/>
<rect id="near sleeve" x="60" y="180" width="220" height="36" rx="8" fill="#c93" stroke="#432" stroke-width="3"/>
<circle id="near hand" cx="300" cy="198" r="20" fill="#a63"/></svg>"""


@pytest.fixture
def arm(program):
    """A sleeve, a hand and a shirt on the Bench, as they come."""
    import_art(program.workspace, ART, "arm.svg", "Arm")
    program.bench("Arm")
    program.settled()
    return program


def tool(program, name):
    program.page.get_by_role("toolbar").get_by_role("button", name=name, exact=True).click()


def click(program, x, y):
    program.page.mouse.move(*program.at(x, y))
    program.page.mouse.down()
    program.page.mouse.up()
    program.settled()


def pick(program, name, kind="part"):
    program.page.locator(f".rowline[data-{kind}] .pick", has_text=name).first.click()
    program.settled()


def puppet(program):
    return program.workspace.puppet(program.id_of("puppet", "Arm"))


def bone(program, name):
    return next(b for b in puppet(program).bones if b.name == name)


def points(program):
    """Points of the first soft part on the stage, or the box of the drawing."""
    return json.loads(
        program.page.evaluate("JSON.stringify([...window.gaitwire.stage.frames.pointsOf(window.gaitwire.stage.index)])")
    )


def test_a_chain_is_drawn_click_by_click_and_a_limb_is_tried(arm):
    tool(arm, "draw bones")
    for x in (70, 170, 282, 320):
        click(arm, x, 198)
    arm.page.keyboard.press("Enter")
    click_count = len(puppet(arm).bones)
    arm.page.mouse.move(*arm.at(100, 300))
    assert len(puppet(arm).bones) == click_count == 6
    upper, fore, hand = (bone(arm, n) for n in ("bone", "bone 2", "bone 3"))
    assert (fore.parent_id, hand.parent_id) == (upper.id, fore.id)
    assert upper.length == pytest.approx(100, abs=1.5)

    tool(arm, "pick")
    pick(arm, "bone 3", "bone")
    arm.page.get_by_role("button", name="make a limb that ends here").click()
    arm.settled()
    (limb,) = puppet(arm).limbs
    assert (limb.tip_id, limb.whole) == (hand.id, False)
    tool(arm, "try range")
    before = arm.page.evaluate("window.gaitwire.joint('bone 3').at")
    arm.page.mouse.move(*arm.at(282, 198))
    arm.page.mouse.down()
    arm.page.mouse.move(*arm.at(200, 270), steps=5)
    arm.page.evaluate("window.gaitwire.live.settled()")
    assert arm.page.evaluate("window.gaitwire.joint('bone 3').at") == pytest.approx([200, 270], abs=1)
    root = arm.page.evaluate("window.gaitwire.joint('bone').at")
    assert root == pytest.approx([upper.x, upper.y], abs=0.01)
    arm.page.mouse.up()
    arm.settled()
    assert arm.page.evaluate("window.gaitwire.joint('bone 3').at") == pytest.approx(before)
    assert puppet(arm).limbs == (limb,)


def test_the_joint_that_stays_can_be_chosen(arm):
    tool(arm, "draw bones")
    for x in (70, 170, 282, 320):
        click(arm, x, 198)
    arm.page.keyboard.press("Escape")
    Limbs(arm.workspace, arm.id_of("puppet", "Arm")).add(bone(arm, "bone 3").id)
    arm.bench("Arm")
    pick(arm, "bone 3", "bone")
    arm.page.get_by_label("Joint that stays").select_option("2")
    tool(arm, "try range")
    arm.page.mouse.move(*arm.at(70, 198))
    arm.page.mouse.down()
    arm.page.mouse.move(*arm.at(110, 230), steps=5)
    arm.page.evaluate("window.gaitwire.live.settled()")
    assert arm.page.evaluate("window.gaitwire.joint('bone').at") == pytest.approx([110, 230], abs=1)
    assert arm.page.evaluate("window.gaitwire.joint('bone 3').at") == pytest.approx([282, 198], abs=1)
    arm.page.mouse.up()


def rigged(program):
    """The arm with two bones in its sleeve, by the services."""
    made = program.id_of("puppet", "Arm")
    bench = Bench(program.workspace, made)
    sleeve = bone(program, "near sleeve").id
    bench.move_joint(sleeve, "pivot", 70, 198, alone=True)
    bench.move_joint(sleeve, "tip", 170, 198, alone=True)
    bench.add_bone(170, 198, (280, 198), sleeve, "near forearm")
    program.bench("Arm")
    return bench


def test_a_soft_sleeve_is_pinned_brushed_and_pulled(arm):
    rigged(arm)
    pick(arm, "near sleeve")
    arm.page.get_by_role("button", name="soft", exact=True).click()
    arm.settled()
    (sleeve,) = [p for p in puppet(arm).parts if p.soft]
    assert sleeve.bends_with == (bone(arm, "near forearm").id,)

    tool(arm, "pins")
    click(arm, 250, 198)
    arm.page.get_by_role("radio", name="anchor").check()
    click(arm, 80, 198)
    lead, anchor = puppet(arm).pins_of(sleeve.id)
    assert (lead.kind, anchor.kind, lead.x) == ("lead", "anchor", pytest.approx(250, abs=1))
    arm.drag(arm.at(250, 198), arm.at(262, 205))
    assert puppet(arm).pins_of(sleeve.id)[0].x == pytest.approx(262, abs=1)
    click(arm, 330, 360)  # off the art: nothing there to pin
    assert len(puppet(arm).pins) == 2

    tool(arm, "try range")
    rest = points(arm)
    arm.page.mouse.move(*arm.at(262, 205))
    arm.page.mouse.down()
    arm.page.mouse.move(*arm.at(262, 255), steps=4)
    arm.page.evaluate("window.gaitwire.live.settled()")
    moved = points(arm)
    assert max(abs(a - b) for a, b in zip(rest, moved, strict=True)) == pytest.approx(50, abs=6)
    arm.page.mouse.up()

    tool(arm, "brush")
    pick(arm, "near sleeve")
    arm.page.get_by_role("button", name="hold").nth(1).click()
    arm.until("document.querySelectorAll('.heat path').length > 3")
    arm.drag(arm.at(90, 198), arm.at(110, 198))
    assert next(p for p in puppet(arm).parts if p.soft).weights_hash
    arm.page.get_by_role("button", name="weights as computed").click()
    arm.settled()
    assert not next(p for p in puppet(arm).parts if p.soft).weights_hash


def test_a_hand_gets_drawings_that_step_on_the_floor(arm, tmp_path):
    rigged(arm)
    pick(arm, "near hand")
    file = tmp_path / "open_palm.svg"
    file.write_text('<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 50 50"><rect width="30" height="30"/></svg>')
    arm.page.get_by_label("Drawing from a file").set_input_files(file)
    arm.settled()
    hand = next(p for p in puppet(arm).parts if p.name == "near hand")
    assert [d.name for d in puppet(arm).drawings(hand)] == ["near hand", "open palm"]
    arm.page.get_by_role("button", name="Show near hand").click()
    arm.settled()

    scene = make_scene(arm.workspace, "Wave", frames=12)
    instance = add_puppet(Floor(arm.workspace, scene), puppet(arm).id, scale=1.0)
    page = arm.floor("Wave")
    page.evaluate("window.gaitwire.player.seek(6)")
    page.get_by_role("button", name="Unfold Near arm").click()
    page.get_by_role("group", name="Wire of near hand", exact=True).locator(".pick").click()
    arm.settled()
    page.get_by_role("button", name="open palm").click()
    arm.settled()
    page.get_by_label("places forward of near hand").fill("-2")
    page.get_by_label("places forward of near hand").press("Enter")
    arm.settled()
    made = arm.workspace.scene(scene)
    found = {
        c.property: [k for k in made.keys if k.channel_id == c.id] for c in made.channels if c.instance_id == instance
    }
    assert {p: [(k.time, k.value, k.ease) for k in sorted(row, key=lambda k: k.time)] for p, row in found.items()} == {
        "drawing": [(0, LED, "hold"), (6, 1, "hold")], "place": [(0, 0, "hold"), (6, -2, "hold")],
    }  # fmt: skip
    page.get_by_role("button", name="Unfold Near arm")
    wire = page.get_by_role("group", name="Wire of near hand shows")
    assert wire.locator(".bead").count() == 2
    order = page.evaluate("[...window.gaitwire.player.all.order.slice(6 * 3, 7 * 3)]")
    assert order == [2, 0, 1]


def test_the_body_map_and_the_search_find_bones(arm):
    rigged(arm)
    arm.page.get_by_role("button", name="Near arm", exact=True).click()
    arm.settled()
    chosen = arm.page.evaluate("[...window.gaitwire.chosen.bones]")
    assert set(chosen) == {b.id for b in puppet(arm).bones if b.region == "arm"}
    arm.page.get_by_role("button", name="only these").click()
    arm.settled()
    assert arm.page.locator("#bones .rowline:visible").count() == len(chosen)
    arm.page.get_by_role("button", name="only these").click()
    arm.page.get_by_role("searchbox").fill("shirt")
    assert arm.page.locator(".rowline:visible").count() == 2
    arm.page.locator('[data-stick][aria-label="near forearm"]').dispatch_event("click")
    arm.settled()
    assert arm.page.locator("#card h2").text_content() == "near forearm"


def test_limits_tags_and_a_mirrored_limb_are_set_on_the_card(arm):
    rigged(arm)
    pick(arm, "near forearm", "bone")
    arm.page.get_by_label("Upper limit in degrees").fill("30")
    arm.page.get_by_label("Upper limit in degrees").press("Enter")
    arm.settled()
    arm.page.get_by_role("radio", name="moss").check(force=True)
    arm.settled()
    fore = bone(arm, "near forearm")
    assert (fore.low, fore.high, fore.tag) == (None, 30, "moss")
    arm.page.get_by_label("Lower limit in degrees").fill("40")
    arm.page.get_by_label("Lower limit in degrees").press("Enter")
    assert "above the upper" in arm.page.get_by_role("alert").text_content()
    arm.page.complaints.clear()  # the browser's own note of the refused request

    tool(arm, "try range")
    arm.page.mouse.move(*arm.at(240, 198))
    arm.page.mouse.down()
    arm.page.mouse.move(*arm.at(175, 300), steps=6)
    arm.page.evaluate("window.gaitwire.live.settled()")
    assert arm.page.locator(".catch-label").text_content() == "30.0°"
    arm.page.mouse.up()

    pick(arm, "near sleeve", "bone")
    arm.page.get_by_role("button", name="other side, in place").click()
    arm.settled()
    names = {b.name for b in puppet(arm).bones}
    assert {"far sleeve", "far forearm"} <= names
    assert bone(arm, "far forearm").high == 30


def sketch(program, kind):
    program.page.get_by_role("radio", name=kind, exact=True).check()


def shapes(program):
    hand = next(p for p in puppet(program).parts if p.name == "near hand")
    drawing = next(d for d in puppet(program).drawings(hand) if d.number == hand.shows)
    return program.workspace.art(drawing.art_hash)


def test_a_hand_is_drawn_into_and_its_points_moved(arm):
    pick(arm, "near hand")
    tool(arm, "draw")
    arm.until("document.querySelectorAll('[data-colours=fill] .swatch').length > 2")
    arm.page.locator("[data-colours=fill] [data-colour='#cc9933']").click()
    sketch(arm, "ellipse")
    arm.drag(arm.at(296, 190), arm.at(306, 204))
    assert [n.fill.color for n in shapes(arm).nodes] == ["#aa6633", "#cc9933"]

    sketch(arm, "path")
    arm.page.get_by_role("checkbox", name="within the part").check()
    for place in ((302, 190), (330, 196), (306, 226)):
        click(arm, *place)
    arm.page.locator("#stage").focus()
    arm.page.keyboard.press("Enter")
    arm.settled()
    assert shapes(arm).nodes[2].kind == "group"
    assert shapes(arm).bounds.x1 <= 320.1  # cut to the hand's own edge

    sketch(arm, "points")
    click(arm, 284, 198)
    before = shapes(arm).nodes[0].d
    anchors = arm.page.locator(".anchorpoint")
    assert anchors.count() == 4
    box = anchors.nth(0).bounding_box()
    start = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    arm.drag(start, (start[0] - 14, start[1] - 20))
    assert shapes(arm).nodes[0].d != before
    arm.page.keyboard.press("Control+z")
    arm.settled()
    assert shapes(arm).nodes[0].d == before


def test_an_empty_drawing_is_drawn_into(arm):
    pick(arm, "near hand")
    arm.page.get_by_role("button", name="an empty one").click()
    arm.settled()
    assert shapes(arm).nodes == ()
    tool(arm, "draw")
    sketch(arm, "rectangle")
    arm.until("document.querySelectorAll('[data-colours=fill] .swatch').length > 2")
    arm.drag(arm.at(290, 190), arm.at(312, 206))
    (made,) = shapes(arm).nodes
    assert made.stroke is not None
    hand = next(p for p in puppet(arm).parts if p.name == "near hand")
    assert hand.shows == 1
    assert arm.workspace.art(hand.art_hash).nodes  # the part's own drawing is as it was


def test_pins_are_placed_in_pairs_about_a_chosen_line(arm):
    rigged(arm)
    pick(arm, "near sleeve")
    arm.page.get_by_role("button", name="soft", exact=True).click()
    arm.settled()
    tool(arm, "pins")
    arm.page.locator("#pin-pairs").check()
    arm.page.locator("#pin-axis").fill("170")
    click(arm, 120, 198)
    assert sorted(p.x for p in puppet(arm).pins) == pytest.approx([120, 220], abs=1.5)
    arm.drag(arm.at(120, 198), arm.at(140, 204))
    assert sorted(p.x for p in puppet(arm).pins) == pytest.approx([140, 200], abs=1.5)
