"""What is seen with the frame in view: onion skin, the opposite pose, trails, flipping; and poses kept and pasted."""

import base64
import io

import av
import numpy as np
import pytest
from PIL import Image, ImageChops

from browser.conftest import patiently
from browser.hands import act, seek, turn_of, wire


def snapshot(program):
    """What the stage's canvas shows, as a picture."""
    program.settled()
    data = program.page.evaluate("window.gaitwire.stage.snapshot()")
    return Image.open(io.BytesIO(base64.b64decode(data.split(",")[1]))).convert("RGB")


def changed(before, after):
    """How many pixels differ clearly."""
    difference = ImageChops.difference(before, after).convert("L")
    return sum(difference.histogram()[16:])


def test_onion_skin_shows_neighbours_or_poses_and_is_gone_when_playing(program):
    page = program.floor("Pip hops")
    seek(page, 9)
    plain = snapshot(program)
    page.keyboard.press("o")
    two = snapshot(program)
    assert changed(plain, two) > 500
    page.get_by_label("Onion frames before").fill("4")
    page.get_by_label("Onion frames before").press("Tab")
    four = snapshot(program)
    assert changed(two, four) > 200
    page.locator("#onion-poses").check()
    poses = snapshot(program)
    assert changed(four, poses) > 500
    assert page.evaluate("window.gaitwire.stage.ghosts.map(g => g.index).sort((a, b) => a - b)") == [0, 4, 14, 17, 21]
    page.locator("#onion").click()
    assert changed(plain, snapshot(program)) == 0


def test_two_frames_are_flipped_between_with_one_key(program):
    page = program.floor("Pip hops")
    page.keyboard.press("x")
    assert "Mark two frames" in page.locator("#remarks").inner_text()
    for frame in (4, 14):
        seek(page, frame)
        page.keyboard.press("Shift+X")
    seen = []
    for _ in range(4):
        page.keyboard.press("x")
        seen.append(page.evaluate("window.gaitwire.frame"))
    assert seen == [4, 14, 4, 14]
    assert page.locator("#ruler .flipmark[visibility=visible]").count() == 2


def test_the_opposite_pose_lies_over_this_one_and_its_differences_choose_bones(program):
    page = program.floor("Tamsin waits")
    plain = snapshot(program)
    page.keyboard.press("Shift+O")
    page.locator("#panel-opposite button").first.wait_for()
    program.until("window.gaitwire.stage.ghosts.length === 1")
    assert changed(plain, snapshot(program)) > 300
    assert "unlike frame 48" in page.locator("#panel-opposite strong").inner_text()
    row = page.locator("#panel-opposite button", has_text="near hand · far hand")
    act(program, row.click)
    assert page.locator("#card h2").inner_text() == "near hand"


def test_a_key_is_dragged_on_its_trail(program):
    page = program.floor("Pip hops")
    page.get_by_role("button", name="Unfold Prop").click()
    seek(page, 12)
    act(program, wire(page, "leaf").locator(".pick").click)
    page.keyboard.press("j")
    program.until("document.querySelectorAll('.trailtick, .trailkey').length >= 23")
    key = page.get_by_role("button", name="leaf at frame 15", exact=True)
    before, box = turn_of(program, "leaf", 15), key.bounding_box()
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    program.drag((x, y), (x - 6, y + 14))
    assert page.evaluate("window.gaitwire.frame") == 15
    assert turn_of(program, "leaf", 15) > before + 5
    page.keyboard.press("j")
    program.until("document.querySelectorAll('.trailtick').length === 0")


def test_a_pose_is_copied_pasted_turned_over_and_kept(program):
    page = program.floor("Tamsin waits")
    seek(page, 38)
    face = turn_of(program, "face", 38)
    act(program, lambda: page.locator("#mapbox [data-stick]", has=page.locator("title", has_text="face")).first.click())
    page.keyboard.press("Control+c")
    page.locator(".remark", has_text="copied").wait_for()
    seek(page, 80)
    act(program, lambda: page.keyboard.press("Control+v"))
    assert turn_of(program, "face", 80) - turn_of(program, "neck", 80) == pytest.approx(
        face - turn_of(program, "neck", 38), abs=0.2
    )
    act(program, lambda: page.keyboard.press("Escape"))
    act(program, page.get_by_role("button", name="keep pose").click)
    saved = page.locator("#poseshelf .savedpose img")
    saved.wait_for()
    program.until("document.querySelector('#poseshelf img').naturalWidth > 0")
    seek(page, 0)
    page.get_by_label("Share of a pose", exact=True).fill("50")
    before, there = turn_of(program, "face", 0), turn_of(program, "face", 80)
    act(program, page.locator("#poseshelf .savedpose").click)
    assert turn_of(program, "face", 0) == pytest.approx((before + there) / 2, abs=0.4)
    name = page.get_by_label("Name of the saved pose")
    name.fill("over her shoulder")
    act(program, lambda: name.press("Tab"))
    assert page.get_by_label("Name of the saved pose").input_value() == "over her shoulder"
    near = turn_of(program, "near hand", 0)
    act(program, page.get_by_role("button", name="turn over").click)
    assert abs(turn_of(program, "near hand", 0) - near) > 2
    act(program, page.get_by_role("button", name="turn over").click)
    assert turn_of(program, "near hand", 0) == pytest.approx(near, abs=0.01)
    act(program, page.get_by_role("button", name="Take over her shoulder off the pose shelf").click)
    assert page.locator("#poseshelf .savedpose").count() == 0


def picture(color):
    out = io.BytesIO()
    Image.new("RGB", (200, 120), color).save(out, "PNG")
    return out.getvalue()


def pixel(program, x, y):
    """What the canvas shows at a point of the stage."""
    px, py = program.page.evaluate("([x, y]) => window.gaitwire.stage.toScreen(x, y)", [x, y])
    return snapshot(program).getpixel((round(px), round(py)))


def test_a_run_of_pictures_is_laid_placed_by_hand_and_goes_with_the_frames(program):
    page = program.floor("Pip hops")
    files = [{"name": f"{n}.png", "mimeType": "image/png", "buffer": picture(c)} for n, c in enumerate(("red", "lime"))]
    act(program, lambda: page.set_input_files("#guide-files", files))
    page.locator(".guide summary").click()
    opacity = page.locator(".guide [name=opacity]")
    opacity.fill("100")
    act(program, lambda: opacity.press("Enter"))
    act(program, page.locator(".guide [name=over]").check)
    patiently(page, lambda: pixel(program, 640, 360) == (255, 0, 0))  # pictures come when they come
    seek(page, 5)
    patiently(page, lambda: pixel(program, 640, 360) == (0, 255, 0))
    page.locator("[data-act=guide-place]").click()
    start = program.at(640, 360)
    end = program.at(300, 200)
    program.drag(start, end)
    patiently(page, lambda: pixel(program, 300, 200) == (0, 255, 0) and pixel(program, 640, 420) != (0, 255, 0))
    act(program, page.locator("[data-act=guide-away]").click)
    assert page.locator(".guide").count() == 0


def test_a_stride_is_laid_under_the_stage_and_shifts_catch_on_the_grid(program):
    page = program.floor("Tamsin waits")
    plain = snapshot(program)
    page.get_by_label("Frames of the stride").fill("16")
    act(program, page.locator("[data-act=guide-stride]").click)
    patiently(page, lambda: changed(plain, snapshot(program)) > 300)
    grid = page.locator("#card [name=grid]")
    grid.fill("50")
    act(program, lambda: grid.press("Enter"))
    act(program, page.locator("#card [name=snaps]").check)
    page.keyboard.press("u")
    program.until("document.querySelectorAll('.rulers text').length > 8")
    page.keyboard.press("s")
    act(program, page.get_by_role("group", name="Wire of Tamsin, whole").locator(".pick").click)
    foot = program.at(*page.evaluate("window.gaitwire.joint('near foot')")["at"])
    program.drag(foot, (foot[0] + 33, foot[1] - 21))
    frames = program.workspace.frames(program.id_of("scene", "Tamsin waits"), np.zeros(1))
    scene = program.workspace.scene(program.id_of("scene", "Tamsin waits"))
    tamsin = next(i for i in scene.instances if i.name == "Tamsin")
    at = frames.nodes[0, frames.node_keys.index((tamsin.id, tamsin.id)), 4:]
    assert at / 50 == pytest.approx((at / 50).round(), abs=1e-3)


def test_a_film_is_laid_under_the_stage_and_a_puppet_to_draw_from_is_faint_and_not_caught(program, tmp_path):
    path = tmp_path / "walk.mp4"
    with av.open(str(path), "w") as made:
        stream = made.add_stream("mpeg4", rate=12)
        stream.width, stream.height, stream.pix_fmt = 320, 240, "yuv420p"
        for n in range(12):
            picture = np.full((240, 320, 3), 20 * n, np.uint8)
            made.mux(stream.encode(av.VideoFrame.from_ndarray(picture, format="rgb24")))
        made.mux(stream.encode())
    page = program.floor("Pip hops")
    plain = snapshot(program)
    act(program, lambda: page.locator("#guide-files").set_input_files(str(path)))
    page.locator("#card summary", has_text="walk").wait_for(timeout=20_000)
    program.settled()
    patiently(page, lambda: changed(plain, snapshot(program)) > 300)
    dark = snapshot(program)
    seek(page, 22)
    patiently(page, lambda: changed(dark, snapshot(program)) > 300)
    scene = program.workspace.scene(program.id_of("scene", "Pip hops"))
    assert len(scene.guides[0].pictures) == 24
    x, y = program.at(*page.evaluate("window.gaitwire.joint('apple')")["at"])

    def caught():
        act(program, lambda: page.keyboard.press("Escape"))
        act(program, lambda: page.mouse.click(x, y - 40))
        return page.locator("#card h2").inner_text()

    assert caught() != "Pip hops"
    act(program, page.get_by_role("group", name="Wire of Pip, whole").locator(".pick").click)
    before = snapshot(program)
    act(program, page.locator("#card [name=guide]").check)
    patiently(page, lambda: changed(before, snapshot(program)) > 100)  # it shows through
    assert caught() == "Pip hops"
    assert next(i for i in program.workspace.scene(scene.id).instances if i.name == "Pip").guide
