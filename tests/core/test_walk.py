"""Strides: feet that are down do not move, nothing goes through the floor, legs reach, seams close."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gaitwire.core.walk import smooth
from gaitwire.core.walk.build import ADULT, Build
from gaitwire.core.walk.card import GaitCard
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.core.walk.leg import solve_leg
from gaitwire.core.walk.measures import measured
from gaitwire.core.walk.mixing import mixed_card
from gaitwire.core.walk.stride import DEEPEST, Stride

ONE_PIECE = Build(thigh=0.52, shank=0.48, ankle=0.1, heel=0.06, ball=0.2, hinge=0.0, toe=0.0, rigid=True)


@st.composite
def cards(draw):
    """Cards all over what an animator can set, runs among them."""
    ranges = {
        "stride": (0.2, 2.4), "stance_share": (0.3, 0.72), "clearance": (0, 0.15), "heel_kick": (0, 0.3),
        "heel_roll": (-20, 32), "toe_roll": (15, 75), "scuff": (0, 1), "sink": (0, 0.12), "bounce": (0, 0.05),
        "surge": (0, 0.03), "sway": (0, 2), "breadth": (0.3, 1.6), "limp": (-1, 1), "roll_sharpness": (3, 6.5),
        "flat_from": (0.1, 0.2), "heel_off": (0.14, 0.3), "pitch_peak": (0.1, 0.25), "pitch_follow": (0.1, 0.6),
        "kick_at": (0.15, 0.4), "swing_start": (0.15, 0.5), "swing_end": (0.2, 0.5), "hip_ahead": (0.2, 0.255),
    }  # fmt: skip
    return GaitCard(**{name: draw(st.floats(low, high)) for name, (low, high) in ranges.items()})


def soles(stride, phase):
    pose = stride.at(phase)
    return pose, stride.soles(pose)


@given(card=cards(), build=st.sampled_from([ADULT, ONE_PIECE]))
@settings(max_examples=60)
def test_what_touches_the_floor_stays_and_nothing_is_under_it(card, build):
    stride = Stride(card, build)
    pose, sole = soles(stride, np.linspace(0, 2, 1201))
    assert min(p.imag.min() for p in sole) > -1e-9
    for side, step in enumerate(stride.steps):
        share, plant = pose.share[side], np.floor(pose.phase - stride.lands[side] + 1e-12)
        for begin, end, point in ((0.0, step.flat, sole.heel), (step.flat, step.stance, sole.ball)):
            if point is sole.heel and not step.on_heel:
                continue
            for k in np.unique(plant):
                held = point[side][(share > begin + 1e-6) & (share < end - 1e-6) & (plant == k)]
                assert np.abs(held - held[:1]).max(initial=0.0) < 1e-9
                assert np.abs(held.imag).max(initial=0.0) < 1e-9


@given(card=cards(), build=st.sampled_from([ADULT, ONE_PIECE]))
@settings(max_examples=40)
def test_the_end_meets_the_start_and_legs_reach_their_ankles(card, build):
    stride = Stride(card, build)
    h = 1e-5
    pose = stride.at(np.array([0.0, h, 1.0 - h, 1.0, 1.0 + h]))
    place = np.stack(
        [
            pose.hips.up,
            pose.ankle_up[0],
            pose.ankle_up[1],
            pose.leg.thigh[0],
            pose.leg.thigh[1],
            pose.leg.knee[0],
            pose.leg.knee[1],
        ]
    )
    assert place[:, 3] == pytest.approx(place[:, 0], abs=1e-6)
    speed = (place[:, 1] - place[:, 0]) / h, (place[:, 4] - place[:, 3]) / h, (place[:, 3] - place[:, 2]) / h
    assert speed[1] == pytest.approx(speed[0], abs=1e-3) and speed[2] == pytest.approx(speed[0], abs=0.05)
    pose = stride.at(np.linspace(0, 1, 301))
    assert pose.leg.stretch.max() <= 1.0055 and np.isfinite(pose.leg.knee).all() and pose.leg.knee.min() >= 0
    thigh, shank = pose.leg.thigh, pose.leg.shank
    knee = pose.leg.stretch * build.thigh * np.exp(1j * (thigh - np.pi / 2))
    ankle = knee + pose.leg.stretch * build.shank * np.exp(1j * (shank - np.pi / 2))
    off = ankle - (pose.ankle_along - pose.hips.hip_along) - 1j * (pose.ankle_up - pose.hips.hip_up)
    assert np.abs(off).max() < 1e-9


def test_a_stride_too_long_for_the_legs_is_shortened_and_said():
    long = Stride(GaitCard(stride=3.0))
    assert long.shortened and long.length < 2.4
    assert long._deepest(long.length) <= DEEPEST + 1e-9
    assert not Stride(GaitCard()).shortened


def test_without_breadth_it_stands_and_with_more_everything_grows_within_bounds():
    still = Stride(GaitCard(breadth=0.0)).at(np.linspace(0, 1, 50))
    assert np.ptp(still.hips.up) < 1e-12 and np.ptp(still.ankle_up) < 1e-12 and np.ptp(still.pitch) == 0
    plain, broad = (Stride(GaitCard(breadth=b)) for b in (1.0, 1.8))
    assert broad.length > plain.length and broad.broad.stride < 3.2
    assert np.ptp(broad.at(np.linspace(0, 1, 99)).leg.thigh) > np.ptp(plain.at(np.linspace(0, 1, 99)).leg.thigh)


def test_a_run_flies_as_galilei_says_and_lands_as_fast_as_the_seam_wants():
    card = GaitCard(stance_share=0.36, stride=2.5, bounce=0.02, heel_roll=8, sink=0.045, hip_ahead=0.115)
    stride = Stride(card)
    phase = np.linspace(0.37, 0.49, 61)
    pose = stride.at(phase)
    assert all((share >= step.stance).all() for share, step in zip(pose.share, stride.steps, strict=True))
    falls = np.diff(pose.hips.up, 2) / (phase[1] - phase[0]) ** 2
    assert falls == pytest.approx(np.full(59, falls.mean()), rel=1e-4) and falls.mean() < 0
    whole = stride.at(np.linspace(0, 1, 2001)).hips.up
    assert np.ptp(whole) == pytest.approx(2 * 0.02, rel=1e-3)
    assert np.abs(np.diff(whole, 2)).max() < 2e-5  # no corner anywhere, contacts and take-offs included
    assert stride.at(np.linspace(0, 1, 2001)).hips.hip_up.shape == (2, 2001)


def test_the_far_leg_does_what_the_near_one_did_half_a_stride_before():
    stride = Stride(GaitCard())
    now, then = stride.at(np.linspace(0, 1, 41)), stride.at(np.linspace(0, 1, 41) - 0.5)
    for angle in ("thigh", "knee"):
        assert getattr(now.leg, angle)[1] == pytest.approx(getattr(then.leg, angle)[0], abs=1e-9)
    assert now.pitch[1] == pytest.approx(then.pitch[0]) and now.ankle_up[1] == pytest.approx(then.ankle_up[0])


def test_a_spared_leg_stands_shorter_and_the_measures_say_so():
    limping = Stride(GaitCard(limp=0.8))
    near, far = measured(limping), measured(limping, far=True)
    assert near.stance_share < far.stance_share - 5 and near.step_length != pytest.approx(far.step_length)
    assert near.step_length + far.step_length == pytest.approx(near.stride_length)
    assert np.ptp(near.ankle) < np.ptp(far.ankle)


def test_measures_of_the_plain_card_by_hand():
    found = measured(Stride(GaitCard()))
    assert found.cadence == pytest.approx(60 * 24 / 12)
    assert found.stance_share == pytest.approx(61) and found.double_support == pytest.approx(11)
    assert found.step_length == pytest.approx(1.62 / 2)
    assert found.contacts == {"near": [(0, pytest.approx(61))], "far": [(0, pytest.approx(11)), (50, 100)]}
    assert found.ankle[:-1].mean() == pytest.approx(0, abs=1e-9)
    assert {len(x) for x in (found.hip, found.knee, found.ankle, found.pelvis_height, found.foot_height)} == {101}


def test_a_leg_by_the_law_of_cosines():
    build = Build(thigh=0.5, shank=0.5, rigid=True)
    leg = solve_leg(build, np.array([0.0, 0.0, 0.5]), np.array([-1.0, -np.sqrt(0.5), -0.5]))
    assert np.degrees(leg.knee) == pytest.approx([0, 90, 90])
    assert np.degrees(leg.thigh) == pytest.approx([0, 45, 90])
    soft = solve_leg(Build(thigh=0.5, shank=0.5), np.array([0.0]), np.array([-1.0]))
    assert 1 < soft.stretch[0] < 1.0055 and np.degrees(soft.knee[0]) > 4


@pytest.mark.parametrize(
    ("piece", "start", "stop"),
    [
        (smooth.rise, -0.2, 1.2),
        (lambda x: smooth.positive(x, 0.3), -1.0, 1.0),
        (lambda x: smooth.ramp(x, 0.3, 0.2), 0.0, 1.0),
        (lambda x: smooth.hump(x, 0.3), -0.2, 1.2),
        (lambda x: smooth.quintic(x, (1, 2, 3), (-1, 0.5, 4)), 0.0, 1.0),
    ],
)
def test_smooth_pieces_have_no_jump_in_their_second_derivative(piece, start, stop):
    x = np.linspace(start, stop, 20_001)
    second = np.diff(piece(x), 2) / (x[1] - x[0]) ** 2
    assert np.abs(np.diff(second)).max() < 0.2


def test_smooth_pieces_by_hand():
    assert smooth.rise(np.array([0, 0.5, 1])) == pytest.approx([0, 0.5, 1])
    assert smooth.ramp(np.array([0, 0.5, 1.0]), 0.25, 0.25) == pytest.approx([0, 0.5, 1])
    assert smooth.hump(np.array([0, 0.3, 1.0]), 0.3) == pytest.approx([0, 1, 0])
    assert smooth.positive(np.array([-2.0, 0, 2]), 1.0) == pytest.approx([0, 3 / 16, 2])
    x = np.array([0.0, 1e-6, 1 - 1e-6, 1.0])
    y = smooth.quintic(x, (1, 2, 3), (-1, 0.5, 4))
    assert [y[0], (y[1] - y[0]) / 1e-6, (y[3] - y[2]) / 1e-6, y[3]] == pytest.approx([1, 2, 0.5, -1], abs=1e-4)


def test_two_cards_are_mixed_by_a_share_and_beyond():
    plain, weary = CHARACTERS["plain"], CHARACTERS["weary"]
    half = mixed_card(plain, weary, 0.5)
    assert half.stride == pytest.approx((plain.stride + weary.stride) / 2) and half.name == "plain, 50% weary"
    assert mixed_card(plain, weary, 0) == plain
    assert mixed_card(plain, weary, 1.0).model_copy(update={"name": "weary"}) == weary
    beyond = mixed_card(plain, weary, 3.0)
    assert beyond.lean == pytest.approx(plain.lean + 3 * (weary.lean - plain.lean))
    assert beyond.dwell == GaitCard.bounds("dwell")[1] and beyond.arm_swing < 0
    assert np.isfinite(Stride(beyond).at(np.linspace(0, 1, 50)).leg.knee).all()
