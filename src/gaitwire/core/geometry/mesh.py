"""Triangle meshes over a region, and where points lie in them."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
import shapely
from scipy.spatial import Delaunay, cKDTree
from shapely.geometry import LinearRing, MultiPolygon, Polygon

from gaitwire.core.conventions import FloatArray, IntArray
from gaitwire.core.errors import InvalidInputError

MARGIN = 2.5
"""Pixels by which a mesh reaches beyond what it covers, so that no edge of the art is cut."""

MOST_VERTICES = 2500

_SLIVER = 0.02
"""Triangles with less than this share of the area of a full-grown one are dropped."""


@dataclass(frozen=True)
class Mesh:
    """Triangles over the art of a part, in the puppet's pixels at rest."""

    vertices: FloatArray  # (V, 2)
    triangles: IntArray  # (T, 3) clockwise on screen

    @property
    def edges(self) -> IntArray:
        """Every edge once, (E, 2), the smaller index first."""
        pairs = np.sort(
            np.concatenate([self.triangles[:, [0, 1]], self.triangles[:, [1, 2]], self.triangles[:, [2, 0]]])
        )
        return np.unique(pairs, axis=0)


@dataclass(frozen=True)
class Binding:
    """Where K points lie in a mesh: a triangle each, and their barycentric coordinates in it."""

    triangles: IntArray  # (K, 3) vertex indices
    shares: FloatArray  # (K, 3), each row adds up to 1

    def carry(self, values: FloatArray) -> FloatArray:
        """Values (V, ...) at the vertices, carried over to the points: (K, ...)."""
        shares = self.shares.reshape(*self.shares.shape, *(1,) * (values.ndim - 1))
        carried: FloatArray = (values[self.triangles] * shares).sum(axis=1)
        return carried


def _resampled(ring: FloatArray, spacing: float) -> FloatArray:
    """A closed ring (n, 2) in even steps of about `spacing`."""
    steps = np.hypot(*np.diff(ring, axis=0).T)
    along = np.concatenate([[0.0], np.cumsum(steps)])
    count = max(6, round(along[-1] / spacing))
    at = np.linspace(0, along[-1], count, endpoint=False)
    return np.stack([np.interp(at, along, ring[:, axis]) for axis in (0, 1)], axis=-1)


def _hexagonal(region: MultiPolygon, spacing: float) -> FloatArray:
    """Points of a hexagonal grid inside the region, none too near its edge."""
    x0, y0, x1, y1 = region.bounds
    rise = spacing * np.sqrt(3) / 2
    rows = np.arange(y0, y1 + rise, rise)
    columns = np.arange(x0, x1 + spacing, spacing)
    grid = np.stack(np.meshgrid(columns, rows), axis=-1)
    grid[1::2, :, 0] += spacing / 2
    points = grid.reshape(-1, 2)
    inner = region.buffer(-0.55 * spacing)
    return np.asarray(points[shapely.contains_xy(inner, points[:, 0], points[:, 1])])


def _wide_holes(polygon: Polygon, spacing: float) -> list[LinearRing]:
    """Holes that are worth going round; the mesh covers the others."""
    return [hole for hole in polygon.interiors if Polygon(hole).area > 4 * spacing**2]


def _too_fine(spacing: float) -> InvalidInputError:
    return InvalidInputError(
        f"A mesh of {spacing:g} px over this art would be too fine: more than {MOST_VERTICES} points.",
        "Choose a larger spacing.",
    )


def make_mesh(region: MultiPolygon, spacing: float, fixed: FloatArray | None = None) -> Mesh:
    """A mesh over a region grown by `MARGIN`, with points about `spacing` pixels apart.

    `fixed` (n, 2) points become vertices, the first n of them. Raises InvalidInputError for an
    empty region, for a spacing that would give too many points, and for a fixed point outside.
    """
    if region.is_empty:
        raise InvalidInputError("This part shows nothing that could bend.", "Draw something into it first.")
    grown = region.buffer(MARGIN).simplify(0.25)
    grown = MultiPolygon([grown]) if isinstance(grown, Polygon) else grown
    whole = MultiPolygon([Polygon(p.exterior, _wide_holes(p, spacing)) for p in grown.geoms])
    if whole.area / spacing**2 > 2 * MOST_VERTICES:
        raise _too_fine(spacing)
    held = np.zeros((0, 2)) if fixed is None else np.asarray(fixed, float).reshape(-1, 2)
    if len(held) and not shapely.contains_xy(whole, held[:, 0], held[:, 1]).all():
        raise InvalidInputError("A pin lies outside the part.", "Place it on the art.")
    rings = [r for p in whole.geoms for r in (p.exterior, *p.interiors)]
    loose = np.concatenate([*(_resampled(np.asarray(r.coords), spacing) for r in rings), _hexagonal(whole, spacing)])
    if len(held):
        far, _ = cKDTree(held).query(loose)
        loose = loose[far > 0.45 * spacing]
    points = np.concatenate([held, loose])
    if len(points) > MOST_VERTICES:
        raise _too_fine(spacing)
    return _triangulated(points, whole, spacing, len(held))


def _triangulated(points: FloatArray, region: MultiPolygon, spacing: float, held: int) -> Mesh:
    triangles = Delaunay(points).simplices.astype(np.int64)
    a, b, c = (points[triangles[:, i]] for i in range(3))
    cross = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    triangles[cross < 0] = triangles[cross < 0][:, ::-1]
    middle = (a + b + c) / 3
    inside = shapely.contains_xy(region.buffer(0.1), middle[:, 0], middle[:, 1])
    kept = triangles[inside & (np.abs(cross) > _SLIVER * spacing**2)]
    used = np.unique(np.concatenate([np.arange(held), kept.ravel()]))
    renumber = np.zeros(len(points), np.int64)
    renumber[used] = np.arange(len(used))
    if not len(kept) or not np.isin(np.arange(held), kept).all():
        raise InvalidInputError("This part is too thin for such a wide mesh.", "Choose a smaller spacing.")
    return Mesh(points[used], renumber[kept])


def fitting_spacing(region: MultiPolygon, vertices: int = 220) -> float:
    """A spacing at which a region has about so many points, in whole pixels where that is enough."""
    wide = float(np.sqrt(max(region.area, 1.0) / vertices / 0.9))
    thin = thickness(region) / 2.5
    spacing = max(1.5, min(wide, max(thin, wide / 2)))
    return float(round(spacing)) if spacing >= 4 else round(spacing, 1)


def thickness(region: MultiPolygon) -> float:
    """How wide a region is across, on the whole: twice its area over the length of its edge, in pixels."""
    return float(2 * region.area / max(region.length, 1e-6))


def rim(mesh: Mesh) -> IntArray:
    """The vertices (n,) round the outside of a mesh in turn; of one in several pieces, round the longest of them."""
    sides = np.concatenate([mesh.triangles[:, [0, 1]], mesh.triangles[:, [1, 2]], mesh.triangles[:, [2, 0]]])
    both = set(map(tuple, sides.tolist()))
    following = {a: b for a, b in both if (b, a) not in both}
    rounds: list[list[int]] = []
    while following:
        start, at = following.popitem()
        rounds.append([start])
        while at != start and at in following:
            rounds[-1].append(at)
            at = following.pop(at)
    return np.array(max(rounds, key=len, default=[]), np.int64)


def bind(mesh: Mesh, points: FloatArray) -> Binding:
    """Where points (K, 2) lie; those outside go with the triangle that they are least outside of."""
    a, b, c = (mesh.vertices[mesh.triangles[:, i]] for i in range(3))
    det = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    shares, chosen = np.zeros((len(points), 3)), np.zeros(len(points), np.int64)
    for start in range(0, len(points), 256):  # in pieces, to keep the table of points by triangles small
        x, y = (points[start : start + 256, i, None] for i in (0, 1))
        v = ((x - a[:, 0]) * (c[:, 1] - a[:, 1]) - (y - a[:, 1]) * (c[:, 0] - a[:, 0])) / det
        w = ((b[:, 0] - a[:, 0]) * (y - a[:, 1]) - (b[:, 1] - a[:, 1]) * (x - a[:, 0])) / det
        table = np.stack([1 - v - w, v, w], axis=-1)
        best = table.min(axis=-1).argmax(axis=1)
        chosen[start : start + 256] = best
        shares[start : start + 256] = table[np.arange(len(best)), best]
    return Binding(mesh.triangles[chosen], shares)


Meshes = Mapping[str, Mesh]
"""Meshes of soft parts, by part id."""
