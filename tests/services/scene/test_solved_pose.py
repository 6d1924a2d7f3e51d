"""A pose is taken as it is seen: with limbs as they are planted or solved, by copying, the shelf and the opposite."""

import numpy as np
import pytest

from builders.acting import Cast
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
    made.floor.plant([made.limbs["near leg"]], 4.0)
    made.floor.lift([made.limbs["near leg"]], 12.0)
    return made


def angle(frames, bone, cast):
    matrix = frames.nodes[0, frames.node_keys.index(cast.node(bone))]
    return np.degrees(np.arctan2(matrix[1], matrix[0])) + cast.bones[bone].angle


def test_a_copied_pose_has_its_planted_leg_as_it_stood(cast):
    clip = cast.floor.copy_pose_of(cast.floor.whole(cast.who), 8.0)
    cast.floor.paste(clip, cast.who, 40.0)
    assert cast.whole(40.0) == pytest.approx(cast.whole(8.0), abs=0.01)
    shelf = cast.floor.save_pose(cast.floor.whole(cast.who), 8.0)
    cast.floor.apply_saved(shelf, cast.who, 30.0, (), 1.0)
    assert cast.whole(30.0) == pytest.approx(cast.whole(8.0), abs=0.01)
    mark = cast.floor.key_whole(cast.who, 8.0)
    cast.floor.copy_pose(mark, 46.0)
    assert cast.whole(46.0) == pytest.approx(cast.whole(8.0), abs=0.01)


def test_what_is_seen_on_twos_is_what_is_copied(cast):
    cast.floor.update_instance(cast.who, exposure=2)
    clip = cast.floor.copy_pose_of(cast.floor.whole(cast.who), 7.0)
    cast.floor.paste(clip, cast.who, 40.0)
    assert cast.whole(40.0) == pytest.approx(cast.whole(7.0), abs=0.01)


@pytest.mark.parametrize("share", [1.0, 0.5])
def test_a_pose_reaches_limbs_that_are_solved_from_their_tips(cast, share):
    clip = cast.floor.copy_pose_of(cast.floor.whole(cast.who), 0.0)
    arm = cast.limbs["near arm"]
    cast.floor.solve_from_tip([arm], 14.0, True)
    stood = angle(cast.at(30.0), "near upper arm", cast)
    other = angle(cast.at(0.0), "near upper arm", cast)
    cast.floor.paste(clip, cast.who, 30.0, share=share)
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
