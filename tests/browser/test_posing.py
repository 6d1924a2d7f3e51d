"""Posing by hand: what a drag takes hold of, what it leaves alone, and how it is given up."""

import pytest

from browser.conftest import painted
from builders.making import lead


class Stage:
    def __init__(self, program, scene):
        self.program, self.page = program, program.floor(scene)
        self.scene = program.id_of("scene", scene)

    def joint(self, name, which="at"):
        return self.program.at(*self.page.evaluate("([n, w]) => window.gaitwire.joint(n)[w]", [name, which]))

    def keys(self):
        """Values of all keys at frame 0, by (bone, property)."""
        found = self.program.workspace.scene(self.scene)
        puppet = self.program.workspace.puppet(lead(found).puppet_id)
        names = {b.id: b.name for b in puppet.bones} | {lead(found).id: "whole"}
        channels = {c.id: (names.get(c.owner_id), c.property) for c in found.channels}
        return {channels[k.channel_id]: k.value for k in found.keys if k.time == 0}

    def tool(self, name):
        self.page.get_by_role("toolbar").get_by_role("button", name=name, exact=True).click()

    def pick(self, wire):
        self.page.get_by_role("group", name=f"Wire of {wire}", exact=True).locator(".pick").click()

    def title(self):
        self.program.settled()
        return self.page.locator("#card h2").inner_text()


@pytest.fixture
def tamsin(program):
    stage = Stage(program, "Tamsin waits")
    stage.page.get_by_role("button", name="unfold all").click()
    return stage


def test_a_joint_is_pulled_by_the_bone_above_it(tamsin):
    before = tamsin.keys()
    x, y = tamsin.joint("near shin")
    tamsin.program.drag((x, y), (x + 40, y + 10))
    after = tamsin.keys()
    assert tamsin.title() == "near thigh"
    assert after["near thigh", "turn"] != before["near thigh", "turn"]
    assert after["near shin", "turn"] == before["near shin", "turn"]


def test_shifting_takes_the_joint_itself(tamsin):
    tamsin.tool("shift")
    x, y = tamsin.joint("near shin")
    tamsin.program.drag((x, y), (x + 20, y))
    assert tamsin.title() == "near shin"
    assert tamsin.keys().get(("near shin", "shift_x"))
    assert tamsin.joint("near shin") == pytest.approx((x + 20, y), abs=1)


def test_what_hangs_from_a_chosen_bone_is_its_handle_and_a_click_goes_on(tamsin):
    tamsin.pick("chest")
    x, y = tamsin.joint("basket", "end")
    tamsin.program.drag((x, y), (x - 10, y - 40))
    assert tamsin.title() == "chest"
    assert tamsin.keys().get(("basket", "turn")) is None
    tamsin.page.mouse.click(*tamsin.joint("basket", "end"))
    assert tamsin.title() == "basket"


def test_a_whole_puppet_is_moved_by_any_of_its_parts(tamsin):
    tamsin.pick("Tamsin, whole")
    tamsin.tool("shift")
    face = tamsin.joint("face", "end")
    foot = tamsin.joint("near foot")
    tamsin.program.drag(foot, (foot[0] + 50, foot[1] - 20))
    assert tamsin.keys()["whole", "shift_x"] > 0 and tamsin.keys()["whole", "shift_y"] < 0
    assert tamsin.joint("face", "end") == pytest.approx((face[0] + 50, face[1] - 20), abs=1)


def test_several_bones_turn_together_and_escape_gives_a_drag_up(tamsin):
    before = tamsin.keys()
    tamsin.pick("near thigh")
    tamsin.page.get_by_role("group", name="Wire of near shin", exact=True).locator(".pick").click(
        modifiers=["ControlOrMeta"]
    )
    assert tamsin.title() == "2 bones"
    x, y = tamsin.joint("near shin", "end")
    tamsin.page.mouse.move(x, y)
    tamsin.page.mouse.down()
    tamsin.page.mouse.move(x - 40, y - 10, steps=5)
    tamsin.page.keyboard.press("Escape")
    tamsin.page.mouse.up()
    tamsin.program.settled()
    assert tamsin.keys() == before
    assert tamsin.joint("near shin", "end") == pytest.approx((x, y), abs=0.5)
    tamsin.program.drag((x, y), (x - 40, y - 10))
    after = tamsin.keys()
    turned = {b: after[b, "turn"] - before[b, "turn"] for b in ("near thigh", "near shin")}
    assert turned["near shin"] == pytest.approx(turned["near thigh"], abs=1e-3) and turned["near shin"] != 0


def test_a_locked_bone_is_not_dragged_and_says_so(tamsin):
    puppet = tamsin.program.id_of("puppet", "Tamsin")
    bones = tamsin.program.workspace.puppet(puppet)
    tail = next(b for b in bones.bones if b.name == "scarf tail")
    with tamsin.program.workspace.edit("lock", [puppet]) as edit:
        edit.put("bones", [tail.model_copy(update={"locked": True})])
    tamsin.page = tamsin.program.floor("Tamsin waits")
    before = tamsin.keys()
    x, y = tamsin.joint("scarf tail", "end")
    tamsin.program.drag((x, y), (x - 20, y - 30))
    assert "“scarf tail” is locked" in tamsin.page.get_by_role("alert").inner_text()
    assert tamsin.keys() == before


def test_a_turn_goes_round_and_round(program):
    pip = Stage(program, "Pip hops")
    ax, ay = pip.joint("leaf")
    reach = 60
    pip.page.mouse.move(*pip.joint("leaf", "end"))
    pip.page.mouse.down()
    for dx, dy in [(1, 0), (0, 1), (-1, 0), (0, -1)] * 2 + [(1, 0)]:
        pip.page.mouse.move(ax + reach * dx, ay + reach * dy, steps=4)
        painted(pip.page)
    pip.page.mouse.up()
    program.settled()
    scene = program.workspace.scene(pip.scene)
    leaf = next(b.id for b in program.workspace.puppet(lead(scene).puppet_id).bones if b.name == "leaf")
    channel = next(c.id for c in scene.channels if (c.owner_id, c.property) == (leaf, "turn"))
    turned = next(k.value for k in scene.keys if k.channel_id == channel and k.time == 0)
    assert turned > 600  # nearly twice round, not wrapped to a small angle


def test_the_backdrop_is_never_caught(program):
    pip = Stage(program, "Pip hops")
    x, y = program.at(200, 600)  # on the left tree's trunk
    pip.page.mouse.click(x, y)
    assert pip.title() == "Pip hops"  # nothing is chosen: the card is the scene's
    assert pip.page.evaluate("window.gaitwire.chosen.size") == 0


def test_arrows_on_the_stage_shift_by_pixels_of_the_scene(program):
    pip = Stage(program, "Pip hops")
    pip.pick("Pip, whole")
    pip.page.locator("#stage").focus()
    pip.page.keyboard.press("Shift+ArrowRight")
    program.settled()
    pip.page.keyboard.press("ArrowUp")
    program.settled()
    assert pip.page.locator("#card input[name=shift_x]").input_value() == "10"
    assert pip.page.locator("#card input[name=shift_y]").input_value() == "-1"


def test_the_stage_zooms_about_the_pointer_and_is_moved(program):
    pip = Stage(program, "Pip hops")
    before = pip.joint("stem")
    pip.page.mouse.move(*before)
    pip.page.mouse.wheel(0, -500)
    painted(pip.page)
    assert pip.joint("stem") == pytest.approx(before, abs=1)
    scale = pip.page.evaluate("window.gaitwire.stage.view.scale")
    pip.page.mouse.down(button="middle")
    pip.page.mouse.move(before[0] + 50, before[1] + 30, steps=3)
    pip.page.mouse.up(button="middle")
    assert pip.joint("stem") == pytest.approx((before[0] + 50, before[1] + 30), abs=1)
    pip.page.get_by_role("button", name="fit", exact=True).click()
    assert pip.page.evaluate("window.gaitwire.stage.view.scale") < scale
