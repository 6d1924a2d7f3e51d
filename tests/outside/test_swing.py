"""Pendulums and damped oscillators against their closed forms (any textbook of mechanics, from memory)."""

import numpy as np
import pytest
from scipy.special import ellipk

from builders.swinging import RATE, chain, let_go


def crossings(course):
    """Seconds at which a course goes up through nothing."""
    up = np.flatnonzero((course[:-1] < 0) & (course[1:] >= 0))
    return (up - course[up] / (course[up + 1] - course[up])) / RATE


@pytest.mark.parametrize(("degrees", "share"), [(5, 0.005), (90, 0.01)])
def test_an_undamped_pendulum_keeps_its_period_and_its_amplitude_for_forty_seconds(degrees, share):
    swing, drive = chain(length=100.0)
    turns = let_go(swing, drive, int(40 * RATE) + 1, [np.radians(degrees)])[0]
    zeros = crossings(turns)
    # T = 4 K(sin(a / 2)) sqrt(l / g), with the complete elliptic integral of the first kind.
    wanted = 4 * np.sqrt(100 / 2400) * ellipk(np.sin(np.radians(degrees) / 2) ** 2)
    assert (zeros[-1] - zeros[0]) / (len(zeros) - 1) == pytest.approx(wanted, rel=share)
    assert np.abs(turns[-int(2 * RATE) :]).max() > 0.97 * np.radians(degrees)


@pytest.mark.parametrize("often", [2.0, 6.0])
def test_a_damped_oscillator_swings_as_its_closed_form(often):
    damping, begun = 0.1, 0.2
    swing, drive = chain(fall=0j, stiffness=often, damping=damping)
    turns = let_go(swing, drive, int(2 * RATE), [begun])[0]
    t, w = np.arange(len(turns)) / RATE, 2 * np.pi * often
    wd = w * np.sqrt(1 - damping**2)
    wanted = begun * np.exp(-damping * w * t) * (np.cos(wd * t) + damping * w / wd * np.sin(wd * t))
    first = t <= 1 / often
    assert np.abs(turns - wanted)[first].max() < 0.04 * begun
    assert np.abs(turns - wanted).max() < 0.04 * begun


@pytest.mark.parametrize("count", [2, 5])
def test_the_slowest_swing_of_a_chain_is_as_often_as_it_is_told(count):
    swing, drive = chain(count, 30.0, fall=0j, stiffness=1.0, damping=0.0)
    turns = let_go(swing, drive, int(20 * RATE), np.linspace(0.01, 0.05, count)).sum(axis=0)
    heard = np.abs(np.fft.rfft(turns * np.hanning(len(turns)), 2**14))
    assert np.argmax(heard) * RATE / 2**14 == pytest.approx(1.0, abs=0.02)


def test_two_links_hang_from_an_accelerated_carrier_as_a_plumb_line_does():
    """In a carrier that gains a a second each second, what hangs rests at atan(a / g) (statics in its frame)."""
    swing, drive = chain(2, 40.0, stiffness=0.0, damping=0.7)
    gained = 900.0
    places = 0.5 * gained * (np.arange(24 * 6) / RATE) ** 2 + 0j
    n = swing.links.count
    moving = np.repeat(drive[:, None], len(places), axis=1)
    moving[:n] += places.real
    moving[2 * n : 3 * n] += places.real
    turns = np.degrees(let_go(swing, moving, len(places)))
    assert turns[:, -1] == pytest.approx(np.degrees(np.arctan2(gained, 2400)), abs=0.5)
