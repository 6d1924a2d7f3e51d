"""Pins: the mesh goes where they are and stays otherwise as rigid as possible.

Sorkine and Alexa 2007, "As-Rigid-As-Possible Surface Modeling" (spokes), in the plane with complex
numbers, so that the best rotation of a cell is a sum of products made one long. Every frame starts
from rigid moving least squares (Schaefer et al. 2006) and runs the same number of iterations: a
frame does not depend on which was shown before it, and nothing jumps when a drag is let go.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.linalg import cho_solve_banded, cholesky_banded
from scipy.sparse import coo_matrix, csr_matrix, diags_array
from scipy.sparse.csgraph import connected_components, reverse_cuthill_mckee

from gaitwire.core.conventions import FloatArray, IntArray
from gaitwire.core.geometry.mesh import Mesh

ITERATIONS = 30

STIFFER = 30.0
"""A fully stiff pin makes the triangles round it so many times stiffer."""

_HOLD = 0.3
"""Least stiffness of a turning pin: without it, its surroundings would hardly turn with it."""

_LEAST = 0.005
"""Least weight of an edge; that of two well-shaped triangles is about 0.6."""


def cotangents(mesh: Mesh, stiffness: FloatArray | None = None) -> csr_matrix:
    """Edge weights (V, V), symmetric: half the cotangents of the angles that face each edge.

    `stiffness` (T,) multiplies what each triangle adds. An edge at the rim that faces a blunt angle
    would count against its surroundings, and could turn a cell round: it counts `_LEAST` instead.
    """
    rows, columns, values = [], [], []
    for corner in range(3):
        i, j, k = (mesh.triangles[:, (corner + n) % 3] for n in range(3))
        u, v = mesh.vertices[i] - mesh.vertices[k], mesh.vertices[j] - mesh.vertices[k]
        cross = np.abs(u[:, 0] * v[:, 1] - u[:, 1] * v[:, 0])
        half = 0.5 * (u * v).sum(axis=1) / np.maximum(cross, 1e-12)
        half = half if stiffness is None else half * stiffness
        rows += [i, j]
        columns += [j, i]
        values += [half, half]
    size = len(mesh.vertices)
    table = coo_matrix((np.concatenate(values), (np.concatenate(rows), np.concatenate(columns))), shape=(size, size))
    found = table.tocsr()
    found.sort_indices()
    found.data = np.maximum(found.data, _LEAST)
    return found


@dataclass(frozen=True)
class PinSet:
    """What is known of the pins when the mesh is made; the first n vertices are the pins."""

    count: int
    turning: IntArray  # indices of pins that hold their turn
    radius: FloatArray  # (n,) pixels within which each pin's turn is held and the mesh is stiffer
    stiffness: FloatArray  # (n,) 0 to 1


class Pinned:
    """A mesh with pins, ready to be deformed; what does not depend on the frame is worked out once."""

    def __init__(self, mesh: Mesh, pins: PinSet) -> None:
        self.mesh, self.pins = mesh, pins
        self._weights = cotangents(mesh, self._stiffened())
        size = len(mesh.vertices)
        _, part = connected_components(self._weights, directed=False)
        pinned = np.zeros(size, bool)
        pinned[: pins.count] = True
        # A piece of the mesh without a pin has nothing to hold it: it goes with the bones alone.
        held = pinned | ~np.isin(part, part[: pins.count])
        self.held, self.free = np.flatnonzero(held), np.flatnonzero(~held)
        self._starts = np.repeat(np.arange(size), np.diff(self._weights.indptr))
        self._factor()
        self._turned = self._turn_reach()

    def _stiffened(self) -> FloatArray:
        middles = self.mesh.vertices[self.mesh.triangles].mean(axis=1)
        out = np.ones(len(middles))
        stiffness = self.pins.stiffness.copy()
        stiffness[self.pins.turning] = np.maximum(stiffness[self.pins.turning], _HOLD)
        for pin in range(self.pins.count):
            away = np.hypot(*(middles - self.mesh.vertices[pin]).T) / max(self.pins.radius[pin], 1e-6)
            near = np.where(away < 1, (1 - np.minimum(away, 1) ** 2) ** 2, 0.0)
            out = np.maximum(out, 1 + STIFFER * stiffness[pin] * near)
        return out

    def _turn_reach(self) -> list[tuple[int, IntArray]]:
        """Vertices whose turn each turning pin holds."""
        found = []
        for pin in self.pins.turning:
            away = np.hypot(*(self.mesh.vertices - self.mesh.vertices[pin]).T)
            found.append((int(pin), np.flatnonzero(away <= self.pins.radius[pin])))
        return found

    def _factor(self) -> None:
        """Cholesky factor of the Laplacian over the free vertices, as a band: meshes are long and narrow."""
        weights = self._weights
        diagonal = np.asarray(weights.sum(axis=1)).ravel()
        laplacian = (diags_array(diagonal) - weights).tocsr()
        self._onto_held = laplacian[self.free][:, self.held]
        inner = laplacian[self.free][:, self.free].tocsr()
        self._order = np.asarray(reverse_cuthill_mckee(inner, symmetric_mode=True), np.int64)
        table = inner[self._order][:, self._order].tocoo()
        lower = table.row >= table.col
        width = int((table.row - table.col).max(initial=0))
        band = np.zeros((width + 1, len(self.free)))
        band[(table.row - table.col)[lower], table.col[lower]] = table.data[lower]
        self._band = cholesky_banded(band, lower=True) if len(self.free) else band

    def _solve(self, right: np.ndarray) -> np.ndarray:
        """Free vertices (complex) from the right-hand side over them."""
        pairs = right[self._order].view(float).reshape(-1, 2)
        solved = cho_solve_banded((self._band, True), pairs, overwrite_b=True, check_finite=False)
        out = np.empty(len(right), complex)
        out[self._order] = np.ascontiguousarray(solved).view(complex).ravel()
        return out

    def deform(self, rest: np.ndarray, targets: np.ndarray, turns: np.ndarray) -> np.ndarray:
        """Vertices (V, F) with the pins at their targets.

        `rest` (V, F) is where the bones alone would put the vertices; `targets` (n, F) where the
        pins are; `turns` (n, F) the turn of each pin against the bones, as unit numbers (only
        those of turning pins are looked at).
        """
        out = np.empty_like(rest)
        for frame in range(rest.shape[1]):
            out[:, frame] = self._frame(rest[:, frame], targets[:, frame], turns[:, frame])
        return out

    def _frame(self, rest: np.ndarray, targets: np.ndarray, turns: np.ndarray) -> np.ndarray:
        count = self.pins.count
        if np.abs(targets - rest[:count]).max(initial=0.0) < 1e-9 and self._untwisted(turns):
            return rest
        place = rest.copy()
        place[self.free] = self.least_squares(rest, targets, turns)[self.free]
        place[:count] = targets
        weights = self._weights
        edge = weights.data * (rest[self._starts] - rest[weights.indices])
        onto_turn = csr_matrix((-np.conj(edge), weights.indices, weights.indptr), shape=weights.shape)
        onto_turn_self = np.add.reduceat(np.conj(edge), weights.indptr[:-1])
        onto_place = csr_matrix((edge / 2, weights.indices, weights.indptr), shape=weights.shape)
        onto_place_self = np.add.reduceat(edge / 2, weights.indptr[:-1])
        from_held = self._onto_held @ place[self.held]
        for _ in range(ITERATIONS):
            turn = onto_turn_self * place + onto_turn @ place
            turn /= np.maximum(np.abs(turn), 1e-30)
            for pin, reach in self._turned:
                turn[reach] = turns[pin]
            right = onto_place_self * turn + onto_place @ turn
            place[self.free] = self._solve(right[self.free] - from_held)
        return place

    def _untwisted(self, turns: np.ndarray) -> bool:
        return all(abs(turns[pin] - 1) < 1e-12 for pin, _ in self._turned)

    def least_squares(self, rest: np.ndarray, targets: np.ndarray, turns: np.ndarray) -> np.ndarray:
        """Rigid moving least squares: every vertex turned and moved as the pins near it are.

        A turning pin counts as a small cross that turns.
        """
        arms = [(0.0, np.arange(self.pins.count))] + [
            (self.pins.radius[self.pins.turning] * arm, self.pins.turning) for arm in (1, 1j, -1, -1j)
        ]
        source = np.concatenate([rest[which] + arm for arm, which in arms])
        goal = np.concatenate([targets[which] + arm * turns[which] for arm, which in arms])
        pull = 1.0 / np.maximum(np.abs(rest[:, None] - source[None, :]) ** 2, 1e-6)
        pull /= pull.sum(axis=1, keepdims=True)
        from_, to = pull @ source, pull @ goal
        spin = (pull * (np.conj(source[None, :] - from_[:, None]) * (goal[None, :] - to[:, None]))).sum(axis=1)
        size = np.abs(spin)
        spin = np.where(size > 1e-12, spin / np.maximum(size, 1e-12), 1.0)
        found: np.ndarray = spin * (rest - from_) + to
        return found
