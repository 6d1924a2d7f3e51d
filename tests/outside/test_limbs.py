"""Chains solved from their tip against the law of cosines and scipy's own root finder.

Sources: Euclid, Elements II.12-13 (law of cosines); `scipy.optimize.brentq` on the same condition.
"""

import numpy as np
import pytest
from scipy.optimize import brentq

from gaitwire.core.kinematics.chain import solve_chain


def tips(lengths, pose):
    angles = np.radians(pose.directions)
    steps = np.asarray(lengths)[:, None] * pose.stretch
    return (steps * np.cos(angles)).sum(axis=0), (steps * np.sin(angles)).sum(axis=0)


def test_two_bones_follow_the_law_of_cosines():
    random = np.random.default_rng(4)
    a, b = 70.0, 55.0
    distance = random.uniform(abs(a - b) + 0.01, a + b - 0.01, 10_000)
    aim = random.uniform(-np.pi, np.pi, 10_000)
    pose = solve_chain(np.array([a, b]), distance * np.cos(aim), distance * np.sin(aim), bend=1)
    inner = np.degrees(np.arccos((a * a + b * b - distance**2) / (2 * a * b)))
    assert pose.directions[1] - pose.directions[0] == pytest.approx(180 - inner, abs=1e-6)
    x, y = tips([a, b], pose)
    assert np.hypot(x - distance * np.cos(aim), y - distance * np.sin(aim)).max() < 1e-9
    assert pose.miss.max() < 1e-9


@pytest.mark.parametrize("count", [3, 4, 5, 6, 7, 8])
def test_longer_chains_agree_with_a_root_finder(count):
    random = np.random.default_rng(count)
    lengths = random.uniform(10, 60, count)
    distance = random.uniform(0.55, 0.99, 40) * lengths.sum()
    pose = solve_chain(lengths, distance, np.zeros(40), bend=-1)

    def span(bend):
        return abs((lengths * np.exp(1j * np.arange(count) * bend)).sum())

    tightest = np.pi / count  # well before any such chain opens again at these distances
    for frame, wanted in enumerate(distance):
        theirs = brentq(lambda bend, wanted=wanted: span(bend) - wanted, 0, 2 * tightest, xtol=1e-14)
        assert pose.directions[1, frame] - pose.directions[0, frame] == pytest.approx(-np.degrees(theirs), abs=1e-7)
    x, y = tips(lengths, pose)
    assert np.hypot(x - distance, y).max() < 1e-8


def test_out_of_reach_it_points_there_and_says_by_how_much():
    pose = solve_chain(np.array([30.0, 20.0]), np.array([80.0, 6.0]), np.array([0.0, 0.0]))
    assert pose.miss == pytest.approx([30, 4])
    x, y = tips([30, 20], pose)
    assert (x, y) == (pytest.approx([50, 10]), pytest.approx([0, 0], abs=1e-6))


def test_allowed_stretch_closes_what_is_left():
    pose = solve_chain(np.array([30.0, 20.0]), np.array([54.0, 60.0]), np.zeros(2), stretch=0.1)
    assert pose.stretch == pytest.approx([1.08, 1.1])
    assert pose.miss == pytest.approx([0, 5])


def test_softness_keeps_the_joint_from_snapping_straight():
    """Without it the bend falls like a square root as the limb gets straight; with it the steps stay small."""
    distance = np.linspace(40, 60, 401)
    hard, soft = (
        solve_chain(np.array([25.0, 25.0]), distance, np.zeros(401), softness=s).directions for s in (0.0, 0.1)
    )
    snap = [np.abs(np.diff(d[1] - d[0])).max() for d in (hard, soft)]
    assert snap[1] < 0.35 * snap[0]
    assert (soft[1] - soft[0]).min() > 0


def test_it_is_finite_for_any_lengths_and_targets():
    random = np.random.default_rng(1)
    for _ in range(300):
        lengths = random.choice([0.0, 0.0, 1.0, 50.0, 1e4], random.integers(2, 9)) * random.uniform(0, 1)
        where = random.choice([0.0, 1e-9, 30.0, 1e5], (2, 8)) * random.choice([-1, 1], (2, 8))
        pose = solve_chain(lengths, *where, bend=int(random.choice([-1, 1])), stretch=0.1, softness=0.2)
        assert np.isfinite(pose.directions).all()
        assert np.isfinite(pose.stretch).all()


@pytest.mark.parametrize("count", range(2, 9))
def test_fifteen_hundred_chains_of_each_kind_whose_lengths_change_reach_or_say_by_how_much_not(count):
    """Ten thousand in all: lengths from nothing to long, targets from the root to far out of reach."""
    random = np.random.default_rng(40 + count)
    frames = 1500
    lengths = random.uniform(0, 80, (count, frames)) * (random.random((count, frames)) > 0.06)
    lengths[:, ::3] = random.uniform(40, 80, (count, 500))
    distance = lengths.sum(axis=0) * random.choice([0.0, 0.3, 0.6, 0.9, 0.999, 1.0, 1.001, 1.5], frames)
    aim = random.uniform(-np.pi, np.pi, frames)
    dx, dy = distance * np.cos(aim), distance * np.sin(aim)
    pose = solve_chain(lengths, dx, dy, bend=int(random.choice([-1, 1])))
    assert np.isfinite(pose.directions).all()
    x, y = tips_of_each(lengths, pose)
    off = np.hypot(x - dx, y - dy)
    assert np.abs(off - pose.miss).max() < 1e-6
    # Nearer, or with bones of very unlike lengths, joints that all bend alike may open again: then it says so.
    longest, others = lengths.sum(axis=0), 2 * lengths.max(axis=0) - lengths.sum(axis=0)
    even = (lengths >= lengths.max(axis=0) / 3).all(axis=0)
    within = even & (distance <= longest) & (distance >= np.maximum(others, 0.6 * longest))
    assert within.sum() > 30 and off[within].max() < 0.01


def tips_of_each(lengths, pose):
    angles, steps = np.radians(pose.directions), lengths * pose.stretch
    return (steps * np.cos(angles)).sum(axis=0), (steps * np.sin(angles)).sum(axis=0)


def test_directions_move_smoothly_with_a_target_that_goes_round_within_reach():
    turn = np.linspace(0, 2 * np.pi, 2001)
    for lengths in ([60.0, 50.0], [40.0, 30.0, 35.0], [20.0] * 6):
        away = sum(lengths) * (0.7 + 0.25 * np.sin(3 * turn))
        pose = solve_chain(np.array(lengths), away * np.cos(turn), away * np.sin(turn))
        steps = (np.diff(pose.directions, axis=1) + 180) % 360 - 180
        assert np.abs(steps).max() < 1.5


def test_a_soft_end_bounds_the_joints_speed_which_is_endless_without_it():
    """A tip pulled at a steady pace to straight: the bend of two equal bones goes as the root of what is left."""
    distance = np.linspace(110, 130, 4001)
    speed = {}
    for softness in (0.0, 0.02, 0.06):
        pose = solve_chain(np.array([60.0, 60.0]), distance, np.zeros(4001), softness=softness, stretch=0.1)
        assert pose.miss.max() < 1e-9
        speed[softness] = np.abs(np.diff(pose.bend)).max() / (distance[1] - distance[0])
    assert speed[0.0] > 60  # degrees a pixel, and more the finer it is looked at
    assert speed[0.02] < 6 and speed[0.06] < 4, speed
