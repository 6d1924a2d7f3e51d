"""Plants, footprints, bearings and hitches by hand, on the real page."""

import numpy as np
import pytest

from browser.conftest import patiently
from browser.hands import act, pick, seek, turn_of, typed, unfold, wire
from builders.making import tip
from gaitwire.services.scene.floor import add_puppet, make_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.limb_tips import limbs_of
from gaitwire.services.scene.links import plant_limbs
from gaitwire.services.scene.posing import set_values
from gaitwire.store.documents import list_documents


class Stage:
    """Tamsin and an apple on an empty stage; places are read from the store, as the page has put them there."""

    def __init__(self, program):
        self.program, self.page = program, program.page
        workspace = program.workspace
        self.floor = Floor(workspace, make_scene(workspace, "Trial", frames=48, loop=False, ground=648.0))
        ids = {e.name: e.id for e in list_documents(workspace.store, "puppet")}
        self.who = add_puppet(self.floor, ids["Tamsin"], x=520.0, y=648.0, scale=0.8)
        self.apple = add_puppet(self.floor, ids["Apple"], x=800.0, y=400.0)
        self.bones = {b.name: b.id for b in workspace.puppet(ids["Tamsin"]).bones}
        self.open()

    def open(self):
        self.program.floor("Trial")
        unfold(self.page)

    def key(self, bone, prop, *track):
        for frame, value in track:
            set_values(self.floor, float(frame), {(self.who, self.bones[bone], prop): value})

    def place(self, owner, *frames):
        found = self.floor.workspace.frames(self.floor.scene_id, np.array(frames, float))
        return tip(found, self.bones.get(owner, owner), 0)

    def press(self, name):
        act(self.program, self.page.get_by_role("button", name=name, exact=True).click)

    def drag(self, start, end):
        self.program.drag(self.program.at(*start), self.program.at(*end))


@pytest.fixture
def stage(program):
    return Stage(program)


def test_feet_are_planted_and_lifted_and_the_bar_is_dragged_in_time(stage):
    page, program = stage.page, stage.program
    stage.key("pelvis", "shift_x", (0, 0), (24, 60))
    stage.key("pelvis", "shift_y", (0, 0), (12, 30), (24, 30))
    stage.open()
    seek(page, 4)
    pick(program, "near foot")
    wire(page, "far foot").locator(".pick").click(modifiers=["Shift"])
    program.settled()
    act(program, lambda: page.keyboard.press("n"))
    assert [(p.start, p.stop) for p in stage.floor.scene.plants] == [(4, 47), (4, 47)]
    for foot in ("near foot", "far foot"):
        held = stage.place(foot, *range(4, 25))
        assert np.abs(held - held[0]).max() < 0.01
    seek(page, 20)
    act(program, lambda: page.keyboard.press("Shift+N"))
    assert [p.stop for p in stage.floor.scene.plants] == [20, 20]
    bar = wire(page, "near leg, tip").locator(".linkbar .hold")
    box, ppf = bar.bounding_box(), page.evaluate("window.gaitwire.timeline.ppf")
    program.drag((box["x"] + box["width"] - 2, box["y"] + 4), (box["x"] + box["width"] - 2 - 6 * ppf, box["y"] + 4))
    near = next(
        p
        for p in stage.floor.scene.plants
        if p.limb_id == limbs_of(stage.floor, [(stage.who, stage.bones["near foot"])])[0][1]
    )
    assert (near.start, near.stop) == (4, 14)
    act(program, lambda: page.keyboard.press("Control+z"))
    assert {p.stop for p in stage.floor.scene.plants} == {20}
    # All beads of both legs slide: their plants go along, and their bars with them.
    page.keyboard.press("Escape")
    pick(program, "pelvis")
    for name in ("near thigh", "near shin", "near foot", "far thigh", "far shin", "far foot"):
        act(program, lambda n=name: wire(page, n).locator(".pick").click(modifiers=["Shift"]))
    stage.press("choose their beads")
    left = bar.bounding_box()["x"]
    act(program, lambda: page.keyboard.press("Shift+Alt+ArrowRight"))
    assert [(p.start, p.stop) for p in stage.floor.scene.plants] == [(9, 25), (9, 25)]
    assert bar.bounding_box()["x"] - left == pytest.approx(5 * ppf, abs=1.0)
    page.keyboard.press("Escape")
    act(program, lambda: page.keyboard.press("n"))
    assert "Nothing is chosen" in page.locator("#remarks").inner_text()


def test_a_footprint_is_dragged_and_turned_and_the_foot_goes_with_it(stage):
    page, program = stage.page, stage.program
    seek(page, 6)
    pick(program, "near foot")
    act(program, lambda: page.keyboard.press("n"))
    stage.key("pelvis", "shift_y", (0, 40))
    stage.open()
    seek(page, 6)
    program.settled()
    before = stage.place("near foot", 6.0)[0]
    spot = page.get_by_role("button", name="Spot of near leg from 6", exact=True)
    box = spot.bounding_box()
    program.drag((box["x"] + 8, box["y"] + box["height"] / 2), (box["x"] + 8 + 30, box["y"] + box["height"] / 2 - 4))
    scale = page.evaluate(
        "(() => { const [a] = window.gaitwire.toPage(0, 0), [b] = window.gaitwire.toPage(1, 0); return b - a; })()"
    )
    moved = stage.place("near foot", 6.0)[0] - before
    assert moved == pytest.approx((30 / scale, -4 / scale), abs=1.5)
    toe = page.get_by_role("button", name="Spot of near leg from 6, its angle", exact=True).bounding_box()
    flat = turn_of(program, "near foot", 6)
    program.drag(
        (toe["x"] + toe["width"] / 2, toe["y"] + toe["height"] / 2), (toe["x"] + toe["width"] / 2, toe["y"] - 16)
    )
    assert turn_of(program, "near foot", 6) - flat == pytest.approx(stage.floor.scene.plants[0].angle, abs=0.2)
    assert stage.floor.scene.plants[0].angle < -8


def test_a_knee_carries_the_body_which_swings_about_it_and_the_root_again(stage):
    page, program = stage.page, stage.program
    seek(page, 8)
    pick(program, "near shin")
    before = stage.place("near hand", 8.0)
    act(program, lambda: page.keyboard.press("v"))
    assert stage.place("near hand", 8.0) == pytest.approx(before, abs=0.01)
    assert "near shin carries the body from 8 on" in page.inner_text("#remarks")
    typed(program, "turn", 0)
    seek(page, 20)
    pick(program, "near thigh")
    knee, hip = stage.place("near shin", 20.0)[0], stage.place("near thigh", 20.0)[0]
    arm = complex(*(hip - knee)) * np.exp(-0.5j)
    stage.drag(tuple((hip + knee) / 2), (knee[0] + arm.real / 2, knee[1] + arm.imag / 2))
    assert stage.place("near shin", 20.0)[0] == pytest.approx(knee, abs=0.01)
    assert stage.place("near thigh", 20.0)[0] == pytest.approx((knee[0] + arm.real, knee[1] + arm.imag), abs=3)
    assert {c.owner_id for c in stage.floor.scene.channels} == {stage.bones["near shin"]}
    # What was dragged, what is typed from now on, and the wire that is chosen are the same one; and it is told.
    assert page.locator("#card h2").inner_text() == "near shin" and "whose wire is chosen now" in page.inner_text(
        "#remarks"
    )
    assert page.locator(".bearmark").count() == 1 and page.inner_text("#bear-said").startswith("near shin carries")
    seek(page, 2)
    program.settled()
    assert page.locator(".bearmark").count() == 0 and page.locator("#bear-said").is_hidden()
    seek(page, 30)
    act(program, lambda: page.keyboard.press("Shift+V"))
    held = stage.place("near hand", 30.0 - 1e-5, 30.0)
    assert held[0] == pytest.approx(held[1], abs=0.01)
    assert [b.owner_id for b in stage.floor.scene.bearings] == [stage.bones["near shin"], ""]
    page.get_by_role("button", name="Remove the bearing from 30", exact=True).click()
    program.settled()
    assert len(stage.floor.scene.bearings) == 1


def test_a_thing_is_put_into_a_hand_carried_let_go_and_thrown(stage):
    page, program = stage.page, stage.program
    stage.key("near upper arm", "turn", (0, 0), (20, -90))
    stage.open()
    seek(page, 6)
    pick(program, "Apple, whole")
    page.keyboard.press("i")
    program.settled()
    hand = stage.place("near hand", 6.0)[0]
    act(program, lambda: page.mouse.click(*program.at(*hand)))
    assert [(h.time, h.carrier_id) for h in stage.floor.scene.hitches] == [(6, stage.bones["near hand"])]
    apple = stage.place(stage.apple, 0.0, 6.0, 20.0)
    assert apple[0] == pytest.approx(apple[1]) and np.hypot(*(apple[2] - apple[1])) > 40
    seek(page, 20)
    stage.press("throw")
    flown = stage.place(stage.apple, 20.0, 24.0, 47.0)
    assert flown[0] == pytest.approx(apple[2], abs=0.01) and flown[2][1] == pytest.approx(648, abs=0.01)
    seek(page, 20)
    stage.press("let go")
    assert stage.place(stage.apple, 20.0, 47.0)[1] == pytest.approx(apple[2], abs=0.01)
    page.get_by_role("button", name="Remove the hitch from 6", exact=True).click()
    program.settled()
    assert stage.place(stage.apple, 15.0)[0] == pytest.approx(apple[0])


def test_notes_lead_to_the_frame_and_the_bone(stage):
    page, program = stage.page, stage.program
    limb = limbs_of(stage.floor, [(stage.who, stage.bones["near foot"])])
    plant_limbs(stage.floor, limb, 10.0)
    stage.key("pelvis", "shift_y", (0, 0), (20, 0), (30, -60))
    stage.open()
    page.keyboard.press("z")
    note = page.locator("#panel-notes [data-choose]", has_text="out of reach")
    note.wait_for()
    act(program, note.click)
    program.until("window.gaitwire.frame >= 30")
    assert page.locator("#card h2").inner_text() == "near foot"
    act(program, lambda: page.keyboard.press("Control+z"))
    page.locator("#panel-notes", has_text="Nothing to note").wait_for()


def test_an_elbow_is_bent_to_the_other_side_by_a_button_and_undone(stage):
    page, program = stage.page, stage.program
    stage.key("near forearm", "turn", (0, -60))
    stage.open()
    seek(page, 10)
    pick(program, "near hand")
    before = [stage.place(bone, 9, 10) for bone in ("near hand", "near forearm")]
    stage.press("flip its bend")
    hand, elbow = (stage.place(bone, 9, 10) for bone in ("near hand", "near forearm"))
    assert hand == pytest.approx(before[0], abs=0.1)
    assert elbow[0] == pytest.approx(before[1][0], abs=0.1) and np.hypot(*(elbow[1] - before[1][1])) > 20
    act(program, lambda: page.keyboard.press("Control+z"))
    assert stage.place("near forearm", 10) == pytest.approx(before[1][[1]])


def test_the_body_is_pulled_over_its_feet_and_hands_and_dragged_over_what_is_braced(stage):
    page, program = stage.page, stage.program
    stage.key("near thigh", "turn", (0, -8))
    stage.key("near shin", "turn", (0, 20))
    stage.open()
    seek(page, 6)
    tips = ("near foot", "far foot", "near hand", "far hand")
    before = {end: stage.place(end, 6.0)[0] for end in tips}
    page.get_by_role("toolbar").get_by_role("button", name="pull", exact=True).click()
    x, y = page.evaluate("window.gaitwire.joint('chest').end")
    stage.drag((x, y), (x - 4, y + 22))
    for end in tips:
        assert stage.place(end, 6.0)[0] == pytest.approx(before[end], abs=0.01)
    assert stage.place("pelvis", 6.0)[0, 1] > stage.place("pelvis", 0.0)[0, 1] + 20
    act(program, lambda: page.keyboard.press("Control+z"))
    # Braced for good, until they are let go: the feet alone, on the map.
    page.get_by_role("button", name="Brace near leg", exact=True).click()
    page.get_by_role("button", name="Brace far leg", exact=True).click()
    assert "near leg, far leg" in page.locator("#brace-said").inner_text()
    pick(program, "pelvis")
    typed(program, "shift_y", 15)
    for end in tips[:2]:
        assert stage.place(end, 6.0)[0] == pytest.approx(before[end], abs=0.01)
    assert np.abs(stage.place("near hand", 6.0)[0] - before["near hand"]).max() > 5
    typed(program, "shift_y", -300)
    assert "As far as" in page.locator("#remarks").inner_text()
    for end in tips[:2]:
        assert stage.place(end, 6.0)[0] == pytest.approx(before[end], abs=0.1)
    program.floor("Trial")  # how the page looks at things is kept for it, and is no step of history
    unfold(page)
    pick(program, "pelvis")
    assert page.get_by_role("button", name="Brace near leg", exact=True).get_attribute("aria-pressed") == "true"
    page.locator("#brace").click()
    page.locator("#brace").click()
    assert page.locator("#brace").get_attribute("aria-pressed") == "false"
    patiently(page, lambda: page.locator(".stage [data-braced]").count() == 0)  # drawn with the next picture
