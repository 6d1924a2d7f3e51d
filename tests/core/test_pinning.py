"""Poses that stay: whatever is done to a channel's keys elsewhere, and what lies between them plays on as it did."""

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from builders.making import ids, key
from gaitwire.core.timing.easing.registry import EASINGS
from gaitwire.core.timing.edit import ease_keys, move_keys, set_key
from gaitwire.core.timing.key import Curve
from gaitwire.core.timing.pinning import ChannelCourse, PinnedKeys, keyed_as_it_is, pinned
from gaitwire.core.timing.sample import compile_keys, sample

BUMP = Curve(0.2, 9.0, 0.9, -4.0)
EASES = ["free", "chart", *EASINGS]


def made(time, value, ease, stay=False):
    more = {"free": {"curve": BUMP}, "chart": {"chart": (0.9, 0.2, 1.4)}}.get(ease, {})
    return key(time, value, ease, stay=stay, **more)


def made_of(rows):
    """Keys by their time; the first of them has a value of its own."""
    first = min((t for t, *_ in rows), default=0.0)
    return {t: made(t, v, e, stay and t > first) for t, v, e, stay in rows}


def course(keys, loop=None, rest=0.0):
    bare = ChannelCourse("c", (), rest, loop)
    return bare.changed(type(ease_keys([], [], "linear"))(tuple(keys)))


def played(found, times):
    if not found.keys:
        return np.full(len(times), found.rest)
    return sample(compile_keys([list(found.keys)], found.loop), np.asarray(times, float))[0]


def after(before, change, times):
    changed = before.changed(change)
    return changed.changed(pinned(before, changed, times, ids()).change)


def test_a_first_key_leaves_the_start_and_the_poses_before_it():
    bare = course([])
    found = after(bare, set_key([], "c", 20.0, -70.0, None, lambda: "new"), [0.0, 12.0])
    assert [(k.time, k.value) for k in found.keys] == [(0, 0), (12, 0), (20, -70)]
    assert played(found, range(13)) == pytest.approx(0)
    assert played(found, [20, 30]) == pytest.approx(-70)


def test_a_pose_after_it_stays_too_and_movement_begins_and_ends_at_poses():
    found = after(course([]), set_key([], "c", 20.0, 8.0, None, lambda: "new"), [0.0, 12.0, 30.0, 40.0])
    assert [(k.time, k.value) for k in found.keys] == [(0, 0), (12, 0), (20, 8), (30, 0), (40, 0)]


def test_a_second_key_leaves_a_pose_on_the_way_as_it_was():
    before = course([key(0, 0), key(48, 40)])
    found = after(before, set_key(before.keys, "c", 36.0, 0.0, None, lambda: "new"), [0.0, 24.0])
    assert played(found, [24]) == pytest.approx(20)
    assert played(found, range(25)) == pytest.approx(played(before, range(25)))


def test_a_key_between_a_stay_and_its_source_does_not_take_it_along():
    before = course([key(0, 50), key(24, 0, stay=True), key(40, 10)])
    found = after(before, set_key(before.keys, "c", 12.0, 0.0, None, lambda: "new"), [0.0])
    assert [(k.time, k.value, k.stay) for k in found.keys] == [
        (0, 50, False),
        (12, 0, False),
        (24, 50, False),
        (40, 10, False),
    ]
    assert played(found, range(24, 45)) == pytest.approx(played(before, range(24, 45)))
    # The stay's own key takes it along: that is what a stay is for.
    higher = after(before, set_key(before.keys, "c", 0.0, 60.0, None, lambda: "new"), [])
    assert played(higher, [24]) == pytest.approx(60)


def test_a_pose_within_a_stay_is_keyed_and_held_on():
    before = course([made(0, 50, "free"), key(24, 0, stay=True), key(40, 10)])
    found = after(before, set_key(before.keys, "c", 0.0, 60.0, None, lambda: "new"), [10.0])
    assert played(found, range(10, 45)) == pytest.approx(played(before, range(10, 45)))
    assert played(found, [0]) == pytest.approx(60)


def test_an_easing_given_to_a_bead_reaches_to_the_next_pose_alone():
    before = course([key(0, 0), key(48, 48)])
    found = after(before, ease_keys(before.keys, ["c@0"], "bounce-out"), [0.0, 12.0, 24.0])
    assert played(found, [12, 24]) == pytest.approx([12, 24])
    assert played(found, range(12, 49)) == pytest.approx(played(before, range(12, 49)))
    assert played(found, [6]) != pytest.approx(6, abs=0.1)


def test_a_bead_slid_past_a_pose_leaves_it():
    before = course([key(0, 0), key(12, 10), key(30, 0)])
    found = after(before, move_keys(before.keys, ["c@12"], 10.0, None), [0.0, 18.0])
    assert played(found, [18, 22]) == pytest.approx([played(before, [18])[0], 10])


def test_nothing_is_keyed_where_nothing_moves():
    before = course([key(0, 0), key(48, 40)])
    changed = before.changed(set_key(before.keys, "c", 48.0, 40.0, None, lambda: "new"))
    assert pinned(before, changed, [0.0, 12.0, 30.0], ids()) == PinnedKeys()


TIMES = st.integers(0, 39).map(float)


@given(
    st.lists(st.tuples(TIMES, st.integers(-30, 30), st.sampled_from(EASES), st.booleans()), max_size=5),
    st.sets(TIMES, max_size=4),
    TIMES,
    st.integers(-30, 30),
    st.booleans(),
)
# A stay whose course runs on round the seam, and whose own key changes.
@example([(1.0, 1, "free", False), (3.0, 0, "free", True)], {0.0, 2.0}, 1.0, 0, True)
# A bounce that comes back to the pose on the pose's own frame.
@example([(10.0, 1, "bounce-in", False)], {17.0}, 21.0, 0, False)
def test_only_what_lies_between_the_poses_beside_a_key_changes(rows, poses, time, value, loops):
    """Over any course: easings, charts, free curves, stays; in a shot and around a loop."""
    loop = 40.0 if loops else None
    keys = made_of(rows)
    before = course(keys.values(), loop)
    poses = ((poses | {0.0}) - {time}) or {(time + 7) % 40}
    found = after(before, set_key(before.keys, "c", time, float(value), loop, lambda: "new"), poses)
    assert played(found, [time])[0] == pytest.approx(value)
    assert played(found, sorted(poses)) == pytest.approx(played(before, sorted(poses)), abs=1e-4)
    frames = np.arange(40.0)
    still = poses | {k.time for k in before.keys if not k.stay and k.time != time}
    low, high = max((t for t in still if t < time), default=None), min((t for t in still if t > time), default=None)
    if loops:
        low, high = (max(still) - 40 if low is None else low), (min(still) + 40 if high is None else high)
        within = ((frames - low) % 40 < (high - low)) & (frames != low % 40) if high - low < 40 else frames != low % 40
    else:
        within = (frames > (-1 if low is None else low)) & (frames < (99 if high is None else high))
    # What leads up to the next key after a pose leads up to it as it did, unless it was led by a stay.
    assert played(found, frames[~within]) == pytest.approx(played(before, frames[~within]), abs=1e-4)


@given(
    st.lists(st.tuples(TIMES, st.integers(-30, 30), st.sampled_from(EASES), st.booleans()), min_size=1, max_size=5),
    TIMES,
    st.booleans(),
)
def test_a_channel_keyed_as_it_is_stays_as_it_was(rows, time, loops):
    loop = 40.0 if loops else None
    keys = made_of(rows)
    before = course(keys.values(), loop)
    found = before.changed(keyed_as_it_is(before, time, ids()))
    frames = np.arange(0.0, 40.0, 0.5)
    assert played(found, frames) == pytest.approx(played(before, frames), abs=1e-4)
    assert any(k.time == time and not k.stay for k in found.keys)
