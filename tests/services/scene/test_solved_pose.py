"""A pose is taken as it is seen: with limbs as they are planted or solved, by copying, the shelf and the opposite."""

import numpy as np
import pytest

from builders.acting import Cast
from gaitwire.services.scene.clips import apply_saved_pose, clip_of_pose, paste_clip, save_pose, whole_of
from gaitwire.services.scene.floor import update_instance
from gaitwire.services.scene.limb_tips import solve_from_tip
from gaitwire.services.scene.links import lift_limbs, plant_limbs
from gaitwire.services.scene.poses import copy_pose, key_whole_pose
from gaitwire.services.views.opposite import opposite


@pytest.fixture
def cast(orchard):
    made = Cast(orchard)
    for frame, turn in ((0, -40), (20, -70)):
        made.key(frame, "near upper arm", turn)
    made.key(0, "near forearm", -35)
    for frame, x in ((0, 0), (8, 36), (20, 0)):
        made.key(frame, "pelvis", x, "shift_x")
        made.key(frame, "pelvis", x / 3, "shift_y")
    plant_limbs(made.floor, [made.limbs["near leg"]], 4.0)
    lift_limbs(made.floor, [made.limbs["near leg"]], 12.0)
    return made


def angle(frames, bone, cast):
    matrix = frames.nodes[0, frames.node_keys.index(cast.node(bone))]
    return np.degrees(np.arctan2(matrix[1], matrix[0])) + cast.bones[bone].angle


def test_a_copied_pose_has_its_planted_leg_as_it_stood(cast):
    clip = clip_of_pose(cast.floor, whole_of(cast.floor, cast.who), 8.0)
    paste_clip(cast.floor, clip, cast.who, 40.0)
    assert cast.whole(40.0) == pytest.approx(cast.whole(8.0), abs=0.01)
    shelf = save_pose(cast.floor, whole_of(cast.floor, cast.who), 8.0)
    apply_saved_pose(cast.floor, shelf, cast.who, 30.0, (), 1.0)
    assert cast.whole(30.0) == pytest.approx(cast.whole(8.0), abs=0.01)
    mark = key_whole_pose(cast.floor, cast.who, 8.0)
    copy_pose(cast.floor, mark, 46.0)
    assert cast.whole(46.0) == pytest.approx(cast.whole(8.0), abs=0.01)


def test_what_is_seen_on_twos_is_what_is_copied(cast):
    update_instance(cast.floor, cast.who, exposure=2)
    clip = clip_of_pose(cast.floor, whole_of(cast.floor, cast.who), 7.0)
    paste_clip(cast.floor, clip, cast.who, 40.0)
    assert cast.whole(40.0) == pytest.approx(cast.whole(7.0), abs=0.01)


@pytest.mark.parametrize("share", [1.0, 0.5])
def test_a_pose_reaches_limbs_that_are_solved_from_their_tips(cast, share):
    clip = clip_of_pose(cast.floor, whole_of(cast.floor, cast.who), 0.0)
    arm = cast.limbs["near arm"]
    solve_from_tip(cast.floor, [arm], 14.0, True)
    stood = angle(cast.at(30.0), "near upper arm", cast)
    other = angle(cast.at(0.0), "near upper arm", cast)
    paste_clip(cast.floor, clip, cast.who, 30.0, share=share)
    assert angle(cast.at(30.0), "near upper arm", cast) == pytest.approx(stood + share * (other - stood), abs=0.5)
    if share == 1.0:
        assert cast.whole(30.0) == pytest.approx(cast.whole(0.0), abs=0.01)


def test_the_opposite_shows_the_planted_leg_mirrored_though_it_is_planted_here_too(cast):
    found = opposite(cast.floor, cast.who, 11.0, 4.0, 12.0)
    assert found.other == 7.0
    there = cast.at(7.0)
    for source, target in (("near thigh", "far thigh"), ("far thigh", "near thigh")):
        assert angle(found.frames, target, cast) == pytest.approx(angle(there, source, cast), abs=0.01)
    assert abs(angle(there, "near thigh", cast) - angle(there, "far thigh", cast)) > 5
