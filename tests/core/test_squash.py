"""Squash and stretch along any axis: the point that was taken goes with the hand, area is kept as far as is said."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely.affinity import affine_transform
from shapely.geometry import Polygon

from builders.making import bone, puppet, scene, tip
from gaitwire.core.evaluate import compile_scene, evaluate
from gaitwire.core.evaluate.handles import drag, take

LEAF = Polygon([(0, -30), (14, -12), (9, 16), (-6, 22), (-15, 3)])
PUPPET = puppet([bone("a", x=5, y=8, length=40, angle=-70), bone("b", "a", 20, -30, length=30, angle=15)])
AT = np.array([0.0])


def stage(**tracks):
    keyed = {("b", prop): [(0, value)] for prop, value in tracks.items()}
    return compile_scene(scene({("a", "turn"): [(0, 25)], **keyed}, x=30.0, y=40.0), {"p": PUPPET})


def matrix(compiled, wanted=None):
    frames = evaluate(compiled, AT, wanted)
    return frames.nodes[0, [k[1] for k in frames.node_keys].index("b")]


def area(found):
    a, b, c, d, e, f = found
    return affine_transform(LEAF, (a, c, b, d, e, f)).area / LEAF.area


@given(st.floats(0, 360), st.floats(0.3, 2.5))
def test_it_is_pulled_along_the_line_on_which_it_was_taken(angle, by):
    compiled = stage()
    pivot = tip(evaluate(compiled, AT), "b", 0)[0]
    way = 25 * np.array([np.cos(np.radians(angle)), np.sin(np.radians(angle))])
    wanted = drag("squash", take(compiled, "i", "b", 0.0), [], tuple(pivot + way), tuple(pivot + by * way))
    before, after = matrix(compiled), matrix(compiled, wanted)

    def moved(point):
        x, y = np.linalg.solve([[before[0], before[2]], [before[1], before[3]]], point)
        return np.array([after[0] * x + after[2] * y, after[1] * x + after[3] * y])

    assert moved(way) == pytest.approx(by * way, abs=1e-6)
    across = np.array([-way[1], way[0]])
    assert moved(across) == pytest.approx(across / by, abs=1e-6)  # as much less wide, and along no other line
    assert area(after) == pytest.approx(1) and -90 <= wanted["i", "b", "axis"] <= 90


@pytest.mark.parametrize("keep", [0.0, 0.4, 1.0])
@pytest.mark.parametrize("axis", [0.0, 37.0, -80.0])
def test_area_is_kept_as_far_as_is_said(keep, axis):
    found = matrix(stage(stretch=1.7, keep=keep, axis=axis))
    assert area(found) == pytest.approx(1.7 ** (1 - keep))


def test_what_is_squashed_already_goes_on_along_its_axis_and_keeps_what_was_said():
    compiled = stage(stretch=0.6, keep=0.5, axis=40.0)
    grip = take(compiled, "i", "b", 0.0)
    pivot = tip(evaluate(compiled, AT), "b", 0)[0]
    wanted = drag("squash", grip, [], tuple(pivot + np.array([20, 3])), tuple(pivot + np.array([12, -30])))
    assert (wanted["i", "b", "axis"], wanted["i", "b", "keep"]) == (40.0, 0.5)


def test_an_axis_turns_what_is_stretched_and_nothing_else():
    # A stretch of 2 along an axis a from the bone's direction d: R(d + a) diag(2, 1) R(-d - a), by hand.
    found = matrix(compile_scene(scene({("b", "stretch"): [(0, 2.0)], ("b", "axis"): [(0, 30.0)]}), {"p": PUPPET}))
    u = np.radians(15 + 30)
    turn = np.array([[np.cos(u), -np.sin(u)], [np.sin(u), np.cos(u)]])
    expected = turn @ np.diag([2.0, 1.0]) @ turn.T
    assert np.array([[found[0], found[2]], [found[1], found[3]]]) == pytest.approx(expected)
    plain = matrix(compile_scene(scene({("b", "axis"): [(0, 30.0)]}), {"p": PUPPET}))
    assert plain[:4] == pytest.approx([1, 0, 0, 1])
