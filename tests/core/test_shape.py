"""The course of a channel shaped by hand: points added in it, joints, handles."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from builders.making import applied, ids, key
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.timing.cutting import add_point
from gaitwire.core.timing.easing.registry import EASINGS
from gaitwire.core.timing.edit import set_key
from gaitwire.core.timing.key import Curve
from gaitwire.core.timing.retime import reverse_keys
from gaitwire.core.timing.sample import compile_keys, sample
from gaitwire.core.timing.shape import join_keys, pull_handle
from gaitwire.core.timing.stay import valued

BUMP = Curve(0.2, 9.0, 0.9, -4.0)


def played(keys, times, loop=None):
    return sample(compile_keys([keys], loop), np.asarray(times, float))[0]


def speeds(keys, time, loop=None, h=1e-4):
    a, b, c = played(keys, [time - h, time, time + h], loop)
    return (b - a) / h, (c - b) / h


@given(
    st.lists(st.floats(0.5, 29.5), min_size=1, max_size=4, unique=True),
    st.sampled_from(["free", "chart", *EASINGS]),
    st.booleans(),
    st.booleans(),
)
def test_points_added_change_nothing_of_the_course(at, ease, loops, back):
    more = {"free": {"curve": BUMP}, "chart": {"chart": (0.9, 0.2, 1.4)}}.get(ease, {})
    keys = [key(0, 5, ease, **more), key(20, 25, ease, **more), key(24, 25, ease, **more), key(30, -5, "linear")]
    loop = 40.0 if loops else None
    if back:
        keys = applied(keys, reverse_keys(keys, {k.id for k in keys}, 0.0, 30.0))
    cut, new = keys, ids()
    for time in at:
        if all(abs(k.time - time) > 1e-3 for k in cut):
            cut = applied(cut, add_point(cut, time, loop, new))
    times = np.linspace(0, 40, 161)[:-1]
    off = np.abs(played(cut, times, loop) - played(keys, times, loop))
    # Where a step lies between two times that a computer cannot tell apart, either side is right.
    assert off[[min(abs(t - k.time) for k in cut) > 1e-6 for t in times]].max() < 1e-6


@pytest.mark.parametrize("ease", ["bounce-out", "elastic-in", "chart", "quad-in-out"])
def test_an_excerpt_turned_round_plays_backwards(ease):
    more = {"chart": (0.9, 0.2, 1.4)} if ease == "chart" else {}
    keys = [key(0, 5, ease, **more), key(20, 25, "linear")]
    cut = applied(keys, add_point(keys, 7.0, None, ids()))
    back = applied(cut, reverse_keys(cut, {k.id for k in cut}, 0.0, 20.0))
    times = np.arange(0.0, 20.5)
    assert played(back, 20 - times) == pytest.approx(played(cut, times), abs=1e-9)


def test_a_key_set_within_an_excerpt_gives_its_segment_the_whole_easing_again():
    keys = [key(0, 0, "bounce-out"), key(20, 20, "linear")]
    cut = applied(keys, add_point(keys, 8.0, None, ids()))
    again = applied(cut, set_key(cut, "c", 14.0, 3.0, None, lambda: "set"))
    assert [(k.time, k.excerpt is None) for k in again] == [(0, False), (8, True), (14, True), (20, True)]
    assert {k.ease for k in again[:3]} == {"bounce-out"}


def test_a_point_within_a_stay_holds_on_even_where_the_curve_would_bump():
    keys = [key(0, 5, "free", curve=BUMP), key(20, 0, "linear", stay=True), key(30, 9, "linear")]
    cut = applied(keys, add_point(keys, 8.0, None, ids()))
    assert played(valued(cut, False), np.arange(0.0, 31)) == pytest.approx(
        played(valued(keys, False), np.arange(0.0, 31))
    )


def test_a_point_is_added_across_the_seam_but_not_beyond_the_ends_or_on_a_bead():
    keys = [key(4, 0, "linear"), key(20, 16, "linear")]
    cut = applied(keys, add_point(keys, 0.0, 24.0, ids()))
    assert [(k.time, k.value) for k in cut] == [(0, 8), (4, 0), (20, 16)]
    for time in (22.0, 4.0):
        with pytest.raises(InvalidInputError):
            add_point(keys, time, None, ids())


@pytest.mark.parametrize("loop", [None, 40.0])
def test_joints_are_smooth_level_or_corners(loop):
    keys = [key(0, 0, "back-out"), key(10, 10, "back-out"), key(20, 30, "back-out"), key(30, 4, "back-out")]
    middle = {keys[1].id}
    smooth = applied(keys, join_keys(keys, middle, "smooth", loop))
    into, out = speeds(smooth, 10, loop)
    assert into == pytest.approx(out, abs=1e-2)
    assert 1 < into < 2  # between the slopes at its sides
    level = applied(keys, join_keys(keys, middle, "level", loop))
    assert speeds(level, 10, loop) == pytest.approx((0, 0), abs=1e-2)
    corner = applied(keys, join_keys(keys, middle, "corner", loop))
    assert speeds(corner, 10, loop) == pytest.approx((1, 2), abs=1e-2)
    assert speeds(corner, 20, loop)[0] == pytest.approx(speeds(keys, 20, loop)[0], abs=0.3)  # the far end stays
    plain = [k.model_copy(update={"ease": "linear"}) for k in keys]
    turn = applied(plain, join_keys(plain, {keys[2].id}, "smooth", loop))
    assert played(turn, np.linspace(10, 30, 81), loop).max() == pytest.approx(30)  # no overshoot at a turn


def test_a_pulled_handle_takes_the_other_one_along_where_the_key_was_smooth():
    keys = [key(0, 0), key(10, 10), key(20, 30)]
    smooth = applied(keys, join_keys(keys, {keys[1].id}, "smooth", None))
    pulled = applied(smooth, pull_handle(smooth, keys[1].id, "out", 0.5, 20.0, None))
    assert speeds(pulled, 10) == pytest.approx((4, 4), abs=1e-2)
    corner = applied(keys, join_keys(keys, {keys[1].id}, "corner", None))
    alone = applied(corner, pull_handle(corner, keys[1].id, "in", 0.5, -15.0, None))
    assert speeds(alone, 10) == pytest.approx((3, 2), abs=1e-2)
    with pytest.raises(InvalidInputError, match="nothing to shape"):
        pull_handle(keys, keys[0].id, "in", 0.5, 1.0, None)
