"""The test performance, built by hand through the interface: a loaded handcart jolts on the spot.

From the art file to the saved files: rigged on the Bench, keyed, eased and slid on the Floor, sent off.
"""

import io
import shutil
import zipfile
from importlib.resources import files
from xml.etree import ElementTree

import numpy as np
import pytest
from PIL import Image

from browser.conftest import painted, running
from conftest import KNOWN, fresh_page
from gaitwire.core.geometry import affine
from gaitwire.services.session.workspace import Workspace
from gaitwire.store import Store

SVG = "http://www.w3.org/2000/svg"
FOLDERS = ("load", "crates", "Stook", "Tamsin")
GROUPS = {
    "crates": ["crate back", "crate middle", "apples heap", "crate front", "tarpaulin"],
    "Stook": ["Stook far leg", "Stook coat", "Stook near leg", "Stook head", "Stook arm"],
    "Tamsin": ["Tamsin far leg", "Tamsin plait", "Tamsin body", "Tamsin near leg", "Tamsin head", "Tamsin arm"],
}


def flat_art():
    """The handcart's drawing without its folders: layers only, as an artist might hand it over."""
    ElementTree.register_namespace("", SVG)
    ElementTree.register_namespace("xlink", "http://www.w3.org/1999/xlink")
    root = ElementTree.fromstring(files("gaitwire.demo").joinpath("art", "handcart.svg").read_text())

    def lift(parent):
        for child in list(parent):
            if child.get("id") in FOLDERS:
                lift(child)
                at = list(parent).index(child)
                inner = list(child)
                parent.remove(child)
                for n, element in enumerate(inner):
                    parent.insert(at + n, element)

    lift(root)
    return ElementTree.tostring(root)


class Hand:
    """An animator's hand on the pages."""

    def __init__(self, program):
        self.program, self.page = program, program.page

    def pause(self):
        self.program.settled()

    def titled(self, text):
        self.page.locator("#card h2", has_text=text).wait_for()

    def tool(self, name):
        self.page.get_by_role("toolbar").get_by_role("button", name=name, exact=True).click()

    def type_into(self, field, value):
        box = self.page.locator(f"#card input[name={field}]")
        box.fill(str(value))
        box.press("Enter")
        self.pause()

    # the Bench

    def row(self, name, kind="bone"):
        named = self.page.get_by_role("button", name=name, exact=True)
        return self.page.locator(f".rowline[data-{kind}]").filter(has=named)

    def group(self, name, members, kind):
        for n, member in enumerate(members):
            self.row(member, kind).locator(".pick").click(modifiers=["ControlOrMeta"] if n else [])
        self.titled(f"{len(members)} {kind}s")
        self.page.keyboard.press("g")
        self.titled("group")
        self.type_into("name", name)
        self.titled(name)

    def pivot(self, name, x, y):
        self.row(name).locator(".pick").click()
        self.titled(name)
        self.type_into("x", x)
        self.type_into("y", y)

    def drag_joint(self, name, to):
        """Drag a joint on the stage, snapping held off."""
        self.page.keyboard.down("Alt")
        at = self.page.evaluate("n => window.gaitwire.joint(n).at", name)
        self.program.drag(self.program.at(*at), self.program.at(*to))
        self.page.keyboard.up("Alt")

    # the Floor

    def wire(self, name):
        return self.page.get_by_role("group", name=f"Wire of {name}", exact=True)

    def seek(self, frame):
        self.page.locator("#ruler").focus()
        self.page.keyboard.press("Home")
        for _ in range(frame):
            self.page.keyboard.press(".")
        self.program.until(f"window.gaitwire.frame === {frame}")

    def pick(self, name):
        self.wire(name).locator(".pick").click()
        self.titled(name)

    def pull(self, bone, gesture, joint, dx, dy):
        """With a bone chosen, drag what hangs from it, at a joint of its own."""
        self.tool(gesture)
        self.pick(bone)
        x, y = self.program.at(*self.page.evaluate("n => window.gaitwire.joint(n).at", joint))
        self.program.drag((x, y), (x + dx, y + dy))
        assert self.page.locator("#card h2").inner_text() == bone

    def value(self, name):
        return float(self.page.locator(f"#card input[name={name}]").input_value())

    def choose_beads(self, *bones):
        for n, bone in enumerate(bones):
            self.wire(bone).locator(".pick").click(modifiers=["ControlOrMeta"] if n else [])
        self.titled(bones[0] if len(bones) == 1 else f"{len(bones)} bones")
        self.page.get_by_role("button", name="choose their beads").click()
        self.page.wait_for_selector("#curve")

    def ease(self, name):
        self.page.get_by_role("button", name=name, exact=True).click()
        self.pause()

    def slide(self, frames):
        self.page.get_by_label("Slide by frames").fill(str(frames))
        self.page.get_by_role("button", name="Slide later").click()
        self.pause()


def rig(hand):
    page, program = hand.page, hand.program
    art = {"name": "loaded_cart.svg", "mimeType": "image/svg+xml", "buffer": flat_art()}
    page.locator("#art-file").set_input_files(art)
    page.locator(".arrival").get_by_role("link", name="Open on the Bench").click()
    program.until("window.gaitwire?.revision !== undefined")
    for name, members in GROUPS.items():
        hand.group(name, members, "part")
    hand.group("cart", ["bed", "handle", "rope end", "crates", "Stook", "Tamsin", "tarpaulin corner"], "bone")
    page.locator("#bones .rows").evaluate("list => { list.scrollTop = 0; }")  # both rows in view
    hand.row("tarpaulin corner").drag_to(hand.row("crates"), target_position={"x": 70, "y": 15})
    hand.pause()
    hand.pivot("cart", 318, 456)
    hand.pivot("crates", 318, 364)
    hand.tool("joint")
    hand.drag_joint("rope end", (112, 398))
    hand.drag_joint("tarpaulin corner", (132, 296))
    hand.drag_joint("Tamsin", (326, 280))
    hand.drag_joint("Stook", (200, 280))


def set_stage(hand):
    page, program = hand.page, hand.program
    program.open()
    page.get_by_label("name", exact=True).fill("By hand")
    page.get_by_label("plays", exact=True).select_option("loop")
    page.get_by_label("frames", exact=True).fill("32")
    page.get_by_role("button", name="New scene").click()
    page.wait_for_url("**/floor/*")
    program.ready()
    page.get_by_role("button", name="Bring in loaded cart").click()
    hand.wire("loaded cart, whole").wait_for()
    hand.pause()
    page.get_by_role("button", name="unfold all").click()


def perform(hand):
    """Tilt, counter-skew and a hanging rope at four extremes; three flaps; then easing and lag, in one go each."""
    for frame, pull in ((0, 16), (8, -34), (16, 34), (24, -38)):
        hand.seek(frame)
        hand.pull("cart", "turn", "handle", 0, pull)
        tilt = hand.value("turn")
        hand.pull("crates", "skew", "apples heap", -0.9 * pull, 0)
        assert hand.value("skew") * tilt < 0  # against the tilt
        hand.pick("rope end")
        hand.type_into("turn", round(-3 * tilt, 1))
    for n in range(6):
        hand.seek(round(n * 32 / 6))
        hand.pick("tarpaulin corner")
        hand.type_into("turn", 15 if n % 2 else -11)
    hand.choose_beads("cart")
    hand.ease("linear")
    hand.ease("quad-in-out")
    hand.choose_beads("tarpaulin corner")
    hand.ease("back-out")
    hand.choose_beads("rope end")
    hand.slide(3)


@pytest.fixture(scope="module")
def performed(chromium, orchard_folder, tmp_path_factory):
    """A store in which the performance has been made, by hand, once; copy it, do not open it."""
    folder = tmp_path_factory.mktemp("performance") / "store"
    shutil.copytree(orchard_folder, folder)
    with fresh_page(chromium) as page, running(Workspace(Store(folder), KNOWN), page) as program:
        program.open()
        hand = Hand(program)
        rig(hand)
        set_stage(hand)
        perform(hand)
    return folder


@pytest.fixture
def made(performed, tmp_path, page):
    """The performance, finished, on the Floor; the hand that made it, and its scene's id."""
    shutil.copytree(performed, tmp_path / "made")
    with running(Workspace(Store(tmp_path / "made"), KNOWN), page) as program:
        program.floor("By hand")
        page.get_by_role("button", name="unfold all").click()
        yield Hand(program), program.id_of("scene", "By hand")


def nodes(program, scene, count=65):
    """World matrices over two loops, by bone name."""
    found = program.workspace.frames(scene, np.arange(float(count)))
    puppet = program.workspace.puppet(program.workspace.scene(scene).instances[0].puppet_id)
    names = {b.id: b.name for b in puppet.bones}
    return {names.get(owner, "whole"): found.nodes[:, n] for n, (_, owner) in enumerate(found.node_keys)}


def keys(program, scene, bone):
    found = program.workspace.scene(scene)
    puppet = program.workspace.puppet(found.instances[0].puppet_id)
    owner = next(b.id for b in puppet.bones if b.name == bone)
    channels = {c.id for c in found.channels if c.owner_id == owner}
    return sorted((k for k in found.keys if k.channel_id in channels), key=lambda k: k.time)


def test_the_performance_is_what_was_asked_for(made):
    hand, scene = made
    program = hand.program
    puppet = program.workspace.puppet(program.workspace.scene(scene).instances[0].puppet_id)
    above = {b.name: puppet.bone(b.parent_id).name for b in puppet.bones if b.parent_id}
    assert {n for n, p in above.items() if p == "Tamsin"} == set(GROUPS["Tamsin"])
    assert {n for n, p in above.items() if p == "Stook"} == set(GROUPS["Stook"])
    assert {k.ease for k in keys(program, scene, "cart")} == {"quad-in-out"}
    assert {k.ease for k in keys(program, scene, "tarpaulin corner")} == {"back-out"}
    assert len(keys(program, scene, "tarpaulin corner")) == 6  # three flaps to one tilt to and fro
    tilts = [k.value for k in keys(program, scene, "cart")]
    assert np.sign(tilts).tolist() in ([1, -1, 1, -1], [-1, 1, -1, 1])
    # The rope's extremes come three frames after the cart's, around the loop.
    late = {(t + 3) % 32 for t in (0, 8, 16, 24)}
    assert {k.time for k in keys(program, scene, "rope end")} == late
    # The crates' bottom edge stays on the bed: it keeps its place in the cart's own space.
    moving = nodes(program, scene, 32)
    cart, crates = (np.moveaxis(moving[n], -1, 0) for n in ("cart", "crates"))
    inside = affine.compose(affine.invert(cart), crates)
    for across in (-180.0, 0.0, 220.0):
        x, y = affine.apply(inside, across, 0.0)
        assert np.ptp(x) < 0.01 and np.ptp(y) < 0.01
    assert np.ptp(affine.apply(inside, 0.0, -80.0)[0]) > 4  # while their tops lean


def test_a_dozen_beads_slide_around_the_loop_and_the_seam_stays_closed(made):
    hand, scene = made
    program, page = hand.program, hand.page
    before = nodes(program, scene)
    hand.choose_beads("cart", "crates", "rope end")
    assert page.evaluate("window.gaitwire.timeline.picked.size") == 12
    hand.slide(2)
    after = nodes(program, scene)
    for bone in ("cart", "crates", "rope end"):
        assert after[bone][2:34] == pytest.approx(before[bone][:32], abs=1e-9)  # the same, two frames later
        assert np.array_equal(after[bone][0], after[bone][32])  # and closed
    assert all(0 <= k.time < 32 for k in keys(program, scene, "rope end"))
    assert sorted(page.evaluate("window.gaitwire.timeline.picked.list.map(b => b[2])"))[:3] == [2, 2, 5]


def test_everything_is_undone_redone_and_there_after_a_restart(made):
    hand, scene = made
    program, page = hand.program, hand.page
    done = nodes(program, scene)
    steps = int(page.locator("#undo").inner_text().split()[1])
    assert steps >= 22
    for _ in range(steps):
        page.keyboard.press("Control+z")
    hand.pause()
    assert program.workspace.scene(scene).instances == ()
    for _ in range(steps):
        page.keyboard.press("Control+Shift+z")
    hand.pause()
    page.goto("about:blank")
    again = nodes(program, scene)
    assert all(np.array_equal(done[bone], again[bone]) for bone in done)


def test_it_is_sent_off_as_the_file_that_is_shown(made):
    hand, _ = made
    program, page = hand.program, hand.page
    page.get_by_role("link", name="Send-off").click()
    saved = {}
    for kind, settings in (("Animated SVG", ()), ("GIF", ("50",)), ("PNG sequence", ("50",))):
        page.get_by_role("radio", name=kind).check()
        for size in settings:
            page.locator("#settings input[name=scale]").fill(size)
        if kind == "PNG sequence":
            page.get_by_label("with the background").uncheck()
        page.get_by_role("button", name="Make it").click()
        suffix = {"Animated SVG": ".svg", "GIF": ".gif", "PNG sequence": ".zip"}[kind]
        page.locator(".made strong", has_text=f"By hand{suffix}").wait_for()
        painted(page)
        with page.expect_download() as download:
            page.locator(".made").get_by_role("link", name="Save").click()
        assert download.value.suggested_filename == f"By hand{suffix}"
        data = download.value.path().read_bytes()
        shown = page.locator(".checker img").get_attribute("src")
        if kind != "PNG sequence":
            assert page.request.get(program.home + shown).body() == data  # the preview is the very file
        saved[kind] = data
    svg = saved["Animated SVG"].decode()
    assert 'repeatCount="indefinite"' in svg and "keySplines" in svg and 'data-name="cart"' in svg
    with Image.open(io.BytesIO(saved["GIF"])) as gif:
        assert (gif.n_frames, gif.size) == (32, (640, 360))
    with zipfile.ZipFile(io.BytesIO(saved["PNG sequence"])) as archive:
        assert len(archive.namelist()) == 32
        with Image.open(io.BytesIO(archive.read("By_hand_0000.png"))) as png:
            assert png.mode == "RGBA" and png.getextrema()[3] == (0, 255)
