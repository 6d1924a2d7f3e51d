"""The main job by mouse and keyboard alone: art that came from elsewhere, rigged, posed, sent off."""

import io
import zipfile

import numpy as np
import pytest
from PIL import Image

ART = """<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 300 520" width="300" height="520">
<g id="left_leg"><path d="M150 280h34v190h34v24h-70z" fill="#345"/></g>
<g id="trunk"><path d="M110 120q40-14 80 0v170q-40 10-80 0z" fill="#a52"/></g>
<g id="right_leg"><path d="M116 280h34v190h30v24h-66z" fill="#456"/></g>
<g id="head"><circle cx="150" cy="70" r="46" fill="#eb9"/><circle cx="166" cy="62" r="5"/></g>
<g id="right_arm"><path d="M120 130q22-14 34 6l22 150q-14 18-34 2z" fill="#c73"/></g>
<g id="right_hand"><circle cx="160" cy="302" r="17" fill="#eb9"/></g></svg>"""


@pytest.fixture
def hand(program):
    return Hand(program)


class Hand:
    """What a person does at the page."""

    def __init__(self, program):
        self.program, self.page = program, program.page

    def tool(self, key):
        self.page.locator("#stage").focus()
        self.page.keyboard.press(key)

    def click(self, *place):
        self.page.mouse.move(*self.program.at(*place))
        self.page.mouse.down()
        self.page.mouse.up()
        self.program.settled()

    def chain(self, *places, below=None):
        self.page.keyboard.press("Escape")
        if below:
            self.row("bone", below).click()
            self.program.settled()
        self.tool("b")
        for place in places:
            self.click(*place)
        self.page.keyboard.press("Enter")

    def row(self, kind, name):
        row = self.page.locator(f".rowline[data-{kind}]").filter(
            has=self.page.get_by_role("button", name=name, exact=True)
        )
        return row.locator(".pick")

    def field(self, name, value):
        self.page.locator(f"#card [name={name}]").first.fill(value)
        self.page.keyboard.press("Enter")
        self.program.settled()

    def name_bones(self, **names):
        for old, new in names.items():
            self.row("bone", old.replace("_", " ")).click()
            self.program.settled()
            self.field("name", new)

    def press(self, name):
        self.page.get_by_role("button", name=name, exact=True).click()
        self.program.settled()


def test_from_a_file_to_a_film(program, hand, tmp_path):
    art = tmp_path / "walker.svg"
    art.write_text(ART)
    page = program.open()
    page.locator("#art-file").set_input_files(art)
    page.get_by_role("link", name="Open on the Bench").click()
    program.until("window.gaitwire?.revision !== undefined")
    program.settled()

    hand.chain((150, 285), (150, 130))  # trunk
    hand.name_bones(bone="spine")
    hand.chain((150, 130), (150, 30), below="spine")
    hand.name_bones(bone="skull")
    hand.press("insert above")
    hand.field("name", "neck")
    hand.chain((136, 140), (150, 215), (160, 288), (160, 316), below="spine")
    hand.name_bones(bone="near upper arm", bone_2="near forearm", bone_3="near hand")
    hand.chain((133, 290), (133, 385), (134, 480), (176, 490), below="spine")
    hand.name_bones(bone="near thigh", bone_2="near shin", bone_3="near foot")
    hand.row("bone", "near thigh").click()
    program.settled()
    hand.press("other side, in place")
    for part, bone in (("trunk", "spine"), ("head", "skull"), ("right arm", "near upper arm"),
                       ("right hand", "near hand"), ("right leg", "near thigh"), ("left leg", "far thigh")):  # fmt: skip
        old = hand.row("part", part)
        old.click()
        program.settled()
        page.locator("#card h2", has_text=part).wait_for()
        home = page.locator("#card [name=bone_id]")
        home.locator("option", has_text=bone).first.wait_for(state="attached")
        home.select_option(label=next(o for o in home.locator("option").all_inner_texts() if o.endswith(bone)))
        program.settled()
    for old in ("right leg", "left leg", "right arm", "right hand", "trunk", "head"):
        hand.row("bone", old).click()
        program.settled()
        page.locator("#stage").focus()
        page.keyboard.press("Delete")
        program.settled()

    for part, bones in (
        ("right arm", ["near forearm"]),
        ("right leg", ["near shin", "near foot"]),
        ("left leg", ["far shin", "far foot"]),
    ):
        hand.row("part", part).click()
        program.settled()
        hand.press("soft")
        have = page.locator(".bendrow span").all_inner_texts()
        for bone in [b for b in bones if b not in have]:
            option = next(o for o in page.locator("#bend-more option").all_inner_texts() if o.endswith(bone))
            page.locator("#bend-more").select_option(label=option)
            program.settled()
    hand.row("part", "trunk").click()
    program.settled()
    hand.press("soft")
    hand.tool("i")
    hand.click(150, 150)
    page.get_by_role("radio", name="anchor").check()
    hand.click(150, 275)
    page.keyboard.press("Escape")
    program.settled()
    page.get_by_role("button", name="limbs for").click()
    program.settled()

    puppet = program.workspace.puppet(program.id_of("puppet", "walker"))
    assert len(puppet.bones) == 12
    assert {i.name for i in puppet.limbs} == {"near arm", "near leg", "far leg"}
    assert [p.kind for p in puppet.pins] == ["lead", "anchor"]
    assert sum(p.soft for p in puppet.parts) == 4

    page = program.open()
    page.get_by_label("name", exact=True).fill("First steps")
    page.get_by_label("plays", exact=True).select_option("loop")
    page.get_by_label("frames", exact=True).fill("24")
    page.get_by_role("button", name="New scene").click()
    page.wait_for_url("**/floor/*")
    page.wait_for_selector("#card h2")
    page.get_by_role("button", name="Bring in walker").click()
    program.ready()
    program.settled()
    hand.tool("l")
    foot = page.evaluate("window.gaitwire.joint('near foot').at")
    program.drag(program.at(*foot), program.at(foot[0] + 40, foot[1] - 26))
    page.evaluate("window.gaitwire.player.seek(12)")
    hand.tool("l")
    foot = page.evaluate("window.gaitwire.joint('near foot').at")
    program.drag(program.at(*foot), program.at(foot[0] - 60, foot[1] + 10))
    scene = program.workspace.scene(program.id_of("scene", "First steps"))
    assert {k.time for k in scene.keys} == {0, 12}

    page.get_by_role("link", name="Send-off").click()
    page.wait_for_selector(".made")
    before = page.locator(".made").get_attribute("data-job")
    page.get_by_role("radio", name="PNG sequence").check()
    page.locator(f".made:not([data-job='{before}'])").wait_for()
    with page.expect_download() as waiting:
        page.locator(".made a[download], .made a.button").first.click()
    with zipfile.ZipFile(waiting.value.path()) as film:
        names = sorted(film.namelist())
        first, later = (Image.open(io.BytesIO(film.read(n))).convert("RGBA").tobytes() for n in (names[0], names[12]))
    assert len(names) == 24
    assert first != later

    page = program.open(f"/stride/brisk?on={puppet.id}")
    program.until("window.gaitwire?.player.all")
    page.wait_for_selector(".posetile.far:not([disabled])")
    page.locator("#set-clearance").fill("9")
    page.locator("#set-clearance").press("Enter")
    program.settled()
    page.get_by_role("button", name="travelling").click()
    page.locator("#put select[name=scene]").select_option(label="First steps")
    page.get_by_role("button", name="put the walk in").click()
    page.wait_for_url("**/floor/*")
    program.ready()
    scene = program.workspace.scene(program.id_of("scene", "First steps"))
    assert scene.gaits[0].card.clearance == 0.09 and scene.gaits[0].travels
    seat = program.workspace.frames(scene.id, np.array([0.0, 18.0])).nodes[:, 0, 4]
    assert seat[1] - seat[0] > 150
