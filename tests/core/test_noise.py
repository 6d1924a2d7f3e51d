"""Noise that drifts: how far, how fast, how smooth, closed, and always the same."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gaitwire.core.motion.drivers.noise import LONG, closed_noise

seeds = st.integers(0, 2**31 - 1)
FINE = 16


def course(seed, count, name="turn"):
    """The noise over all it goes through."""
    return closed_noise(seed, name, count, np.arange(count * FINE) / FINE)


@given(seeds, st.sampled_from([2, 3, 5, 12, LONG]))
def test_it_lies_within_one_for_ninety_five_hundredths_of_the_time_about_nought(seed, count):
    found = course(seed, count)
    assert np.mean(np.abs(found) <= 1.0) == pytest.approx(0.95, abs=0.035 if count < 12 else 0.01)
    assert found.mean() == pytest.approx(0.0, abs=1e-9)


@given(seeds, st.integers(2, 40), st.floats(-30, 30))
def test_it_closes_with_its_speed_and_bend(seed, count, place):
    steps = place + np.arange(-3, 4) * 1e-3
    first, later = (closed_noise(seed, "turn", count, steps + around) for around in (0.0, 3.0 * count))
    assert later == pytest.approx(first, abs=1e-9)
    for order in (1, 2):
        slopes = np.diff(closed_noise(seed, "turn", count, np.arange(-2, 2, 1e-3)), order) / 1e-3**order
        assert np.abs(np.diff(slopes)).max() < 0.3  # no kink


def test_next_to_nothing_changes_faster_than_once_a_place():
    power = np.abs(np.fft.rfft(course(4, LONG))) ** 2
    each_place = np.arange(len(power)) / LONG
    assert power[each_place > 1].sum() < 1e-3 * power.sum()
    assert power[each_place < 0.1].sum() < 0.5 * power.sum()  # and it is more than a slow wave


def test_it_turns_about_as_often_as_it_makes_for_something_new():
    turns = [np.sum(np.diff(np.sign(np.diff(course(seed, LONG)))) != 0) / LONG for seed in range(8)]
    assert 0.6 < np.mean(turns) < 1.0


def test_seeds_and_names_have_nothing_in_common():
    rows = np.array([course(seed, LONG, name) for seed in (1, 2, 3) for name in ("turn", "shift_x", "shift_y")])
    assert np.abs(np.corrcoef(rows) - np.eye(len(rows))).max() < 0.25


def test_it_is_the_same_for_ever():
    """Scenes that are stored drift alike in years to come: these numbers may never change."""
    assert closed_noise(7, "turn", 6, np.array([0.0, 1.5, 4.25])) == pytest.approx(FOR_EVER, abs=1e-9)
    assert closed_noise(7, "turn", 6, np.array([4.25, 0.0]))[::-1] == pytest.approx(FOR_EVER[[0, 2]], abs=1e-9)


FOR_EVER = np.array([-0.8334747966595737, 0.6746271842330293, -0.10760809527928057])
