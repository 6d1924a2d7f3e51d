"""The seam: what jumps there, in value and speed, and that closing it leaves neither."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from builders.making import applied, ids, key
from gaitwire.core.timing.seam import close_seam, seam_of


def test_what_does_not_loop_jumps_from_its_end_to_its_start():
    keys = [key(0, 0), key(10, 20), key(24, 6)]
    found = seam_of(keys, 0, 24, None)
    assert found.jump == pytest.approx(-6, abs=1e-3)
    assert found.speed == pytest.approx(2 + 1, abs=1e-3)  # from -1 a frame to +2


def test_on_a_loop_only_speed_can_jump_where_a_key_is():
    keys = [key(0, 0), key(8, 16)]
    found = seam_of(keys, 0, 24, 24.0)
    assert found.jump == pytest.approx(0, abs=1e-3)
    assert found.speed == pytest.approx(3, abs=1e-3)
    assert seam_of([key(4, 0), key(16, 10)], 0, 24, 24.0) == pytest.approx((0, 0), abs=1e-3)


rows = st.lists(st.tuples(st.integers(1, 23), st.floats(-60, 60)), min_size=1, max_size=5, unique_by=lambda r: r[0])


@given(rows, st.floats(-60, 60), st.sampled_from(["linear", "quad-in-out", "sine-in", "back-out"]), st.booleans())
def test_a_closed_seam_jumps_neither_in_value_nor_in_speed(points, value, ease, loops):
    loop = 24.0 if loops else None
    keys = sorted([key(0, value, ease), *(key(t, v, ease) for t, v in points)], key=lambda k: k.time)
    closed = applied(keys, close_seam(keys, "c", 0, 24, loop, ids()))
    found = seam_of(closed, 0, 24, loop)
    assert found.jump == pytest.approx(0, abs=0.02)
    assert found.speed == pytest.approx(0, abs=0.06)  # measured over a ten-thousandth of a frame
    inner = [(k.time, k.value) for k in closed if 0 < k.time < 24]
    assert inner == [(k.time, k.value) for k in keys if k.time > 0]  # the poses between stay


def test_where_a_segment_runs_across_there_is_nothing_to_close():
    keys = [key(4, 0), key(16, 10)]
    assert close_seam(keys, "c", 0, 24, 24.0, ids()) == ((), ())
