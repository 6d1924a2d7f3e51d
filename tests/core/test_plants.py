"""Plants: tips that stay on their spots, come and go without a jump, roll over heel and ball, go with a carrier."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from builders.making import bone, scene, tip
from builders.planting import SWAY, compiled, jump, place_of, plant
from gaitwire.core.evaluate import compile_scene, evaluate
from gaitwire.core.puppet.model import Limb, Puppet
from gaitwire.core.scene import Instance


@given(seed=st.integers(0, 10_000), turned=st.booleans(), scale=st.sampled_from([0.5, 1.0, 2.0]))
@settings(max_examples=12)
def test_a_planted_foot_and_hand_do_not_move_however_the_body_does(seed, turned, scale):
    rng = np.random.default_rng(seed)
    span = {"turn": 10.0, "shift_x": 8.0, "shift_y": 6.0}
    tracks = {("pelvis", prop): [(t, rng.uniform(-1, 1) * size) for t in (0, 7, 15, 23)] for prop, size in span.items()}
    tracks[("i", "turn")] = [(t, rng.uniform(-6, 6)) for t in (0, 11, 23)]
    m = -1 if turned else 1
    plants = [
        plant(x=300 + m * 8.0 * scale, y=406 - 17.52 * scale),
        plant("reach", 2, 20, x=300 + m * 30 * scale, y=406 - 110 * scale, angle=rng.uniform(-40, 40)),
    ]
    made = compiled(tracks, plants, turned=turned, scale=scale)
    frames = evaluate(made, np.arange(4.0, 16.0, 0.25))
    foot, hand = place_of(frames, "foot"), tip(frames, "hand", 6, 60)
    assert np.abs(foot - foot[0]).max() < 0.01
    assert np.abs(hand - hand[0]).max() < 0.01
    assert foot[0] == pytest.approx((plants[0].x, plants[0].y), abs=0.01)
    foot_axis = tip(frames, "foot", 24) - foot  # level, as at rest
    assert foot_axis == pytest.approx(np.tile([m * 24 * scale, 0], (len(frames), 1)), abs=0.01)


@pytest.mark.parametrize("soft", [(4, 6), (0.5, 20)])
def test_a_limb_comes_to_its_plant_and_leaves_it_without_a_jump(soft):
    made = compiled(SWAY, [plant(x=304.0, y=390.0, angle=6, soft_in=soft[0], soft_out=soft[1])])
    assert max(jump(made, 4.0), jump(made, 16.0)) < 1e-3
    bare = compiled(SWAY, [])
    far = evaluate(made, np.array([4 - soft[0], min(23.0, 16 + soft[1])])).nodes
    own = evaluate(bare, np.array([4 - soft[0], min(23.0, 16 + soft[1])])).nodes
    assert far[0] == pytest.approx(own[0])  # outside the soft ends it turns by its keys
    if soft[1] < 7:
        assert far[1] == pytest.approx(own[1])


def test_two_plants_close_together_share_the_gap_and_one_goes_across_the_seam():
    close = compiled(SWAY, [plant(start=2, stop=8, x=300.0, y=389.0), plant(start=10, stop=16, x=318.0, y=389.0)])
    assert max(jump(close, t) for t in (2.0, 8.0, 10.0, 16.0)) < 1e-3
    seam = compiled(SWAY, [plant(start=20, stop=28, x=300.0, y=389.0)], loop=True)
    held = place_of(evaluate(seam, np.array([20.0, 23.0, 23.999, 0.0, 3.0, 4.0])), "foot")
    assert np.abs(held - (300, 389)).max() < 0.01
    assert max(jump(seam, 20.0), jump(seam, 4.0)) < 1e-3


def test_a_foot_rolls_over_its_heel_and_over_its_ball():
    """By hand: the sole lies 7.52 px under the ankle, its heel 6 px behind it, its ball 16.8 px before it."""
    tracks = {("leg", "roll"): [(4, -30), (10, 0), (16, 40)]}  # clockwise: the toe comes up, then the heel
    made = compiled(tracks, [plant(x=300.0, y=388.0, pitch=0.0)])
    frames = evaluate(made, np.array([4.0, 10.0, 16.0]))

    def at(x, y):
        a, b, c, d, e, f = frames.nodes[:, [k[1] for k in frames.node_keys].index("foot")].T
        return np.stack([a * x + c * y + e, b * x + d * y + f], -1)

    heel, ball = at(-6, 7.52), at(16.8, 7.52)
    assert heel[0] == pytest.approx((294, 395.52), abs=0.01) and ball[0, 1] < 395
    assert heel[1] == pytest.approx((294, 395.52), abs=0.01) and ball[1] == pytest.approx((316.8, 395.52), abs=0.01)
    assert ball[2] == pytest.approx((316.8, 395.52), abs=0.01) and heel[2, 1] < 395


def test_a_tip_goes_with_the_bone_it_is_planted_on():
    swing = Puppet(
        id="q", name="q", width=10, height=10, bones=(bone("board", None, 0, 0, length=60, angle=90, puppet_id="q"),)
    )
    other = Instance(id="o", scene_id="s", puppet_id="q", name="o", x=340.0, y=300.0, depth=3)
    held = plant("reach", x=4.0, y=30.0, carrier_instance="o", carrier_id="board")
    made = compiled(SWAY, [held], others=[(other, swing)])
    tracks = scene({("o", "turn"): [(0, -20), (23, 25)], ("o", "shift_x"): [(0, 0), (23, -30)]}, loop=False)
    moved = made.scene.model_copy(
        update={
            "channels": made.scene.channels
            + tuple(c.model_copy(update={"instance_id": "o", "owner_kind": "seat"}) for c in tracks.channels),
            "keys": made.scene.keys + tracks.keys,
        }
    )
    made = compile_scene(moved, made.puppets)
    frames = evaluate(made, np.arange(4.0, 17.0))
    board = frames.nodes[:, [k[1] for k in frames.node_keys].index("board")]
    a, b, c, d, e, f = board.T
    spot = np.stack([a * 4 + c * 30 + e, b * 4 + d * 30 + f], -1)
    assert np.abs(place_of(frames, "hand") - spot).max() < 0.01
    assert np.ptp(spot[:, 0]) > 5
    turn = [
        np.degrees(np.arctan2(m[:, 1], m[:, 0]))
        for m in (board, frames.nodes[:, [k[1] for k in frames.node_keys].index("hand")])
    ]
    assert np.ptp(turn[1] - turn[0]) < 1e-6
    assert max(jump(made, 4.0), jump(made, 16.0)) < 1e-3


def test_out_of_reach_the_tip_leaves_its_spot_by_what_is_missing():
    made = compiled({}, [plant("reach", x=300.0, y=100.0)])
    hand = place_of(evaluate(made, np.array([10.0])), "hand")[0]
    shoulder = place_of(evaluate(made, np.array([10.0])), "arm")[0]
    assert np.hypot(*(hand - shoulder)) == pytest.approx(80.0, abs=0.01)
    assert np.degrees(np.arctan2(*(hand - shoulder)[::-1])) == pytest.approx(-90, abs=5)


TAIL = Puppet(
    id="p", name="p", width=300, height=200, base_x=100, base_y=200,
    bones=tuple(bone(f"t{n}", f"t{n - 1}" if n else None, 100 + 30 * n, 100, length=30, angle=0) for n in range(5)),
    limbs=(Limb(id="tail", puppet_id="p", name="tail", tip_id="t4", whole=True, count=5, softness=0.02),),
)  # fmt: skip


@pytest.mark.parametrize("turns", [(20, 30, 25, 30, 20), (40, -70, 60, -50, 30), (0, 2, 0, 1, 0)])
def test_a_tail_of_any_shape_is_solved_from_its_tip_from_a_frame_on_without_a_jump(turns):
    """An arch, an S and one nearly straight: it goes over to the even bend of a solved chain by and by."""
    tracks = {(f"t{n}", "turn"): [(0, turn), (23, turn - 10 * n)] for n, turn in enumerate(turns)}
    turned = evaluate(compiled(tracks, [], TAIL), np.arange(24.0))
    rest = tip(evaluate(compiled({}, [], TAIL), np.arange(1.0)), "t4", 30)[0]
    away = tip(turned, "t4", 30)[8] - rest
    made = compiled(
        {**tracks, ("tail", "mix"): [(0, 0), (8, 1)], **{("tail", f"tip_{a}"): [(8, v)] for a, v in zip("xy", away, strict=True)}},
        [], TAIL,
    )  # fmt: skip
    mixed = {c.id for c in made.scene.channels if c.property == "mix"}
    keys = tuple(k.model_copy(update={"ease": "hold"}) if k.channel_id in mixed else k for k in made.scene.keys)
    made = compile_scene(made.scene.model_copy(update={"keys": keys}), made.puppets)
    assert max(jump(made, t) for t in (8.0, 14.0)) < 1e-3
    solved = evaluate(made, np.arange(24.0))
    assert solved.nodes[:9] == pytest.approx(turned.nodes[:9], abs=1e-6)
    reached = tip(solved, "t4", 30)[14:] - rest
    assert np.ptp(reached, axis=0).max() < 1e-6 and np.abs(reached - away).max() < 5  # softly, near straight
    for t in (8.0, 11.0, 20.0):  # alone as among others
        assert evaluate(made, np.array([t])).nodes[0] == pytest.approx(solved.nodes[int(t)], abs=1e-9)


def test_the_mix_goes_from_turned_bones_to_a_solved_tip():
    tracks = {**SWAY, ("leg", "mix"): [(0, 0), (23, 1)], ("leg", "tip_x"): [(0, 12)], ("leg", "tip_y"): [(0, -9)]}
    frames = evaluate(compiled(tracks, []), np.arange(24.0))
    own = evaluate(compiled(SWAY, []), np.arange(24.0))
    assert frames.nodes[0] == pytest.approx(own.nodes[0])
    assert place_of(frames, "foot")[-1] == pytest.approx((300 + 12, 406 - 7.52 - 9), abs=0.01)
    steps = np.abs(np.diff(place_of(frames, "foot"), axis=0)).max()
    assert steps < 8


def test_planted_frames_are_the_same_one_by_one_and_in_any_order():
    made = compiled(SWAY, [plant(x=304.0, y=389.0), plant("reach", 2, 9, x=330.0, y=300.0)])
    times = np.array([17.0, 3.0, 12.5, 0.0, 21.0, 9.0, 4.0])
    together = evaluate(made, times)
    for n, time in enumerate(times):
        assert together.nodes[n] == pytest.approx(evaluate(made, np.array([time])).nodes[0], abs=1e-9)


@pytest.mark.parametrize("axis", [0.0, 35.0, -70.0])
def test_a_leg_that_is_squashed_along_any_axis_still_stands_on_its_spot(axis):
    squash = {(b, "stretch"): [(0, 1.0), (10, 1.15), (23, 0.9)] for b in ("thigh", "shin")}
    tracks = SWAY | squash | {(b, p): [(0, v)] for b in ("thigh", "shin") for p, v in (("axis", axis), ("keep", 1.0))}
    made = compiled(tracks, [plant(x=304.0, y=392.0)])
    foot = place_of(evaluate(made, np.arange(4.0, 16.0, 0.5)), "foot")
    assert np.abs(foot - (304.0, 392.0)).max() < 0.01
