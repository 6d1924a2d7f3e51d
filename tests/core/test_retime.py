"""Keys in time: turned round, scaled, carried by marks, brought to whole frames; charts; repeats."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from builders.making import applied, ids, key
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.timing import edit
from gaitwire.core.timing.channel import Channel, repeat_of
from gaitwire.core.timing.easing.chart import chart_share
from gaitwire.core.timing.key import Curve, Key
from gaitwire.core.timing.retime import reverse_keys, scale_keys, snap_keys, warp_keys
from gaitwire.core.timing.sample import compile_keys, sample


def played(keys, times, loop=None, repeats=None):
    return sample(compile_keys([keys], loop, repeats), np.asarray(times, float))[0]


eases = st.sampled_from(["linear", "sine-in", "cubic-out", "back-in-out", "bounce-out", "free", "chart"])
rows = st.lists(
    st.tuples(st.integers(0, 31), st.floats(-90, 90), eases), min_size=2, max_size=7, unique_by=lambda r: r[0]
)


def made(points):
    more = {"free": {"curve": Curve(0.2, 3.0, 0.9, -5.0)}, "chart": {"chart": (0.1, 0.2, 0.9)}}
    return sorted((key(t, v, e, **more.get(e, {})) for t, v, e in points), key=lambda k: k.time)


@given(rows)
def test_what_is_turned_round_plays_backwards(points):
    keys = made(points)
    first, last = keys[0].time, keys[-1].time
    turned = applied(keys, reverse_keys(keys, {k.id for k in keys}, first, last))
    times = np.linspace(first, last, 41)[1:-1] + 1e-7  # off the keys, where a step would count for one side
    assert played(turned, first + last - times) == pytest.approx(played(keys, times), abs=1e-3)


def test_turning_round_some_keys_leaves_the_move_after_them():
    keys = [key(0, 1, "quad-in"), key(4, 2, "cubic-in"), key(10, 3, "sine-out"), key(20, 0)]
    turned = applied(keys, reverse_keys(keys, {k.id for k in keys[:3]}, 0, 10))
    assert [(k.time, k.value, k.ease) for k in turned] == [
        (0, 3, "cubic-out"), (6, 2, "quad-out"), (10, 1, "sine-out"), (20, 0, "linear"),
    ]  # fmt: skip


def test_scaling_keeps_proportions_about_a_frame_and_refuses_what_would_meet():
    keys = [key(4, 1), key(6, 2), key(12, 3)]
    wide = applied(keys, scale_keys(keys, {k.id for k in keys}, 4, 1.5, None, whole=True))
    assert [k.time for k in wide] == [4, 7, 16]
    with pytest.raises(InvalidInputError, match="same frame"):
        scale_keys(keys, {k.id for k in keys}, 4, 0.1, None, whole=True)
    close = applied(keys, scale_keys(keys, {k.id for k in keys}, 4, 0.1, None, whole=False))
    assert [k.time for k in close] == pytest.approx([4, 4.2, 4.8])
    with pytest.raises(InvalidInputError, match="before the first"):
        scale_keys(keys, {k.id for k in keys}, 12, 3, None, whole=True)


def test_keys_are_brought_to_whole_frames_where_there_is_room():
    keys = [key(3.2, 1), key(3.4, 2), key(7.9, 3), key(23.8, 4)]
    assert [k.time for k in applied(keys, snap_keys(keys, {k.id for k in keys}, 24.0))] == [0, 3, 3.4, 8]


@given(st.lists(st.integers(0, 60), min_size=2, max_size=9, unique=True), st.integers(21, 79))
def test_marks_carry_what_lies_between_them_in_order_and_proportion(times, to):
    keys = [key(t, 0.0) for t in sorted(times)]
    moved = applied(keys, warp_keys(keys, (0, 20, 80), (0, to, 80)))
    assert len(moved) == len(keys)  # none is lost on the way
    for old, new in zip(keys, moved, strict=True):
        exact = np.interp(old.time, (0, 20, 80), (0, to, 80))
        assert new.time == pytest.approx(exact, abs=0.5)
    assert [k.time for k in moved] == sorted({k.time for k in moved})


def test_marks_do_not_change_places():
    with pytest.raises(InvalidInputError, match="past another"):
        warp_keys([key(3, 0)], (0, 4, 8), (0, 9, 8))


def test_ready_spacings_place_the_in_betweens():
    keys = [key(0, 0), key(6, 60)]

    def spaced(name):
        return played(applied(keys, edit.space_keys(keys, {keys[0].id}, name, None)), range(7))

    # Halving and thirding from the middle to both sides, as a chart is drawn: common practice.
    assert spaced("halves") == pytest.approx([0, 7.5, 15, 30, 45, 52.5, 60])
    assert spaced("thirds") == pytest.approx([0, 40 / 3, 20, 30, 40, 140 / 3, 60])
    assert spaced("even") == pytest.approx(range(0, 70, 10))
    assert spaced("slow out")[1] < spaced("both")[1] < 10 < spaced("slow in")[1]


def test_one_tick_is_moved_and_the_others_stay():
    keys = [key(4, 10, "quad-in-out"), key(8, 30), key(9, 0)]
    moved = applied(keys, edit.tick_keys(keys, {k.id for k in keys}, 1, 0.9, None))
    assert played(moved, [4, 5, 6, 7, 8]) == pytest.approx([10, *played(keys, [5]), 28, *played(keys, [7]), 30])
    assert moved[1] == keys[1]  # no such in-between there


def test_a_chart_times_a_longer_segment_in_the_same_way():
    ticks = (0.05, 0.1, 0.8)
    short, long = key(0, 0, "chart", chart=ticks), key(0, 0, "chart", chart=ticks)
    assert played([short, key(4, 1)], [0, 1, 2, 3, 4]) == pytest.approx([0, *ticks, 1])
    shares = np.linspace(0, 1, 21)
    assert played([long, key(20, 1)], 20 * shares) == pytest.approx(chart_share(ticks, shares))
    assert np.all(np.diff(chart_share(ticks, np.linspace(0, 1, 200))) > 0)  # it does not go beyond its ticks


def test_a_chart_is_reused_on_another_segment():
    keys = [key(0, 0, "chart", chart=(0.5, 0.6)), key(3, 1), key(12, 9)]
    done = applied(keys, edit.reuse_shape(keys[0], 1.0, keys, {keys[1].id}, None))
    assert played(done, [6, 9]) == pytest.approx([1 + 8 * 0.5, 1 + 8 * 0.6])


def test_a_chart_needs_ticks():
    with pytest.raises(ValueError, match="ticks"):
        Key(id="k", channel_id="c", time=0, value=0, ease="chart")


def repeated(kind, times, start=None, end=None, loop=None):
    keys = [key(2, 0), key(4, 8), key(8, 2)]
    channel = Channel(
        id="c", scene_id="s", instance_id="i", owner_kind="bone", owner_id="b", property="turn", repeat=kind,
        repeat_from=start, repeat_to=end,
    )  # fmt: skip
    return played(keys, times, loop, {0: repeat_of(channel, keys)})


def test_a_channel_goes_round_there_and_back_or_onward():
    first = [0, 4, 8, 6.5, 5, 3.5]
    assert repeated("cycle", range(2, 14)) == pytest.approx(first * 2)
    assert repeated("cycle", range(-4, 2)) == pytest.approx(first)  # it has no beginning
    assert repeated("there and back", range(2, 15)) == pytest.approx([*first, 2, *first[:0:-1], 0])
    assert repeated("onward", range(2, 15)) == pytest.approx([*first, *(v + 2 for v in first), 4])


def test_what_comes_before_a_chosen_stretch_is_played_as_it_is():
    assert repeated("cycle", [2, 3, 4, 6, 8, 10, 12], 4, 8) == pytest.approx([0, 4, 8, 5, 8, 5, 8])


def test_a_channel_may_repeat_faster_than_the_scene_loops():
    assert repeated("cycle", [2, 5, 8, 20, 26], loop=24.0) == pytest.approx([0, 6.5, 0, 0, 0])


def test_one_key_has_nothing_to_repeat():
    channel = Channel(
        id="c", scene_id="s", instance_id="i", owner_kind="bone", owner_id="b", property="turn", repeat="cycle"
    )
    assert repeat_of(channel, [key(3, 1)]) is None


def test_a_new_key_within_a_chart_takes_a_plain_easing():
    keys = [key(0, 0, "chart", chart=(0.2,)), key(10, 5)]
    assert edit.set_key(keys, "c", 5, 1.0, None, ids()).put[0].ease == edit.DEFAULT_EASE
