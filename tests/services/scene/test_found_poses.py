"""Poses that nobody marked; and poses that hold until they are timed."""

import numpy as np
import pytest

from builders.acting import Cast
from gaitwire.core.addresses import Bead
from gaitwire.formats.exporting import ExportSettings
from gaitwire.services.output.sendoff import held_apart, prepare
from gaitwire.services.scene.beads import delete_beads, ease_beads, move_beads
from gaitwire.services.scene.found_poses import FOUND, mark_all_poses, poses_of, spread_out, unmarked_poses
from gaitwire.services.scene.poses import block_pose, copy_pose, delete_pose, update_pose

BONES = ("chest", "near thigh", "far thigh")


@pytest.fixture
def cast(orchard):
    found = Cast(orchard)
    for frame in (6, 18, 30):
        for n, bone in enumerate(BONES):
            found.key(frame, bone, frame + 10 * n)
    return found


def test_a_pose_that_was_found_is_marked_by_naming_it_copied_and_deleted(cast):
    floor, who = cast.floor, cast.who
    assert unmarked_poses(floor)[who] == [0, 6, 18, 30]
    made = update_pose(floor, f"{FOUND}{who}:18.0", {"name": "leans"})
    assert [(p.id, p.time, p.name) for p in poses_of(floor, who)] == [(made, 18, "leans")]
    assert unmarked_poses(floor)[who] == [0, 6, 30]  # the others are still there beside it
    copy_pose(floor, f"{FOUND}{who}:6.0", 40.0)
    assert cast.whole(40.0) == pytest.approx(cast.whole(6.0), abs=1e-4)
    delete_pose(floor, f"{FOUND}{who}:30.0")
    assert 30.0 not in {k.time for k in floor.scene.keys} and 30.0 not in unmarked_poses(floor)[who]


def test_beads_that_are_spread_say_which_poses_they_were(cast):
    floor, who = cast.floor, cast.who
    before = unmarked_poses(floor)
    beads = [Bead(who, cast.bones[b].id, 18.0) for b in BONES]
    move_beads(floor, beads[:2], 2.0)
    assert spread_out(floor, before) == {who: [18.0]}
    cast.undo()
    delete_beads(floor, beads)  # whoever takes a pose away knows that it is gone
    assert spread_out(floor, before) == {}
    cast.undo()
    mark_all_poses(floor, who, [18.0])
    before = unmarked_poses(floor)
    move_beads(floor, beads[:2], 2.0)
    assert spread_out(floor, before) == {}  # a marked one stays


def test_the_first_pose_that_is_blocked_lets_new_ones_hold_until_they_are_timed(orchard):
    cast = Cast(orchard)
    floor, who = cast.floor, cast.who
    for frame, turn in ((0.0, 0.0), (12.0, 30.0), (24.0, -20.0)):
        block_pose(floor, frame, {(*cast.node("chest"), "turn"): turn})
        assert floor.outcome.begins_to_hold == (frozenset({who}) if frame == 0 else frozenset())
    assert floor.instance(who).holds
    values = floor.values_at(np.arange(30.0))[(*cast.node("chest"), "turn")]
    assert values.tolist() == [0.0] * 12 + [30.0] * 12 + [-20.0] * 6
    assert held_apart(orchard, floor.scene_id) == 0
    cast.key(18, "face", 15, "shift_x")  # a first key: pinned where the poses are, and held there too
    head = floor.values_at(np.arange(30.0))[(*cast.node("face"), "shift_x")]
    assert set(head.tolist()) == {0.0, 15.0} and head[17] == 0 and head[18] == 15 and head[24] == 0
    keys = {k.time: k for k in floor.scene.keys}
    ease_beads(floor, [Bead(who, cast.bones["chest"].id, 12.0)], "linear")
    assert floor.values_at(np.array([18.0]))[(*cast.node("chest"), "turn")][0] == pytest.approx(5)
    assert {k.ease for k in keys.values()} == {"hold"}
    cast.undo()
    assert take_first(floor, who).holds


def take_first(floor, who):
    return next(i for i in floor.scene.instances if i.id == who)


def test_send_off_tells_where_it_differs_from_blocking_and_can_make_that_too(cast):
    floor = cast.floor
    mark_all_poses(floor, cast.who, [6.0, 18.0])
    apart = held_apart(floor.workspace, floor.scene_id)
    assert 20 < apart < 48
    made = prepare(floor.workspace, floor.scene_id, ExportSettings(blocking=True)).frames
    as_ever = prepare(floor.workspace, floor.scene_id, ExportSettings()).frames
    assert np.abs(made.matrices[10] - made.matrices[6]).max() == 0
    assert np.abs(as_ever.matrices[10] - as_ever.matrices[6]).max() > 0.01
