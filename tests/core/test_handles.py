"""Drags: what is dragged ends under the pointer."""

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from builders.making import bone, puppet, scene, tip
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate import compile_scene, evaluate
from gaitwire.core.evaluate.handles import drag, onto_grid, take, tops, unwrapped

PUPPET = puppet([
    bone("a", x=5, y=8, length=40, angle=-70),
    bone("b", "a", 20, -30, length=30, angle=15),
    bone("c", "a", 25, -10, length=20, angle=90),
])  # fmt: skip
TRACKS = {
    ("a", "turn"): [(0, 25)], ("a", "skew"): [(0, 12)], ("a", "stretch"): [(0, 1.3)], ("b", "turn"): [(0, -40)],
    ("i", "turn"): [(0, 8)],
}  # fmt: skip
COMPILED = compile_scene(scene(TRACKS, x=30.0, y=40.0, scale=1.5, turned=True), {"p": PUPPET})
AT = np.array([0.0])


def posed(wanted):
    return evaluate(COMPILED, AT, wanted)


@given(st.floats(-80, 80), st.floats(-80, 80))
def test_a_turned_tip_points_at_the_pointer(dx, dy):
    grip = take(COMPILED, "i", "b", 0.0)
    start = tip(posed({}), "b", 30, 15)[0]
    now = start + np.array([dx, dy])
    wanted = drag("turn", grip, [], tuple(start), tuple(now))
    pivot = tip(posed({}), "b", 0)[0]
    before, after = now - pivot, tip(posed(wanted), "b", 30, 15)[0] - pivot
    assume(np.hypot(*before) > 1)
    assert before[0] * after[1] - before[1] * after[0] == pytest.approx(0, abs=1e-6 * np.hypot(*before) * 100)
    assert before @ after > 0


@given(st.floats(-80, 80), st.floats(-80, 80))
def test_a_shifted_bone_goes_exactly_with_the_pointer(dx, dy):
    wanted = drag("shift", take(COMPILED, "i", "b", 0.0), [], (3.0, 4.0), (3.0 + dx, 4.0 + dy))
    moved = tip(posed(wanted), "b", 0)[0] - tip(posed({}), "b", 0)[0]
    assert moved == pytest.approx((dx, dy), abs=1e-6)


def test_a_stretched_tip_comes_to_the_pointer():
    start = tip(posed({}), "b", 30, 15)[0]
    pivot = tip(posed({}), "b", 0)[0]
    now = pivot + 1.6 * (start - pivot)
    wanted = drag("stretch", take(COMPILED, "i", "b", 0.0), [], tuple(start), tuple(now))
    assert wanted["i", "b", "stretch"] == pytest.approx(1.6)
    assert tip(posed(wanted), "b", 30, 15)[0] == pytest.approx(now)


def test_a_skewed_tip_comes_to_the_pointer_sideways():
    flat = compile_scene(scene({}), {"p": puppet([bone("a", length=50, angle=-90)])})
    wanted = drag("skew", take(flat, "i", "a", 0.0), [], (0.0, -50.0), (20.0, -50.0))
    assert tip(evaluate(flat, AT, wanted), "a", 50, -90)[0] == pytest.approx((20, -50))


def test_others_turn_by_as_much_and_steps_round_the_lead():
    wanted = drag(
        "turn", take(COMPILED, "i", "b", 0.0), [take(COMPILED, "i", "c", 0.0)], (90.0, 0.0), (0.0, 90.0), step=15
    )
    assert wanted["i", "b", "turn"] % 15 == pytest.approx(0)
    assert wanted["i", "c", "turn"] == pytest.approx(wanted["i", "b", "turn"] + 40)


def test_a_drag_may_go_round_and_round():
    assert unwrapped(175, -178) == pytest.approx(182)
    assert unwrapped(725, 4) == pytest.approx(724)


def test_unknown_things_are_refused():
    with pytest.raises(InvalidInputError):
        take(COMPILED, "i", "nobody", 0.0)
    with pytest.raises(InvalidInputError):
        drag("bend", take(COMPILED, "i", "a", 0.0), [], (0, 0), (1, 1))


def test_what_hangs_from_something_chosen_is_not_shifted_twice():
    assert tops(COMPILED, [("i", "b"), ("i", "a"), ("i", "c")]) == [("i", "a")]
    assert tops(COMPILED, [("i", "b"), ("i", "c")]) == [("i", "b"), ("i", "c")]
    assert tops(COMPILED, [("i", "c"), ("i", "i")]) == [("i", "i")]


@given(st.floats(-80, 80), st.floats(-80, 80))
def test_a_shift_may_catch_on_a_grid(dx, dy):
    grip, start = take(COMPILED, "i", "b", 0.0), (3.0, 4.0)
    before = tip(posed({}), "b", 0)[0]
    wanted = drag("shift", grip, [], start, onto_grid(grip, start, (3.0 + dx, 4.0 + dy), 20.0))
    after = tip(posed(wanted), "b", 0)[0]
    assert after / 20 == pytest.approx(np.rint(after / 20), abs=1e-6)
    assert np.abs(after - before - (dx, dy)).max() <= 10 + 1e-6
