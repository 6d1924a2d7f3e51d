"""Smears: a drawing for one frame, swept along the way it came or drawn out in its direction."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from itertools import pairwise
from typing import NamedTuple

import numpy as np
import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from gaitwire.core.conventions import FloatArray
from gaitwire.core.geometry import anchors
from gaitwire.core.geometry.anchors import Run
from gaitwire.core.geometry.path import POINTS, commands_of
from gaitwire.core.puppet.art import Art, ArtNode, Group, Matrix, Picture, Shape, Solid, leaves
from gaitwire.core.puppet.boxes import boxed
from gaitwire.core.puppet.placing import placed
from gaitwire.core.puppet.soften import paths_of, with_points

MOST_DRAWN_OUT = 5.0
"""Times its length that a drawing is drawn out at most."""
_COUNTS = 0.03
"""Share of the largest shape's area from which on a shape is swept; smaller ones stay where they are."""
_SOLID = 0.5
"""Opacity from which on a shape is swept."""
_STEPS = 5
"""Points that stand for a curve."""
_FINE = 0.3
"""Pixels by which an outline may be off after it is made simpler, before and after it is swept."""
_SLIVER = 4.0
"""Square pixels below which a piece of a swept outline is left out, or a hole closed."""
_SAME = 1e-3
"""Pixels within which two vertices are one."""
_CORNER = 60.0
"""Degrees by which an outline turns at a corner, however short its sides."""
_BROKEN = 2.5
"""A curve made simpler within d turns by 8 d / side at each point; where it turns so many times more it is a corner."""


class Cutout(NamedTuple):
    """How a picture is swept: its outline at T times (T, n, 2), and the colour (#rrggbb) of what it leaves behind."""

    ring: FloatArray
    color: str


def swept(rings: FloatArray, tail: float = 1.0) -> BaseGeometry:
    """The region that a closed outline covers on its way.

    `rings` (T, n, 2) are its vertices, pixels, at T times, the last being where it is; in between
    they go straight. At the first of them it has `tail` times its size, about its own middle.
    """
    sizes = np.linspace(tail, 1.0, len(rings))[:, None, None]
    middles = rings.mean(axis=1, keepdims=True)
    rings = middles + sizes * (rings - middles)
    pieces = [*shapely.make_valid(shapely.polygons(rings))]
    for now, then in pairwise(rings):
        pieces += _run_over(now, then)
    return shapely.union_all(pieces)


def _run_over(now: FloatArray, then: FloatArray) -> list[BaseGeometry]:
    """What those edges of an outline run over from one time (n, 2) to the next that go outwards."""
    ahead = [np.roll(ring, -1, axis=0) for ring in (now, then)]
    ways = then - now, ahead[1] - ahead[0]
    out = np.zeros(len(now), bool)
    for ring, along in ((now, ahead[0]), (then, ahead[1])):
        x, y = (along - ring).T * np.sign(_signed(ring))
        out |= np.max([way[:, 0] * y - way[:, 1] * x for way in ways], axis=0) > 0
    if out.all():
        return []  # it only grows: the later outline holds the earlier one
    first = int(np.flatnonzero(~out)[0])
    order = np.roll(np.arange(len(now)), -first)
    edges = np.flatnonzero(np.diff(np.concatenate([[0], out[order].astype(np.int8), [0]])))
    found: list[BaseGeometry] = []
    for start, stop in zip(edges[::2], edges[1::2], strict=True):
        chain = order[np.arange(start, stop + 1) % len(now)]
        found += _bands(now[chain], then[chain])
    return found


def _bands(now: FloatArray, then: FloatArray) -> list[BaseGeometry]:
    """What a row of edges (n, 2) runs over: one band, or, where that would cross itself, those of its halves."""
    if len(now) == 2:
        return [shapely.convex_hull(shapely.multipoints(np.concatenate([now, then])))]
    band = Polygon(np.concatenate([now, then[::-1]]))
    if band.is_valid:
        return [band]
    middle = len(now) // 2
    return _bands(now[: middle + 1], then[: middle + 1]) + _bands(now[middle:], then[middle:])


def _signed(ring: FloatArray) -> float:
    """Twice the area that a ring goes round, positive clockwise on screen."""
    x, y = ring.T
    return float(x @ np.roll(y, -1) - y @ np.roll(x, -1))


def outline_runs(region: BaseGeometry) -> list[Run]:
    """A region's outlines as runs with few anchors, smooth but at corners; slivers and specks are left out."""
    rings: list[FloatArray] = []
    for piece in shapely.get_parts(region):
        if isinstance(piece, Polygon) and piece.area >= _SLIVER:
            rings.append(shapely.get_coordinates(piece.exterior))
            rings += [shapely.get_coordinates(r) for r in piece.interiors if Polygon(r).area >= _SLIVER]
    return [_run(ring) for ring in rings]


def _run(ring: FloatArray) -> Run:
    line = shapely.get_coordinates(shapely.simplify(shapely.linestrings(ring), _FINE))
    line = line[:-1] if len(line) > 4 else line
    run = anchors.run_through([(float(x), float(y)) for x, y in line], closed=True)
    way = np.diff(np.concatenate([line[-1:], line, line[:1]]), axis=0) @ [1, 1j]
    turned = np.abs(np.angle(way[1:] / np.where(way[:-1] == 0, 1, way[:-1])))
    sides = np.minimum(np.abs(way[:-1]), np.abs(way[1:]))
    for corner in np.flatnonzero((np.degrees(turned) >= _CORNER) | (sides * turned > _BROKEN * 8 * _FINE)):
        run = anchors.cornered(run, int(corner))
    return run


def swept_art(
    art: Art, points: FloatArray, tail: float, cutouts: Mapping[int, Cutout] | None = None, keep_pictures: bool = True
) -> Art:
    """A drawing with its shapes swept along their way; what is small, faint or clipped in it stays where it is.

    `art` is softened; `points` (T, K, 2) are its points, in the order of `art_points`, at T times,
    the last being where it is now, in the pixels that it is drawn in. `cutouts`, by the place of a
    picture among all leaves, say how it is swept: what it leaves behind lies behind it, or in its place.
    """
    last = with_points(art, points[-1])
    rings = _rings(art, points)
    largest = max((_area(r[-1]) for row in rings for r in row), default=0.0)
    counts = [sum(_area(r[-1]) for r in row) >= _COUNTS * largest for row in rings]
    paths, number = iter(range(len(rings))), iter(range(1 << 30))

    def shape(node: Shape, clipped: bool) -> Shape:
        at = next(paths)
        seen = node.fill is not None and node.opacity * getattr(node.fill, "opacity", 1.0) >= _SOLID
        if clipped or not seen or not counts[at]:
            return node
        runs = outline_runs(shapely.union_all([swept(_plainer(r), tail) for r in rings[at]]))
        return node.model_copy(update={"d": anchors.path_of(runs), "rule": "evenodd"}) if runs else node

    def walk(nodes: Iterable[ArtNode], clipped: bool) -> Iterable[ArtNode]:
        for node in nodes:
            if isinstance(node, Group):
                for _ in (d for clip in node.clips for d in clip.paths):
                    next(paths)
                inner = tuple(walk(node.children, clipped or bool(node.clips)))
                yield node.model_copy(update={"children": inner})
                continue
            cutout = (cutouts or {}).get(next(number))
            if isinstance(node, Shape):
                yield shape(node, clipped)
                continue
            if cutout is not None:
                runs = outline_runs(swept(_plainer(cutout.ring), tail))
                yield Shape(d=anchors.path_of(runs), fill=Solid(color=cutout.color), rule="evenodd")
            if keep_pictures:
                yield node

    return boxed(tuple(walk(last.nodes, False)), last.box)


def _rings(art: Art, points: FloatArray) -> list[list[FloatArray]]:
    """The outlines (T, n, 2) of each path of softened art, curves as a few points each."""
    t = (np.arange(_STEPS) / _STEPS)[:, None, None, None]
    s = 1 - t
    weights = (s**3, 3 * s * s * t, 3 * s * t * t, t**3)
    out, at = [], 0
    for d in paths_of(art.nodes):
        row: list[list[FloatArray]] = []
        ends: dict[int, FloatArray] = {}
        for command in commands_of(d):
            if command == "M":
                row.append([])
            elif command == "C":
                curve = points[:, at - 1 : at + 3]  # (T, 4, 2)
                steps = sum(w * curve[None, :, i : i + 1] for i, w in enumerate(weights))
                row[-1].append(np.asarray(steps)[:, :, 0].transpose(1, 0, 2))
                ends[len(row) - 1] = points[:, at + 2 : at + 3]
            at += POINTS[command]
        # A run that is left open has its end besides the starts of its curves.
        closed = ([*pieces, ends[n]] for n, pieces in enumerate(row) if len(pieces) > 1)
        out.append([_without_twin(np.concatenate(pieces, axis=1)) for pieces in closed])
    return out


def _without_twin(ring: FloatArray) -> FloatArray:
    """An outline (T, n, 2) without its last vertex where that lies on its first."""
    return ring[:, :-1] if np.abs(ring[-1, -1] - ring[-1, 0]).max() < _SAME else ring


def _area(ring: FloatArray) -> float:
    return abs(_signed(ring)) / 2


def _plainer(ring: FloatArray) -> FloatArray:
    """An outline (T, n, 2) at fewer of its vertices, those that its shape at the last time needs."""
    last = ring[-1]
    kept = shapely.get_coordinates(shapely.simplify(shapely.linestrings(np.concatenate([last, last[:1]])), _FINE))[:-1]
    wanted = {(x, y) for x, y in kept.tolist()}
    found = [i for i, (x, y) in enumerate(last.tolist()) if (x, y) in wanted]
    return ring[:, found] if len(found) >= 3 else ring


def way_of(points: FloatArray) -> complex:
    """How far the middle of a drawing has come: its points (T, K, 2) at T times; pixels, x + iy."""
    return complex(*(points[-1].mean(axis=0) - points[0].mean(axis=0)))


def farthest(points: FloatArray) -> float:
    """Pixels that the point of (T, K, 2) has come which has come farthest."""
    steps = np.hypot(*np.moveaxis(np.diff(points, axis=0), 2, 0))
    return float(steps.sum(axis=0).max(initial=0.0))


def drawn_out_art(art: Art, region: BaseGeometry, way: complex, keep: float) -> Art:
    """A drawing made longer by the way that it has come, in that direction; its leading edge stays where it is.

    `region` is what it covers; `keep` the share of its area that it keeps: 1 makes it as much narrower.
    """
    size = abs(way)
    along = shapely.get_coordinates(region) @ np.array([way.real, way.imag]) / size
    lead, length = float(along.max()), float(np.ptp(along))
    longer = min(1 + size / max(length, 1e-6), MOST_DRAWN_OUT)
    across = longer**-keep
    u, v = way.real / size, way.imag / size
    # Along u by `longer`, across it by `across`, about the leading point level with the middle.
    a, b, d = longer * u * u + across * v * v, (longer - across) * u * v, longer * v * v + across * u * u
    middle = region.centroid
    reach = lead - (middle.x * u + middle.y * v)
    x, y = middle.x + reach * u, middle.y + reach * v
    matrix: Matrix = (a, b, b, d, x - a * x - b * y, y - b * x - d * y)
    return placed(art, matrix)


def pictures_in(art: Art) -> dict[int, Picture]:
    """The pictures of a drawing by their place among all its leaves."""
    return {n: leaf for n, leaf in enumerate(leaves(art.nodes)) if isinstance(leaf, Picture)}
