"""Editing puppets: trees without rings, children kept, order, snapping, guesses."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from builders.making import bone, part, puppet
from gaitwire.core.errors import CycleError, InvalidInputError, LockedError
from gaitwire.core.geometry.bounds import Box
from gaitwire.core.puppet import edit, joints
from gaitwire.core.puppet.roles import guess_from_name
from gaitwire.core.puppet.snap import snap_point
from gaitwire.core.puppet.tree import descendants, walk

BODY = puppet(
    [bone("hip", rank=0), bone("thigh", "hip", 0, 10), bone("shin", "thigh", 0, 20), bone("hat", rank=1)],
    [part("a", "shin", 0), part("b", "hip", 1), part("c", "hat", 2), part("d", "hat", 3)],
)


def after(change, old=BODY):
    bones = {b.id: b for b in old.bones} | {b.id: b for b in change.bones}
    parts = {p.id: p for p in old.parts} | {p.id: p for p in change.parts}
    for gone in change.removed_bones:
        del bones[gone]
    return old.model_copy(update={"bones": tuple(bones.values()), "parts": tuple(parts.values())})


def order(found):
    return "".join(p.id for p in sorted(found.parts, key=lambda p: p.rank))


def test_a_ring_is_refused_by_name():
    with pytest.raises(CycleError, match="“hip” cannot hang from “shin”"):
        edit.hang(BODY, ["hip"], "shin")
    with pytest.raises(CycleError, match="“hip” cannot hang from itself"):
        edit.hang(BODY, ["hip"], "hip")


@given(st.lists(st.tuples(st.integers(0, 7), st.integers(0, 7)), max_size=20))
def test_no_run_of_hanging_ever_closes_a_ring(moves):
    found = puppet([bone(str(i)) for i in range(8)])
    for child, parent in moves:
        try:
            found = after(edit.hang(found, [str(child)], str(parent)), found)
        except CycleError:
            continue
    assert len(list(walk(found.bones))) == 8
    assert all(b.id not in descendants(found.bones, b.id) for b in found.bones)


def test_removing_a_bone_keeps_its_children_and_parts():
    found = after(edit.remove_bones(BODY, ["thigh", "shin"]))
    assert {b.id for b in found.bones} == {"hip", "hat"}
    assert found.part("a").bone_id == "hip"
    with pytest.raises(InvalidInputError, match="nothing is above"):
        edit.remove_bones(BODY, ["hat"])


def test_grouping_keeps_what_hangs_within():
    found = after(edit.group(BODY, ["thigh", "shin", "hat"], "g", "group"))
    assert found.bone("thigh").parent_id == "g" and found.bone("hat").parent_id == "g"
    assert found.bone("shin").parent_id == "thigh"
    assert found.bone("g").parent_id == "hip" and found.bone("g").length == 0


def test_siblings_are_put_in_order():
    found = after(edit.hang_beside(BODY, ["hat"], "thigh", after=False))
    assert [r.bone.id for r in walk(found.bones)] == ["hip", "hat", "thigh", "shin"]


def test_a_pivot_moves_and_the_tip_stays():
    moved = joints.set_pivot(bone("b", x=0, y=0, length=10, angle=0), 4, 3)
    assert joints.tip_of(moved) == pytest.approx((10, 0), abs=1e-3)
    assert joints.set_tip(moved, 4.1, 3.1).length == 0  # so near is a group


@pytest.mark.parametrize(
    ("chosen", "behind", "result"), [("a", "d", "bcda"), ("cd", None, "cdab"), ("ac", "b", "bacd"), ("d", "a", "adbc")]
)
def test_parts_are_put_in_front_of_another(chosen, behind, result):
    assert order(after(edit.reorder(BODY, list(chosen), behind))) == result


@pytest.mark.parametrize(
    ("chosen", "steps", "result"), [("a", 1, "bacd"), ("d", -9, "dabc"), ("ab", 1, "cabd"), ("c", 9, "abdc")]
)
def test_parts_step_through_the_order(chosen, steps, result):
    assert order(after(edit.step_order(BODY, list(chosen), steps))) == result


def test_locked_things_stay():
    held = puppet([bone("a", locked=True), bone("b")])
    with pytest.raises(LockedError, match="“a” is locked"):
        edit.hang(held, ["a"], "b")


BOX = [Box(0, 0, 100, 50)]


@pytest.mark.parametrize(
    ("at", "kind", "to"),
    [
        ((3, 2), "corner", (0, 0)),
        ((52, 27), "centre", (50, 25)),
        ((20, 3), "edge", (20, 0)),
        ((70, 47), "edge", (70, 50)),
        ((54, 1), "edge", (50, 0)),
        ((30, 30), "", (30, 30)),
        ((202, 203), "joint", (200, 200)),
    ],
)
def test_what_a_joint_catches_on(at, kind, to):
    found = snap_point(*at, BOX, [(200, 200)], 6)
    assert (found.kind, (found.x, found.y)) == (kind, to)


@pytest.mark.parametrize(
    ("name", "guess"),
    [
        ("Near shin", ("leg", "near", "shin")),
        ("far_upper_arm", ("arm", "far", "upper arm")),
        ("leftHand", ("arm", "far", "hand")),
        ("head", ("head", "centre", "head")),
        ("cart wheel", ("prop", "centre", "wheel")),
        ("thing", ("prop", "centre", "")),
    ],
)
def test_guesses_from_names(name, guess):
    assert guess_from_name(name) == guess
