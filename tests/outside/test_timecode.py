"""Time code against the registry package timecode (SMPTE ST 12-1, drop frame among it)."""

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st
from timecode import Timecode

from gaitwire.core.timing.timecode import timecode

RATES = {
    "24": Fraction(24), "25": Fraction(25), "30": Fraction(30), "60": Fraction(60),
    "29.97": Fraction(30000, 1001), "59.94": Fraction(60000, 1001),
}  # fmt: skip


@pytest.mark.parametrize("name", RATES)
@given(st.integers(0, 5_000_000))
def test_every_frame_has_the_code_the_package_gives_it(name, frame):
    rate = RATES[name]
    day = {Fraction(30000, 1001): 2589408, Fraction(60000, 1001): 5178816}.get(rate, round(rate) * 86400)
    frame %= day
    theirs = Timecode(name, frames=frame + 1)  # it counts from 1
    assert timecode(frame, rate) == str(theirs)


def test_numbers_are_dropped_at_minutes_but_not_at_each_tenth():
    rate = Fraction(30000, 1001)
    assert [timecode(f, rate) for f in (1799, 1800, 17981, 17982)] == [
        "00:00:59;29", "00:01:00;02", "00:09:59;29", "00:10:00;00",
    ]  # fmt: skip
