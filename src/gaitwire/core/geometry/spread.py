"""Points spread over a plane, and the share that each has in any place between them.

Inside the points it is the barycentric share in the surrounding triangle of their Delaunay
triangulation: continuous everywhere, and 1 at a point for itself. Outside, the nearest place on
their edge counts. Points on one line share along it; they may also go round with a period across.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from scipy.spatial import Delaunay, QhullError

from gaitwire.core.conventions import FloatArray, IntArray

_FLAT = 1e-9
"""Share of the points' extent squared: a triangle of less area is none."""
_STIR = 1e-5
"""Share of the extent by which points are stirred to settle which way a square is cut."""
_INSIDE = 1e-9


@dataclass(frozen=True)
class Spread:
    """Points (n, 2), n at least 1, none on another; with `period` they come again every so far across."""

    points: FloatArray
    period: float | None = None

    def shares(self, places: FloatArray) -> FloatArray:
        """The share (n, F) of each point in places (F, 2); they add up to 1."""
        places = self._folded(places)
        corners, weights = self._located(places)
        out = np.zeros((len(self.points), len(places)))
        columns = np.arange(len(places))
        for k in range(corners.shape[1]):
            np.add.at(out, (self._owner[corners[:, k]], columns), weights[:, k])
        return out

    def nearest(self, places: FloatArray) -> IntArray:
        """The point (F,) nearest to each place (F, 2); of two as near, the first."""
        across = self._folded(places)[:, None, :] - self.points[None]
        if self.period is not None:
            across[..., 0] -= self.period * np.rint(across[..., 0] / self.period)
        return np.asarray(np.argmin(np.round(np.hypot(across[..., 0], across[..., 1]), 9), axis=1))

    @cached_property
    def lines(self) -> FloatArray:
        """The sides of all triangles, (n, 2, 2), to be drawn; what goes round has them on either side too."""
        triangles, edges = self._pieces
        sides = np.sort(triangles[:, [[0, 1], [1, 2], [2, 0]]].reshape(-1, 2), axis=1)
        return np.asarray(self._all[np.unique(np.concatenate([sides, edges]), axis=0)])

    def _folded(self, places: FloatArray) -> FloatArray:
        if self.period is None:
            return places
        folded = places.copy()
        folded[:, 0] -= self.period * np.rint(places[:, 0] / self.period)
        return folded

    @cached_property
    def _all(self) -> FloatArray:
        """The points, and what of them lies a period or two further on either side."""
        if self.period is None:
            return self.points
        return np.concatenate([self.points + np.array([k * self.period, 0.0]) for k in (0, -1, 1, -2, 2)])

    @cached_property
    def _owner(self) -> IntArray:
        return np.arange(len(self._all)) % len(self.points)

    @cached_property
    def _pieces(self) -> tuple[IntArray, IntArray]:
        """Triangles (t, 3) and edges (e, 2) of all points; a single point is an edge to itself."""
        every = self._all
        if len(every) == 1:
            return np.zeros((0, 3), np.int64), np.zeros((1, 2), np.int64)
        triangles = _triangles(every, self._stir)
        if len(triangles):
            sides = np.sort(triangles[:, [[0, 1], [1, 2], [2, 0]]].reshape(-1, 2), axis=1)
            edges, counts = np.unique(sides, axis=0, return_counts=True)
            return triangles, edges[counts == 1]
        way = every[np.argmax(np.hypot(*(every - every[0]).T))] - every[0]
        along = np.argsort(every @ way, kind="stable")
        return triangles, np.stack([along[:-1], along[1:]], axis=1)

    @cached_property
    def _stir(self) -> FloatArray:
        """A small push for each point, the same for all of its repeats, and mirrored for mirrored points."""
        x, y = self.points.T
        seed = np.abs(x) * 12.9898 + y * 78.233
        own = 1e-3 * np.sin(np.arange(len(x)) + 1.0)  # last of all, squares that are their own mirror image
        return np.stack([np.sign(x) * np.sin(seed) + own, np.cos(seed * 1.7)], axis=1)

    def _located(self, places: FloatArray) -> tuple[IntArray, FloatArray]:
        """For each place three of all points (F, 3) and their shares (F, 3)."""
        triangles, edges = self._pieces
        corners = np.zeros((len(places), 3), np.int64)
        shares = np.zeros((len(places), 3))
        inside = np.zeros(len(places), bool)
        if len(triangles):
            found = _barycentric(self._all[triangles], places)
            least = found.min(axis=-1)
            best = least.argmax(axis=1)
            row = np.arange(len(places))
            inside = least[row, best] >= -_INSIDE
            corners[inside] = triangles[best[inside]]
            shares[inside] = np.clip(found[row, best][inside], 0.0, 1.0)
            shares[inside] /= shares[inside].sum(axis=1, keepdims=True)
        out = ~inside
        if out.any():
            at, along = _on_edges(self._all[edges], places[out])
            corners[out, :2] = edges[at]
            shares[out, 0], shares[out, 1] = 1 - along, along
        return corners, shares


def _triangles(points: FloatArray, stir: FloatArray) -> IntArray:
    extent = float(np.ptp(points, axis=0).max())
    repeated = np.tile(stir, (len(points) // len(stir), 1))
    try:
        found = Delaunay(points + _STIR * extent * repeated).simplices.astype(np.int64)
    except QhullError:
        return np.zeros((0, 3), np.int64)
    a, b, c = (points[found[:, k]] for k in range(3))
    area = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    return np.asarray(found[np.abs(area) > _FLAT * extent**2])


def _barycentric(triangles: FloatArray, places: FloatArray) -> FloatArray:
    """Shares (F, t, 3) of triangles' corners (t, 3, 2) in places (F, 2)."""
    a, b, c = (triangles[:, k] for k in range(3))
    ab, ac = b - a, c - a
    det = ab[:, 0] * ac[:, 1] - ab[:, 1] * ac[:, 0]
    way = places[:, None] - a[None]
    v = (way[..., 0] * ac[:, 1] - way[..., 1] * ac[:, 0]) / det
    w = (ab[:, 0] * way[..., 1] - ab[:, 1] * way[..., 0]) / det
    return np.stack([1 - v - w, v, w], axis=-1)


def _on_edges(edges: FloatArray, places: FloatArray) -> tuple[IntArray, FloatArray]:
    """Which of edges (e, 2, 2) comes nearest to each place (F, 2), and how far along it that is (F,)."""
    start, way = edges[:, 0], edges[:, 1] - edges[:, 0]
    length = np.maximum((way**2).sum(axis=1), np.finfo(float).tiny)
    along = np.clip(((places[:, None] - start) * way).sum(axis=-1) / length, 0.0, 1.0)
    gap = places[:, None] - (start + along[..., None] * way)
    best = (gap**2).sum(axis=-1).argmin(axis=1)
    return best, along[np.arange(len(places)), best]
