"""Sampling of channels: at keys, between them, across the seam, against a plain reference."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from builders.making import key
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.timing.easing import EASINGS, find_easing
from gaitwire.core.timing.easing.cubic import cubic_share
from gaitwire.core.timing.key import Curve, curve_from_shares, curve_to_shares, refit_curve
from gaitwire.core.timing.sample import compile_keys, sample

names = st.sampled_from(sorted(EASINGS))
rows = st.lists(
    st.tuples(st.integers(0, 30), st.floats(-100, 100), names), min_size=1, max_size=6, unique_by=lambda k: k[0]
)
channels = st.lists(rows, min_size=1, max_size=5)


def values(keys, times, loop=None):
    return sample(compile_keys([keys], loop), np.array(times, float))[0]


def slow(keys, time, loop):
    """What one channel is at one time, worked out key by key."""
    if loop is not None:
        time %= loop
        keys = [*keys, *(k.model_copy(update={"time": k.time + loop}) for k in keys)]
        keys = [*(k.model_copy(update={"time": k.time - loop}) for k in keys[: len(keys) // 2]), *keys]
    before = [k for k in keys if k.time <= time]
    after = [k for k in keys if k.time > time]
    if not before:
        return after[0].value
    if not after:
        return before[-1].value
    left, right = before[-1], after[0]
    share = (time - left.time) / (right.time - left.time)
    return left.value + (right.value - left.value) * float(find_easing(left.ease)(share))


@given(channels, st.lists(st.floats(-10, 70), min_size=1, max_size=8), st.sampled_from([None, 31.0, 48.0]))
def test_all_channels_at_once_agree_with_one_after_the_other(rows, times, loop):
    tables = [sorted((key(t, v, e) for t, v, e in row), key=lambda k: k.time) for row in rows]
    found = sample(compile_keys(tables, loop), np.array(times))
    assert found == pytest.approx(np.array([[slow(t, x, loop) for x in times] for t in tables]), abs=1e-6)


def test_no_key_beyond_the_ends_changes_anything():
    assert values([key(5, 1), key(9, 3)], [-100, 0, 5, 7, 9, 500]) == pytest.approx([1, 1, 1, 2, 3, 3])


def test_on_a_loop_the_last_segment_reaches_the_first_key():
    assert values([key(4, 0), key(8, 8)], [8, 10, 14, 16, 0, 2, 4], loop=16.0) == pytest.approx(
        [8, 8 - 8 * 2 / 12, 4, 8 - 8 * 8 / 12, 8 - 8 * 8 / 12, 8 - 8 * 10 / 12, 0]
    )


def test_hold_keeps_its_value_until_the_next_key():
    assert values([key(0, 1, "hold"), key(10, 5)], [0, 9.999, 10]) == pytest.approx([1, 1, 5])


def test_equal_keys_can_have_a_bump_between_them():
    bump = [key(0, 2, "free", curve=Curve(0.33, 6, 0.67, 6)), key(10, 2)]
    assert values(bump, [5])[0] == pytest.approx(2 + 0.75 * 6)


@given(*[st.floats(0, 1)] * 2, *[st.floats(-2, 3)] * 2, st.floats(0, 1))
def test_cubic_solution_lies_on_the_curve(x1, x2, y1, y2, x):
    share = float(cubic_share(np.array([x]), x1, y1, x2, y2)[0])
    s = np.linspace(0, 1, 20001)
    r = 1 - s
    xs = 3 * r * r * s * x1 + 3 * r * s * s * x2 + s**3
    ys = 3 * r * r * s * y1 + 3 * r * s * s * y2 + s**3
    near = np.abs(xs - x) < 2e-4
    assert ys[near].min() - 1e-2 <= share <= ys[near].max() + 1e-2


@given(st.floats(0.5, 50), st.floats(-50, -0.5))
def test_a_curve_refitted_keeps_its_shape(old, new):
    curve = curve_from_shares(0.2, 0.1, 0.6, 1.2, old)
    assert curve_to_shares(refit_curve(curve, old, new), new) == pytest.approx((0.2, 0.1, 0.6, 1.2))


@pytest.mark.parametrize("bad", [[key(3, 0), key(3, 1)], [key(40, 0)], [key(-1, 0)]])
def test_keys_out_of_order_or_off_the_loop_are_refused(bad):
    with pytest.raises(InvalidInputError):
        compile_keys([bad], 24.0)


def test_handles_must_lie_between_the_keys():
    with pytest.raises(ValueError, match="between"):
        key(0, 0, "free", curve=Curve(-0.1, 0, 0.5, 0))


def test_a_hair_before_the_start_of_a_loop_is_its_start():
    table = compile_keys([[key(0, 1.0, "hold"), key(3, 5.0, "hold")]], 31.0)
    assert sample(table, np.array([-1e-99, 0.0, 31.0]))[0].tolist() == [1.0, 1.0, 1.0]


def test_a_hair_before_a_key_is_before_it_in_every_channel():
    channel = [key(0, 1.0, "hold"), key(7, 5.0, "hold")]
    found = sample(compile_keys([channel] * 300, None), np.array([np.nextafter(7, 0), 7.0]))
    assert (found == [1.0, 5.0]).all()
