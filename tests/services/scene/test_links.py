"""Gestures on plants, hitches and bearings: the pose stays on the frame of the change, one step back undoes it."""

import numpy as np
import pytest

from builders.acting import Cast
from builders.making import tip
from gaitwire.core.addresses import Bead
from gaitwire.core.errors import CycleError, InvalidInputError, LockedError
from gaitwire.core.evaluate.handles import drag, take
from gaitwire.core.evaluate.reaching import reach, take_limb
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.services.scene.beads import move_beads
from gaitwire.services.scene.floor import remove_instance, update_scene
from gaitwire.services.scene.found_poses import mark_pose, poses_of
from gaitwire.services.scene.limb_tips import bend_over, limbs_of, solve_from_tip
from gaitwire.services.scene.links import (
    change_bearing,
    hitch_nodes,
    lift_limbs,
    plant_limbs,
    put_on_floor,
    remove_link,
    update_bearing,
    update_hitch,
    update_plant,
)
from gaitwire.services.scene.phrases import put_phrase
from gaitwire.services.scene.poses import move_pose, set_duration
from gaitwire.services.scene.posing import set_values
from gaitwire.services.scene.walks import put_gait
from gaitwire.services.views.notes import scene_notes


@pytest.fixture
def cast(orchard):
    return Cast(orchard)


def test_feet_are_planted_together_hold_while_the_body_moves_and_are_lifted(cast):
    feet = limbs_of(cast.floor, [cast.node("near foot"), cast.node("far shin")])
    assert {i for _, i in feet} == {cast.limbs["near leg"][1], cast.limbs["far leg"][1]}
    before = cast.whole(10.0)
    plant_limbs(cast.floor, feet, 10.0)
    # Her legs are straight: their soft limit bends the knees a little, and moves nothing else.
    knees = [n for n, bone in enumerate(cast.order()) if bone in ("near shin", "far shin", "near thigh", "far thigh")]
    assert np.delete(cast.whole(10.0), knees, axis=1) == pytest.approx(np.delete(before, knees, axis=1), abs=0.01)
    assert np.abs(cast.whole(10.0) - before).max() < 7
    for frame, dx, dy in ((10, 0, 0), (20, 30, 14), (30, -25, 6)):
        cast.key(frame, "pelvis", dx, "shift_x")
        cast.key(frame, "pelvis", dy, "shift_y")
    for foot in ("near foot", "far foot"):
        held = cast.place(foot, *range(10, 31))
        assert np.abs(held - held[0]).max() < 0.01
    with pytest.raises(InvalidInputError, match="planted here already"):
        plant_limbs(cast.floor, feet[:1], 15.0)
    was = cast.whole(30.0)
    keys = len(cast.floor.scene.keys)
    assert lift_limbs(cast.floor, feet, 30.0) == 2
    assert cast.whole(30.0) == pytest.approx(was, abs=0.01)
    assert cast.whole(30.0 + 1e-5) == pytest.approx(was, abs=0.01)
    assert [p.stop for p in cast.floor.scene.plants] == [30, 30]
    assert cast.place("near foot", 40.0) == pytest.approx(cast.place("near foot", 47.0))  # it goes on as it was let go
    cast.undo()
    assert len(cast.floor.scene.keys) == keys and cast.floor.scene.plants[0].stop == 47
    with pytest.raises(InvalidInputError, match="Nothing"):
        lift_limbs(cast.floor, feet, 5.0)


def test_a_footprint_is_moved_and_turned_and_plants_do_not_meet(cast):
    (first,) = plant_limbs(cast.floor, [cast.limbs["near leg"]], 4.0)
    cast.key(0, "pelvis", 20, "shift_y")  # knees bent: there is room
    update_plant(cast.floor, first, {"stop": 12.0})
    (second,) = plant_limbs(cast.floor, [cast.limbs["near leg"]], 20.0)
    spot = next(p for p in cast.floor.scene.plants if p.id == first)
    update_plant(cast.floor, first, {"x": spot.x + 22, "angle": 10.0})
    assert cast.place("near foot", 8.0)[0] == pytest.approx((spot.x + 22, spot.y), abs=0.01)
    with pytest.raises(InvalidInputError, match="planted elsewhere"):
        update_plant(cast.floor, first, {"stop": 25.0})
    with pytest.raises(InvalidInputError, match="begins"):
        update_plant(cast.floor, second, {"stop": 2.0})
    remove_link(cast.floor, "plants", first)
    assert [p.id for p in cast.floor.scene.plants] == [second]


def test_hands_do_not_answer_to_turns_while_planted_and_feet_roll(cast):
    plant_limbs(cast.floor, [cast.limbs["near arm"], cast.limbs["near leg"]], 0.0)
    compiled = cast.workspace.compiled(cast.floor.scene_id)
    with pytest.raises(LockedError, match="is planted here"):
        take(compiled, *cast.node("near forearm"), 5.0, gesture="turn")
    with pytest.raises(LockedError, match="footprint"):
        take_limb(compiled, cast.who, cast.limbs["near leg"][1], 5.0)
    grip = take(compiled, *cast.node("near foot"), 5.0, gesture="turn")
    x, y = cast.place("near foot", 5.0)[0]
    wanted = drag("turn", grip, [], (x + 20, y), (x + 20 * np.cos(0.3), y + 20 * np.sin(0.3)))
    assert wanted == {(*cast.limbs["near leg"], "roll"): pytest.approx(np.degrees(0.3), abs=0.1)}
    set_values(cast.floor, 5.0, wanted)
    axis = tip(cast.at(5.0), cast.bones["near foot"].id, 20, cast.bones["near foot"].angle) - cast.place(
        "near foot", 5.0
    )
    assert np.degrees(np.arctan2(axis[0, 1], axis[0, 0])) == pytest.approx(
        cast.bones["near foot"].angle + np.degrees(0.3), abs=0.1
    )


def test_a_limb_is_solved_from_its_tip_from_a_frame_on_and_turned_again_without_a_jump(cast):
    cast.key(0, "near upper arm", -40)
    cast.key(20, "near upper arm", -70)
    cast.key(0, "near forearm", -35)
    before = cast.whole(12.0)
    arm = [cast.limbs["near arm"]]
    solve_from_tip(cast.floor, arm, 12.0, True)
    assert cast.whole(12.0) == pytest.approx(before, abs=0.01)
    cast.key(30, "pelvis", 30, "shift_x")
    cast.key(20, "pelvis", 0, "shift_x")
    hand = cast.place("near hand", 20.0, 25.0, 30.0)
    assert np.abs(hand - hand[0]).max() < 0.01
    hand = cast.place("near hand", 16.0)
    compiled = cast.workspace.compiled(cast.floor.scene_id)
    found = reach(take_limb(compiled, *arm[0], 16.0), tuple(hand[0] + (5, -9)), joint=2)
    set_values(cast.floor, 16.0, found.values)
    assert cast.place("near hand", 16.0)[0] == pytest.approx(hand[0] + (5, -9), abs=0.01)
    was = cast.whole(20.0, 30.0)
    solve_from_tip(cast.floor, arm, 20.0, False)
    assert cast.whole(20.0, 30.0) == pytest.approx(was, abs=0.01)
    assert cast.floor.values_at(np.array([19.0, 20.0]))[(*arm[0], "mix")].tolist() == [1, 0]


@pytest.mark.parametrize("how", ["solved", "planted"])
def test_an_elbow_bent_to_the_other_side_by_hand_stays_there(cast, how):
    cast.key(0, "near upper arm", -90)
    cast.key(0, "near forearm", 50)
    assert cast.limbs["near arm"]
    arm = [cast.limbs["near arm"]]
    before = cast.whole(12.0)
    if how == "solved":
        solve_from_tip(cast.floor, arm, 12.0, True)
    else:
        plant_limbs(cast.floor, arm, 12.0)
    assert cast.whole(12.0) == pytest.approx(before, abs=0.01)
    assert cast.floor.values_at(np.array([11.0, 12.0, 30.0]))[(*arm[0], "flip")].tolist() == [0, 1, 1]
    cast.undo()
    assert (*arm[0], "flip") not in {(c.instance_id, c.owner_id, c.property) for c in cast.floor.scene.channels}


@pytest.mark.parametrize("solved", [False, True])
def test_a_limb_is_bent_over_from_a_frame_on_with_its_tip_where_it_is(cast, solved):
    cast.key(0, "near thigh", -40)
    cast.key(0, "near shin", 50)
    leg = [cast.limbs["near leg"]]
    if solved:
        solve_from_tip(cast.floor, leg, 0.0, True)
    cast.key(24, "near thigh", -10)
    before = cast.whole(*range(11))
    bend_over(cast.floor, leg, 10.0)
    knee, foot = cast.order().index("near shin"), cast.order().index("near foot")
    after = cast.whole(*range(11))
    assert after[:10] == pytest.approx(before[:10], abs=0.3)  # as near as a cut curve comes to its easing
    before, after = before[9:], after[9:]
    assert after[1, foot] == pytest.approx(before[1, foot], abs=0.01)
    (hip, end), (x, y) = (
        (before[1, cast.order().index(b), 4:] for b in ("near thigh", "near foot")),
        before[1, knee, 4:],
    )
    across = (end - hip) @ [[0, 1], [-1, 0]] / np.hypot(*(end - hip))
    was, now = ((place - hip) @ across for place in ((x, y), after[1, knee, 4:]))
    assert now == pytest.approx(-was, abs=0.01) and abs(was) > 5
    bend_over(cast.floor, leg, 10.0)
    assert cast.whole(10.0) == pytest.approx(before[[1]], abs=0.01)
    arm = [cast.limbs["far arm"]]
    bend_over(cast.floor, arm, 1.0)  # its key on the frame before is the first one there is
    assert cast.floor.values_at(np.array([0.0, 1.0, 30.0]))[(*arm[0], "flip")].tolist() == [0, 1, 1]


def test_what_is_planted_and_carried_slides_with_all_the_beads_of_it(cast):
    floor = cast.floor
    update_scene(floor, loop=True)
    for bone in ("near thigh", "near shin", "far thigh"):
        for frame, turn in ((0, -10), (16, 20)):
            cast.key(frame, bone, turn)
    feet = [cast.limbs["near leg"], cast.limbs["far leg"]]
    plant_limbs(floor, feet, 4.0)
    lift_limbs(floor, feet, 30.0)
    change_bearing(floor, cast.who, 34.0, cast.bones["near shin"].id)
    hitch_nodes(floor, [(cast.pip, cast.pip)], 6.0, cast.node("near hand"))

    def beads(*bones):
        wanted = {cast.bones[b].id for b in bones}
        keys = floor.scene.keys_by_channel()
        own = [c for c in floor.scene.channels if not wanted or c.owner_id in wanted]
        return list(dict.fromkeys(Bead(c.instance_id, c.owner_id, k.time) for c in own for k in keys[c.id]))

    def spans():
        return sorted((p.start, p.stop) for p in floor.scene.plants), [b.time for b in floor.scene.bearings]

    begun = spans()
    move_beads(floor, beads("near thigh"), 3.0)
    assert spans() == begun  # only some of the leg's beads
    move_beads(floor, beads("near thigh", "near shin", "near foot"), 20.0)
    assert spans() == ([(4, 30), (24, 50)], [34])
    move_beads(floor, beads(), 20.0)
    assert spans()[1] == [6.0]
    assert [h.time for h in floor.scene.hitches] == [6.0]  # Pip has no beads: what he hangs on does not slide
    cast.undo()
    remove_link(floor, "bearings", floor.scene.bearings[0].id)  # its time does not go round
    before = cast.whole(*range(48))
    move_beads(floor, beads(), 20.0)
    assert cast.whole(*range(48)) == pytest.approx(np.roll(before, 20, axis=0), abs=1e-6)
    cast.undo()
    assert cast.whole(*range(48)) == pytest.approx(before)


def test_pip_is_put_into_a_hand_carried_thrown_and_caught_and_nothing_jumps(cast):
    floor = cast.floor
    for frame, turn in ((4, -20), (16, -90), (24, -10)):
        cast.key(frame, "near upper arm", turn)
    pip = (cast.pip, cast.pip)
    (first,) = hitch_nodes(floor, [pip], 4.0, cast.node("near hand"))
    hitch_nodes(floor, [pip], 16.0, None, arc=True)
    hitch_nodes(floor, [pip], 28.0, cast.node("far hand"))
    for time in (4.0, 16.0, 28.0):
        a, b = tip(cast.at(time - 1e-5, time + 1e-5), cast.pip, 0)
        assert np.abs(a - b).max() < 0.01
    carried = tip(cast.at(*range(4, 17)), cast.pip, 0)
    assert np.ptp(carried[:, 1]) > 20
    update_hitch(floor, first, {"time": 6.0})
    assert tip(cast.at(5.0), cast.pip, 0)[0] == pytest.approx((800, 640))
    with pytest.raises(CycleError, match="Pip and Tamsin would"):
        hitch_nodes(floor, [cast.node("pelvis")], 30.0, (cast.pip, cast.pip))
    with pytest.raises(InvalidInputError, match="itself"):
        hitch_nodes(floor, [pip], 30.0, pip)
    assert len(floor.scene.hitches) == 3
    remove_instance(floor, cast.who)
    assert np.isfinite(cast.at(10.0).nodes).all()  # its carriers sleep
    cast.undo()
    assert len(floor.scene.hitches) == 3


def test_a_knee_carries_the_body_and_the_change_is_moved_and_undone_without_touching_keys(cast):
    for frame, turn in ((0, 0), (30, -50)):
        cast.key(frame, "near shin", turn)
        cast.key(frame, "near thigh", -turn)
    keys = cast.floor.scene.keys
    before = cast.whole(12.0)
    made = change_bearing(cast.floor, cast.who, 12.0, cast.bones["near shin"].id)
    assert cast.whole(12.0) == pytest.approx(before, abs=0.01)
    knee = cast.place("near shin", 12.0, 20.0, 30.0)
    assert np.abs(knee - knee[0]).max() < 0.01
    change_bearing(cast.floor, cast.who, 24.0)
    after = cast.whole(24.0 - 1e-5, 24.0 + 1e-5)
    assert after[0] == pytest.approx(after[1], abs=0.01)
    assert cast.floor.scene.keys == keys
    update_bearing(cast.floor, made, {"time": 8.0})
    assert cast.place("near shin", 20.0) == pytest.approx(cast.place("near shin", 8.0), abs=0.01)
    with pytest.raises(InvalidInputError, match="carries the body here already"):
        change_bearing(cast.floor, cast.who, 14.0, cast.bones["near shin"].id)
    compiled = cast.workspace.compiled(cast.floor.scene_id)
    thigh = take(compiled, *cast.node("near thigh"), 16.0, gesture="turn")
    assert (thigh.owner_id, thigh.sense) == (cast.bones["near shin"].id, -1.0)
    shin = take(compiled, *cast.node("near shin"), 16.0, gesture="turn")
    assert (shin.owner_id, shin.sense) == (cast.bones["pelvis"].id, 1.0)
    for _ in range(3):
        cast.undo()
    assert cast.floor.scene.bearings == () and cast.floor.scene.keys == keys


def test_a_dragged_thigh_swings_the_body_under_the_pointer(cast):
    change_bearing(cast.floor, cast.who, 0.0, cast.bones["near shin"].id)
    compiled = cast.workspace.compiled(cast.floor.scene_id)
    grip = take(compiled, *cast.node("near thigh"), 10.0, gesture="turn")
    knee, hip = cast.place("near shin", 10.0)[0], cast.place("near thigh", 10.0)[0]
    arm = complex(*(hip - knee)) * np.exp(-0.4j)
    wanted = drag("turn", grip, [], tuple(hip), (knee[0] + arm.real, knee[1] + arm.imag))
    set_values(cast.floor, 10.0, wanted)
    set_values(cast.floor, 0.0, dict.fromkeys(wanted, 0.0))
    assert cast.place("near thigh", 10.0)[0] == pytest.approx((knee[0] + arm.real, knee[1] + arm.imag), abs=0.01)


def test_what_holds_and_carries_is_retimed_with_the_poses(cast):
    floor = cast.floor
    for frame, turn in ((0, 0), (10, 20), (20, -10), (30, 0)):
        cast.key(frame, "chest", turn)
        mark_pose(floor, cast.who, frame)
    (made,) = plant_limbs(floor, [cast.limbs["near leg"]], 5.0)
    update_plant(floor, made, {"stop": 15.0})
    hitch_nodes(floor, [(cast.who, cast.bones["basket"].id)], 25.0, cast.node("near hand"))
    hitch_nodes(floor, [(cast.pip, cast.pip)], 15.0, cast.node("near hand"))
    change_bearing(floor, cast.who, 20.0, cast.bones["near shin"].id)
    second = next(p for p in poses_of(floor, cast.who) if p.time == 10)
    move_pose(floor, second.id, 14.0)
    scene = floor.scene
    assert (scene.plants[0].start, scene.plants[0].stop) == pytest.approx((7, 17))  # half of 0 to 14, half of 14 to 20
    assert {h.time for h in scene.hitches} == {15, 25} and scene.bearings[0].time == 20  # Pip's own stay where they are
    third = next(p for p in poses_of(floor, cast.who) if p.time == 20)
    set_duration(floor, third.id, 20)
    assert next(h.time for h in floor.scene.hitches if h.instance_id == cast.who) == pytest.approx(30)
    cast.undo()
    cast.undo()
    assert (floor.scene.plants[0].start, floor.scene.plants[0].stop) == (5, 15)


def test_a_foot_that_is_planted_near_the_floor_is_put_on_it_and_says_so(cast):
    leg = cast.limbs["near leg"]
    cast.key(10, "pelvis", -20, "shift_y")
    (made,) = plant_limbs(cast.floor, [leg], 10.0)
    assert cast.floor.outcome.caught == {"near leg": pytest.approx(20, abs=1)}
    notes = [n for n in scene_notes(cast.workspace, cast.floor.scene_id) if n.kind == "hovering"]
    assert notes == []
    plant = next(p for p in cast.floor.scene.plants if p.id == made)
    update_plant(cast.floor, made, {"y": plant.y - 15})
    (note,) = (n for n in scene_notes(cast.workspace, cast.floor.scene_id) if n.kind == "hovering")
    assert note.value == pytest.approx(15, abs=0.1) and note.remedy.target_id == made
    put_on_floor(cast.floor, made)
    assert next(p for p in cast.floor.scene.plants if p.id == made).y == pytest.approx(plant.y)
    with pytest.raises(InvalidInputError, match="not near the floor"):
        put_on_floor(cast.floor, made)


def test_what_jumps_where_a_walk_or_a_phrase_begins_is_noted_and_what_comes_in_softly_is_not(cast):
    put_gait(cast.floor, cast.who, CHARACTERS["plain"], start=12.0, travels=False)
    notes = [n for n in scene_notes(cast.workspace, cast.floor.scene_id) if n.kind == "jump"]
    assert notes and {n.frame for n in notes} == {12.0} and "where the walk begins" in notes[0].said
    cast.undo()
    put_phrase(cast.floor, cast.who, "nod", 12.0)
    assert not [n for n in scene_notes(cast.workspace, cast.floor.scene_id) if n.kind == "jump"]
