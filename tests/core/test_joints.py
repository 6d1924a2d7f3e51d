"""Joints moved together, bones cut and put in between, a limb made again on the other side."""

from itertools import count, pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from builders.making import bone, part, puppet
from gaitwire.core.errors import InvalidInputError, LockedError
from gaitwire.core.puppet import edit, joints
from gaitwire.core.puppet.change import applied
from gaitwire.core.puppet.limb_chains import begun_limb, chain_of, rest_bend
from gaitwire.core.puppet.mirroring import Mirror, mirror_bones, turned_over
from gaitwire.core.puppet.model import Limb, Pin, Replacement
from gaitwire.core.puppet.tree import descendants

ARM = puppet(
    [
        bone("chest", length=30, angle=-90, region="body"),
        bone("near upper arm", "chest", 10, -30, length=20, angle=90, region="arm", side="near", low=-40.0, high=120.0),
        bone("near forearm", "near upper arm", 10, -10, length=15, angle=80, region="arm", side="near"),
        bone("near hand", "near forearm", 12.6047, 4.7721, length=5, angle=80, region="arm", side="near", role="hand"),
    ],
    [part("shirt", "chest", 0), part("near sleeve", "near upper arm", 1, soft=True, bends_with=("near forearm",)),
     part("near palm", "near hand", 2)],
)  # fmt: skip
ARM = ARM.model_copy(
    update={
        "limbs": (Limb(id="l", puppet_id="p", name="near arm", tip_id="near hand", bend=-1),),
        "pins": (Pin(id="q", puppet_id="p", part_id="near sleeve", name="near cuff", bone_id="near forearm", x=12, y=2),),
        "replacements": (
            Replacement(id="r", puppet_id="p", part_id="near palm", number=1, name="fist", art_hash="fist"),
        ),
    }
)  # fmt: skip


def ids():
    return map(str, count(100)).__next__


def test_an_elbow_moves_as_one_joint_and_far_ends_stay():
    found = applied(ARM, joints.move_joint(ARM, "near forearm", "pivot", 14, -8))
    upper, fore = found.bone("near upper arm"), found.bone("near forearm")
    assert joints.tip_of(upper) == pytest.approx((14, -8), abs=1e-3)
    assert (upper.x, upper.y) == (10, -30)
    assert joints.tip_of(fore) == pytest.approx((12.6047, 4.7721), abs=1e-2)
    assert found.bone("near hand") == ARM.bone("near hand")


def test_alone_only_the_bone_itself_moves():
    change = joints.move_joint(ARM, "near forearm", "pivot", 14, -8, alone=True)
    assert [b.id for b in change.bones] == ["near forearm"]


def test_a_tip_takes_the_children_that_sit_on_it():
    found = applied(ARM, joints.move_joint(ARM, "near upper arm", "tip", 5, 0))
    assert (found.bone("near forearm").x, found.bone("near forearm").y) == (5, 0)


def test_a_joint_that_slipped_is_put_back_on_the_tip_above():
    loose = applied(ARM, joints.move_joint(ARM, "near hand", "pivot", 30, 30, alone=True))
    found = applied(loose, joints.meet_above(loose, ["near hand"]))
    assert (found.bone("near hand").x, found.bone("near hand").y) == pytest.approx((12.605, 4.772), abs=1e-3)
    with pytest.raises(InvalidInputError, match="nothing that has a tip"):
        joints.meet_above(ARM, ["chest"])


@given(st.integers(2, joints.MOST_PIECES))
def test_a_bone_cut_into_pieces_runs_as_before(pieces):
    names = [f"n{i}" for i in range(pieces - 1)]
    found = applied(ARM, joints.split(ARM, "near forearm", names, names))
    run = [found.bone(i) for i in ("near forearm", *names)]
    for one, after in pairwise(run):
        assert joints.tip_of(one) == pytest.approx((after.x, after.y), abs=0.01)
        assert after.parent_id == one.id
    assert joints.tip_of(run[-1]) == pytest.approx((12.6047, 4.7721), abs=0.02)
    assert found.bone("near hand").parent_id == names[-1]
    assert set(names) <= set(found.part("near sleeve").bends_with)
    (limb,) = found.limbs
    assert chain_of(found, limb)[0].id == ("near upper arm" if pieces < 8 else run[pieces - 8].id)


def test_a_bone_put_in_between_reaches_from_the_tip_above_to_the_joint():
    loose = applied(ARM, joints.move_joint(ARM, "near forearm", "pivot", 16, -4, alone=True))
    found = applied(loose, joints.insert_above(loose, "near forearm", "new", "new"))
    assert found.bone("near forearm").parent_id == "new"
    assert found.bone("new").parent_id == "near upper arm"
    assert joints.tip_of(found.bone("new")) == pytest.approx((16, -4), abs=1e-3)
    assert [b.id for b in chain_of(found, found.limbs[0])] == ["near upper arm", "new", "near forearm"]


def test_removing_a_link_shortens_the_limb_and_leaves_nothing_that_names_it():
    three = applied(ARM, joints.split(ARM, "near forearm", ["wrist"], ["wrist"]))
    found = applied(three, edit.remove_bones(three, ["near forearm"]))
    assert found.limbs[0].count == 2
    assert found.part("near sleeve").bends_with == ("wrist",)
    assert found.pins[0].bone_id == "near upper arm"
    bare = applied(found, edit.remove_bones(found, ["wrist"]))
    assert bare.limbs == ()
    assert applied(ARM, edit.remove_parts(ARM, ["near sleeve", "near palm"])).model_dump(
        include={"pins", "replacements"}
    ) == {"pins": (), "replacements": ()}


@pytest.mark.parametrize(
    ("name", "other"),
    [("near hand", "far hand"), ("Far Shin", "Near Shin"), ("hand_L", "hand_R"), ("LEFT boot", "RIGHT boot"),
     ("left arm (right page)", "right arm (right page)"), ("scarf", "scarf"), ("clear lid", "clear lid")],
)  # fmt: skip
def test_names_are_turned_over(name, other):
    assert turned_over(name) == other


def test_a_limb_is_made_again_on_the_far_side_in_place():
    found = applied(ARM, mirror_bones(ARM, ["near upper arm"], Mirror(), ids()))
    by_name = {b.name: b for b in found.bones}
    far = by_name["far upper arm"]
    assert (far.side, far.parent_id, far.x, far.y, far.low, far.high) == ("far", "chest", 10, -30, -40, 120)
    assert {b.name for b in found.bones if b.id in descendants(found.bones, far.id)} == {"far forearm", "far hand"}
    parts = {p.name: p for p in found.parts}
    assert parts["far sleeve"].rank < parts["shirt"].rank
    assert parts["far sleeve"].bends_with == (by_name["far forearm"].id,)
    assert {limb.name: limb.tip_id for limb in found.limbs}["far arm"] == by_name["far hand"].id
    twin = next(p for p in found.pins if p.name == "far cuff")
    assert (twin.part_id, twin.bone_id) == (parts["far sleeve"].id, by_name["far forearm"].id)
    assert {(r.part_id, r.number) for r in found.replacements} == {("near palm", 1), (parts["far palm"].id, 1)}


def test_reflected_in_a_line_angles_limits_and_bends_turn_over():
    found = applied(ARM, mirror_bones(ARM, ["near upper arm"], Mirror(0.0), ids(), art={"": "m", "fist": "mirrored"}))
    by_name = {b.name: b for b in found.bones}
    assert (by_name["far upper arm"].x, by_name["far upper arm"].low) == (-10, -120)
    x, y = joints.tip_of(ARM.bone("near hand"))
    assert joints.tip_of(by_name["far hand"]) == pytest.approx((-x, y), abs=1e-3)
    assert next(i for i in found.limbs if i.name == "far arm").bend == 1
    assert {p.art_hash for p in found.parts if p.name.startswith("far")} == {"m"}
    assert {r.art_hash for r in found.replacements} == {"fist", "mirrored"}


def test_a_twin_that_is_there_is_set_and_keeps_its_own_art():
    whole = ARM.model_copy(
        update={
            "bones": (*ARM.bones, bone("f", "chest", 1, 2, name="Far upper arm", rank=7)),
            "parts": (*ARM.parts, part("x", "f", 9)),
        }
    )
    found = applied(whole, mirror_bones(whole, ["near upper arm"], Mirror(), ids()))
    assert (found.bone("f").x, found.bone("f").length, found.bone("f").rank) == (10, 20, 7)
    assert len(found.parts) == 4
    assert sum(b.name.lower() == "far upper arm" for b in found.bones) == 1
    locked = whole.model_copy(update={"bones": (*ARM.bones, bone("f", name="far hand", locked=True))})
    with pytest.raises(LockedError):
        mirror_bones(locked, ["near upper arm"], Mirror(), ids())


def test_a_limb_begins_with_two_bones_bent_as_they_were_drawn():
    bare = ARM.model_copy(update={"limbs": ()})
    limb = begun_limb(bare, "near hand", "l")
    assert (limb.name, limb.bend, limb.whole) == ("near arm", -1, False)
    assert begun_limb(bare, "near forearm", "l").whole
    with pytest.raises(InvalidInputError, match="two bones"):
        begun_limb(bare, "chest", "l")
    with pytest.raises(InvalidInputError, match="already"):
        begun_limb(ARM, "near hand", "l")
    assert rest_bend([bone("a", x=0, y=0), bone("b", x=10, y=0)], (20, 0)) == 1
