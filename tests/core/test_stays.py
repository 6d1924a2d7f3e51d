"""Stays: what they hold, how long, and that the move after them is the one that was there."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from builders.making import applied, ids, key
from gaitwire.core.timing.edit import set_key
from gaitwire.core.timing.holding import creeping, hold_span, stay_keys, thin_keys
from gaitwire.core.timing.key import Curve
from gaitwire.core.timing.sample import compile_keys, sample
from gaitwire.core.timing.stay import valued

rows = st.lists(
    st.tuples(st.integers(0, 31), st.floats(-90, 90), st.sampled_from(["linear", "quad-in-out", "back-out", "hold"])),
    min_size=2, max_size=7, unique_by=lambda r: r[0],
)  # fmt: skip


def played(keys, times, loop=None):
    return sample(compile_keys([valued(keys, loop is not None)], loop), np.asarray(times, float))[0]


def stay(time, **more):
    return key(time, 0.0, stay=True, **more)


@given(rows, st.integers(0, 31), st.sampled_from([None, 32.0]))
def test_a_stay_holds_from_the_last_key_until_there_and_changes_nothing_before(points, time, loop):
    keys = sorted((key(t, v, e) for t, v, e in points), key=lambda k: k.time)
    before = [k for k in keys if k.time < time]
    change = stay_keys(keys, time, loop, ids())
    if any(k.time == time for k in keys) or not (before or loop):
        assert change == ((), ())
        return
    held = applied(keys, change)
    last = before[-1] if before else keys[-1]
    span = np.arange(last.time if before else last.time - 32, time + 0.25, 0.25)
    assert played(held, span, loop) == pytest.approx(np.full(len(span), last.value))
    if loop is None:
        rest = np.arange(-2, last.time, 0.25)
        assert played(held, rest) == pytest.approx(played(keys, rest), abs=1e-9)


def test_the_move_after_a_stay_is_the_same_only_shorter():
    keys = [key(0, 10, "free", curve=Curve(0.2, 4.0, 0.7, -3.0)), key(20, 30)]
    held = applied(keys, stay_keys(keys, 10, None, ids()))
    assert [(k.time, k.stay) for k in held] == [(0, False), (10, True), (20, False)]
    shares = np.linspace(0, 1, 9)
    assert played(held, 10 + 10 * shares) == pytest.approx(played(keys, 20 * shares))


def test_a_stay_follows_the_key_it_repeats_and_a_bump_before_it_is_flat():
    keys = [key(0, 5, "free", curve=Curve(0.3, 9.0, 0.7, 9.0)), stay(8), key(16, 1)]
    assert played(keys, [0, 4, 8]) == pytest.approx([5, 5, 5])
    keys[0] = keys[0].model_copy(update={"value": -7.0})
    assert played(keys, [0, 4, 8]) == pytest.approx([-7, -7, -7])


def test_on_a_loop_a_stay_may_repeat_the_last_key_across_the_seam():
    keys = [stay(4), key(10, 3), key(20, 8)]
    assert played(keys, [20, 23, 0, 4, 10], 24.0) == pytest.approx([8, 8, 8, 8, 3])


def test_a_stay_is_drawn_out_and_back_and_never_doubled():
    keys = [key(0, 1), key(24, 9)]
    once = applied(keys, stay_keys(keys, 8, None, ids()))
    longer = applied(once, stay_keys(once, 15, None, ids()))
    shorter = applied(longer, stay_keys(longer, 5, None, ids()))
    assert [[k.time for k in row if k.stay] for row in (once, longer, shorter)] == [[8], [15], [5]]


def test_a_stay_that_is_given_a_value_is_a_key_like_any_other():
    keys = [key(0, 1), stay(8), key(16, 9)]
    done = applied(keys, set_key(keys, "c", 8, 4.0, None, ids()))
    assert [(k.value, k.stay) for k in done] == [(1, False), (4, False), (9, False)]


def test_holding_a_span_takes_the_pose_at_its_start_and_clears_what_lies_in_it():
    keys = [key(0, 0, "linear"), key(10, 10, "linear"), key(12, 3, "quad-in"), key(20, 40, "linear")]
    held = applied(keys, hold_span(keys, "c", 5, 15, None, ids()))
    assert [(k.time, k.value, k.stay) for k in held] == [(0, 0, False), (5, 5, False), (15, 5, True), (20, 40, False)]
    assert played(held, np.arange(5, 15.5, 0.5)) == pytest.approx(np.full(21, 5.0))
    assert held[2].ease == "quad-in"  # the move to the next key is the one that led there


def test_only_long_moves_that_nobody_chose_creep():
    keys = [key(0, 0), key(30, 5, aside=True), key(40, 9, aside=True), key(70, 9, aside=True), key(100, 2)]
    assert [k.time for k in creeping(keys, 12, None)] == [30]
    assert [k.time for k in creeping([key(2, 0, aside=True), key(10, 0), key(20, 4)], 12, 48.0)] == [2]
    held = applied(keys, stay_keys(keys, 18, None, ids()))
    assert creeping(held, 12, None) == []


def test_keys_that_change_nothing_go_and_the_error_is_told():
    keys = [key(t, 2.0 * t) for t in (0, 4, 8, 12, 16)]
    found = thin_keys(keys, {k.id for k in keys}, 0.0, 0.0, 17, None)
    assert sorted(found.removed) == sorted(k.id for k in keys[1:4])
    assert found.error == pytest.approx(0.0)
    bent = [key(0, 0), key(8, 16.5), key(16, 32)]
    assert thin_keys(bent, {k.id for k in bent}, 0.0, 0.4, 17, None).removed == ()
    loose = thin_keys(bent, {k.id for k in bent}, 0.0, 0.6, 17, None)
    assert loose.removed == (bent[1].id,)
    assert loose.error == pytest.approx(0.5)


def test_a_channel_at_rest_is_thinned_to_nothing_and_chosen_keys_alone_are_touched():
    keys = [key(0, 1.0), key(9, 1.0)]
    assert len(thin_keys(keys, {k.id for k in keys}, 1.0, 0.0, 24, None).removed) == 2
    assert thin_keys(keys, {keys[1].id}, 1.0, 0.0, 24, None).removed == (keys[1].id,)
