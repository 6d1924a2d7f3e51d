"""Joint gaps on a puppet of art: measured, mended each way, taken back."""

import pytest

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.puppet.art import Shape, leaves
from gaitwire.services.library.art_in import import_art
from gaitwire.services.output.stills import puppet_still
from gaitwire.services.rig.joint_gaps import Mending
from gaitwire.store.history import take_step

ARM = b"""<svg xmlns="http://www.w3.org/2000/svg" width="260" height="100">
<g id="upper"><path d="M10 30 H140 V70 H10 Z" fill="#b5622b" stroke="#2e2a25" stroke-width="2"/></g>
<g id="lower"><path d="M124 32 H250 V68 H124 Z" fill="#25756a" stroke="#2e2a25" stroke-width="2"/></g>
</svg>"""


@pytest.fixture
def arm(workspace):
    """Two bars with square ends, the lower jointed near the edge of the upper."""
    mending = Mending(workspace, import_art(workspace, ARM, "arm.svg", "Arm").puppet_id)
    ids = {b.name: b.id for b in mending.puppet.bones}
    mending.hang([ids["lower"]], ids["upper"])
    mending.move_joint(ids["upper"], "pivot", 20, 50, alone=True)
    mending.move_joint(ids["lower"], "pivot", 132, 42, alone=True)
    mending.update_bones([ids["lower"]], {"low": -100.0, "high": 100.0})
    mending.lower = ids["lower"]
    return mending


def worst(mending):
    return mending.joint(mending.lower).worst()[0]


def test_joints_are_listed_by_what_they_open(arm):
    (gap,) = arm.gaps()
    assert gap.name == "lower" and gap.area > 200 and 60 < abs(gap.angle) <= 100
    assert gap.area == pytest.approx(worst(arm), rel=0.02)


def test_each_remedy_does_what_it_was_offered_for_and_is_taken_back(arm):
    before, offered = worst(arm), arm.remedies(arm.lower)
    assert {r.kind for r in offered} == {"pivot", "patch", "round"}
    assert [r.area for r in offered] == sorted(r.area for r in offered) and offered[0].area < 0.5 * before
    for remedy in offered:
        was, now = arm.mend(arm.lower, remedy.kind)
        assert was == pytest.approx(before) and now < before
        assert now == pytest.approx(remedy.area, rel=0.1, abs=6)
        take_step(arm.workspace.store, arm.puppet_id, "undo")
        assert worst(arm) == pytest.approx(before)


def test_a_patch_lies_behind_both_in_their_colour(arm):
    arm.mend(arm.lower, "patch")
    puppet = arm.puppet
    patch = min(puppet.parts, key=lambda p: p.rank)
    assert patch.name == "lower patch" and puppet.bone(patch.bone_id).name == "upper"
    (shape,) = leaves(arm.workspace.art(patch.art_hash).nodes)
    assert isinstance(shape, Shape) and shape.fill.color == "#25756a" and shape.stroke is None
    assert sorted(p.rank for p in puppet.parts) == [0, 1, 2]
    assert len(puppet_still(arm.workspace, arm.puppet_id, (200, 100))) > 200


def test_a_round_end_is_in_the_parts_own_art_and_has_its_outline(arm):
    arm.mend(arm.lower, "round")
    part = next(p for p in arm.puppet.parts if p.name == "lower")
    first, second = leaves(arm.workspace.art(part.art_hash).nodes)
    assert (first.fill, first.stroke.width) == (second.fill, second.stroke.width)
    assert len(arm.puppet.parts) == 2


def test_a_better_pivot_lies_where_the_bars_overlap(arm):
    arm.mend(arm.lower, "pivot")
    bone = arm.puppet.bone(arm.lower)
    assert 124 <= bone.x <= 140 and abs(bone.y - 50) < abs(42 - 50)


def test_what_has_no_two_pieces_says_so(arm):
    upper = next(b.id for b in arm.puppet.bones if b.name == "upper")
    with pytest.raises(InvalidInputError, match="no two rigid pieces"):
        arm.remedies(upper)
    with pytest.raises(InvalidInputError, match="cannot be done"):
        arm.mend(arm.lower, "glue")


def test_remedies_one_after_the_other_close_it(arm):
    before = worst(arm)
    arm.mend(arm.lower, "pivot")
    moved = worst(arm)
    _, patched = arm.mend(arm.lower, "patch")
    assert before > 2 * moved > 4 * patched


def test_round_ends_need_nothing(workspace):
    ends = ARM.replace(b"M10 30 H140 V70 H10 Z", b"M10 30 H130 A20 20 0 0 1 130 70 H10 Z")
    ends = ends.replace(b"M124 32 H250 V68 H124 Z", b"M250 30 H130 A20 20 0 0 0 130 70 H250 Z")
    mending = Mending(workspace, import_art(workspace, ends, "arm.svg", "Arm").puppet_id)
    ids = {b.name: b.id for b in mending.puppet.bones}
    mending.hang([ids["lower"]], ids["upper"])
    mending.move_joint(ids["lower"], "pivot", 130, 50, alone=True)
    assert mending.gaps()[0].area < 1.0 and mending.remedies(ids["lower"]) == []
