"""Limbs that go over to their tips and back with every pose kept; tips that are braced while the body is posed."""

import numpy as np
import pytest

from builders.acting import Cast
from builders.named import id_of
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate.bracing import Brace
from gaitwire.core.walk.walker import walker_of
from gaitwire.services.scene.floor import add_puppet, make_scene, update_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.limb_tips import solve_from_tip, unkept_poses
from gaitwire.services.scene.links import plant_limbs, remove_link
from gaitwire.services.scene.poses import key_whole_pose
from gaitwire.services.scene.posing import set_values
from gaitwire.services.scene.weight import _beats, weigh_down

THIGH, SHIN, FOOT = (-20, 30, -5, 15), (10, 40, 60, 5), (5, -10, 20, 0)
POSED = (4.0, 12.0, 20.0, 30.0)


@pytest.fixture
def cast(orchard):
    found = Cast(orchard)
    for frame, *turns in zip(POSED, THIGH, SHIN, FOOT, strict=True):
        for bone, turn in zip(("near thigh", "near shin", "near foot"), turns, strict=True):
            found.key(frame, bone, turn)
    found.key(16, "pelvis", 10, "shift_y")
    remade(found, softness=0.0, stretch=0.0)  # near straight it would give way a little
    return found


def remade(cast, **fields):
    puppet = cast.workspace.puppet(cast.floor.instance(cast.who).puppet_id)
    leg = next(i for i in puppet.limbs if i.name == "near leg")
    with cast.workspace.edit("another leg", [puppet.id]) as edit:
        edit.put("limbs", [leg.model_copy(update=fields)])


@pytest.mark.parametrize("loop", [False, True])
@pytest.mark.parametrize("start", [0.0, 12.0, 15.0])
def test_a_leg_of_four_poses_that_goes_over_to_its_tip_keeps_them_all(cast, start, loop):
    update_scene(cast.floor, loop=loop)
    leg = cast.limbs["near leg"]
    before, every = cast.whole(*POSED, 16.0), np.arange(0.0, start or 1.0)
    earlier = cast.whole(*every)
    assert unkept_poses(cast.floor, [leg], start) == []
    solve_from_tip(cast.floor, [leg], start, True)
    assert cast.whole(*POSED, 16.0) == pytest.approx(before, abs=0.01)
    assert cast.whole(*every) == pytest.approx(earlier, abs=0.01)
    mixes = cast.floor.values_at(np.array([*POSED, 47.0]))[(*leg, "mix")]
    assert mixes.tolist() == [float(t >= start) for t in (*POSED, 47.0)]
    cast.undo()
    assert cast.whole(*POSED, 16.0) == pytest.approx(before, abs=1e-9)


@pytest.mark.parametrize("loop", [False, True])
def test_a_solved_leg_that_is_turned_by_its_bones_again_keeps_them_all(cast, loop):
    update_scene(cast.floor, loop=loop)
    leg = cast.limbs["near leg"]
    solve_from_tip(cast.floor, [leg], 8.0, True)
    before, every = cast.whole(*POSED, 16.0), np.arange(0.0, 20.0)
    earlier = cast.whole(*every)
    solve_from_tip(cast.floor, [leg], 20.0, False)
    assert cast.whole(*POSED, 16.0) == pytest.approx(before, abs=0.01)
    assert cast.whole(*every) == pytest.approx(earlier, abs=0.01)
    with pytest.raises(InvalidInputError, match="turned by its bones here already"):
        solve_from_tip(cast.floor, [leg], 24.0, False)


def test_a_foot_that_is_solved_keeps_its_angle_as_the_body_moves(cast):
    leg = cast.limbs["near leg"]
    solve_from_tip(cast.floor, [leg], 0.0, True)
    before = cast.angles("near foot", 30.0)
    set_values(cast.floor, 30.0, {(*cast.node("pelvis"), "shift_y"): 25.0, (*cast.node("pelvis"), "turn"): 14.0})
    assert cast.angles("near foot", 30.0) == pytest.approx(before, abs=1e-6)


def test_poses_that_a_limb_of_more_bones_cannot_keep_are_listed(cast):
    """Three bones bend alike when they are solved: a pose in which they do not is told before."""
    remade(cast, count=3)
    leg = cast.limbs["near leg"]
    found = unkept_poses(cast.floor, [leg], 0.0)
    assert {u.time for u in found} >= set(POSED) and found[0].away == max(u.away for u in found) > 5


def test_a_limb_that_is_planted_later_says_so_instead_of_flying_off(cast):
    leg = cast.limbs["near leg"]
    (plant,) = plant_limbs(cast.floor, [leg], 20.0)
    with pytest.raises(InvalidInputError, match="planted on 20 to 47"):
        solve_from_tip(cast.floor, [leg], 0.0, True)
    remove_link(cast.floor, "plants", plant)
    solve_from_tip(cast.floor, [leg], 0.0, True)


def brace(cast, *limbs):
    cast.floor.braces = [Brace(*cast.limbs[name], "place") for name in limbs]


def keyed_at(cast):
    scene = cast.floor.scene
    owners = {c.id: c.owner_id for c in scene.channels}
    names = {b.id: name for name, b in cast.bones.items()}
    return {(names.get(owners[k.channel_id], "?"), k.time) for k in scene.keys}


def test_a_body_over_braced_feet_is_typed_and_only_that_frame_is_keyed(cast):
    cast.key(20, "pelvis", 0, "shift_x")
    cast.key(20, "far shin", 30)  # a straight leg has no room
    for time in (*POSED[:2], 30.0):
        key_whole_pose(cast.floor, cast.who, time)
    brace(cast, "near leg", "far leg")
    before, others = cast.whole(20.0), keyed_at(cast)
    poses = cast.whole(*POSED[:2], 30.0)
    keyed = set_values(cast.floor, 20.0, {(*cast.node("pelvis"), "shift_x"): 12.0})
    legs = {"near thigh", "near shin", "near foot", "far thigh", "far shin", "far foot"}
    assert cast.node("pelvis") in keyed <= {cast.node(name) for name in {"pelvis", *legs}} and len(keyed) > 4
    order = cast.order()
    feet, hand = [order.index(name) for name in ("near foot", "far foot")], order.index("near hand")
    after = cast.whole(20.0)
    assert after[:, feet] == pytest.approx(before[:, feet], abs=1e-4)  # as fine as turns are kept
    assert np.abs(after[:, hand] - before[:, hand]).max() > 5
    new = keyed_at(cast) - others
    assert {time for _, time in new} == {20.0} and {name for name, _ in new} <= {"pelvis", *legs}
    assert cast.whole(*POSED[:2], 30.0) == pytest.approx(poses, abs=1e-4)


def test_typed_too_far_it_goes_as_far_as_the_feet_reach_and_says_so(cast):
    brace(cast, "near leg", "far leg")
    before = cast.place("near foot", 20.0)
    set_values(cast.floor, 20.0, {(*cast.node("pelvis"), "shift_y"): -400.0})
    assert set(cast.floor.outcome.stopped) <= {"near leg", "far leg"} and cast.floor.outcome.stopped
    risen = cast.floor.values_at(np.array([20.0]))[(*cast.node("pelvis"), "shift_y")]
    assert -100 < risen[0] < 10
    assert cast.place("near foot", 20.0) == pytest.approx(before, abs=0.1)


def test_hands_on_a_bar_stay_there_in_the_weight_pass(cast):
    for frame, turn in ((2, 25), (10, -25), (18, 25), (26, -25)):
        cast.key(frame, "near thigh", turn)
        cast.key(frame, "far thigh", -turn)
    for arm in ("near", "far"):
        cast.key(0, f"{arm} forearm", -60)
    brace(cast, "near arm", "far arm")
    beats = _beats(cast.floor, cast.who, walker_of(cast.workspace.puppet(cast.floor.instance(cast.who).puppet_id)))
    before = cast.place("near hand", *(b.time for b in beats))
    assert [b.time for b in weigh_down(cast.floor, cast.who, 6.0)] == [b.time for b in beats]
    assert cast.place("near hand", *(b.time for b in beats)) == pytest.approx(before, abs=0.01)


def test_a_goose_turns_its_neck_with_a_pin_held(orchard):
    goose = id_of(orchard, "puppet", "Gander")
    floor = Floor(orchard, make_scene(orchard, "Pins", frames=24, loop=False, ground=640.0))
    who, puppet = add_puppet(floor, goose, x=500.0), orchard.puppet(goose)
    pin = next(p for p in puppet.pins if p.kind == "lead")
    root = next(b for b in puppet.bones if b.parent_id is None)
    frames = orchard.frames(floor.scene_id, np.zeros(1))
    at = frames.node_keys.index((who, pin.id))
    floor.braces = [Brace(who, pin.id, "place")]
    keyed = set_values(floor, 0.0, {(who, root.id, "turn"): 6.0, (who, root.id, "shift_y"): 8.0})
    assert (who, pin.id) in keyed
    after = orchard.frames(floor.scene_id, np.zeros(1))
    assert after.nodes[0, at, 4:] == pytest.approx(frames.nodes[0, at, 4:], abs=1e-4)


def test_a_limb_on_its_way_from_bones_to_tip_is_not_braced_and_that_is_said(cast):
    brace(cast, "near leg", "far leg")
    set_values(cast.floor, 20.0, {(*cast.limbs["far leg"], "mix"): 0.5})
    set_values(cast.floor, 20.0, {(*cast.node("pelvis"), "shift_x"): 8.0})
    assert cast.floor.outcome.loose == ("far leg",) and cast.floor.outcome.stopped == ()
    set_values(cast.floor, 20.0, {(*cast.limbs["far leg"], "mix"): 1.0})
    set_values(cast.floor, 20.0, {(*cast.node("pelvis"), "shift_x"): 6.0})
    assert cast.floor.outcome.loose == ()
