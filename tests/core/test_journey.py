"""Walks from standing to standing: feet that are down do not move, the last one stands beside where it was to go."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from gaitwire.core.walk.build import ADULT, Build
from gaitwire.core.walk.card import GaitCard
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.core.walk.hips import RIGID_SPAN, SPAN
from gaitwire.core.walk.journey import SHORT, Journey, Journeys, stops_of
from gaitwire.core.walk.smooth import ramp
from gaitwire.core.walk.stride import Stride

ONE_PIECE = Build(thigh=0.52, shank=0.48, ankle=0.1, heel=0.06, ball=0.2, hinge=0.0, toe=0.0, rigid=True)


def walked(journey, count=1601):
    pose = journey.at(np.linspace(0, journey.distance, count))
    return pose, journey.stride.soles(pose)


@given(
    name=st.sampled_from(sorted(set(CHARACTERS) - {"jog", "run"})), distance=st.floats(0.3, 9.0),
    build=st.sampled_from([ADULT, ONE_PIECE]), slope=st.sampled_from([0.0, 12.0, -8.0]),
)  # fmt: skip
@settings(max_examples=50)
def test_feet_stay_where_they_come_down_and_legs_reach(name, distance, build, slope):
    journey = Journey(Stride(CHARACTERS[name], build, slope=slope), distance)
    pose, sole = walked(journey)
    assert min(p.imag.min() for p in sole) > -1e-9
    for side in range(2):
        own = np.arange(len(journey.footholds))[1 - side :: 2]
        lands = journey.lands[own]
        plant = np.searchsorted(lands, pose.phase + 1e-12, side="right")
        step = journey.stride.steps[side]
        for k in np.unique(plant):
            down = (plant == k) & (pose.share[side] < step.stance - 1e-6) & (pose.share[side] > step.flat + 1e-6)
            held = sole.ball[side][down]
            assert np.abs(held - held[:1]).max(initial=0.0) < 1e-9
        reach = np.hypot(
            pose.hips.hip_along[side] - pose.ankle_along[side], pose.hips.hip_up[side] - pose.ankle_up[side]
        )
        assert reach.max() <= build.length * (RIGID_SPAN if build.rigid else SPAN) + 5e-5


@pytest.mark.parametrize("distance", [0.4, 1.0, 2.5, 7.0])
@pytest.mark.parametrize("card", [GaitCard(), CHARACTERS["weary"], CHARACTERS["limping"], CHARACTERS["run"]])
def test_it_begins_and_ends_standing_on_both_feet_at_the_places_it_was_to(card, distance):
    journey = Journey(Stride(card), distance)
    pose, sole = walked(journey)
    assert sole.heel[:, 0] == pytest.approx([0, 0], abs=1e-9)
    assert sole.heel[:, -1] == pytest.approx([distance, distance], abs=1e-9)
    assert np.abs(pose.pitch[:, [0, -1]]).max() < 1e-9
    assert pose.hips.along[[0, -1]] - pose.gone[[0, -1]] == pytest.approx([0, 0], abs=1e-9)
    arms = pose.upper.shoulder
    assert np.abs(arms[:, [0, -1]] - card.shoulder_rest).max() < 1e-6
    steps = np.diff(journey.footholds[1:])
    assert steps[-1] == 0 and (len(steps) < 4 or steps[0] == pytest.approx(SHORT * steps[1]))
    assert (np.diff(pose.phase) >= 0).all() and pose.phase[-1] == pytest.approx(journey.ends)


@pytest.mark.parametrize("name", CHARACTERS)
@pytest.mark.parametrize("distance", [0.5, 2.2])
def test_nothing_jumps_on_the_way(name, distance):
    journey = Journey(Stride(CHARACTERS[name]), distance)
    coarse, fine = (journey.at(np.linspace(0, distance, n)) for n in (4001, 16001))
    for of in (lambda p: p.ankle_along, lambda p: p.ankle_up, lambda p: p.pitch, lambda p: p.leg.thigh):
        steps = [np.abs(np.diff(of(pose), axis=1)).max() for pose in (coarse, fine)]
        assert steps[1] < 0.4 * steps[0] + 1e-9  # four times as close, a quarter as far: no jump stays as it is


def test_a_long_way_is_walked_in_steps_of_the_stride_and_looks_like_it_in_the_middle():
    stride = Stride(GaitCard())
    journey = Journey(stride, 12 * stride.length)
    assert np.diff(journey.footholds)[5] == pytest.approx(stride.length / 2, rel=0.03)
    middle = journey.at(np.linspace(5, 6, 60) * stride.length)
    same = stride.at(stride.time_of(middle.phase))
    assert middle.leg.knee == pytest.approx(same.leg.knee, abs=np.radians(4))
    assert middle.hips.up == pytest.approx(same.hips.up, abs=0.004)


def test_knees_do_not_jump_as_it_sets_out_and_comes_to_stand():
    for name, most in (("plain", 30), ("weary", 15), ("sneaking", 25)):
        journey = Journey(Stride(CHARACTERS[name]), 5.0)
        card = journey.stride.card
        frames = np.arange(np.ceil(5.0 / journey.stride.length * card.frames / 0.8))
        pose = journey.at(5.0 * ramp(frames / frames[-1], 0.2, 0.2))
        assert np.abs(np.diff(np.degrees(pose.leg.knee), axis=1)).max() < most, name


def test_rests_are_found_where_the_way_does_not_grow():
    ways = np.concatenate(
        [np.zeros(5), np.linspace(0, 2, 20), np.full(6, 2.0), np.linspace(2, 3, 9), [3.0, 3.0, 3.0, 3.0]]
    )
    assert stops_of(ways).tolist() == [2.0]
    both = Journeys(Stride(GaitCard()), np.array([0.0, 2.0, 3.0]))
    phase = both.phase_at(np.array([0.0, 2.0, 2.0 + 1e-9, 3.0]))
    assert phase == pytest.approx(
        [0, both.each[0].ends, both.each[0].ends, both.each[0].ends + both.each[1].ends], abs=1e-4
    )
    assert [m.name for m in both.moments()].count("stand") == 2


def test_a_pose_lingers_on_a_way_from_standing_to_standing_too():
    card = CHARACTERS["shuffle"]
    walks = Journeys(Stride(card), np.array([0.0, 3.0]))
    way = np.linspace(0.0, 3.0, 1201)
    late = walks.lingering(way)
    assert late[[0, -1]] == pytest.approx([0.0, 3.0], abs=1e-6) and np.diff(late).min() > -1e-9
    phase = walks.phase_at(way)
    middle = (phase > 1) & (phase < phase[-1] - 1)
    speed = np.gradient(walks.phase_at(late), phase)[middle]
    lingers = np.abs((phase[middle] - card.dwell_phase + 0.25) % 0.5 - 0.25) < 0.02
    assert speed[lingers].max() < 0.55 < 1.1 < speed.max()
    even = Journeys(Stride(card.model_copy(update={"dwell": 0.0})), np.array([0.0, 3.0]))
    assert even.lingering(way) == pytest.approx(way, abs=1e-3)
