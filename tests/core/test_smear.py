"""Smears: what an outline runs over, against shapes whose area is known and against a great many copies of it."""

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from shapely.affinity import rotate
from shapely.geometry import Polygon, box

from gaitwire.core.geometry.anchors import AT
from gaitwire.core.motion.smear import Cutout, drawn_out_art, farthest, outline_runs, swept, swept_art, way_of
from gaitwire.core.puppet.art import Art, ClipPath, Group, Picture, Shape, Solid
from gaitwire.core.puppet.outline import art_region
from gaitwire.core.puppet.soften import art_points, soften, with_points

SQUARE = np.array([(-10.0, -10), (10, -10), (10, 10), (-10, 10)])
RED = Solid(color="#aa2020")


def turned(ring, degrees, about=(0.0, 0.0)):
    """An outline at several turns, (T, n, 2)."""
    angles = np.radians(degrees)[:, None, None]
    x, y = np.moveaxis(ring - about, -1, 0)
    cos, sin = np.cos(angles)[..., 0], np.sin(angles)[..., 0]
    return np.stack([x * cos - y * sin, x * sin + y * cos], axis=-1) + about


def drawing(*nodes):
    return soften(Art(nodes=nodes, box=(0.0, 0.0, 1.0, 1.0)), 1000.0)


def no_masks(_):
    raise AssertionError


def test_a_square_that_goes_straight_leaves_a_band():
    rings = SQUARE + np.linspace((0, 0), (100, 0), 5)[:, None, :]
    assert swept(rings).equals(box(-10, -10, 110, 10))


def test_it_tapers_to_where_it_came_from():
    rings = SQUARE + np.linspace((0, 0), (100, 0), 9)[:, None, :]
    found = swept(rings, 0.25)
    both = shapely.union_all([box(-2.5, -2.5, 2.5, 2.5), box(90, -10, 110, 10)])
    assert found.symmetric_difference(both.convex_hull).area < 1e-6


@pytest.mark.parametrize("about", [(-120.0, 0.0), (0.0, 0.0), (-5.0, 40.0)])
def test_a_swing_covers_what_a_great_many_copies_cover(about):
    t = np.linspace(0, 2 * np.pi, 60, endpoint=False)
    ring = np.stack([60 * np.cos(t), (12 + 5 * np.cos(3 * t)) * np.sin(t)], axis=1)
    found = swept(turned(ring, np.linspace(-90, 0, 13), about))
    copies = shapely.union_all([rotate(Polygon(ring), a, origin=about).buffer(0) for a in np.linspace(-90, 0, 600)])
    assert found.symmetric_difference(copies).area < 0.01 * copies.area


@given(
    st.lists(st.tuples(st.floats(10, 60), st.floats(0.2, 1)), min_size=4, max_size=12),
    st.floats(-200, 200), st.floats(-80, 80), st.floats(0, 1),
)  # fmt: skip
def test_it_holds_the_outline_at_every_time_and_nothing_beyond_their_hull(star, turn, across, tail):
    angles = np.cumsum([0.1 + share for _, share in star])
    angles *= 2 * np.pi / (angles[-1] + 0.5)
    ring = np.array([(r * np.cos(a), r * np.sin(a)) for (r, _), a in zip(star, angles, strict=True)])
    rings = turned(ring, np.linspace(turn, 0, 6), (across, 30.0))
    found = swept(rings, tail)
    middles = rings.mean(axis=1, keepdims=True)
    sizes = np.linspace(tail, 1, 6)[:, None, None]
    seen = shapely.make_valid(shapely.polygons(middles + sizes * (rings - middles)))
    for one in seen:
        assert one.difference(found).area < 1e-6
    assert found.difference(shapely.union_all(seen).convex_hull).area < 1e-6


def test_outlines_have_corners_where_they_are_sharp_and_stay_within_a_pixel():
    (run,) = outline_runs(box(0, 0, 50, 20))
    assert len(run.anchors) == 4 and run.closed
    assert all(np.array_equal(anchor, [anchor[AT]] * 3) for anchor in run.anchors), "no handles at corners"
    disc = shapely.Point(0, 0).buffer(40, quad_segs=64)
    (run,) = outline_runs(disc)
    assert len(run.anchors) <= 32, "few points to edit"
    assert all(not np.allclose(anchor[0], anchor[AT]) for anchor in run.anchors), "smooth all round"
    ringed = disc.difference(shapely.Point(0, 0).buffer(12)).difference(box(20, -0.5, 22, 0.5))
    assert len(outline_runs(ringed)) == 2, "a hole stays, a speck goes"


def test_large_shapes_are_swept_and_what_is_small_faint_or_clipped_stays_where_it_is():
    body = Shape(d="M0 0L40 0L40 20L0 20Z", fill=RED)
    dot = Shape(d="M4 4L7 4L7 7L4 7Z", fill=Solid(color="#202020"))
    shade = Shape(d="M0 0L40 0L40 8L0 8Z", fill=Solid(color="#000000", opacity=0.2))
    line = Shape(d="M2 2L38 18", stroke={"paint": RED, "width": 2.0})
    inner = Group(children=(body,), clips=(ClipPath(paths=(("M0 0L9 0L9 9Z", "nonzero"),)),))
    art = drawing(body, dot, shade, line, inner)
    points = art_points(art) + np.linspace((-60, 0), (0, 0), 5)[:, None, :]
    made = swept_art(art, points, 1.0)
    assert [n.model_dump() for n in made.nodes[1:]] == [n.model_dump() for n in art.nodes[1:]]
    region = art_region([Art(nodes=made.nodes[:1], box=made.box)], no_masks)
    assert region.symmetric_difference(box(-60, 0, 40, 20)).area < 1.0
    assert made.nodes[0].fill == RED and made.box[0] == pytest.approx(-60)


def test_a_shape_whose_outline_is_left_open_is_swept_whole_and_a_speck_does_not_vanish():
    wedge = drawing(Shape(d="M0 0L40 0L40 20", fill=RED))
    points = art_points(wedge) + np.linspace((-60, 0), (0, 0), 5)[:, None, :]
    region = art_region([swept_art(wedge, points, 1.0)], no_masks)
    whole = Polygon([(0, 0), (40, 0), (40, 20)])
    there = shapely.union_all([whole, shapely.transform(whole, lambda p: p - [60, 0])]).convex_hull
    assert region.symmetric_difference(there).area < 1.0
    speck = drawing(Shape(d="M0 0L1 0L1 1Z", fill=RED))
    still = np.repeat(art_points(speck)[None], 5, axis=0)
    assert swept_art(speck, still, 1.0).nodes == speck.nodes


def test_a_picture_leaves_its_colour_behind_it():
    picture = Picture(hash="0" * 64, width=20, height=10, matrix=(1, 0, 0, 1, 0, 0))
    art = drawing(picture)
    ring = np.array([(0.0, 0), (20, 0), (20, 10), (0, 10)]) + np.linspace((0, -50), (0, 0), 6)[:, None, :]
    cutouts = {0: Cutout(ring, "#336699")}
    made = swept_art(art, np.zeros((6, 0, 2)), 1.0, cutouts)
    trail, kept = made.nodes
    assert kept == picture and trail.fill == Solid(color="#336699")
    assert art_region([Art(nodes=(trail,), box=made.box)], no_masks).symmetric_difference(box(0, -50, 20, 10)).area < 1
    assert len(swept_art(art, np.zeros((6, 0, 2)), 1.0, cutouts, keep_pictures=False).nodes) == 1


@pytest.mark.parametrize("keep", [0.0, 0.5, 1.0])
def test_drawn_out_it_is_longer_by_its_way_and_its_leading_edge_stays(keep):
    art = drawing(Shape(d="M0 0L40 0L40 20L0 20Z", fill=RED))
    made = drawn_out_art(art, art_region([art], no_masks), complex(20, 0), keep)
    region = art_region([made], no_masks)
    left, top, right, bottom = region.bounds
    assert (left, right) == pytest.approx((-20, 40)) and (top + bottom) / 2 == pytest.approx(10)
    assert region.area == pytest.approx(800 * 1.5 ** (1 - keep), rel=1e-4)


def test_it_is_drawn_out_along_a_slanting_way_too():
    art = drawing(Shape(d="M0 0L20 0L20 20L0 20Z", fill=RED))
    made = drawn_out_art(art, art_region([art], no_masks), 30 * np.exp(0.25j * np.pi), 1.0)
    region = rotate(art_region([made], no_masks), -45, origin=(0, 0))
    diagonal = 20 * 2**0.5
    assert region.bounds[2] == pytest.approx(diagonal) and region.bounds[0] == pytest.approx(-30)
    assert region.area == pytest.approx(400, rel=1e-4)


def test_ways_are_told_from_points_and_points_are_put_back():
    points = np.array([[(0.0, 0), (10, 0)], [(3.0, 4), (13, 4)], [(3.0, 4), (13, 16)]])
    assert way_of(points) == 3 + 10j and farthest(points) == pytest.approx(17)
    clip = ClipPath(paths=(("M0 0L5 0L5 5Z", "nonzero"),))
    art = drawing(Group(children=(Shape(d="M1 1L2 2L3 0Z", fill=RED),), clips=(clip,)), Shape(d="M7 7L8 8", fill=RED))
    moved = art_points(art) + np.array([5.0, -2.0])
    assert art_points(with_points(art, moved)) == pytest.approx(moved)
    assert with_points(art, art_points(art)) == art
