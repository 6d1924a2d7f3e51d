"""The weight pass: where downs and ups fall, steps seen from the feet, legs that take up a dip."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.core.walk.stride import Stride
from gaitwire.core.walk.weighing import beats_of, steps_seen, taken_up


def test_downs_follow_contacts_and_ups_follow_passings():
    found = beats_of([0, 12, 24], [6, 18])
    assert [b.name for b in found] == [*(2 * ["contact", "down", "passing", "up"]), "contact"]
    times = [b.time for b in found]
    assert times == sorted(times) and times[1] == pytest.approx(2.7) and times[3] == pytest.approx(9.3)
    assert [np.sign(b.dip) for b in found] == [0, 1, -1, -1, 0, 1, -1, -1, 0]
    assert [b.name for b in beats_of([0, 10], [])] == ["contact", "down", "passing", "up", "contact"]
    assert beats_of([], []) == []


def test_steps_are_seen_from_the_feet_of_a_walk():
    stride = Stride(CHARACTERS["plain"])
    pose = stride.at(np.arange(49) / 24)
    contacts, passings = steps_seen(pose.ankle_along[0] - pose.ankle_along[1])
    assert len(passings) == 4 and passings == pytest.approx([6, 18, 30, 42], abs=1.5)
    inner = [c for c in contacts if 3 < c < 45]
    assert inner == pytest.approx([12, 24, 36], abs=2.1)


@given(
    st.floats(20, 100), st.floats(20, 100), st.floats(-60, 60), st.floats(5, 120), st.sampled_from([1, -1]),
    st.floats(-12, 12),
)  # fmt: skip
def test_the_ankle_stays_when_the_hip_goes_down(thigh, shin, swing, bend, side, lower):
    hip = 3 + 4j
    knee = hip + thigh * np.exp(1j * np.radians(90 + swing))
    ankle = knee + shin * np.exp(1j * np.radians(90 + swing + side * bend))
    swung, bent = taken_up(hip, knee, ankle, 1j * lower)
    new_knee = hip + 1j * lower + (knee - hip) * np.exp(1j * np.radians(swung))
    new_ankle = new_knee + (ankle - knee) * np.exp(1j * np.radians(bent))
    reach = abs(ankle - hip - 1j * lower)
    if abs(thigh - shin) + 0.01 < reach < thigh + shin - 0.01:
        assert abs(new_ankle - ankle) < 1e-6
        turned = ((new_knee - hip - 1j * lower).conjugate() * (new_ankle - new_knee)).imag
        assert np.sign(turned) == side
    else:
        assert abs(new_ankle - ankle) <= abs(reach - np.clip(reach, abs(thigh - shin), thigh + shin)) + 1e-6
