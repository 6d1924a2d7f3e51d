"""The body map: every limb can be picked, whichever way the puppet is seen."""

import pytest

from builders.making import bone, puppet
from gaitwire.services.views.body_map import TALL, WIDE, body_map


def legs(apart):
    return puppet([
        bone("hip", x=100, y=100, length=40, angle=-90, region="body"),
        bone("near thigh", "hip", 100 - apart, 104, length=50, angle=90, region="leg", side="near", role="thigh"),
        bone("far thigh", "hip", 100 + apart, 104, length=50, angle=90, region="leg", side="far", role="thigh"),
        bone("near shin", "near thigh", 100 - apart, 154, length=50, angle=90, region="leg", side="near", role="shin"),
        bone("far shin", "far thigh", 100 + apart, 154, length=50, angle=90, region="leg", side="far", role="shin"),
    ])  # fmt: skip


@pytest.mark.parametrize(("apart", "near_to_the_right"), [(0, True), (12, False), (40, False)])
def test_limbs_over_each_other_are_drawn_apart_and_none_cross(apart, near_to_the_right):
    found = {s.bone.id: s for s in body_map(legs(apart)).sticks}
    near, far = found["near shin"], found["far shin"]
    assert (near.x1 > far.x1) is near_to_the_right
    assert abs(near.x1 - far.x1) > 25
    assert (near.x0, near.y0) == (found["near thigh"].x1, found["near thigh"].y1)
    for stick in found.values():
        assert 0 <= min(stick.x0, stick.x1) <= max(stick.x0, stick.x1) <= WIDE
        assert 0 <= min(stick.y0, stick.y1) <= max(stick.y0, stick.y1) <= TALL


def test_regions_hold_their_bones_by_side():
    areas = {a.label: set(a.ids) for a in body_map(legs(0)).areas}
    assert areas == {"Body": {"hip"}, "Near leg": {"near thigh", "near shin"}, "Far leg": {"far thigh", "far shin"}}
