"""BVH files: what a skeleton's joints are and where, which legs it has, and what is refused."""

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from builders.making_bvh import bvh_text
from gaitwire.core.errors import GaitWireError, InvalidInputError
from gaitwire.core.walk.captured import leg_markers
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.core.walk.measures import measured
from gaitwire.core.walk.recorded import IN_JOINTS, recorded_legs, recorded_walk
from gaitwire.core.walk.stride import Stride
from gaitwire.formats.bvh import read_bvh

ARM = """HIERARCHY
ROOT base
{
  OFFSET 1 2 3
  CHANNELS 6 Xposition Yposition Zposition Zrotation Xrotation Yrotation
  JOINT elbow
  {
    OFFSET 0 10 0
    CHANNELS 3 Yrotation Zrotation Xrotation
    End Site
    {
      OFFSET 0 5 0
    }
  }
}
MOTION
Frames: 2
Frame Time: 0.04
0 0 0 0 0 0 0 0 0
4 5 6 90 20 30 40 50 60
"""


def test_joints_lie_where_turns_in_the_listed_order_put_them():
    motion = read_bvh(ARM.encode())
    assert [(j.name, j.parent) for j in motion.joints] == [("base", -1), ("elbow", 0), ("Site", 1)]
    places = motion.places()
    assert places[:, 0].tolist() == [[1, 2, 3], [1, 12, 3], [1, 17, 3]]
    base = Rotation.from_euler("ZXY", [90, 20, 30], degrees=True)
    elbow = base * Rotation.from_euler("YZX", [40, 50, 60], degrees=True)
    assert places[0, 1] == pytest.approx([5, 7, 9])
    assert places[1, 1] == pytest.approx(np.array([5, 7, 9]) + base.apply([0, 10, 0]))
    assert places[2, 1] == pytest.approx(places[1, 1] + elbow.apply([0, 5, 0]))


@pytest.mark.parametrize("in_place", [False, True])
def test_the_legs_of_a_captured_walk_have_the_angles_it_was_made_with(in_place):
    stride = Stride(CHARACTERS["brisk"])
    motion = read_bvh(bvh_text(stride, in_place=in_place).encode())
    legs = leg_markers([j.name for j in motion.joints], [j.parent for j in motion.joints], motion.places())
    assert len(legs) == 2
    walk = recorded_legs(legs, 1 / motion.frame_time, IN_JOINTS)
    assert walk.strides >= 4 and walk.seconds == pytest.approx(stride.card.frames / 24, rel=0.03)
    assert 100 * walk.stance_share == pytest.approx(measured(stride).stance_share, abs=5)
    assert walk.stride == pytest.approx(0 if in_place else stride.length, abs=0.05)
    one = recorded_walk(legs[0], 1 / motion.frame_time)
    for joint in ("hip", "knee", "ankle"):  # the knee's greatest bend comes within a hundredth of the stride
        assert np.ptp(one.curves[joint]) == pytest.approx(np.ptp(getattr(measured(stride), joint)), abs=1.5)


@pytest.mark.parametrize(
    ("names", "sides"),
    [
        (["RightFoot", "LeftFoot"], 2), (["mixed:RFoot", "mixed:LFoot"], 2), (["r_ankle", "l_ankle"], 2),
        (["foot.R", "hand.L"], 1), (["ankle", "LowerFoot"], 0), (["rFoot", "lFoot"], 2), (["Right Ankle", "x"], 1),
    ],
)  # fmt: skip
def test_sides_are_known_by_what_joints_are_called(names, sides):
    parents = [-1, 0, 1, 2, 3, 1, 5, 6, 7]
    called = ["root", "hip", "thigh", names[0], "toe", "hip 2", "thigh 2", names[1], "toe 2"]
    line = np.array([[0, 9, 0], [0, 8, 0], *2 * ([0, 4, 0], [0, 0.5, 0], [2, 0, 0])], float)
    line = np.insert(line, 5, [0, 8.1, 0], axis=0)  # the other hip, a little off the first
    places = np.repeat(line[:, None, :], 3, axis=1)
    if not sides:
        with pytest.raises(InvalidInputError, match="No leg is found"):
            leg_markers(called, parents, places)
        return
    assert len(leg_markers(called, parents, places)) == sides


@pytest.mark.parametrize(
    ("old", "new", "said"),
    [
        ("HIERARCHY", "hello", "no BVH"), ("CHANNELS 3", "CHANNELS 9", "9 channels of a joint"),
        ("OFFSET 0 10 0", "OFFSET 0 ten 0", "where a number belongs"), ("Yrotation Zr", "Wrotation Zr", "Wrotation"),
        ("Frames: 2", "Frames: 3", "3 frames of 9"), ("4 5 6", "4 5 nan", "does not fit"), ("4 5 6", "4 5 x", "not all"),
        ("MOTION", "ROOT", "among its joints"), ("Frame Time: 0.04", "Frame Time: 0", "does not fit"),
        ("Frames: 2", "Frames: 9e9", "the most"), ("End Site\n", "End\n", "stands where"),
    ],
)  # fmt: skip
def test_what_is_no_bvh_is_refused_by_what_is_wrong(old, new, said):
    with pytest.raises(GaitWireError, match=said):
        read_bvh(ARM.replace(old, new, 1).encode())
    with pytest.raises(GaitWireError, match="ends too early"):
        read_bvh(ARM[:60].encode())
