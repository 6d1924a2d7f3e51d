"""Shares between spread points: against a plain solution of each triangle, and properties."""

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from scipy.interpolate import LinearNDInterpolator

from gaitwire.core.geometry.spread import Spread

coordinate = st.integers(-90, 90).map(float)
places = st.lists(st.tuples(coordinate, coordinate), min_size=1, max_size=9, unique=True)


def at(spread, *points):
    return spread.shares(np.array(points, float))


@given(places)
def test_each_point_has_its_own_place_to_itself(points):
    spread = Spread(np.array(points, float))
    assert (spread.shares(spread.points) == np.eye(len(points))).all()
    assert (spread.nearest(spread.points) == np.arange(len(points))).all()


@given(places, coordinate, coordinate)
def test_shares_are_a_mean_that_lies_where_it_should(points, x, y):
    spread = Spread(np.array(points, float))
    shares = at(spread, (x, y))[:, 0]
    assert shares.min() >= 0 and shares.sum() == pytest.approx(1)
    found = shares @ spread.points
    # Inside, the mean is the place itself; outside, no other mean of the points comes nearer to it.
    way = np.array([x, y]) - found
    assert ((spread.points - found) @ way <= 1e-6 * (1 + np.hypot(*way)) * 200).all()


@given(places, coordinate, coordinate, st.floats(0, 6.28))
def test_shares_go_over_into_each_other_without_a_jump(points, x, y, way):
    array = np.array(points, float)
    assume(np.linalg.matrix_rank(array - array[0]) == 2)
    spread = Spread(array)
    step = 1e-7
    here, there = at(spread, (x, y), (x + step * np.cos(way), y + step * np.sin(way))).T
    assert np.abs(here - there).max() < 1e-4  # the thinnest triangle between whole degrees is 1/250 high


def test_it_is_the_linear_interpolation_of_the_triangulation():
    # scipy's own interpolator on the same Delaunay triangulation, a value at a time.
    rng = np.random.default_rng(4)
    points = rng.uniform(-50, 50, (12, 2))
    values = rng.normal(size=12)
    asked = rng.uniform(-20, 20, (200, 2))
    other = LinearNDInterpolator(points, values)(asked)
    inside = ~np.isnan(other)
    assert inside.sum() > 150
    assert values @ Spread(points).shares(asked[inside]) == pytest.approx(other[inside], abs=1e-9)


def test_beyond_the_edge_the_nearest_place_on_it_counts():
    spread = Spread(np.array([(0.0, 0.0), (40.0, 0.0), (0.0, 40.0)]))
    assert at(spread, (10, -25))[:, 0] == pytest.approx([0.75, 0.25, 0])
    assert at(spread, (60, 20))[:, 0] == pytest.approx([0, 1, 0])
    assert at(spread, (40, 40))[:, 0] == pytest.approx([0, 0.5, 0.5])


def test_points_on_a_line_share_along_it():
    spread = Spread(np.array([(0.0, 0.0), (90.0, 0.0), (-60.0, 0.0), (30.0, 0.0)]))
    assert at(spread, (60, 0))[:, 0] == pytest.approx([0, 0.5, 0, 0.5])
    assert at(spread, (-45, 12))[:, 0] == pytest.approx([0.25, 0, 0.75, 0])
    assert at(spread, (400, 0))[:, 0] == pytest.approx([0, 1, 0, 0])


def test_what_goes_round_meets_itself_on_the_other_side():
    # Four places about the back, a rectangle across the seam: either way to cut it is right, two are not.
    points = np.array([(0.0, 0.0), (135.0, 20.0), (-135.0, 20.0), (135.0, -20.0), (-135.0, -20.0)])
    spread = Spread(points, 360.0)
    heights = np.linspace(-60, 60, 41)
    seam = [np.stack([np.full(41, x), heights], axis=1) for x in (180.0, -180.0, 540.0, 180.0 - 1e-9, -180.0 + 1e-9)]
    first, *others = (spread.shares(row) for row in seam)
    for other in others:
        assert other == pytest.approx(first, abs=1e-9)
    assert at(spread, (180, 20))[:, 0] == pytest.approx([0, 0.5, 0.5, 0, 0])
    assert spread.nearest(np.array([(-170.0, 15.0), (350.0, 1.0)])).tolist() == [2, 0]


def test_mirrored_points_have_mirrored_shares():
    half = np.array([(45.0, 0.0), (90.0, 0.0), (40.0, 30.0), (50.0, -30.0)])
    points = np.concatenate([[(0.0, 0.0), (0.0, 30.0), (0.0, -30.0)], half, half * (-1, 1)])
    swapped = [0, 1, 2, 7, 8, 9, 10, 3, 4, 5, 6]
    asked = np.random.default_rng(2).uniform(-90, 90, (300, 2))
    spread = Spread(points)
    assert spread.shares(asked) == pytest.approx(spread.shares(asked * (-1, 1))[swapped], abs=1e-9)
