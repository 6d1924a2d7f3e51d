"""Poses and beads copied and pasted: shares, sides, regions, other bones, puppets and scenes; the pose shelf."""

import numpy as np
import pytest

from builders.acting import Alone
from gaitwire.core.addresses import Bead
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.timing.clip import value_there
from gaitwire.services.output.stills import pose_still
from gaitwire.services.scene.beads import ease_beads
from gaitwire.services.scene.clips import (
    apply_saved_pose,
    clip_of_beads,
    clip_of_pose,
    mirror_pose,
    paste_clip,
    read_clip,
    remove_saved_pose,
    rename_saved_pose,
    save_pose,
    saved_poses,
    start_with_pose,
    whole_of,
)
from gaitwire.services.scene.found_poses import mark_pose, poses_of
from gaitwire.services.scene.posing import set_values
from gaitwire.store.history import take_step


class Cast(Alone):
    """Tamsin in a scene of her own, by the names of her bones."""

    def __init__(self, workspace, puppet="Tamsin"):
        super().__init__(workspace, puppet)
        self.puppet_id = self.puppet.id
        self.parts = {p.name: p for p in self.puppet.parts}

    def key(self, frame, prop="turn", **values):
        named = {name.replace("_", " "): v for name, v in values.items()}
        set_values(self.floor, frame, {(*self.node(bone), prop): v for bone, v in named.items()})

    def value(self, bone, frame, prop="turn"):
        return float(self.floor.values_at(np.array([float(frame)]))[(*self.node(bone), prop)][0])

    def aim(self, bone, frame):
        """Where a bone points from its parent, in degrees."""
        return self.bones[bone].angle + self.value(bone, frame)


@pytest.fixture
def cast(orchard):
    return Cast(orchard)


def test_a_pose_is_pasted_whole_or_a_share_of_it_or_beyond(cast):
    cast.key(0, chest=10, near_thigh=-20)
    cast.key(0, "stretch", chest=1.2)
    clip = clip_of_pose(cast.floor, whole_of(cast.floor, cast.who), 0)
    cast.key(20, chest=0, near_thigh=0)
    cast.key(20, "stretch", chest=1.0)
    paste_clip(cast.floor, clip, cast.who, 20, share=0.5)
    assert (cast.value("chest", 20), cast.value("near thigh", 20)) == pytest.approx((5, -10))
    assert cast.value("chest", 20, "stretch") == pytest.approx(1.1)
    take_step(cast.workspace.store, cast.floor.scene_id, "undo")
    paste_clip(cast.floor, clip, cast.who, 20, share=1.5)
    assert (cast.value("chest", 20), cast.value("near thigh", 20)) == pytest.approx((15, -30))


def test_only_what_is_chosen_takes_the_pose(cast):
    cast.key(0, chest=10, near_thigh=-20)
    clip = clip_of_pose(cast.floor, whole_of(cast.floor, cast.who), 0)
    cast.key(20, chest=0, near_thigh=0)
    paste_clip(cast.floor, clip, cast.who, 20, chosen=[cast.node("chest")])
    assert (cast.value("chest", 20), cast.value("near thigh", 20)) == pytest.approx((10, 0))


def test_near_and_far_trade_places_so_that_the_picture_does(cast):
    cast.key(0, near_thigh=-25, near_shin=30, far_thigh=12, far_shin=5, chest=4)
    mirror_pose(cast.floor, whole_of(cast.floor, cast.who), 0, "sides")
    for near, far, was_near, was_far in (("near thigh", "far thigh", -25, 12), ("near shin", "far shin", 30, 5)):
        assert cast.aim(far, 0) == pytest.approx(cast.bones[near].angle + was_near)
        assert cast.aim(near, 0) == pytest.approx(cast.bones[far].angle + was_far)
    assert cast.value("chest", 0) == pytest.approx(4)


def test_turned_over_twice_it_is_as_it_was(cast):
    cast.key(0, near_upper_arm=33, far_upper_arm=-14, near_foot=8, face=3)
    names = ("near upper arm", "far upper arm", "near foot", "far foot", "face")
    before = [cast.value(n, 0) for n in names]
    for way in ("sides", "sides", "across", "across"):
        mirror_pose(cast.floor, whole_of(cast.floor, cast.who), 0, way)
    assert [cast.value(n, 0) for n in names] == pytest.approx(before, abs=1e-5)


@pytest.mark.parametrize(("angle", "there"), [(90.0, 90.0), (80.0, 100.0), (-90.0, -90.0), (170.0, 10.0)])
def test_a_reflected_bone_points_to_the_reflected_side(angle, there):
    turn = value_there("turn", 25.0, angle, there, "across")
    way, back = np.radians(angle + 25.0), np.radians(there + turn)
    assert (np.cos(back), np.sin(back)) == pytest.approx((-np.cos(way), np.sin(way)))
    assert abs(turn) < 180


def test_beads_go_to_another_bone_another_puppet_and_another_scene(cast):
    for frame, turn in ((4, 10), (8, -10), (12, 0)):
        cast.key(frame, near_upper_arm=turn)
    ease_beads(cast.floor, [Bead(*cast.node("near upper arm"), 4.0)], "back-out")
    clip = clip_of_beads(cast.floor, [Bead(*cast.node("near upper arm"), float(t)) for t in (4, 8, 12)])
    paste_clip(cast.floor, clip, cast.who, 20, chosen=[cast.node("plait")])
    assert [cast.value("plait", t) for t in (20, 24, 28)] == pytest.approx([10, -10, 0])
    other = Cast(cast.workspace, "Gander")
    with pytest.raises(InvalidInputError, match="answers"):
        paste_clip(other.floor, clip, other.who, 0)
    paste_clip(other.floor, clip, other.who, 0, chosen=[other.node("tail")])
    keys = other.floor.scene.keys
    first = min(keys, key=lambda k: k.time)
    assert (first.time, first.value, first.ease) == (0, 10, "back-out")
    with pytest.raises(InvalidInputError, match="as many bones"):
        paste_clip(other.floor, clip, other.who, 0, chosen=[other.node("tail"), other.node("wing")])


def test_what_has_no_counterpart_is_told(cast):
    cast.key(0, near_thigh=5, apron=4, chest=3)
    clip = clip_of_pose(cast.floor, [cast.node("near thigh"), cast.node("apron"), cast.node("chest")], 0)
    stook = Cast(cast.workspace, "Stook")
    found = paste_clip(stook.floor, clip, stook.who, 0)
    assert found.unmatched == ["apron"] and found.nodes


def test_drawings_go_with_the_bones_that_carry_them(cast):
    hand = cast.parts["near hand"]
    numbers = {d.name: d.number for d in cast.workspace.puppet(cast.puppet_id).drawings(hand)}
    set_values(cast.floor, 0, {(cast.who, hand.id, "drawing"): numbers["open"]})
    clip = clip_of_pose(cast.floor, [(cast.who, hand.bone_id)], 0)
    set_values(cast.floor, 20, {(cast.who, hand.id, "drawing"): 0})
    paste_clip(cast.floor, clip, cast.who, 30)
    shown = cast.floor.values_at(np.array([25.0, 30.0]))[cast.who, hand.id, "drawing"]
    assert shown.tolist() == [0, numbers["open"]]


def test_a_pose_is_saved_pictured_applied_in_another_scene_renamed_and_taken_away(cast):
    cast.key(0, near_upper_arm=-120, chest=6)
    made = save_pose(cast.floor, whole_of(cast.floor, cast.who), 0, "reaches up")
    assert pose_still(cast.workspace, made, (64, 64))[:8] == b"\x89PNG\r\n\x1a\n"
    other = Cast(cast.workspace)
    apply_saved_pose(other.floor, made, other.who, 5, [], 0.5)
    assert other.value("near upper arm", 5) == pytest.approx(-60)
    rename_saved_pose(cast.floor, made, "reaches")
    assert [p.name for p in saved_poses(cast.workspace.store, cast.puppet_id)] == ["reaches"]
    remove_saved_pose(cast.floor, made)
    assert saved_poses(cast.workspace.store, cast.puppet_id) == []
    take_step(cast.workspace.store, cast.floor.scene_id, "undo")
    assert [p.name for p in saved_poses(cast.workspace.store, cast.puppet_id)] == ["reaches"]


@pytest.mark.parametrize("text", ["", "{}", "[1]", '{"rows": [{"property": "turn"}]}'])
def test_what_is_no_clip_is_refused(text):
    with pytest.raises(InvalidInputError, match="nothing to paste"):
        read_clip(text)


def test_a_puppet_starts_in_the_pose_that_says_so_wherever_it_is_brought_in(cast):
    cast.key(8, near_upper_arm=-90, chest=4)
    first = save_pose(cast.floor, whole_of(cast.floor, cast.who), 8, "reaches")
    cast.key(8, chest=20)
    second = save_pose(cast.floor, whole_of(cast.floor, cast.who), 8, "stoops")
    for pose in (first, second):
        start_with_pose(cast.floor, pose, True)
    assert [p.name for p in saved_poses(cast.workspace.store, cast.puppet_id) if p.starting] == ["stoops"]
    other = Cast(cast.workspace)
    assert (other.value("chest", 0), other.value("near upper arm", 0)) == pytest.approx((20, -90))
    assert [(p.time, p.name) for p in poses_of(other.floor, other.who)] == [(0, "stoops")]
    take_step(cast.workspace.store, other.floor.scene_id, "undo")
    assert other.floor.scene.instances == () and other.floor.scene.keys == ()
    start_with_pose(cast.floor, second, False)
    assert Cast(cast.workspace).floor.scene.keys == ()


def test_pasting_in_the_blocking_view_keys_the_whole_pose_that_stands_there(cast):
    floor = cast.floor
    cast.key(0, chest=0, near_thigh=10)
    cast.key(20, chest=40, near_thigh=50)
    for time in (0, 20):
        mark_pose(floor, cast.who, time)
    clip = clip_of_pose(floor, [cast.node("near upper arm")], 0)
    paste_clip(floor, clip, cast.who, 10, blocking=True)
    # Nothing of what lies between the poses: the pose of frame 0 stands until 20.
    assert (cast.value("chest", 10), cast.value("near thigh", 10)) == pytest.approx((0, 10))
    assert [p.time for p in poses_of(floor, cast.who)] == [0, 10, 20]
    take_step(cast.workspace.store, floor.scene_id, "undo")
    paste_clip(floor, clip, cast.who, 10)
    assert cast.value("chest", 10) == pytest.approx(20)
