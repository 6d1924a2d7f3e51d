"""BVH files against the registry package bvh 0.3, which reads hierarchy and channels: the same names and numbers."""

import bvh
import pytest

from builders.making_bvh import bvh_text
from gaitwire.core.walk.card import GaitCard
from gaitwire.core.walk.stride import Stride
from gaitwire.formats.bvh import read_bvh


def test_names_offsets_channels_and_values_are_those_of_another_reader():
    text = bvh_text(Stride(GaitCard()), strides=0.4)
    ours, theirs = read_bvh(text.encode()), bvh.Bvh(text)
    joints = [j for j in ours.joints if j.name != "Site"]
    assert [j.name for j in joints] == theirs.get_joints_names()
    assert len(ours.values) == theirs.nframes and ours.frame_time == theirs.frame_time
    for joint in joints:
        assert list(joint.offset) == pytest.approx(list(theirs.joint_offset(joint.name)))
        assert [name for name, _ in joint.channels] == theirs.joint_channels(joint.name)
        for name, column in joint.channels:
            found = [theirs.frame_joint_channel(f, joint.name, name) for f in range(theirs.nframes)]
            assert ours.values[:, column] == pytest.approx(found)
