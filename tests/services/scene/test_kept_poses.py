"""First keys, seams, beads elsewhere: each gesture that once moved a pose behind the hand's back leaves it now."""

import math

import numpy as np
import pytest

from builders.acting import Alone
from gaitwire.core.addresses import Bead
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate.values import sample_parts
from gaitwire.core.timing.channel import LED
from gaitwire.core.timing.mark import Pose
from gaitwire.services.gait.gait_cards import card_at
from gaitwire.services.scene.beads import clear_range, ease_beads, hold_for, space_beads
from gaitwire.services.scene.curve_points import add_curve_point
from gaitwire.services.scene.floor import update_scene
from gaitwire.services.scene.found_poses import mark_pose, poses_of
from gaitwire.services.scene.hangers import with_hangers
from gaitwire.services.scene.hops import plan_hop, usual_hop
from gaitwire.services.scene.phrases import (
    course_of_use,
    end_phrases_by,
    find_use,
    phrases_at_the_end,
    put_phrase,
    set_use,
)
from gaitwire.services.scene.poses import block_pose, delete_pose, keep_only_moved, key_whole_pose
from gaitwire.services.scene.posing import set_course, set_values
from gaitwire.services.scene.scene_length import ended_walks, told_length
from gaitwire.services.scene.timing import close_seams, ease_seams, put_stays, repeat_channels, seams_of
from gaitwire.services.scene.walks import put_gait, reach_scene_end, set_gait
from gaitwire.services.views.notes import scene_notes
from gaitwire.store.history import take_step


class Stage(Alone):
    """One puppet alone in a scene."""

    def __init__(self, workspace, name="Stook", **settings):
        super().__init__(workspace, name, **settings)

    def key(self, frame, bone, value, prop="turn"):
        super().key(frame, bone, value, prop)
        return {t for found in self.floor.outcome.kept.values() for t in found}

    def keys(self, bone, prop="turn"):
        return [(k.time, k.value) for k in super().keys(bone, prop)]


@pytest.fixture
def stage(orchard):
    return Stage(orchard)


def test_a_first_key_leaves_the_start_of_the_scene(stage):
    assert stage.key(20, "near forearm", -70) == {0}
    assert stage.seen("near forearm", [0, 20, 40]) == pytest.approx([0, -70, -70])
    take_step(stage.workspace.store, stage.floor.scene_id, "undo")
    assert stage.keys("near forearm") == []


def test_poses_that_were_keyed_whole_stay_when_another_bone_is_moved_for_the_first_time(stage):
    for frame in (0, 12):
        key_whole_pose(stage.floor, stage.who, float(frame))
    assert stage.key(24, stage.who, 80, "shift_x") == {0, 12}
    assert stage.seen(stage.who, range(13), "shift_x") == pytest.approx(0)
    assert stage.seen(stage.who, [24], "shift_x") == pytest.approx(80)


def test_with_a_move_length_movement_begins_so_many_frames_before(stage):
    update_scene(stage.floor, move_length=4)
    stage.key(20, "near forearm", -70)
    assert stage.seen("near forearm", [0, 16, 20]) == pytest.approx([0, 0, -70])
    assert stage.seen("near forearm", [18])[0] < -10


def test_a_marked_pose_is_keyed_on_all_that_has_keys_and_changes_nothing(stage):
    stage.key(0, "near forearm", 0)
    stage.key(40, "near forearm", 40)
    ease_beads(stage.floor, [Bead(*stage.slot("near forearm")[:2], 0.0)], "bounce-out")
    before = stage.seen("near forearm", range(48))
    mark_pose(stage.floor, stage.who, 13.0)
    assert [t for t, _ in stage.keys("near forearm")] == [0, 13, 40]
    assert stage.seen("near forearm", range(48)) == pytest.approx(before, abs=1e-6)


def test_a_point_added_on_a_chart_or_a_bounce_changes_nothing(stage):
    stage.key(0, "near forearm", 0)
    stage.key(40, "near forearm", 100)
    scene = stage.floor.scene
    channel = next(c for c in scene.channels if c.property == "turn")
    for ease in ("bounce-out", "halves"):
        bead = [Bead(*stage.slot("near forearm")[:2], 0.0)]
        ease_beads(stage.floor, bead, ease) if "-" in ease else space_beads(stage.floor, bead, ease)
        before = stage.seen("near forearm", range(48))
        add_curve_point(stage.floor, channel.id, 17.0)
        assert stage.seen("near forearm", range(48)) == pytest.approx(before, abs=1e-6)
        take_step(stage.workspace.store, stage.floor.scene_id, "undo")


def led_part(puppet):
    """A part whose drawing a gauge chooses, and that gauge."""
    row = next((e, r) for e in puppet.entries for r in e.rows if r.property == "drawing" and r.value)
    return row[1].owner_id, next(c for c in puppet.controls if c.id == row[0].control_id)


def test_a_drawing_keyed_late_leaves_a_gauge_its_way_before_and_gives_it_back(stage):
    part, control = led_part(stage.puppet)

    def shows(frame):
        puppet = next(
            i
            for i in stage.workspace.compiled(stage.floor.scene_id).compiled_puppets
            if i.source.instance.id == stage.who
        )
        index = [owner for _, owner in puppet.parts.owners].index(part)
        return round(float(sample_parts(puppet, np.array([float(frame)]))[index, 1, 0]))

    for frame, value in ((0, 0), (10, 90), (40, 90)):
        set_values(stage.floor, float(frame), {(stage.who, control.id, "x"): value})
    talking = [shows(f) for f in range(48)]
    assert len(set(talking)) > 1
    mark_pose(stage.floor, stage.who, 40.0)
    set_values(stage.floor, 30.0, {(stage.who, part, "drawing"): 0.0})
    assert stage.keys(part, "drawing") == [(0, LED), (30, 0), (40, LED)]
    assert [shows(f) for f in range(30)] == talking[:30]
    assert [shows(f) for f in range(40, 48)] == talking[40:]
    assert {shows(f) for f in range(30, 40)} == {0}
    # A pose that is keyed whole does not take the drawing from the gauge.
    key_whole_pose(stage.floor, stage.who, 20.0)
    assert (20.0, LED) in stage.keys(part, "drawing")


def test_a_gauge_keyed_late_does_not_open_the_mouth_earlier(orchard):
    stage = Stage(orchard, loop=True)
    _, control = led_part(stage.puppet)
    for frame, value in ((20, 0), (24, 90)):
        set_values(stage.floor, float(frame), {(stage.who, control.id, "x"): value})
    assert stage.floor.values_at(np.arange(21.0))[stage.who, control.id, "x"] == pytest.approx(0)


def test_a_loop_that_is_cut_on_a_key_like_its_start_stays_workable(orchard):
    stage = Stage(orchard, loop=True)
    stage.key(0, "near forearm", 5)
    stage.key(24, "near forearm", 5)
    stage.key(10, "near forearm", 30)
    update_scene(stage.floor, frames=24)
    assert [t for t, _ in stage.keys("near forearm")] == [0, 10]
    assert stage.seen("near forearm", [0, 10]) == pytest.approx([5, 30])
    stage.key(12, "near forearm", 20)  # and goes on being keyed
    assert stage.seen("near forearm", [12]) == pytest.approx([20])


def test_what_changes_a_scenes_length_leaves_poses_across_the_seam(orchard):
    stage = Stage(orchard, loop=True)
    for frame, value in ((0, 0), (20, 40)):
        stage.key(frame, "near forearm", value)
    mark_pose(stage.floor, stage.who, 34.0)
    delete_pose(stage.floor, poses_of(stage.floor, stage.who)[0].id)  # its beads too
    stage.floor.change("a bare mark", [Pose(id="m", scene_id=stage.floor.scene_id, instance_id=stage.who, time=34.0)])
    before = stage.seen("near forearm", [34])
    update_scene(stage.floor, frames=60)
    assert stage.seen("near forearm", [34]) == pytest.approx(before, abs=1e-4)


@pytest.mark.parametrize("loop", [True, False])
def test_a_walk_weighs_nothing_before_it_begins(orchard, loop):
    """Laid from 48, a walk moved frames 0 to 47 by 64 px."""
    stage = Stage(orchard, "Tamsin", loop=loop, frames=96)
    stage.key(0, "face", 4)
    frames = np.arange(96.0)
    before = stage.workspace.frames(stage.floor.scene_id, frames).matrices
    put_gait(stage.floor, stage.who, card_at(orchard, "plain"), 48.0, 95.0, True)
    after = stage.workspace.frames(stage.floor.scene_id, frames).matrices
    far = np.abs(after - before).reshape(96, -1).max(axis=1)
    assert far[:48].max() == 0 and far[50] > 1
    gait = stage.floor.scene.gaits[0]
    set_gait(stage.floor, gait.id, {"stands_before": True})
    assert np.abs(stage.workspace.frames(stage.floor.scene_id, frames).matrices - before)[0].max() > 1


def test_a_walk_that_ended_with_the_scene_can_go_on_when_that_grows(orchard):
    stage = Stage(orchard, "Tamsin", frames=48)
    gait = put_gait(stage.floor, stage.who, card_at(orchard, "plain"), 0.0, 47.0, True)
    before = stage.floor.scene
    update_scene(stage.floor, frames=72)
    assert ended_walks(before, stage.floor.scene) == [stage.floor.scene.gaits[0].id] and gait
    reach_scene_end(stage.floor, ended_walks(before, stage.floor.scene))
    assert stage.floor.scene.gaits[0].stop == 71


def test_phrases_without_an_end_are_asked_about_when_a_scene_grows_and_cut_ones_are_told(orchard):
    stage = Stage(orchard, "Tamsin", frames=96)
    use = put_phrase(stage.floor, stage.who, "breathe", 0.0).use
    once = course_of_use(stage.floor, find_use(stage.floor, use)).round
    for repeats in (0, 2):
        set_use(stage.floor, use, {"repeats": repeats})
        before = stage.floor.scene
        update_scene(stage.floor, frames=200)
        assert phrases_at_the_end(stage.floor, before) == ([use] if repeats == 0 else [], [])
        before = stage.floor.scene
        update_scene(stage.floor, frames=int(1.5 * once))
        assert phrases_at_the_end(stage.floor, before) == ([], [] if repeats == 0 else ["Breathe"])
        update_scene(stage.floor, frames=96)
    set_use(stage.floor, use, {"repeats": 0})
    update_scene(stage.floor, frames=200)
    end_phrases_by(stage.floor, [use], 95.0)
    assert find_use(stage.floor, use).repeats == math.ceil(95 / once)


def test_a_shorter_loop_tells_what_sleeps_and_what_went(orchard):
    stage = Stage(orchard, loop=True)
    for frame, value in ((0, 5), (24, 5), (36, 9)):
        stage.key(frame, "near forearm", value)
    before = stage.floor.scene
    update_scene(stage.floor, frames=24)
    said = told_length(before, stage.floor.scene)
    assert (
        said
        == "One key on the end went: a loop's end shows its start. One bead lies beyond the end, asleep until it is longer."
    )
    update_scene(stage.floor, frames=48)
    assert stage.seen("near forearm", [36]) == pytest.approx([9])  # it woke


@pytest.mark.parametrize(("kind", "fits"), [("there and back", 30), ("cycle", 24)])
def test_a_repeat_that_does_not_meet_the_loop_is_told_and_fitted(orchard, kind, fits):
    """There and back between 0 and 25, in a loop of 120: a jump from the last frame to the first."""
    stage = Stage(orchard, "Gander", loop=True, frames=120)
    pin = next(p for p in stage.puppet.pins if p.kind == "lead")
    slot = (stage.who, pin.id, "shift_x")
    set_course(stage.floor, {0.0: {slot: 0.0}, 25.0: {slot: 100.0}})
    repeat_channels(stage.floor, [slot[:2]], kind)
    rows = [r for r in seams_of(stage.floor) if r.fits]
    assert [(r.prop.name, r.fits) for r in rows] == [("shift_x", fits)] and abs(rows[0].jump) > 10
    longer = {"there and back": 100, "cycle": 125}[kind]  # as it is, it meets the end of a loop of that length
    assert rows[0].loop == longer
    update_scene(stage.floor, frames=longer)
    assert not [r for r in seams_of(stage.floor) if r.fits]
    update_scene(stage.floor, frames=120)
    jumping = [n for n in scene_notes(orchard, stage.floor.scene_id) if n.kind == "seam"]
    assert any(n.owner_id == pin.id for n in jumping)
    assert [(n.owner_id, n.said) for n in jumping] == [
        (r.channel.owner_id, f"{pin.name}, {r.prop.label}: {r.said}.") for r in seams_of(stage.floor)
    ]
    keys = stage.floor.scene.keys
    assert ease_seams(stage.floor, None, 12.0) == 1 and stage.floor.scene.keys == keys  # an offset, on top of the keys
    assert not [r for r in seams_of(stage.floor) if r.fits and abs(r.jump) > 0.2]
    take_step(orchard.store, stage.floor.scene_id, "undo")
    close_seams(stage.floor)
    assert not [r for r in seams_of(stage.floor) if r.fits]
    seen = stage.floor.values_at(np.array([0.0, 119.999, float(fits)]))[slot]
    assert seen[1] == pytest.approx(0 if kind == "there and back" else 100, abs=0.1)


def test_a_stay_holds_for_as_many_frames_as_are_typed(stage):
    stage.key(4, "near forearm", 30)
    stage.key(40, "near forearm", 0)
    node = stage.slot("near forearm")[:2]
    put_stays(stage.floor, [node], 20.0)
    assert hold_for(stage.floor, [Bead(*node, 20.0)], 10.0) == [Bead(*node, 14.0)]
    assert stage.seen("near forearm", [4, 14]) == pytest.approx([30, 30])
    assert stage.seen("near forearm", [20])[0] < 30
    with pytest.raises(InvalidInputError, match="next key"):
        hold_for(stage.floor, [Bead(*node, 14.0)], 36.0)
    with pytest.raises(InvalidInputError, match="is a stay"):
        hold_for(stage.floor, [Bead(*node, 40.0)], 3.0)


def test_clearing_a_whole_puppet_clears_all_of_it(orchard):
    stage = Stage(orchard, "Gander")
    pin = next(p for p in stage.puppet.pins if p.kind == "lead")
    for slot in (stage.slot("neck"), (stage.who, pin.id, "shift_x"), (stage.who, stage.puppet.parts[0].id, "opacity")):
        set_course(stage.floor, {0.0: {slot: 0.5}, 20.0: {slot: 0.8}})
    nodes = with_hangers(stage.floor.scene, orchard.cast(stage.floor.scene), [(stage.who, stage.who)])
    assert len(nodes) == len(set(nodes)) and clear_range(stage.floor, nodes, 0.0, 47.0) == 3
    assert not stage.floor.scene.channels
    below = with_hangers(stage.floor.scene, orchard.cast(stage.floor.scene), [(stage.who, stage.ids["neck"])])
    assert (stage.who, stage.ids["head"]) in below and (stage.who, stage.ids["tail"]) not in below


def test_of_a_pose_that_blocking_made_only_what_was_moved_can_be_kept(stage):
    for frame in (0, 20):
        key_whole_pose(stage.floor, stage.who, float(frame))
    before = len(stage.floor.scene.keys)
    assert block_pose(stage.floor, 10.0, {stage.slot("near forearm"): 30.0}) == [stage.who]
    assert block_pose(stage.floor, 10.0, {stage.slot("near forearm"): 35.0}) == []
    assert len(stage.floor.scene.poses) == 3
    keep_only_moved(stage.floor, stage.who, 10.0)
    assert len(stage.floor.scene.keys) == before + 1 and [p.time for p in stage.floor.scene.poses] == [0, 20]
    assert stage.seen("near forearm", [0, 10, 20]) == pytest.approx([0, 35, 0])


@pytest.mark.parametrize("loop", [True, False])
def test_a_hop_leaves_what_is_before_it(orchard, loop):
    """In a loop, planned on 40, it put frames 0 to 38 on the place where it lands."""
    stage = Stage(orchard, "Pip", loop=loop, frames=96)
    frames = np.arange(96.0)
    before = stage.workspace.frames(stage.floor.scene_id, frames).matrices
    stage.floor.word = "back"
    plan_hop(stage.floor, stage.who, 40.0, usual_hop(stage.floor, stage.who))
    far = np.abs(stage.workspace.frames(stage.floor.scene_id, frames).matrices - before).reshape(96, -1).max(axis=1)
    assert far[:40].max() < 1e-3 and far[60] > 5
