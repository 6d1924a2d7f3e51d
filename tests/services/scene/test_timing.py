"""Poses, stays, repeats, offsets and beads of a stored scene: what each gesture writes, and that one undo takes it back."""

import numpy as np
import pytest

from builders.acting import Alone
from gaitwire.core.addresses import Bead
from gaitwire.core.errors import InvalidInputError, LockedError, UnansweredError
from gaitwire.services.library.bringing_in import bring_in
from gaitwire.services.scene.beads import (
    amplify_beads,
    clear_range,
    ease_beads,
    reverse_beads,
    scale_beads,
    shape_beads,
    stagger_beads,
)
from gaitwire.services.scene.clips import clip_of_beads, clip_of_pose, paste_clip
from gaitwire.services.scene.creep import creeps_of
from gaitwire.services.scene.floor import add_puppet, key_end, make_scene, update_instance, update_scene
from gaitwire.services.scene.found_poses import find_pose, mark_found_poses, poses_of
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.hops import plan_hop, usual_hop
from gaitwire.services.scene.poses import (
    break_down,
    copy_pose_to_end,
    delete_pose,
    key_whole_pose,
    move_pose,
    pose_durations,
    read_duration,
    set_duration,
)
from gaitwire.services.scene.posing import set_course, set_values
from gaitwire.services.scene.rides import PointerPlace, record_ride
from gaitwire.services.scene.scene_length import cut_through
from gaitwire.services.scene.timing import (
    close_seams,
    hold_creeps,
    move_marker,
    put_marker,
    put_offsets,
    put_stays,
    remove_marker,
    remove_offset,
    repeat_channels,
    seams_of,
    set_offset,
    thin_wires,
)
from gaitwire.services.scene.visibility import show_only, shown_spans
from gaitwire.services.views.wires import wire_order


class Stage(Alone):
    """Pip alone in a scene, keyed by the names of his bones."""

    def __init__(self, workspace, **settings):
        super().__init__(workspace, "Pip", **settings)

    def key(self, frame, chosen=None, **turns):
        values = {(*self.node(bone), "turn"): v for bone, v in turns.items()}
        set_values(self.floor, frame, values, chosen=None if chosen is None else [self.node(b) for b in chosen])

    def times(self, bone):
        return [k.time for k in self.keys(bone)]

    def bead(self, bone, time):
        return Bead(*self.node(bone), float(time))


@pytest.fixture
def stage(orchard):
    return Stage(orchard)


def test_a_stay_holds_what_is_picked_and_makes_no_other_keys(stage):
    stage.key(0, stem=0, leaf=0)
    stage.key(20, stem=30, leaf=30)
    before = stage.keys("leaf")
    assert put_stays(stage.floor, [stage.node("stem")], 12) == 1
    assert stage.seen("stem", [0, 6, 12]) == pytest.approx([0, 0, 0])
    assert stage.seen("stem", [16])[0] == pytest.approx(15)
    assert stage.keys("leaf") == before
    stage.undo()
    assert stage.times("stem") == [0, 20]
    with pytest.raises(InvalidInputError, match="held"):
        put_stays(stage.floor, [stage.node("stem")], 20)


def test_with_a_move_length_a_new_key_starts_its_bone_late(stage):
    stage.key(0, stem=0)
    update_scene(stage.floor, move_length=4)
    stage.key(24, stem=40)
    assert stage.seen("stem", [0, 10, 20]) == pytest.approx([0, 0, 0])
    assert stage.seen("stem", [22, 24]) == pytest.approx([20, 40])
    stage.key(26, stem=50)  # near enough: no stay between
    assert [(k.time, k.stay) for k in stage.keys("stem")] == [(0, False), (20, True), (24, False), (26, False)]


def test_what_nobody_chose_creeps_until_it_is_held(stage):
    update_scene(stage.floor, creep=10, move_length=0)
    stage.key(0, stem=0, leaf=0)
    stage.key(30, chosen=["stem"], stem=20, leaf=9)
    (creep,) = creeps_of(stage.floor.scene)
    assert (creep.channel.owner_id, creep.start, creep.end) == (stage.ids["leaf"], 0, 30)
    assert hold_creeps(stage.floor) == 1
    assert stage.seen("leaf", [0, 12, 20, 30]) == pytest.approx([0, 0, 0, 9])
    assert creeps_of(stage.floor.scene) == []


def test_thinning_tells_the_greatest_error(stage):
    for frame, turn in ((0, 0), (10, 10.3), (20, 20), (30, 20), (40, 20)):
        stage.key(frame, stem=turn)
    ease_beads(stage.floor, [stage.bead("stem", t) for t in (0, 10, 20, 30)], "linear")
    assert thin_wires(stage.floor, [stage.node("stem")], 0.0)[:2] == (2, 0.0)  # those on the flat
    found = thin_wires(stage.floor, [stage.node("stem")], 0.5)
    assert (found.keys, found.prop) == (1, "° of turn")
    assert found.error == pytest.approx(0.3)
    assert stage.times("stem") == [0, 20]


def test_a_pose_is_retimed_and_all_between_moves_in_proportion(stage):
    for frame in (0, 12, 24):
        stage.key(frame, stem=frame)
        key_whole_pose(stage.floor, stage.who, frame)
    stage.key(4, leaf=9)
    stage.key(18, leaf=3)
    middle = poses_of(stage.floor, stage.who)[1]
    move_pose(stage.floor, middle.id, 18)
    assert [p.time for p in poses_of(stage.floor, stage.who)] == [0, 18, 24]
    assert stage.times("stem") == [0, 18, 24]
    assert stage.times("leaf") == [0, 6, 18, 21, 24]
    stage.undo()
    assert [p.time for p in poses_of(stage.floor, stage.who)] == [0, 12, 24]
    with pytest.raises(InvalidInputError, match="past another"):
        move_pose(stage.floor, middle.id, 24)


def test_on_a_loop_the_first_pose_is_retimed_across_the_seam(orchard):
    stage = Stage(orchard, loop=True)
    for frame in (0, 24):
        stage.key(frame, stem=frame)
        key_whole_pose(stage.floor, stage.who, frame)
    stage.key(36, leaf=9)
    move_pose(stage.floor, poses_of(stage.floor, stage.who)[0].id, -8)  # 24 frames before it become 16
    assert [p.time for p in poses_of(stage.floor, stage.who)] == [24, 40]
    assert stage.times("leaf") == [24, 32, 40]


def test_a_duration_moves_all_that_follows_and_the_scene_grows(stage):
    for frame in (0, 12, 24):
        stage.key(frame, stem=frame)
        key_whole_pose(stage.floor, stage.who, frame)
    first, second, third = poses_of(stage.floor, stage.who)
    assert list(pose_durations(stage.floor, stage.who).values()) == [12, 12, 24]
    assert set_duration(stage.floor, second.id, read_duration("750 ms", 24)) == 54
    assert stage.times("stem") == [0, 12, 30]
    assert pose_durations(stage.floor, stage.who) == {first.id: 12, second.id: 18, third.id: 24}


@pytest.mark.parametrize(
    ("text", "frames"), [("12", 12), (" 7 f", 7), ("500ms", 12), ("0.5 s", 12), ("1,25s", 30), ("3 frames", 3)]
)
def test_durations_are_read_as_people_type_them(text, frames):
    assert read_duration(text, 24.0) == frames


@pytest.mark.parametrize("text", ["", "soon", "-4", "0", "12 hours"])
def test_what_is_no_duration_is_refused(text):
    with pytest.raises(InvalidInputError):
        read_duration(text, 24.0)


def test_a_breakdown_lies_a_share_of_the_way_and_a_copy_is_the_pose_again(stage):
    stage.key(0, stem=0, leaf=10)
    stage.key(16, stem=40, leaf=-10)
    first, second = (find_pose(stage.floor, key_whole_pose(stage.floor, stage.who, f)) for f in (0, 16))
    broken = find_pose(stage.floor, break_down(stage.floor, first.id, 0.25))
    assert (broken.time, broken.kind) == (8, "breakdown")
    assert (stage.seen("stem", [8])[0], stage.seen("leaf", [8])[0]) == pytest.approx((10, 5))
    again = find_pose(stage.floor, copy_pose_to_end(stage.floor, first.id))
    assert again.time == 47
    assert stage.seen("stem", [47])[0] == pytest.approx(0)
    delete_pose(stage.floor, broken.id)
    assert stage.times("stem") == [0, 16, 47]
    delete_pose(stage.floor, second.id, with_keys=False)
    assert stage.times("stem") == [0, 16, 47]
    with pytest.raises(InvalidInputError, match="no pose after"):
        break_down(stage.floor, again.id, 0.5)


def test_poses_are_found_where_most_of_what_is_keyed_has_a_bead(stage):
    for frame in (0, 10, 20):
        stage.key(frame, stem=1, leaf=2, mouth=3)
    stage.key(15, stem=4)
    assert mark_found_poses(stage.floor, stage.who) == 3
    assert [p.time for p in poses_of(stage.floor, stage.who)] == [0, 10, 20]


def test_the_loop_of_a_channel_is_set_and_taken_away(stage):
    for frame, turn in ((0, 0), (4, 8), (8, 0)):
        stage.key(frame, leaf=turn)
    ease_beads(stage.floor, [stage.bead("leaf", t) for t in (0, 4)], "linear")
    assert repeat_channels(stage.floor, [stage.node("leaf")], "cycle") == 1
    assert stage.seen("leaf", [2, 10, 20, 44]) == pytest.approx([4, 4, 8, 8])
    repeat_channels(stage.floor, [stage.node("leaf")], "")
    assert stage.seen("leaf", [10])[0] == pytest.approx(0)
    with pytest.raises(InvalidInputError, match="ends after"):
        repeat_channels(stage.floor, [stage.node("leaf")], "cycle", 8, 4)


def test_a_value_keyed_under_an_offset_is_what_is_seen(stage):
    stage.key(0, stem=10)
    values = {"property": "turn", "start": 4, "stop": 20}
    (made,) = put_offsets(stage.floor, [stage.node("stem")], {**values, "amount": 5, "soft_in": 4})
    assert stage.seen("stem", [0, 6, 10]) == pytest.approx([10, 12.5, 15])
    stage.key(10, stem=40)
    assert stage.seen("stem", [10])[0] == pytest.approx(40)
    assert stage.keys("stem")[-1].value == pytest.approx(35)
    set_offset(stage.floor, made, {"amount": -5})
    assert stage.seen("stem", [10])[0] == pytest.approx(30)
    remove_offset(stage.floor, made)
    assert stage.seen("stem", [10])[0] == pytest.approx(35)
    with pytest.raises(InvalidInputError, match="soft ends"):
        put_offsets(stage.floor, [stage.node("stem")], {**values, "amount": 5, "soft_in": 40})


def test_on_twos_a_key_goes_where_its_picture_shows(stage):
    update_instance(stage.floor, stage.who, exposure=2)
    stage.key(7, stem=12)
    assert stage.times("stem") == [0, 6]
    stage.key(20, stem=0)
    assert find_pose(stage.floor, key_whole_pose(stage.floor, stage.who, 13)).time == 12
    assert stage.times("stem") == [0, 6, 12, 20]


def test_beads_are_scaled_turned_round_and_staggered(stage):
    for bone in ("leaf", "stem", "mouth"):
        slot = (*stage.node(bone), "turn")
        set_course(stage.floor, {4: {slot: 1}, 6: {slot: 2}, 12: {slot: 3}})
    row = [stage.bead("stem", t) for t in (4, 6, 12)]
    row = scale_beads(stage.floor, row, 2.0, 4.0)
    assert [b.time for b in row] == stage.times("stem") == [4, 8, 20]
    row = reverse_beads(stage.floor, row)
    assert sorted(b.time for b in row) == stage.times("stem") == [4, 16, 20]
    assert [k.value for k in stage.keys("stem")] == [3, 2, 1]
    beads = [stage.bead(bone, t) for bone in ("stem", "leaf", "mouth") for t in stage.times(bone)]
    floor = stage.floor
    stagger_beads(floor, beads, 3, wire_order(floor.scene, floor.workspace.cast(floor.scene)))
    order = [stage.times(b)[0] - 4 for b in ("eyes", "mouth", "stem", "leaf") if stage.times(b)]
    assert sorted(order) == [0, 3, 6]


def test_a_range_is_cleared_and_a_channel_left_without_a_key_of_its_own_goes(stage):
    for frame in (0, 10, 20):
        stage.key(frame, stem=frame)
    put_stays(stage.floor, [stage.node("stem")], 15)
    clear_range(stage.floor, [stage.node("stem")], 5, 12)
    assert stage.times("stem") == [0, 15, 20]
    clear_range(stage.floor, [stage.node("stem")], 16, 0)
    assert stage.times("stem") == [20]
    clear_range(stage.floor, [stage.node("stem")], 0, 48)
    assert not stage.floor.scene.channels


def test_markers_are_named_moved_and_taken_away(stage):
    put_marker(stage.floor, 12, "  the look ")
    put_marker(stage.floor, 12, "the turn")
    put_marker(stage.floor, 20, "rest")
    first, second = stage.floor.scene.markers
    assert (first.name, second.name) == ("the turn", "rest")
    move_marker(stage.floor, second.id, 12)
    assert [(m.time, m.name) for m in stage.floor.scene.markers] == [(12, "rest")]
    remove_marker(stage.floor, second.id)
    assert stage.floor.scene.markers == ()


def test_what_is_locked_is_neither_held_nor_retimed(stage):
    for frame in (0, 12):
        stage.key(frame, stem=frame)
        key_whole_pose(stage.floor, stage.who, frame)
    update_instance(stage.floor, stage.who, locked=True)
    with pytest.raises(LockedError):
        put_stays(stage.floor, [stage.node("stem")], 6)
    with pytest.raises(LockedError):
        move_pose(stage.floor, poses_of(stage.floor, stage.who)[1].id, 20)


def test_the_easing_after_a_stay_is_that_of_the_bead_it_holds(stage):
    stage.key(0, stem=0)
    stage.key(20, stem=20)
    put_stays(stage.floor, [stage.node("stem")], 10)
    ease_beads(stage.floor, [stage.bead("stem", 0)], "linear")
    assert stage.seen("stem", [10, 15, 20]) == pytest.approx([0, 10, 20])


def test_a_part_is_shown_on_chosen_frames_only(stage):
    puppet = stage.workspace.puppet(stage.floor.instance(stage.who).puppet_id)
    leaf = next(p for p in puppet.parts if p.bone_id == stage.ids["leaf"])
    show_only(stage.floor, [(stage.who, leaf.id)], [(10, 12), (30, 30)])
    frames = stage.workspace.frames(stage.floor.scene_id, np.arange(48.0))
    seen = frames.opacity[:, frames.part_keys.index((stage.who, leaf.id))] > 0
    assert np.flatnonzero(seen).tolist() == [10, 11, 12, 30]
    assert shown_spans(stage.floor, (stage.who, leaf.id)) == ((10, 12), (30, 30))
    show_only(stage.floor, [(stage.who, leaf.id)], [(47, 0)])
    assert (stage.workspace.frames(stage.floor.scene_id, np.arange(48.0)).opacity > 0).all()
    show_only(stage.floor, [stage.node("leaf")], [(1, 2)])  # a bone: what it carries
    assert shown_spans(stage.floor, (stage.who, leaf.id)) == ((1, 2),)
    with pytest.raises(InvalidInputError, match="No frames"):
        show_only(stage.floor, [stage.node("leaf")], [])


def test_seams_are_told_and_closed_for_the_scene_or_for_what_is_chosen(stage):
    for frame, turn in ((0, 0), (20, 30), (40, 12)):
        stage.key(frame, stem=turn, leaf=-turn)
    assert seams_of(stage.floor) == []  # a shot's end meets nothing
    rows = seams_of(stage.floor, ends=True)
    assert {(r.channel.owner_id, round(r.jump)) for r in rows} == {
        (stage.ids["stem"], -12),
        (stage.ids["leaf"], 12),
    }
    assert close_seams(stage.floor, [stage.node("stem")]) == 1
    assert [r.channel.owner_id for r in seams_of(stage.floor, ends=True)] == [stage.ids["leaf"]]
    assert stage.seen("stem", [0, 20, 40, 48]) == pytest.approx([0, 30, 12, 0])
    with pytest.raises(InvalidInputError, match="no seam"):
        close_seams(stage.floor, [stage.node("stem")])
    repeat_channels(stage.floor, [stage.node("leaf")], "there and back")
    assert seams_of(stage.floor, ends=True) == []


def test_a_first_pose_is_keyed_though_nothing_was_yet_and_no_bone_has_a_length(workspace):
    art = b"""<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 90 90"><g id="post"><g id="flag">
      <rect x="40" y="5" width="40" height="20"/></g><g id="pole"><rect x="36" y="5" width="4" height="80"/></g></g></svg>"""
    made = bring_in(workspace, art, "flag.svg")
    floor = Floor(workspace, make_scene(workspace, "Trial"))
    who = add_puppet(floor, made.puppet_id)
    pose = find_pose(floor, key_whole_pose(floor, who, 0))
    assert {(k.time, k.value) for k in floor.scene.keys} == {(0, 0)}
    assert pose.time == 0 and len(floor.scene.channels) == len(workspace.puppet(made.puppet_id).bones)


@pytest.mark.parametrize("kind", ["cycle", "there and back"])
def test_a_key_in_a_later_round_asks_whether_repeating_ends_there(stage, kind):
    for frame, turn in ((0, 0), (6, 20), (12, 0 if kind == "cycle" else 8)):
        stage.key(frame, stem=turn)
    repeat_channels(stage.floor, [stage.node("stem")], kind)
    before = stage.seen("stem", range(48))
    with pytest.raises(UnansweredError) as asked:
        stage.key(30, stem=45)
    assert set(asked.value.answers) == {"end", "every"} and stage.times("stem") == [0, 6, 12]
    stage.floor.word = "end"
    stage.key(30, stem=45)
    after = stage.seen("stem", range(48))
    last = max(t for t in stage.times("stem") if t < 30)
    assert after[: int(last) + 1] == pytest.approx(before[: int(last) + 1], abs=1e-4) and last >= 24
    assert after[30] == 45 and set(after[30:].tolist()) == {45.0}
    stage.undo()
    stage.floor.word = "every"
    stage.key(30, stem=45)
    after = stage.seen("stem", range(48))
    assert [after[6], after[18], after[30], after[42]] == pytest.approx([45] * 4) and len(stage.times("stem")) == 3
    stage.floor.word = ""
    stage.key(3, stem=5)  # within its stretch nothing is asked


def test_pasting_riding_and_hopping_into_a_later_round_ask_too(stage):
    for frame, turn in ((0, 0), (6, 20), (12, 0)):
        stage.key(frame, stem=turn)
    seat = (stage.who, stage.who)
    set_course(stage.floor, {0.0: {(*seat, "shift_x"): 0.0}, 8.0: {(*seat, "shift_x"): 10.0}})
    repeat_channels(stage.floor, [stage.node("stem")], "cycle")
    repeat_channels(stage.floor, [seat], "there and back")
    clip = clip_of_beads(stage.floor, [stage.bead("stem", t) for t in (0, 6, 12)])
    pose = clip_of_pose(stage.floor, [stage.node("stem")], 3.0)
    places = [PointerPlace(20.0 + n, 400.0 + 3 * n, 300.0) for n in range(8)]
    hop = usual_hop(stage.floor, stage.who).model_copy(update={"distance": 0.0, "height": 40.0})
    before, ways = stage.seen("stem", range(20)), stage.floor.values_at(np.arange(20.0))[(*seat, "shift_x")]
    for work in (
        lambda: paste_clip(stage.floor, clip, stage.who, 20),
        lambda: paste_clip(stage.floor, pose, stage.who, 20),
        lambda: record_ride(stage.floor, "shift", [seat], (400.0, 300.0), places),
        lambda: plan_hop(stage.floor, stage.who, 20.0, hop),
    ):
        stage.floor.word = "stop"
        with pytest.raises(UnansweredError, match="later round"):
            work()
        stage.floor.word = "end stop"
        work()
        assert stage.seen("stem", range(20)) == pytest.approx(before, abs=1e-4)
        assert stage.floor.values_at(np.arange(20.0))[(*seat, "shift_x")] == pytest.approx(ways, abs=1e-3)
        stage.undo()


def test_beads_are_drawn_out_in_value_or_turned_to_the_other_side(stage):
    for frame, turn in ((0, 10), (6, 30), (12, -10)):
        stage.key(frame, stem=turn, leaf=turn)
    set_values(stage.floor, 6.0, {(*stage.node("leaf"), "stretch"): 2.0})
    shape_beads(stage.floor, [stage.bead("stem", 6)], (0.2, 0.7, 0.6, 1.4))
    before = stage.seen("stem", range(13))
    beads = [stage.bead(bone, t) for bone in ("stem", "leaf") for t in (0, 6, 12)]
    amplify_beads(stage.floor, beads, -1.0)
    assert stage.seen("stem", range(13)) == pytest.approx(-before, abs=1e-4)  # its curve bends the other way too
    assert stage.floor.values_at(np.array([6.0]))[(*stage.node("leaf"), "stretch")][0] == pytest.approx(0.5)
    stage.undo()
    amplify_beads(stage.floor, beads[:3], 2.0, about_first=True)
    assert stage.seen("stem", range(13)) == pytest.approx(10 + 2 * (before - 10), abs=1e-4)
    stage.undo()
    amplify_beads(stage.floor, beads[1:2], 0.5)  # one alone: the ways to it and from it keep their shapes
    half = stage.seen("stem", range(13))
    assert half[[0, 6, 12]] == pytest.approx([10, 15, -10])
    shares = (before[6:] - before[6]) / (before[12] - before[6])
    assert (half[6:] - half[6]) / (half[12] - half[6]) == pytest.approx(shares, abs=1e-4)
    with pytest.raises(InvalidInputError, match="scaled by up to"):
        amplify_beads(stage.floor, beads, 1e6)


def test_a_shot_cut_in_the_middle_of_a_movement_can_be_keyed_as_it_ends(stage):
    for frame, turn in ((0, 0), (20, 40), (40, -30)):
        stage.key(frame, stem=turn)
    before = stage.seen("stem", range(31))
    long = stage.floor.scene
    update_scene(stage.floor, frames=31)
    assert cut_through(long, stage.floor.scene)
    assert key_end(stage.floor) == 1 and 30 in stage.times("stem")
    assert stage.seen("stem", range(31)) == pytest.approx(before, abs=1e-4)
    assert not cut_through(long, stage.floor.scene)
    with pytest.raises(InvalidInputError, match="goes on beyond"):
        key_end(stage.floor)
