"""Hitches and bearings: no jump at any change, a thing goes with its carrier, a body swings about what carries it."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from builders.making import bone, tip
from builders.planting import SWAY, WALKER, compiled, jump, linked, place_of, plant
from gaitwire.core.errors import InvalidInputError, LockedError
from gaitwire.core.evaluate import compile_scene, evaluate
from gaitwire.core.evaluate.handles import drag, take_all, turn_swept
from gaitwire.core.evaluate.reaching import reach, take_limb
from gaitwire.core.links import Bearing, Hitch
from gaitwire.core.motion.drivers.driver import Driver
from gaitwire.core.motion.loose.settings import Loose
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.scene import Instance

BASKET = Puppet(
    id="q", name="q", width=40, height=40, base_x=20, base_y=40,
    bones=(bone("basket", None, 20, 10, length=20, angle=90, puppet_id="q"), bone("lid", "basket", 20, 10, puppet_id="q")),
)  # fmt: skip
LAID = Instance(id="o", scene_id="s", puppet_id="q", name="o", x=360.0, y=406.0, depth=4)


def hitch(time, carrier="hand", owner="o", instance="o", by="i", **more):
    made = {"id": f"{owner}{time}", "scene_id": "s", "instance_id": instance, "owner_id": owner, "time": time}
    return Hitch.model_validate({**made, "carrier_instance": by if carrier else "", "carrier_id": carrier, **more})


def bearing(time, owner, **more):
    return Bearing.model_validate(
        {"id": f"b{time}", "scene_id": "s", "instance_id": "i", "time": time, "owner_id": owner, **more}
    )


def matrix_of(frames, name):
    return frames.nodes[:, [k[1] for k in frames.node_keys].index(name)]


ARMS = {**SWAY, ("arm", "turn"): [(0, -80), (12, 30), (23, -100)], ("forearm", "turn"): [(0, 10), (20, -50)]}
CARRY = [hitch(5), hitch(12, "foot"), hitch(17, "")]


def test_a_thing_goes_from_hand_to_foot_and_stays_where_it_is_let_go():
    made = linked(compiled(ARMS, [], others=[(LAID, BASKET)]), hitches=CARRY)
    assert max(jump(made, t) for t in (5.0, 12.0, 17.0)) < 1e-3
    frames = evaluate(made, np.arange(24.0))
    place = place_of(frames, "o")
    assert np.ptp(place[:6], axis=0) == pytest.approx([0, 0]) and np.ptp(place[17:], axis=0) == pytest.approx([0, 0])
    assert np.ptp(place[5:13], axis=0).min() > 5
    hand, own = matrix_of(frames, "hand"), matrix_of(frames, "o")
    in_hand = [
        np.linalg.solve([[h[0], h[2]], [h[1], h[3]]], [o[4] - h[4], o[5] - h[5]])
        for h, o in zip(hand[5:13], own[5:13], strict=True)
    ]
    assert np.ptp(in_hand, axis=0).max() < 1e-6
    for t in (3.0, 8.0, 14.0, 22.0):  # alone as among others
        assert evaluate(made, np.array([t])).nodes[0] == pytest.approx(frames.nodes[int(t)], abs=1e-9)


def test_its_own_keys_go_on_while_it_is_carried():
    tracks = {**ARMS, ("basket", "turn"): [(5, 0), (11, 40)]}
    made = compiled({}, [], others=[(LAID, BASKET)])
    channels = compiled(tracks, []).scene
    moved = tuple(c.model_copy(update={"instance_id": "o"}) if c.owner_id == "basket" else c for c in channels.channels)
    made = compile_scene(
        made.scene.model_copy(update={"channels": moved, "keys": channels.keys, "hitches": tuple(CARRY)}), made.puppets
    )
    frames = evaluate(made, np.array([5.0, 11.0]))
    turn = [np.degrees(np.arctan2(m[:, 1], m[:, 0])) for m in (matrix_of(frames, "basket"), matrix_of(frames, "hand"))]
    assert np.diff(turn[0] - turn[1])[0] == pytest.approx(40)


def test_a_bone_is_hitched_away_from_its_parent_and_back():
    made = linked(
        compiled(ARMS, []),
        hitches=[hitch(6, "foot", owner="hand", instance="i"), hitch(15, "", owner="hand", instance="i")],
    )
    assert max(jump(made, 6.0), jump(made, 15.0)) < 1e-3
    frames = evaluate(made, np.arange(24.0))
    apart = place_of(frames, "hand") - place_of(frames, "foot")
    assert np.ptp(np.hypot(*apart[6:16].T)) < 1e-6
    wrist = np.hypot(*(place_of(frames, "hand") - place_of(frames, "forearm")).T)
    assert np.ptp(wrist[15:]) < 1e-6


def test_what_is_thrown_falls_as_galilei_says_and_is_caught_in_the_hand():
    gravity = 900.0
    thrower = [hitch(2), hitch(8, "", arc=True, gravity=gravity, spin=90.0), hitch(18, "foot")]
    made = linked(compiled(ARMS, [], others=[(LAID, BASKET)]), hitches=thrower)
    assert max(jump(made, t) for t in (2.0, 8.0, 18.0)) < 1e-3
    frames = evaluate(made, np.arange(8.0, 19.0))
    x, y = place_of(frames, "o").T
    assert np.diff(x, 2) == pytest.approx(np.zeros(9), abs=1e-6)
    assert np.diff(y, 2) == pytest.approx(np.full(9, gravity / 24**2), abs=1e-6)
    caught = tip(frames, "foot", 12)[-1]
    assert (x[-1], y[-1]) == pytest.approx(caught, abs=1e-6)
    turn = np.degrees(np.arctan2(*matrix_of(frames, "o")[:, [1, 0]].T))
    assert np.diff(np.unwrap(turn, period=360)) == pytest.approx(np.full(10, 90 / 24))


def test_what_is_thrown_to_nobody_keeps_the_hands_speed_and_comes_to_lie_on_the_ground():
    made = linked(compiled(ARMS, [], others=[(LAID, BASKET)], frames=60), hitches=[hitch(2), hitch(8, "", arc=True)])
    made = compile_scene(made.scene.model_copy(update={"ground": 430.0}), made.puppets)
    place = place_of(evaluate(made, np.arange(60.0)), "o")
    before, after = place[8] - place[7], place[9] - place[8]
    assert after - before == pytest.approx((0, 0.5 * 1200 / 24**2), abs=1e-6)
    assert place[-1, 1] == pytest.approx(430) and place[-2] == pytest.approx(place[-1])


def test_what_would_carry_itself_is_left_out():
    ring = [hitch(5, "hand"), hitch(3, "basket", owner="hand", instance="i", by="o")]
    made = linked(compiled(ARMS, [], others=[(LAID, BASKET)]), hitches=ring)
    assert made.groups[0].unresolved == {"o5", "hand3"}
    assert np.isfinite(evaluate(made, np.arange(9.0)).nodes).all()


def rolling(plants=(), slide=90.0, mix=0.0, **links):
    """The walker with a basket that turns and slides by keys of its own from frame 12 on."""
    tracks = {
        **ARMS,
        ("basket", "turn"): [(12, 0), (23, slide / 2)],
        ("o", "shift_x"): [(12, 0), (20, slide)],
        ("reach", "mix"): [(0, mix)],
    }
    keyed = compiled(tracks, plants, others=[(LAID, BASKET)])
    theirs = {"basket": "o", "o": "o"}
    moved = [c.model_copy(update={"instance_id": theirs.get(c.owner_id, "i")}) for c in keyed.scene.channels]
    seats = [c.model_copy(update={"owner_kind": "seat"}) if c.owner_id == "o" else c for c in moved]
    scene = keyed.scene.model_copy(update={"channels": tuple(seats)})
    return linked(compile_scene(scene, keyed.puppets), **links)


def within(frames, outer, inner):
    """Where the inner node lies in the outer one, which is not skewed, as complex numbers."""
    a, b = matrix_of(frames, outer), matrix_of(frames, inner)
    return (b[:, 4] - a[:, 4] + 1j * (b[:, 5] - a[:, 5])) / (a[:, 0] + 1j * a[:, 1])


@pytest.mark.parametrize("gap", [0, 3])
def test_two_that_carry_each_other_one_after_the_other_go_on_without_a_jump(gap):
    took, back = 4, 12 + gap
    ring = [hitch(took), hitch(12, ""), hitch(back, "basket", owner="i", instance="i", by="o")]
    made = rolling(hitches=ring)
    assert made.groups[0].unresolved == frozenset()
    assert max(jump(made, float(t)) for t in (took, 12, back)) < 1e-3
    frames = evaluate(made, np.arange(24.0))
    first = evaluate(rolling(hitches=ring[:2]), np.arange(24.0))
    assert frames.nodes[: back + 1] == pytest.approx(first.nodes[: back + 1], abs=1e-9)
    assert place_of(frames, "o") == pytest.approx(place_of(first, "o"), abs=1e-9)  # whom it carries is no matter to it
    seat = within(frames, "basket", "i")[back:]
    assert np.abs(seat - seat[0]).max() < 1e-9
    assert np.ptp(place_of(frames, "i")[back:], axis=0).max() > 20
    for t in (2.0, 8.0, 13.0, 22.0):  # alone as among others
        assert evaluate(made, np.array([t])).nodes[0] == pytest.approx(frames.nodes[int(t)], abs=1e-9)


@pytest.mark.parametrize("gap", [0, 3])
def test_what_swings_on_one_that_is_carried_and_then_carries_swings_once(gap):
    """Its segment comes up more than once where they carry each other."""
    loose = Driver(
        id="d", scene_id="s", instance_id="o", owner_kind="bone", owner_id="basket", settings=Loose(as_drawn=False)
    )
    ring = [hitch(4), hitch(12, ""), hitch(12 + gap, "basket", owner="i", instance="i", by="o")]
    made, first = (rolling(hitches=links, drivers=(loose,)) for links in (ring, ring[:2]))
    assert made.groups[0].again and not first.groups[0].again
    frames, once = (evaluate(one, np.arange(24.0)) for one in (made, first))
    stiff = evaluate(rolling(hitches=ring[:2]), np.arange(24.0))
    assert np.abs(matrix_of(once, "basket")[:, 0] - matrix_of(stiff, "basket")[:, 0]).max() > 0.02
    assert frames.nodes[: 13 + gap] == pytest.approx(once.nodes[: 13 + gap], abs=1e-6)
    assert matrix_of(frames, "basket") == pytest.approx(matrix_of(once, "basket"), abs=1e-6)


def test_a_hand_carries_a_basket_and_then_stands_on_it():
    """Its limb is solved anew each time its turn comes, from its own keys: half a mix does not become three quarters."""
    ring = [hitch(2), hitch(7, "")]
    spot = {"carrier_instance": "o", "carrier_id": "basket", "x": -20.0, "y": -75.0, "soft_in": 2.0, "soft_out": 2.0}
    made = rolling([plant("reach", 13, 19, **spot)], 6.0, 0.5, hitches=ring)
    assert made.groups[0].again and made.groups[0].unresolved == frozenset()
    assert max(jump(made, t) for t in (2.0, 7.0, 13.0, 19.0)) < 1e-3
    frames = evaluate(made, np.arange(24.0))
    palm = within(frames, "basket", "hand")
    assert np.abs(palm[13:20] - palm[13]).max() < 0.01
    assert np.ptp(np.abs(within(frames, "hand", "o")[2:8])) < 1e-6
    bare = evaluate(rolling((), 6.0, 0.5, hitches=ring), np.arange(24.0))
    free = [*range(11), 22, 23]
    assert frames.nodes[free] == pytest.approx(bare.nodes[free], abs=1e-9)
    given = np.subtract(*(np.angle(m[:, 0] + 1j * m[:, 1]) for m in (matrix_of(f, "arm") for f in (frames, bare))))
    assert given[[12, 20]] == pytest.approx(given[[13, 19]] / 2, abs=1e-6)  # half way, half of what it lacks


@pytest.mark.parametrize("start", [4, 6, 9])
def test_a_ring_that_is_closed_on_any_frame_sleeps(start):
    early = [hitch(3), hitch(10, ""), hitch(start, "basket", owner="i", instance="i", by="o")]
    assert rolling(hitches=early).groups[0].unresolved
    soft = plant("reach", 11, 19, carrier_instance="o", carrier_id="basket", soft_in=start)
    made = rolling([soft], hitches=early[:2])
    # The basket stands as the hand left it, and the hand comes down by how the basket stands.
    assert bool(made.groups[0].unresolved) == (11 - start < 10)
    assert np.isfinite(evaluate(made, np.arange(24.0)).nodes).all()


HOOK = [bearing(6, "shin"), bearing(16, "")]


@given(seed=st.integers(0, 10_000), turned=st.booleans(), solved=st.booleans())
@settings(max_examples=12)
def test_a_change_of_bearing_changes_nothing_on_its_frame(seed, turned, solved):
    rng = np.random.default_rng(seed)
    tracks = {
        (b, "turn"): [(t, rng.uniform(-50, 50)) for t in (0, 8, 15, 23)]
        for b in ("pelvis", "thigh", "shin", "foot", "arm", "i")
    }
    plants = [plant(start=2, stop=23, x=310.0, y=380.0), plant("reach", 9, 14, x=330.0, y=300.0)] if solved else []
    made = linked(compiled(tracks, plants, turned=turned), bearings=HOOK)
    made = compile_scene(made.scene.model_copy(update={"plants": tuple(plants)}), made.puppets)
    assert max(jump(made, 6.0), jump(made, 16.0)) < 0.01
    # While the knee carries, it moves only as the root's keys ask, its leg planted until then or not.
    still = {k: v for k, v in tracks.items() if k[0] not in ("pelvis", "i")}
    made = linked(compiled(still, plants, turned=turned), bearings=HOOK)
    made = compile_scene(made.scene.model_copy(update={"plants": tuple(plants)}), made.puppets)
    knee = matrix_of(evaluate(made, np.arange(6.0, 16.0, 0.5)), "shin")
    assert np.ptp(knee[:, 4:], axis=0).max() < 1e-6


def test_the_body_swings_about_the_knee_and_stays_where_it_swung_to():
    tracks = {("shin", "turn"): [(0, 10), (6, 10), (16, 70)], ("pelvis", "turn"): [(0, 0), (16, 0), (23, 20)]}
    made = linked(compiled(tracks, []), bearings=HOOK)
    frames, bare = evaluate(made, np.arange(24.0)), evaluate(compiled(tracks, []), np.arange(24.0))
    knee, hip = place_of(frames, "shin"), place_of(frames, "thigh")
    assert np.ptp(knee[6:17], axis=0) == pytest.approx([0, 0], abs=1e-9)
    shin = matrix_of(frames, "shin")[6:17, :2]
    assert np.ptp(shin, axis=0) == pytest.approx([0, 0], abs=1e-9)
    # The joint opens by 60 degrees, so that the thigh and all above it turn by as much the other way.
    angle = np.unwrap(np.arctan2(*(hip - knee)[6:17].T[::-1]))
    assert np.degrees(angle[-1] - angle[0]) == pytest.approx(-60, abs=1e-6)
    assert frames.nodes[:7] == pytest.approx(bare.nodes[:7])
    # Back on the pelvis: it turns about its own joint, from where it was.
    pelvis = place_of(frames, "pelvis")
    assert np.ptp(pelvis[16:], axis=0) == pytest.approx([0, 0], abs=1e-9)
    assert np.hypot(*(pelvis[16] - place_of(bare, "pelvis")[16])) > 20


def test_keys_of_the_root_move_the_bearing():
    tracks = {
        ("pelvis", "turn"): [(0, 0), (6, 0), (12, 30)],
        ("pelvis", "shift_x"): [(6, 0), (12, 25)],
        ("thigh", "turn"): [(0, 12)],
    }
    made = linked(compiled(tracks, []), bearings=[bearing(6, "hand")])
    frames = evaluate(made, np.array([6.0, 12.0]))
    hand = place_of(frames, "hand")
    assert hand[1] - hand[0] == pytest.approx((25, 0), abs=1e-9)
    turn = np.degrees(np.arctan2(*matrix_of(frames, "hand")[:, [1, 0]].T))
    assert turn[1] - turn[0] == pytest.approx(30)


def test_a_puppet_that_is_not_linked_is_evaluated_as_ever():
    assert compiled(SWAY, [], walker=WALKER).groups[0].batches == ()


def grip_at(made, owner, gesture, frame=12.0):
    return take_all(made, [("i", owner)], frame, gesture=gesture)[0]


def test_hands_turn_the_joint_beyond_where_another_bone_carries_the_body():
    made = linked(
        compiled({("thigh", "turn"): [(0, -20)], ("shin", "turn"): [(0, 35)]}, []), bearings=[bearing(4, "foot")]
    )
    assert [(grip_at(made, o, "turn").owner_id, grip_at(made, o, "turn").sense) for o in ("pelvis", "thigh", "shin", "foot", "arm")] == [
        ("thigh", -1), ("shin", -1), ("foot", -1), ("pelvis", 1), ("arm", 1),
    ]  # fmt: skip
    assert grip_at(made, "thigh", "turn", frame=2.0).owner_id == "thigh"  # before the change, as ever
    for owner in ("pelvis", "thigh", "shin", "foot", "i"):
        frames = evaluate(made, np.array([12.0]))
        name = {"pelvis": "arm", "i": "arm", "foot": "arm"}.get(owner, owner)
        held = place_of(frames, name)[0]
        grip = grip_at(made, owner, "turn")
        there = tuple(np.add(held, [3.0, -2.0]))
        wanted = drag("turn", grip, [], tuple(held), there)
        moved = evaluate(made, np.array([12.0]), wanted)
        swept = turn_swept(grip, tuple(held), there)
        turned = [np.degrees(np.arctan2(*matrix_of(f, name)[0, [1, 0]])) for f in (frames, moved)]
        assert turned[1] - turned[0] == pytest.approx(swept, abs=0.02), owner
        if owner != "i":
            assert place_of(moved, "foot")[0] == pytest.approx(place_of(frames, "foot")[0], abs=1e-6)


@pytest.mark.parametrize("turned", [False, True])
def test_a_shift_of_the_root_moves_the_whole_body_by_the_way_of_the_hand(turned):
    tracks = {("thigh", "turn"): [(0, -20), (12, 30)], ("shin", "turn"): [(0, 35)]}
    made = linked(compiled(tracks, [], turned=turned, scale=1.5), bearings=[bearing(4, "shin")])
    for owner in ("pelvis", "i"):
        wanted = drag("shift", grip_at(made, owner, "shift"), [], (0.0, 0.0), (11.0, -7.0))
        before, after = evaluate(made, np.array([12.0])), evaluate(made, np.array([12.0]), wanted)
        assert (after.nodes - before.nodes)[0, 1:, 4:] == pytest.approx(
            np.tile([11.0, -7.0], (len(before.node_keys) - 1, 1)), abs=1e-6
        )


def test_a_tip_that_is_solved_is_pulled_by_itself_alone():
    made = compiled({("leg", "mix"): [(0, 1)], ("leg", "tip_x"): [(0, 9)]}, [])
    grip = take_limb(made, "i", "leg", 5.0)
    end = place_of(evaluate(made, np.array([5.0])), "foot")[0]
    found = reach(grip, (end[0] - 6, end[1] - 8), joint=2)
    assert found.values == {("i", "leg", "tip_x"): pytest.approx(3), ("i", "leg", "tip_y"): pytest.approx(-8)}
    with pytest.raises(InvalidInputError, match="Pull it by its tip"):
        reach(grip, (0.0, 0.0), joint=1)
    with pytest.raises(LockedError, match="solved from its tip"):
        grip_at(made, "shin", "turn", 5.0)
