"""The range test: every joint to its limits, one after the other and all together."""

import numpy as np
import pytest

from builders.named import id_of
from gaitwire.services.rig.bench import Bench
from gaitwire.services.rig.joint_gaps import Mending
from gaitwire.services.rig.range_test import EACH, TOGETHER, range_test


@pytest.fixture
def bramble(orchard):
    return id_of(orchard, "puppet", "Bramble")


def turns(orchard, puppet, found, name):
    """A bone's turn against the bone above it, degrees (F,)."""
    bone = next(b for b in orchard.puppet(puppet).bones if b.name == name)
    keys = [k[1] for k in found.frames.node_keys]
    angle = {o: np.arctan2(*found.frames.nodes[:, keys.index(o), [1, 0]].T) for o in (bone.id, bone.parent_id)}
    return np.degrees(np.unwrap(angle[bone.id] - angle[bone.parent_id]))


def test_each_joint_goes_to_its_limits_on_its_own_frames_and_with_all_others(orchard, bramble):
    bench = Bench(orchard, bramble)
    head = next(b.id for b in bench.puppet.bones if b.name == "head")
    bench.update_bones([head], {"low": -30.0, "high": 12.0})
    found = range_test(orchard, bramble)
    joint = next(j for j in found.joints if j.name == "head")
    row = turns(orchard, bramble, found, "head")
    own = slice(joint.first, joint.first + joint.frames)
    assert row[own].max() == pytest.approx(12) and row[own].min() == pytest.approx(-30)
    others = np.delete(row[: found.together], np.r_[own])
    assert np.abs(others).max() < 1e-6
    assert row[found.together :].min() == pytest.approx(-30)
    assert len(row) == EACH * len(found.joints) + TOGETHER == len(found.frames.nodes)


def test_frames_are_marked_where_a_joint_opens(orchard, bramble):
    found = range_test(orchard, bramble)
    gaps = {g.bone_id: g.area for g in Mending(orchard, bramble).gaps()}
    for joint in found.joints:
        own = [f for f in joint.open if f < found.together]
        assert all(joint.first <= f < joint.first + joint.frames for f in own)
        if not gaps.get(joint.bone_id):
            assert not joint.open
    assert sum(bool(j.open) for j in found.joints) > 5
