"""Drawing in place: shapes added to a part's art, and their points moved, added, taken away, mirrored."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable, Sequence
from typing import Literal, NamedTuple

import numpy as np
import shapely

from gaitwire.core.conventions import Point
from gaitwire.core.errors import InvalidInputError, NotFoundError
from gaitwire.core.geometry import anchors as points
from gaitwire.core.geometry.anchors import Run
from gaitwire.core.geometry.path import mapped
from gaitwire.core.puppet.art import Art, ArtNode, ClipPath, Group, Shape, Solid, Stroke, leaves
from gaitwire.core.puppet.boxes import boxed
from gaitwire.core.puppet.placing import placed, reflection

SketchKind = Literal["ellipse", "rectangle", "path", "freehand"]

MOST_POINTS = 400
_KAPPA = 0.5522847498307936
"""Handle of a quarter of a circle against its radius, 4/3 (sqrt 2 - 1)."""
_TWIN = 2.5
"""Pixels within which a point counts as the mirrored twin of another."""


class Style(NamedTuple):
    """Colours as #rrggbb, '' for none; the outline's width in pixels."""

    fill: str
    stroke: str
    width: float


def sketched(kind: SketchKind, places: Sequence[Point], closed: bool) -> list[Run]:
    """The runs of a new shape: of two corners (ellipse, rectangle), or through points.

    Raises InvalidInputError for fewer than two points or too many, or for a shape without size.
    """
    if len(places) < 2 or len(places) > 20 * MOST_POINTS:
        raise InvalidInputError("A shape needs at least two points.", "Drag further, or click once more.")
    (x0, y0), (x1, y1) = places[0], places[-1]
    if kind in ("ellipse", "rectangle"):
        if min(abs(x1 - x0), abs(y1 - y0)) < 0.5:
            raise InvalidInputError("This shape has no size.", "Drag from one corner to the other.")
        box = (min(x0, x1), min(y0, y1), max(x0, x1), max(y0, y1))
        return [_ellipse(*box) if kind == "ellipse" else _rectangle(*box)]
    if kind == "freehand":
        places = _simplified(places)
    if len(places) > MOST_POINTS:
        raise InvalidInputError(f"A shape has at most {MOST_POINTS} points.", "Draw it in pieces.")
    return [points.run_through(places, closed and len(places) > 2)]


def _rectangle(x0: float, y0: float, x1: float, y1: float) -> Run:
    corners = np.array([(x0, y0), (x1, y0), (x1, y1), (x0, y1)], float)
    return Run(np.repeat(corners[:, None, :], 3, axis=1), True)


def _ellipse(x0: float, y0: float, x1: float, y1: float) -> Run:
    cx, cy, rx, ry = (x0 + x1) / 2, (y0 + y1) / 2, (x1 - x0) / 2, (y1 - y0) / 2
    hx, hy = rx * _KAPPA, ry * _KAPPA
    rows = [
        [(cx - hx, y0), (cx, y0), (cx + hx, y0)],
        [(x1, cy - hy), (x1, cy), (x1, cy + hy)],
        [(cx + hx, y1), (cx, y1), (cx - hx, y1)],
        [(x0, cy + hy), (x0, cy), (x0, cy - hy)],
    ]
    return Run(np.array(rows, float), True)


def _simplified(places: Sequence[Point]) -> list[Point]:
    """Fewer points of a stroke drawn by hand, none of it off by more than a pixel and a half."""
    line = shapely.LineString(places).simplify(1.5)
    return [(float(x), float(y)) for x, y in line.coords]


def _solid(color: str) -> Solid | None:
    return Solid(color=color) if color else None


def make_shape(runs: Sequence[Run], style: Style) -> Shape:
    """A shape; raises InvalidInputError for one that would not be seen."""
    if not style.fill and not style.stroke:
        raise InvalidInputError("This shape would not be seen.", "Choose a fill or an outline.")
    outline = _solid(style.stroke)
    stroke = Stroke(paint=outline, width=style.width, cap="round", join="round") if outline else None
    return Shape(d=points.path_of(runs), fill=_solid(style.fill), stroke=stroke)


def with_shape(art: Art, shape: Shape, clipped: bool = False) -> Art:
    """The art with a shape in front; cut to what the art's filled shapes cover, if asked."""
    node: ArtNode = shape
    if clipped:
        covers = [s for s in leaves(art.nodes) if isinstance(s, Shape) and s.fill is not None]
        paths = tuple((mapped(s.d, s.matrix) if s.matrix else s.d, s.rule) for s in covers)
        if not paths:
            raise InvalidInputError("There is nothing in this drawing to cut the shape to.", "Draw it unclipped.")
        node = Group(children=(shape,), clips=(ClipPath(paths=paths),))
    return boxed((*art.nodes, node), art.box)


def with_shape_behind(art: Art, shape: Shape) -> Art:
    """The art with a shape behind all else of it."""
    return boxed((shape, *art.nodes), art.box)


def art_of(shape: Shape) -> Art:
    """A shape as a drawing of its own."""
    return boxed((shape,), (0.0, 0.0, 1.0, 1.0))


def find_shape(art: Art, index: int) -> Shape:
    """The shape of that place among all shapes and pictures, back to front; raises NotFoundError."""
    all_leaves = list(leaves(art.nodes))
    if not 0 <= index < len(all_leaves) or not isinstance(all_leaves[index], Shape):
        raise NotFoundError("This shape is not in the drawing any more.", "Choose another.")
    return all_leaves[index]  # type: ignore[return-value]


def _replaced(art: Art, index: int, work: Callable[[Shape], Shape | None]) -> Art:
    """The art with one of its shapes changed, or without it (None)."""
    find_shape(art, index)
    seen = -1

    def walk(nodes: Iterable[ArtNode]) -> tuple[ArtNode, ...]:
        nonlocal seen
        out: list[ArtNode] = []
        for node in nodes:
            if isinstance(node, Group):
                children = walk(node.children)
                if children:
                    out.append(node.model_copy(update={"children": children}))
                continue
            seen += 1
            changed = work(node) if seen == index and isinstance(node, Shape) else node
            if changed is not None:
                out.append(changed)
        return tuple(out)

    return boxed(walk(art.nodes), art.box)


def restyled(
    art: Art, index: int, fill: str | None = None, stroke: str | None = None, width: float | None = None
) -> Art:
    """The art with another fill, outline or width on one of its shapes; None leaves that as it is, '' takes it away.

    Raises InvalidInputError for a shape that would not be seen any more.
    """
    shape = find_shape(art, index)
    update: dict[str, object] = {}
    if fill is not None:
        update["fill"] = _solid(fill)
    if stroke == "":
        update["stroke"] = None
    elif stroke is not None or width is not None:
        line = shape.stroke or Stroke(paint=Solid(color=stroke or "#000000"), width=3.0, cap="round", join="round")
        paint = line.paint if stroke is None else Solid(color=stroke)
        update["stroke"] = line.model_copy(update={"paint": paint, "width": line.width if width is None else width})
    changed = shape.model_copy(update=update)
    if changed.fill is None and changed.stroke is None:
        raise InvalidInputError("This shape would not be seen.", "Choose a fill or an outline first.")
    return _replaced(art, index, lambda _: changed)


def without_shape(art: Art, index: int) -> Art:
    """The art without one of its shapes."""
    return _replaced(art, index, lambda _: None)


def redrawn(art: Art, index: int, work: Callable[[list[Run]], list[Run]]) -> Art:
    """The art with one shape's points changed; without points nothing is left of it."""

    def changed(shape: Shape) -> Shape | None:
        runs = work(points.runs_of(shape.d))
        return shape.model_copy(update={"d": points.path_of(runs)}) if runs else None

    if find_shape(art, index).matrix is not None:
        raise InvalidInputError("This shape's outline was squeezed; its points cannot be moved.", "Draw it anew.")
    return _replaced(art, index, changed)


def move_point(runs: list[Run], run: int, index: int, row: int, place: Point, axis: float | None = None) -> list[Run]:
    """Move an anchor or a handle, and its mirrored twin likewise if an axis is given."""
    _known(runs, run, index)
    was = runs[run].anchors[index, points.AT].copy()
    out = list(runs)
    out[run] = points.moved(runs[run], index, row, place)
    twin = None if axis is None else _twin(runs, (2 * axis - was[0], was[1]), (run, index))
    if axis is not None and twin is not None:
        mirrored = row if row == points.AT else points.IN + points.OUT - row
        out[twin[0]] = points.moved(out[twin[0]], twin[1], mirrored, (2 * axis - place[0], place[1]))
    return out


def _known(runs: Sequence[Run], run: int, index: int) -> None:
    if not (0 <= run < len(runs) and 0 <= index < len(runs[run].anchors)):
        raise NotFoundError("This point is not in the shape any more.", "Choose another.")


def _twin(runs: Sequence[Run], place: Point, own: tuple[int, int]) -> tuple[int, int] | None:
    near = [
        (float(np.hypot(*(anchor[points.AT] - place))), (r, i))
        for r, run in enumerate(runs)
        for i, anchor in enumerate(run.anchors)
        if (r, i) != own
    ]
    best = min(near, default=None)
    return best[1] if best is not None and best[0] < _TWIN else None


def add_point(runs: list[Run], place: Point, axis: float | None = None) -> list[Run]:
    """One more anchor where the path is nearest to a place, and on its other side if an axis is given."""
    out = list(runs)
    for x in [place[0]] if axis is None else [place[0], 2 * axis - place[0]]:
        spot = points.nearest(out, (x, place[1]))
        if spot is not None and (x == place[0] or spot.distance < 3 * _TWIN):
            out[spot.run] = points.with_anchor(out[spot.run], spot.segment, spot.share)
    return out


def drop_points(runs: list[Run], chosen: Sequence[tuple[int, int]]) -> list[Run]:
    """Take anchors away; a run that has too few left goes."""
    out = []
    for r, run in enumerate(runs):
        gone = [i for which, i in chosen if which == r]
        left = points.without(run, [i for i in gone if i < len(run.anchors)]) if gone else run
        if left is not None:
            out.append(left)
    return out


def bend_points(runs: list[Run], chosen: Sequence[tuple[int, int]], smooth: bool) -> list[Run]:
    """Make anchors smooth, or corners."""
    out = list(runs)
    for r, i in chosen:
        _known(out, r, i)
        out[r] = points.smoothed(out[r], [i]) if smooth else points.cornered(out[r], i)
    return out


def mirrored_shape(art: Art, index: int, axis: float, keep: bool) -> Art:
    """One of the art's shapes reflected in the line x = axis, beside itself or in its own place."""
    shape = find_shape(art, index)
    reflected = placed(Art(nodes=(shape,), box=art.box), reflection(axis)).nodes[0]
    if keep:
        return boxed((*art.nodes, reflected), art.box)
    return _replaced(art, index, lambda _: reflected)  # type: ignore[arg-type,return-value]


def palette(arts: Iterable[Art], most: int = 24) -> list[str]:
    """The plain colours of some art, the most used first."""
    used: Counter[str] = Counter()
    for art in arts:
        for shape in leaves(art.nodes):
            if isinstance(shape, Shape):
                paints = (shape.fill, shape.stroke.paint if shape.stroke else None)
                used.update(p.color for p in paints if isinstance(p, Solid))
    return [color for color, _ in used.most_common(most)]
