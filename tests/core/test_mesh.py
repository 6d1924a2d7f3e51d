"""Meshes: what they cover, how well shaped they are, and art that nothing can be made of."""

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import MultiPolygon, Point, Polygon, box

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.geometry.mesh import MARGIN, bind, fitting_spacing, make_mesh
from gaitwire.core.puppet.art import Art, Picture, Shape, Solid, Stroke
from gaitwire.core.puppet.outline import art_region, mask_outline

RED = Solid(color="#aa3322")


def art(*shapes):
    return Art(nodes=shapes, box=(0, 0, 100, 100))


def area(mesh):
    a, b, c = (mesh.vertices[mesh.triangles[:, i]] for i in range(3))
    return ((b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])) / 2


def angles(mesh):
    corners = mesh.vertices[mesh.triangles]
    out = []
    for i in range(3):
        u, v = corners[:, (i + 1) % 3] - corners[:, i], corners[:, (i + 2) % 3] - corners[:, i]
        out.append(np.degrees(np.arccos((u * v).sum(1) / np.hypot(*u.T) / np.hypot(*v.T))))
    return np.array(out)


@pytest.mark.parametrize(
    "region", [box(0, 0, 200, 50), Point(0, 0).buffer(60), box(0, 0, 90, 90) - box(30, 30, 60, 60)]
)
def test_it_covers_the_grown_region_with_well_shaped_triangles(region):
    mesh = make_mesh(MultiPolygon([region]), 8.0)
    found = area(mesh)
    assert found.min() > 0
    assert found.sum() == pytest.approx(region.buffer(MARGIN).area, rel=0.03)
    assert np.percentile(angles(mesh).min(axis=0), 2) > 25  # degrees


def test_fixed_points_are_the_first_vertices():
    held = np.array([[10.0, 10.0], [12.0, 11.0], [80.0, 20.0]])
    mesh = make_mesh(MultiPolygon([box(0, 0, 100, 30)]), 7.0, held)
    assert mesh.vertices[:3] == pytest.approx(held)
    assert set(range(3)) <= set(mesh.triangles.ravel().tolist())


@given(st.lists(st.tuples(st.floats(-5, 105), st.floats(-5, 35)), min_size=1, max_size=30))
def test_bound_points_lie_where_their_shares_put_them(points):
    mesh = make_mesh(MultiPolygon([box(0, 0, 100, 30)]), 9.0)
    binding = bind(mesh, np.array(points))
    assert binding.carry(mesh.vertices) == pytest.approx(np.array(points))
    assert binding.shares.sum(axis=1) == pytest.approx(1)
    inside = shapely.contains_xy(box(0, 0, 100, 30), *np.array(points).T)
    assert binding.shares[inside].min(initial=1) > -0.05


def test_a_self_crossing_outline_and_a_hole_are_taken_as_they_look():
    bow = Shape(d="M0 0L60 40L60 0L0 40Z", fill=RED)
    ring = Shape(d="M100 0L160 0L160 60L100 60ZM120 20L140 20L140 40L120 40Z", fill=RED, rule="evenodd")
    region = art_region([art(bow, ring)], {}.__getitem__)
    assert region.area == pytest.approx(60 * 40 / 2 + 60 * 60, rel=1e-6)  # a hole is within the part's reach
    assert len(make_mesh(region, 6.0).triangles) > 30


def test_a_stroke_counts_as_it_is_wide():
    line = Shape(d="M0 0L100 0", stroke=Stroke(paint=RED, width=10))
    assert art_region([art(line)], {}.__getitem__).bounds == pytest.approx((-5, -5, 105, 5), abs=0.1)


def test_a_one_pixel_line_still_bends():
    line = Shape(d="M0 0C30 40 60 -40 100 0", stroke=Stroke(paint=RED, width=1))
    region = art_region([art(line)], {}.__getitem__)
    mesh = make_mesh(region, fitting_spacing(region))
    assert len(mesh.vertices) < 600
    assert area(mesh).sum() > 100


@pytest.mark.parametrize(
    ("nodes", "spacing", "fixed", "says"),
    [
        ((), 5.0, None, "nothing that could bend"),
        ((Shape(d="M0 0L50 50Z", fill=RED),), 5.0, None, "nothing that could bend"),
        ((Picture(hash="empty", width=8, height=8, matrix=(1, 0, 0, 1, 0, 0)),), 5.0, None, "nothing that could bend"),
        ((Shape(d="M0 0L900 0L900 900L0 900Z", fill=RED),), 2.0, None, "too fine"),
        ((Shape(d="M0 0L90 0L90 90L0 90Z", fill=RED),), 9.0, [(300.0, 300.0)], "outside"),
        ((Shape(d="M0 0L4 0L4 4L0 4Z", fill=RED),), 900.0, None, "too thin"),
    ],
)
def test_art_that_cannot_bend_says_why(nodes, spacing, fixed, says):
    region = art_region([art(*nodes)], lambda _: np.zeros((8, 8), bool))
    with pytest.raises(InvalidInputError, match=says):
        make_mesh(region, spacing, None if fixed is None else np.array(fixed))


def test_a_masks_outline_covers_every_pixel_that_shows():
    random = np.random.default_rng(2)
    mask = np.zeros((300, 500), bool)
    mask[40:200, 100:380] = random.random((160, 280)) > 0.9
    outline = mask_outline(mask)
    rows, columns = np.nonzero(mask)
    assert shapely.intersects_xy(outline, columns + 0.5, rows + 0.5).all()
    assert outline.area < 1.2 * 160 * 280
    assert mask_outline(np.zeros((5, 5), bool)).is_empty
    assert Polygon(mask_outline(np.ones((3, 7), bool)).exterior).area == 21
