"""The course of a channel shaped by hand: points added in it, joints, handles."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.timing.key import Curve
from gaitwire.core.timing.sample import compile_keys, sample
from gaitwire.core.timing.shape import add_point, join_keys, pull_handle
from making import applied, ids, key

BUMP = Curve(0.2, 9.0, 0.9, -4.0)


def played(keys, times, loop=None):
    return sample(compile_keys([keys], loop), np.asarray(times, float))[0]


def speeds(keys, time, loop=None, h=1e-4):
    a, b, c = played(keys, [time - h, time, time + h], loop)
    return (b - a) / h, (c - b) / h


@given(st.integers(1, 19), st.sampled_from(["free", "linear", "hold", "quad-in-out", "cubic-in"]), st.booleans())
def test_a_point_added_changes_nothing_of_the_course(at, ease, loops):
    loop = 30.0 if loops else None
    more = {"curve": BUMP} if ease == "free" else {}
    keys = [key(0, 5, ease, **more), key(20, 25, "linear")]
    cut = applied(keys, add_point(keys, float(at), loop, ids()))
    assert [k.time for k in cut] == [0, at, 20]
    times = np.linspace(0, 20, 81)[:-1]
    allowed = 0.4 if ease in ("quad-in-out", "cubic-in") else 1e-6  # in-out is two cubics: the nearest one is cut
    assert played(cut, times, loop) == pytest.approx(played(keys, times, loop), abs=allowed)


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
