"""Poses that nobody marked; and poses that hold until they are timed."""

import numpy as np
import pytest

from builders.acting import Cast
from gaitwire.core.addresses import Bead
from gaitwire.services.output.sendoff import held_apart, prepare, settings_from
from gaitwire.services.scene.found_poses import FOUND

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
    assert floor.unmarked()[who] == [0, 6, 18, 30]
    made = floor.update_pose(f"{FOUND}{who}:18.0", {"name": "leans"})
    assert [(p.id, p.time, p.name) for p in floor.poses_of(who)] == [(made, 18, "leans")]
    assert floor.unmarked()[who] == [0, 6, 30]  # the others are still there beside it
    floor.copy_pose(f"{FOUND}{who}:6.0", 40.0)
    assert cast.whole(40.0) == pytest.approx(cast.whole(6.0), abs=1e-4)
    floor.delete_pose(f"{FOUND}{who}:30.0")
    assert 30.0 not in {k.time for k in floor.scene.keys} and 30.0 not in floor.unmarked()[who]


def test_beads_that_are_spread_say_which_poses_they_were(cast):
    floor, who = cast.floor, cast.who
    before = floor.unmarked()
    beads = [Bead(who, cast.bones[b].id, 18.0) for b in BONES]
    floor.move_beads(beads[:2], 2.0)
    assert floor.spread_out(before) == {who: [18.0]}
    cast.undo()
    floor.delete_beads(beads)  # whoever takes a pose away knows that it is gone
    assert floor.spread_out(before) == {}
    cast.undo()
    floor.mark_all(who, [18.0])
    before = floor.unmarked()
    floor.move_beads(beads[:2], 2.0)
    assert floor.spread_out(before) == {}  # a marked one stays


def test_the_first_pose_that_is_blocked_lets_new_ones_hold_until_they_are_timed(orchard):
    cast = Cast(orchard)
    floor, who = cast.floor, cast.who
    for frame, turn in ((0.0, 0.0), (12.0, 30.0), (24.0, -20.0)):
        floor.block(frame, {(*cast.node("chest"), "turn"): turn})
        assert floor.begins_to_hold == (frozenset({who}) if frame == 0 else frozenset())
    assert floor.instance(who).holds
    values = floor.values_at(np.arange(30.0))[(*cast.node("chest"), "turn")]
    assert values.tolist() == [0.0] * 12 + [30.0] * 12 + [-20.0] * 6
    assert held_apart(orchard, floor.scene_id) == 0
    cast.key(18, "face", 15, "shift_x")  # a first key: pinned where the poses are, and held there too
    head = floor.values_at(np.arange(30.0))[(*cast.node("face"), "shift_x")]
    assert set(head.tolist()) == {0.0, 15.0} and head[17] == 0 and head[18] == 15 and head[24] == 0
    keys = {k.time: k for k in floor.scene.keys}
    floor.ease_beads([Bead(who, cast.bones["chest"].id, 12.0)], "linear")
    assert floor.values_at(np.array([18.0]))[(*cast.node("chest"), "turn")][0] == pytest.approx(5)
    assert {k.ease for k in keys.values()} == {"hold"}
    cast.undo()
    assert take_first(floor, who).holds


def take_first(floor, who):
    return next(i for i in floor.scene.instances if i.id == who)


def test_send_off_tells_where_it_differs_from_blocking_and_can_make_that_too(cast):
    floor = cast.floor
    floor.mark_all(cast.who, [6.0, 18.0])
    apart = held_apart(floor.workspace, floor.scene_id)
    assert 20 < apart < 48
    made = prepare(floor.workspace, floor.scene_id, settings_from(blocking=True)).frames
    as_ever = prepare(floor.workspace, floor.scene_id, settings_from()).frames
    assert np.abs(made.matrices[10] - made.matrices[6]).max() == 0
    assert np.abs(as_ever.matrices[10] - as_ever.matrices[6]).max() > 0.01
