"""Two performances made on the Floor: a pinned neck against a tail, and forty seconds in which nothing starts together."""

import numpy as np
import pytest

from browser.hands import act, seek, typed, wire
from builders.named import id_of
from gaitwire.services.scene.floor import add_puppet, make_scene
from gaitwire.services.scene.gestures import Floor


def scene_with(program, puppet, frames, loop, rate=24):
    scene = make_scene(program.workspace, "Trial", frames=frames, loop=loop, rate_num=rate, ground=648.0)
    floor = Floor(program.workspace, scene)
    add_puppet(floor, id_of(program.workspace, "puppet", puppet), scale=0.4)
    page = program.floor("Trial")
    page.locator("#fold-all").click()
    return floor, page


def values(floor, name, prop, frames):
    """A property of a bone or pin on the frames, as it plays."""
    puppet = floor.workspace.puppet(floor.scene.instances[-1].puppet_id)
    owner = next(o.id for o in (*puppet.bones, *puppet.pins) if o.name == name)
    return next(v for (_, o, p), v in floor.values_at(np.asarray(frames, float)).items() if (o, p) == (owner, prop))


def test_a_pinned_neck_sways_to_and_fro_against_a_tail_the_neck_slower(program):
    floor, page = scene_with(program, "Gander", 48, loop=True)
    act(program, wire(page, "tail").locator(".pick").click)
    for frame, turn in ((0, 8), (6, -8), (12, 8)):
        seek(page, frame)
        typed(program, "turn", turn)
    page.get_by_label("goes on").select_option("cycle")
    program.settled()
    # The neck is led by its pin, dragged on the stage: there, back and there again at half the tail's pace.
    act(program, wire(page, "middle").locator(".pick").click)
    for frame, way in ((0, -14), (24, 26)):
        seek(page, frame)
        program.settled()
        start = program.at(*page.evaluate("window.gaitwire.joint('middle')")["at"])
        program.drag(start, (start[0] + way, start[1]))
    frames = np.arange(48)
    tail, neck = values(floor, "tail", "turn", frames), values(floor, "middle", "shift_x", frames)
    assert tail.max() == pytest.approx(8) and tail.min() == pytest.approx(-8)
    assert np.argmin(neck) == 0 and np.argmax(neck) == 24
    there_and_back = [int((np.diff(np.sign(v - v.mean())) != 0).sum()) for v in (tail, neck)]
    assert there_and_back[0] >= 7 and there_and_back[1] <= 2
    # It is the part that bends: the picture's own points move with the pin, and not with the tail.
    moved = floor.workspace.frames(floor.scene_id, np.array([0.0, 24.0]))
    assert np.abs(moved.points[1] - moved.points[0]).max() > 5


def test_in_forty_seconds_brow_scarf_and_hands_never_start_together(program):
    floor, page = scene_with(program, "Tamsin", 480, loop=False, rate=12)
    props = {"brow": "shift_y", "scarf tail": "turn", "near hand": "turn", "far hand": "turn"}
    poses = (0, 160, 320)
    for frame in poses:  # blocked all at once, as poses are
        for name, prop in props.items():
            seek(page, frame)
            act(program, wire(page, name).locator(".pick").click)
            typed(program, prop, 3 if frame % 320 else -3)
    for n, name in enumerate(props):  # each pass later than the one before it
        act(program, wire(page, name).locator(".pick").click)
        if n:
            act(program, page.get_by_role("button", name="choose their beads").click)
            page.locator("#slide-by").fill(str(4 * n))
            act(program, page.get_by_role("button", name="Slide later").click)
            act(program, wire(page, name).locator(".pick").click)
        for frame in poses[1:]:  # and held until half a second before its pose
            seek(page, frame + 4 * n - 6)
            act(program, lambda: page.keyboard.press("y"))
    frames = np.arange(480)
    starts = []
    for n, (name, prop) in enumerate(props.items()):
        moves = np.abs(np.diff(values(floor, name, prop, frames))) > 1e-9
        begun = (np.flatnonzero(moves[1:] & ~moves[:-1]) + 1).tolist()
        assert begun == [frame + 4 * n - 6 for frame in poses[1:]], name
        starts += begun
        assert wire(page, name).locator(".bead.stay").count() == 2
    assert len(starts) == len(set(starts))
    assert page.evaluate("window.gaitwire.player.info.frames") == 480
    page.keyboard.press("End")
    head, view = page.locator("#playhead").bounding_box(), page.viewport_size
    assert 172 < head["x"] < view["width"]  # the playhead is followed
