"""Matrices against values worked out by hand, and against numpy's own products."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.geometry import affine
from gaitwire.core.geometry.path import path_box

number = st.floats(-1000, 1000, allow_nan=False)
small = st.floats(-75, 75, allow_nan=False)
ratio = st.floats(0.1, 5, allow_nan=False)
bones = st.tuples(number, number, st.floats(-720, 720), small, ratio, ratio, st.floats(-180, 180))


def square(m):
    a, b, c, d, e, f = m
    return np.array([[a, c, e], [b, d, f], [0, 0, 1]])


def test_a_quarter_turn_is_clockwise_on_screen():
    m = affine.bone_matrix(10, 20, 90, 0, 1, 1, 0)
    x, y = affine.apply(m, 1.0, 0.0)
    assert (x, y) == pytest.approx((10, 21))  # y points down: clockwise takes right to down


def test_skew_slides_the_tip_clockwise_and_leaves_the_root_edge():
    m = affine.bone_matrix(0, 0, 0, 45, 1, 1, -90)  # a bone that points up
    assert affine.apply(m, 0.0, -10.0) == pytest.approx((10, -10))  # its tip goes right
    assert affine.apply(m, 7.0, 0.0) == pytest.approx((7, 0))  # its root edge stays


def test_stretch_runs_along_the_bone():
    m = affine.bone_matrix(0, 0, 0, 0, 2, 0.5, -90)
    assert affine.apply(m, 3.0, -10.0) == pytest.approx((1.5, -20))


@given(number, number, st.floats(-180, 180))
def test_at_rest_only_the_place_is_left(x, y, angle):
    assert affine.bone_matrix(x, y, 0, 0, 1, 1, angle) == pytest.approx([1, 0, 0, 1, x, y], abs=1e-9)


@given(bones, bones)
def test_composition_is_the_matrix_product(one, two):
    a, b = affine.bone_matrix(*one), affine.bone_matrix(*two)
    assert square(affine.compose(a, b)) == pytest.approx(square(a) @ square(b), rel=1e-9, abs=1e-6)


@given(bones, number, number)
def test_inverse_brings_points_back(bone, x, y):
    m = affine.bone_matrix(*bone)
    back = affine.apply(affine.invert(m), *affine.apply(m, x, y))
    assert back == pytest.approx((x, y), abs=1e-5)


@given(st.floats(-180, 180), ratio, small)
def test_area_changes_by_stretch_times_widening_alone(turn, stretch, skew):
    m = affine.bone_matrix(0, 0, turn, skew, stretch, 1 / stretch, 30)
    assert affine.determinant(m) == pytest.approx(1.0)


def test_a_flat_matrix_is_refused():
    with pytest.raises(InvalidInputError, match="flat"):
        affine.invert(affine.bone_matrix(0, 0, 0, 0, 0.0, 1, 0))


def test_the_box_of_a_curve_is_tight():
    # By hand: a cubic from (0,0) to (10,0) with both handles at height 8 peaks at 3/4 of it.
    box = path_box("M 0 0 C 0 8 10 8 10 0")
    assert box == pytest.approx((0, 0, 10, 6))
    assert path_box("") is None
