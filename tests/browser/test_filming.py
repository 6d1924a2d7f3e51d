"""A smear made for one frame and undone; a camera moved over layers at three distances, dragged, and looked through."""

import numpy as np
import pytest

from browser.hands import act, pick, seek, typed, unfold, wire
from gaitwire.services.rig.bench import Bench
from gaitwire.services.scene.floor import add_puppet, make_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.posing import set_values

SWING = {2: 60.0, 8: 60.0, 11: -60.0, 20: -60.0}


def shows(program, part):
    """Numbers of the drawing that a part shows, on every frame, as the page plays them."""
    return program.page.evaluate(
        "(name) => { const { player, stage } = window.gaitwire, n = stage.parts.findIndex((p) => p?.name === name);"
        " const { all } = player; return [...Array(all.count).keys()].map((f) => all.drawing[f * all.parts + n]); }",
        part,
    )


def test_a_smear_is_made_for_one_frame_drawn_anew_and_undone(program):
    floor = Floor(program.workspace, make_scene(program.workspace, "Swings", frames=24, loop=False, ground=640.0))
    who = add_puppet(floor, program.id_of("puppet", "Tamsin"), x=600.0, y=640.0)
    bones = {b.name: b.id for b in program.workspace.puppet(floor.instance(who).puppet_id).bones}
    for frame, value in SWING.items():
        set_values(floor, frame, {(who, bones["near upper arm"], "turn"): value})
    page = program.floor("Swings")
    unfold(page)
    pick(program, "near upper arm")
    rest, puppet = shows(program, "near hand"), program.workspace.puppet(floor.instance(who).puppet_id)
    seek(page, 5)
    act(program, page.get_by_role("button", name="smear this frame").click)
    assert "comes far enough" in page.locator("#remarks").inner_text(), "it stands still there"
    page.complaints.clear()  # the browser's own word on what was refused
    seek(page, 9)
    program.settled()
    act(program, page.get_by_role("button", name="smear this frame").click)
    assert "near sleeve, near hand" in page.locator("#remarks").inner_text()
    smeared = shows(program, "near hand")
    assert [n for n in range(24) if smeared[n] != rest[n]] == [9]
    page.locator("#smear-kind").select_option("drawn out")
    page.locator("#smear-keep").fill("100")
    act(program, page.get_by_role("button", name="smear this frame").click)
    assert shows(program, "near hand") == smeared, "the same drawing, drawn anew"
    act(program, lambda: page.keyboard.press("Control+z"))
    act(program, lambda: page.keyboard.press("Control+z"))
    assert shows(program, "near hand") == rest
    assert program.workspace.puppet(puppet.id).replacements == puppet.replacements


@pytest.fixture
def layered(program):
    """The orchard's rows as three layers under a camera: the sun stays put, the near hill goes half the way."""
    workspace = program.workspace
    floor = Floor(workspace, make_scene(workspace, "Layers", frames=48, loop=False))
    rows = program.id_of("puppet", "Orchard rows")
    bench = Bench(workspace, rows)
    wanted = {"sun": 0.0, "near hill": 0.5, "grass": 1.0}
    for part in bench.puppet.parts:
        bench.update_parts([part.id], {"distance": wanted.get(part.name, 1.0)})
    add_puppet(floor, rows, x=640.0, y=640.0)
    program.floor("Layers")
    return floor


def places(program, frame):
    """Across and enlargement of the three layers, as the page draws them on a frame."""
    found = program.page.evaluate(
        "(f) => { const { player, stage } = window.gaitwire; return ['sun', 'near hill', 'grass'].map((name) => {"
        " const m = player.all.matrix(f, stage.parts.findIndex((p) => p?.name === name)); return [m[4], m[0]]; }); }",
        frame,
    )
    return np.array(found)


def test_a_camera_moves_layers_by_their_distance_and_is_keyed(program, layered):
    page = program.page
    assert page.locator("#lens").is_hidden()
    act(program, page.get_by_role("button", name="set one up").click)
    still = places(program, 0)
    seek(page, 20)
    program.settled()
    typed(program, "shift_x", 120)
    typed(program, "stretch", 200)
    seek(page, 0)
    program.settled()
    typed(program, "shift_x", 0)
    typed(program, "stretch", 100)
    assert wire(page, "Camera").locator(".bead").count() == 2
    assert places(program, 20) == pytest.approx(still), "the stage itself stays as it is"
    act(program, lambda: page.keyboard.press("Shift+L"))
    assert page.locator("#lens").get_attribute("aria-pressed") == "true"
    assert places(program, 0) == pytest.approx(still, abs=1e-3)
    moved = places(program, 20)
    zooms = np.array([1.0, 2**0.5, 2.0])
    assert moved[:, 1] == pytest.approx(still[:, 1] * zooms, rel=1e-4)
    shifts = np.array([0.0, 60.0, 120.0])
    assert moved[:, 0] == pytest.approx(640 + zooms * (still[:, 0] - 640 - shifts), abs=0.01)
    page.locator("#stage").click(position={"x": 200, "y": 120})
    assert "seen through the lens" in page.locator("#remarks").inner_text()
    act(program, page.locator("#lens").click)
    assert places(program, 20) == pytest.approx(still)


def test_its_frame_is_dragged_zoomed_and_turned_and_taken_away(program, layered):
    page = program.page
    act(program, page.get_by_role("button", name="set one up").click)
    camera = layered.scene.camera.id

    def values():
        now = layered.values_at(np.array([0.0]))
        return {p: float(now[camera, camera, p][0]) for p in ("shift_x", "shift_y", "stretch", "turn")}

    x, y = program.at(640, 0)
    program.drag((x + 60, y), (x + 100, y + 30))
    scale = page.evaluate("window.gaitwire.stage.view.scale")
    found = values()
    assert (found["shift_x"], found["shift_y"]) == pytest.approx((40 / scale, 30 / scale), abs=1.0)
    # Its corner, half way to the middle: it enlarges twice.
    middle = 640 + found["shift_x"], 360 + found["shift_y"]
    start, end = program.at(middle[0] - 640, middle[1] - 360), program.at(middle[0] - 320, middle[1] - 180)
    program.drag(start, end)
    assert values()["stretch"] == pytest.approx(2.0, abs=0.03)
    knob = page.locator(".camera .knob").bounding_box()
    at = knob["x"] + knob["width"] / 2, knob["y"] + knob["height"] / 2
    centre = program.at(*middle)
    arm = at[1] - centre[1]
    program.drag(at, (centre[0] - arm, centre[1]))
    assert values()["turn"] == pytest.approx(90, abs=1.5)
    for _ in range(3):
        act(program, lambda: page.keyboard.press("Control+z"))
    assert values() == {"shift_x": 0, "shift_y": 0, "stretch": 1, "turn": 0}
    act(program, page.get_by_role("button", name="take it away").click)
    assert layered.scene.camera is None and page.locator("#lens").is_hidden()
