"""Editing keys: sliding around the loop, duplicating, easing, reusing curves."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from builders.making import applied, ids, key
from gaitwire.core.timing import edit
from gaitwire.core.timing.key import Curve
from gaitwire.core.timing.loop import slide, wrap
from gaitwire.core.timing.sample import compile_keys, sample


def played(keys, times, loop):
    return sample(compile_keys([keys], loop), np.asarray(times, float))[0]


rows = st.lists(st.tuples(st.integers(0, 31), st.floats(-90, 90)), min_size=1, max_size=8, unique_by=lambda r: r[0])


@given(rows, st.integers(-70, 70), st.sampled_from(["linear", "quad-in-out", "back-out", "hold"]))
def test_a_channel_slid_whole_plays_the_same_later_seam_and_all(points, by, ease):
    keys = sorted((key(t, v, ease) for t, v in points), key=lambda k: k.time)
    moved = applied(keys, edit.move_keys(keys, {k.id for k in keys}, by, 32.0))
    times = np.arange(0, 32, 0.5)
    assert played(moved, times + by, 32.0) == pytest.approx(played(keys, times, 32.0), abs=1e-6)


def test_a_key_that_stays_gives_way_to_one_that_lands():
    keys = [key(0, 1), key(2, 2), key(30, 3)]
    moved = applied(keys, edit.move_keys(keys, {keys[2].id}, 4, 32.0))
    assert [(k.time, k.value) for k in moved] == [(0, 1), (2, 3)]


def test_without_a_loop_a_group_stops_together_at_the_first_frame():
    assert slide([3.0, 7.0], -5, None) == [0.0, 4.0]
    assert slide([3.0, 7.0], -5, 24.0) == [22.0, 2.0]


def test_the_end_of_a_loop_is_its_start():
    assert wrap(24.0, 24.0) == 0.0
    assert wrap(-1e-9, 24.0) == 0.0


def test_duplicates_land_around_the_loop_and_leave_the_originals():
    keys = [key(4, 1, "quad-in"), key(8, 2)]
    found = applied(keys, edit.copy_keys(keys, {k.id for k in keys}, 22, 24.0, ids()))
    assert [(k.time, k.value, k.ease) for k in found] == [
        (2, 1, "quad-in"), (4, 1, "quad-in"), (6, 2, "linear"), (8, 2, "linear"),
    ]  # fmt: skip


def test_a_new_key_goes_on_as_its_segment_did():
    keys = [key(0, 0, "back-out"), key(10, 5, "hold")]
    assert edit.set_key(keys, "c", 5, 1.0, 24.0, ids()).put[0].ease == "back-out"
    assert edit.set_key(keys, "c", 20, 1.0, 24.0, ids()).put[0].ease == "hold"
    assert edit.set_key([], "c", 20, 1.0, 24.0, ids()).put[0].ease == edit.DEFAULT_EASE
    assert edit.set_key(keys, "c", 24, 7.0, 24.0, ids()).put[0].id == keys[0].id  # the end is the start


def test_one_free_curve_fits_segments_that_rise_and_fall():
    keys = [key(0, 0), key(10, 8), key(20, -4)]
    shaped = applied(keys, edit.shape_keys(keys, {k.id for k in keys}, (0.2, 0.0, 0.4, 1.0), 30.0))
    middle = [(played(shaped, [t], 30.0)[0] - a) / (b - a) for t, a, b in ((5, 0, 8), (15, 8, -4), (25, -4, 0))]
    assert middle == pytest.approx([middle[0]] * 3)
    assert middle[0] > 0.7


def test_a_curve_is_reused_on_a_longer_segment_in_shape():
    source = key(0, 0, "free", curve=Curve(0.3, 2.0, 0.6, 1.0))
    keys = [source, key(4, 4), key(30, 44)]
    done = applied(keys, edit.reuse_shape(source, 4.0, keys, {keys[1].id}, None))
    assert done[1].curve == pytest.approx((0.3, 20.0, 0.6, 10.0))
