"""What swings: at rest as drawn, never without bounds, each for itself, held and let go, cut and mirrored."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from builders.swinging import RATE, chain, let_go, moved
from gaitwire.core.motion.loose.links import links_of
from gaitwire.core.motion.loose.settings import Weather
from gaitwire.core.motion.loose.states import Drive
from gaitwire.core.motion.loose.swing import CUT, joined

FRAMES = np.arange(48)
WALKED = 40 * np.sin(FRAMES * 0.26) + 6j * np.cos(FRAMES * 0.52)


def drawn(leans, count=3, **manner):
    """A chain that stands still as it is drawn."""
    return chain(count, 30.0, leans, 0j, **{"stiffness": 1.2, "damping": 0.2, **manner})


@given(st.floats(-170, 170), st.integers(1, 5))
@settings(max_examples=30)
def test_it_stands_as_it_is_drawn_and_comes_back_to_it(leans, count):
    swing, drive = drawn(leans, count)
    assert np.abs(let_go(swing, drive, 6)).max() < 1e-9
    nudged = let_go(swing, drive, 120, np.full(count, 0.2))
    assert np.abs(nudged[:, -1]).max() < 0.02


def test_a_string_hangs_whatever_way_it_was_drawn():
    swing, drive = chain(4, 20.0, 70.0)
    assert np.degrees(let_go(swing, drive, 1))[:, 0] == pytest.approx(70.0, abs=0.01)


def test_it_lags_behind_what_carries_it_and_its_end_most():
    swing, drive = drawn(0, 3)
    turns = let_go(swing, moved(drive, WALKED), 48)
    assert 5 < np.degrees(np.abs(turns[0]).max()) < 90
    spans = np.exp(-0.26j * FRAMES)
    late = np.angle((turns * spans).sum(axis=1) / (WALKED.real * spans).sum())  # of the swing, against its carrier's
    assert (np.diff(late) < -0.002).all()


def wild(random):
    """Any chain in any manner, and how a carrier throws it about."""
    manner = {"stiffness": random.uniform(0, 12), "damping": random.uniform(0, 2), "air": random.uniform(0, 4)}
    swing, drive = chain(random.integers(1, 7), random.uniform(2, 60), random.uniform(-180, 180), **manner)
    jolts = random.normal(0, 10 ** random.uniform(-1, 2.6), (2, 16))
    places = np.cumsum(jolts[0] + 1j * jolts[1])
    places[8:] += random.choice([0, 1000, 400j])  # a hop, or a cut
    return swing, moved(drive, places)


@settings(max_examples=50)
@given(st.integers(0, 2**32 - 1))
def test_nothing_becomes_infinite_however_wild_its_carrier_is(seed):
    """Ten at a time: five hundred in all."""
    random = np.random.default_rng(seed)
    rows = [wild(random) for _ in range(10)]
    every = [Drive.read(drive, swing.links.count) for swing, drive in rows]
    driven = Drive(*(np.concatenate(parts) for parts in zip(*every, strict=True))).rows
    turns = let_go(joined(*(swing for swing, _ in rows)), driven, 16)
    assert np.isfinite(turns).all() and np.abs(turns).max() < 2 * np.pi * 16 * 10


def test_several_stepped_as_one_swing_as_each_alone():
    rows = [drawn(0, 2), drawn(40, 3), drawn(-90, 1)]
    drives = [moved(drive, WALKED) for _, drive in rows]
    together = joined(*(swing for swing, _ in rows))
    every = [Drive.read(drive, swing.links.count) for (swing, _), drive in zip(rows, drives, strict=True)]
    whole = Drive(*(np.concatenate(parts) for parts in zip(*every, strict=True))).rows
    alone = np.concatenate([let_go(swing, drive, 48) for (swing, _), drive in zip(rows, drives, strict=True)])
    assert let_go(together, whole, 48) == pytest.approx(alone, abs=1e-4)  # degrees


def test_held_it_goes_as_it_is_keyed_and_let_go_it_swings():
    swing, drive = drawn(0, 3)
    driven = moved(drive, WALKED)
    driven[27:30, :24] = 0.0  # the share of each of three links
    turns = let_go(swing, driven, 48)
    assert np.abs(turns[:, :24]).max() < 1e-4 < np.abs(turns[:, 26:]).max()
    half = driven.copy()
    half[27:30] = 0.5
    assert np.abs(let_go(swing, half, 48)).max() < 0.6 * np.abs(let_go(swing, moved(drive, WALKED), 48)).max()


def test_a_rope_that_is_let_down_lies_on_the_floor_and_lifts_off_again():
    swing, drive = chain(12, 20.0, floor=340.0, damping=0.05)
    down = 160j * np.clip((np.arange(96) - 12) / 36, 0, 1) - 160j * np.clip((np.arange(96) - 60) / 24, 0, 1)
    driven = moved(drive, down)
    turns = let_go(swing, driven, 96)
    every = Drive.read(driven, 12)
    arms = swing.links.arms(every.pivots.T, every.tips.T) * np.exp(1j * turns.T)[:, None, :]
    tips = every.pivots[0][:, None] + arms.sum(axis=2)
    assert tips.imag.max() < 340 + 3.0  # it gives a little, for a frame, where the rope lands on its end
    assert tips[56].imag.max() < 340 + 0.2
    assert (tips[56].imag > 339).sum() == 3  # of 240, 180 hang and 60 lie
    assert tips[-1].imag.max() < 290  # drawn up again


def test_where_its_carrier_goes_through_the_floor_it_hangs_below():
    swing, drive = chain(3, 40.0, floor=150.0, damping=0.3)
    turns = let_go(swing, moved(drive, 200j * np.clip(np.arange(144) / 24, 0, 1)), 144)
    assert np.isfinite(turns).all() and np.abs(np.sin(turns[:, -1])).max() < 0.05


def test_a_cut_takes_it_along_and_a_hop_does_not():
    swing, drive = drawn(0, 2)
    reach = swing.links.reach[0]
    cut = np.where(FRAMES < 20, 0, 1.2 * CUT * reach) + 0j
    assert np.abs(let_go(swing, moved(drive, cut), 48)).max() < 1e-4
    pushed = np.where(FRAMES < 20, 0, 0.5 * CUT * reach) + 0j
    assert np.degrees(np.abs(let_go(swing, moved(drive, pushed), 48)).max()) > 10


def test_mirrored_it_swings_to_the_other_side():
    swing, drive = drawn(30, 2)
    driven = moved(drive, WALKED)
    at = Drive.read(driven, 2)
    other = Drive(-at.pivots.conj(), -at.tips.conj(), at.air, at.fall, -at.sense, at.share).rows
    turns, mirrored = let_go(swing, driven, 48), let_go(swing, other, 48)
    assert mirrored == pytest.approx(-turns, abs=1e-5)
    assert swing.values(mirrored, other) == pytest.approx(swing.values(turns, driven), abs=1e-3)


def test_a_limit_holds_it_back():
    free, drive = drawn(0, 3)
    stiff, _ = drawn(0, 3, limit=np.radians(8))
    far = 3 * WALKED
    between = [np.degrees(np.abs(s.links.relative @ let_go(s, moved(drive, far), 48)).max()) for s in (free, stiff)]
    assert between[0] > 20 and between[1] < 12


def test_wind_leans_it_and_gusts_close_on_a_loop():
    swing, drive = drawn(0, 3, air=1.2)
    blown = drive.copy()
    blown[12:15] = 800.0
    assert np.degrees(let_go(swing, blown, 2)[2, 0]) < -5
    air = Weather(None, 300.0, 90.0, 0.5).air(np.array([0.0, 12.0, 24.0, 48.0]), RATE, 48.0)
    assert air[0] == pytest.approx(air[3]) and np.abs(air.real).max() < 1e-9 < abs(air[1] - air[2])
    assert Weather().air(FRAMES, RATE, None) == pytest.approx(0)


def test_links_between_pivots_that_lie_apart_reach_as_far_as_they_do():
    links = links_of([-1, 0, 0], np.array([0j, 30j, 10 + 10j]), np.array([20j, 50j, 40 + 10j]))
    assert links.reaches[1] == pytest.approx([50, 20, 0]) and links.reach[0] == pytest.approx(60)
    assert links.carried_by.astype(int).tolist() == [[1, 0, 0], [1, 1, 0], [1, 0, 1]]
