"""Drawing in place: paths as anchors and back, points added without changing the course, mirrored twins, clips."""

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from gaitwire.core.errors import InvalidInputError, NotFoundError
from gaitwire.core.geometry import anchors
from gaitwire.core.geometry.path import path_box, rings_of
from gaitwire.core.puppet import sketch
from gaitwire.core.puppet.art import Art, Group, Shape, Solid, Stroke
from gaitwire.core.puppet.sketch import Style

PLAIN = Style("#aa3322", "#332211", 3.0)
FACE = Art(
    nodes=(
        Shape(d="M0 0L80 0L80 100L0 100Z", fill=Solid(color="#ccaa88")),
        Group(children=(Shape(d="M20 30C20 40 30 40 30 30", stroke=Stroke(paint=Solid(color="#000000"), width=2)),)),
    ),
    box=(0, 0, 80, 100),
)


@pytest.mark.parametrize(
    "d",
    ["M0 0L10 0L10 8L0 8Z", "M0 0C0 5 5 10 10 10C15 10 20 5 20 0Z", "M1 2C3 4 5 6 7 8", "M0 0L4 4M10 10C11 12 13 14 15 10L0 3Z"],
)  # fmt: skip
def test_anchors_give_the_same_path_back(d):
    again = anchors.path_of(anchors.runs_of(d))
    assert anchors.path_of(anchors.runs_of(again)) == again
    before, after = (np.concatenate(rings_of(p)) for p in (d, again))
    assert shapely.hausdorff_distance(shapely.MultiPoint(before), shapely.MultiPoint(after)) < 1e-6


@given(st.integers(0, 3), st.floats(0.02, 0.98))
def test_a_point_put_in_leaves_the_course_as_it_was(segment, share):
    (run,) = sketch.sketched("ellipse", [(0, 0), (80, 50)], closed=True)
    more = anchors.with_anchor(run, segment, share)
    assert len(more.anchors) == 5
    old, new = (shapely.Polygon(rings_of(anchors.path_of([r]))[0]) for r in (run, more))
    assert old.symmetric_difference(new).area < 0.01 * old.area
    assert np.isclose(new.area, np.pi * 40 * 25, rtol=0.01)


def test_a_smooth_handle_takes_its_opposite_round_and_a_corner_does_not():
    (run,) = sketch.sketched("ellipse", [(0, 0), (80, 80)], closed=True)
    turned = anchors.moved(run, 0, anchors.OUT, (60, 20))
    way_in, at, way_out = turned.anchors[0]
    assert np.cross(np.append(way_out - at, 0), np.append(at - way_in, 0))[2] == pytest.approx(0, abs=1e-6)
    assert np.hypot(*(way_in - at)) == pytest.approx(np.hypot(*(run.anchors[0][0] - run.anchors[0][1])))
    corner = anchors.moved(anchors.cornered(run, 0), 0, anchors.OUT, (60, 20))
    assert corner.anchors[0, anchors.IN] == pytest.approx(corner.anchors[0, anchors.AT])


def test_a_curve_drawn_through_points_goes_through_them():
    places = [(0.0, 0.0), (30.0, 40.0), (70.0, 10.0), (90.0, 60.0)]
    (run,) = sketch.sketched("path", places, closed=False)
    line = shapely.LineString(rings_of(anchors.path_of([run]))[0])
    assert max(line.distance(shapely.Point(p)) for p in places) < 0.2
    assert not run.closed
    assert sketch.sketched("path", places, closed=True)[0].closed


def test_a_stroke_by_hand_keeps_its_course_with_few_points():
    t = np.linspace(0, 3, 200)
    places = [(float(60 * a), float(30 * np.sin(2 * a))) for a in t]
    (run,) = sketch.sketched("freehand", places, closed=False)
    assert len(run.anchors) < 30
    line = shapely.LineString(rings_of(anchors.path_of([run]))[0])
    assert shapely.hausdorff_distance(line, shapely.LineString(places)) < 3


def test_points_move_in_pairs_about_an_axis():
    (run,) = sketch.sketched("ellipse", [(0, 0), (80, 50)], closed=True)
    found = sketch.move_point([run], 0, 1, anchors.AT, (90, 30), axis=40.0)[0].anchors[:, anchors.AT]
    assert found[1] == pytest.approx((90, 30))
    assert found[3] == pytest.approx((-10, 30))
    more = sketch.add_point([run], (70, 6), axis=40.0)[0]
    xs = sorted(round(float(x), 1) for x in more.anchors[:, anchors.AT, 0])
    assert len(xs) == 6
    assert xs[1] == pytest.approx(80 - xs[4], abs=1.5)


def test_points_are_taken_away_until_nothing_is_left():
    runs = sketch.sketched("rectangle", [(0, 0), (10, 10)], closed=True)
    assert len(sketch.drop_points(runs, [(0, 1)])[0].anchors) == 3
    assert sketch.drop_points(runs, [(0, 0), (0, 1), (0, 2)]) == []
    with pytest.raises(NotFoundError):
        sketch.bend_points(runs, [(0, 9)], smooth=True)


def test_a_clipped_shape_is_cut_to_what_the_drawing_covers():
    spot = sketch.make_shape(sketch.sketched("ellipse", [(60, 60), (140, 140)], closed=True), PLAIN)
    art = sketch.with_shape(FACE, spot, clipped=True)
    assert isinstance(art.nodes[-1], Group)
    assert art.bounds.x1 <= 80
    assert sketch.with_shape(FACE, spot).bounds.x1 > 140
    with pytest.raises(InvalidInputError, match="nothing in this drawing"):
        sketch.with_shape(Art(nodes=(), box=(0, 0, 1, 1)), spot, clipped=True)


def test_shapes_inside_groups_are_changed_and_gone_with_their_last():
    assert sketch.restyled(FACE, 1, stroke="#ff0000").nodes[1].children[0].stroke.paint.color == "#ff0000"
    assert sketch.restyled(FACE, 0, fill="#00ff00").nodes[0].fill.color == "#00ff00"
    with pytest.raises(InvalidInputError, match="not be seen"):
        sketch.restyled(FACE, 0, fill="")
    assert len(sketch.without_shape(FACE, 1).nodes) == 1
    with pytest.raises(NotFoundError):
        sketch.without_shape(FACE, 2)


def test_a_shape_is_mirrored_beside_itself_or_in_place():
    both = sketch.mirrored_shape(FACE, 1, axis=40.0, keep=True)
    assert len(both.nodes) == 3
    box = path_box(both.nodes[2].d)
    assert (box.x0, box.x1) == pytest.approx((50, 60))
    assert len(sketch.mirrored_shape(FACE, 1, axis=40.0, keep=False).nodes) == 2


def test_the_palette_is_what_the_art_uses_most_first():
    assert (
        sketch.palette([FACE, FACE, Art(nodes=(Shape(d="M0 0", fill=Solid(color="#123456")),), box=(0, 0, 1, 1))])[-1]
        == "#123456"
    )


@pytest.mark.parametrize(
    ("kind", "places"),
    [("ellipse", [(0, 0), (0, 50)]), ("path", [(3, 3)]), ("path", [(float(n), 0.0) for n in range(500)])],
)
def test_a_shape_that_cannot_be_is_refused(kind, places):
    with pytest.raises(InvalidInputError):
        sketch.sketched(kind, places, closed=True)
