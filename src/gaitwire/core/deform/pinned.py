"""Pins: the mesh goes where they are and stays otherwise as rigid as possible.

Sorkine and Alexa 2007, "As-Rigid-As-Possible Surface Modeling" (spokes), in the plane with complex
numbers, so that the best rotation of a cell is a sum of products made one long. Every frame starts
from rigid moving least squares (Schaefer et al. 2006) and runs the same number of iterations: a
frame does not depend on which was shown before it, and nothing jumps when a drag is let go. Where pins are
only nudged, as bend fixes do all the time, fewer steps that learn from each other lead as far.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.linalg import cholesky_banded
from scipy.linalg.lapack import zpbtrs
from scipy.sparse import coo_matrix, csr_matrix, diags_array, eye_array
from scipy.sparse.csgraph import connected_components, reverse_cuthill_mckee

from gaitwire.core.conventions import FloatArray, IntArray
from gaitwire.core.deform.anderson import accelerated
from gaitwire.core.geometry.mesh import Mesh

ITERATIONS = 30

NUDGE, PULL = 0.8, 1.2
"""Where no pin is moved by more than the first share of the mesh's edges, steps that learn from each other are enough.

From there to the second, both ways are mixed: they do not lead to quite the same, and nothing is to jump.
"""

NUDGE_STEPS, _NUDGE_MEMORY = 12, 3
"""They come nearer than thirty plain ones, which a pin pulled far needs: there, learning leads astray."""

STIFFER = 30.0
"""A fully stiff pin makes the triangles round it so many times stiffer."""

_HOLD = 0.3
"""Least stiffness of a turning pin: without it, its surroundings would hardly turn with it."""

_EDGES_AT_ONCE = 40_000
"""Frames are solved together as long as their edges are no more than this, so that they stay in the cache."""

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


def _narrowest(table: csr_matrix, points: FloatArray) -> IntArray:
    """The order of rows in which a mesh's matrix is the narrower band: by Cuthill and McKee, or along its long axis."""
    if len(points) < 3:
        return np.arange(len(points))
    away = points - points.mean(axis=0)
    along = away @ np.linalg.svd(away, full_matrices=False)[2][0]
    orders = (np.asarray(reverse_cuthill_mckee(table, symmetric_mode=True), np.int64), np.argsort(along, kind="stable"))

    def width(order: IntArray) -> int:
        place = np.empty_like(order)
        place[order] = np.arange(len(order))
        pairs = table.tocoo()
        return int(np.abs(place[pairs.row] - place[pairs.col]).max(initial=0))

    return min(orders, key=width)


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
        self._arrange(np.flatnonzero(held), np.flatnonzero(~held))
        self._turned = self._turn_reach()
        ends = mesh.vertices[mesh.edges] if len(mesh.triangles) else np.zeros((0, 2, 2))
        self._edge = float(np.hypot(*(ends[:, 0] - ends[:, 1]).T).mean()) if len(ends) else 0.0
        self._at_once = max(1, _EDGES_AT_ONCE // max(self._table.nnz, 1))

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
        """Vertices whose turn each turning pin holds, as places in the working order."""
        found = []
        for pin in self.pins.turning:
            away = np.hypot(*(self.mesh.vertices - self.mesh.vertices[pin]).T)
            found.append((int(pin), np.flatnonzero(away[self._order] <= self.pins.radius[pin])))
        return found

    def _arrange(self, held: IntArray, free: IntArray) -> None:
        """Put what is held first, then the free vertices so that their Laplacian is a narrow band, and factor that.

        Meshes of sleeves and necks are long and narrow, and a band is solved faster than anything else.
        """
        weights = self._weights
        laplacian = (diags_array(np.asarray(weights.sum(axis=1)).ravel()) - weights).tocsr()
        banded = _narrowest(laplacian[free][:, free], self.mesh.vertices[free])
        self._order = np.concatenate([held, free[banded]])
        self._count = len(held)
        # With a place for every vertex itself, so that a step is one product of a matrix and the vertices.
        table = (weights[self._order][:, self._order] + eye_array(len(self._order))).tocsr()
        table.sort_indices()
        self._from = np.repeat(np.arange(len(self._order)), np.diff(table.indptr))
        self._own = np.flatnonzero(self._from == table.indices)
        table.data[self._own] = 0.0
        self._table, self._ends = table, table.indptr[:-1].astype(np.int64)
        laplacian = laplacian[self._order][:, self._order]
        self._onto_held = laplacian[self._count :, : self._count].tocsr()
        inner = laplacian[self._count :, self._count :].tocoo()
        lower = inner.row >= inner.col
        width = int((inner.row - inner.col).max(initial=0))
        band = np.zeros((width + 1, len(free)))
        band[(inner.row - inner.col)[lower], inner.col[lower]] = inner.data[lower]
        band = cholesky_banded(band, lower=True) if len(free) else band
        self._band = np.asfortranarray(band.astype(complex))  # solving for x and y at once is quicker than in turn

    def deform(self, rest: np.ndarray, targets: np.ndarray, turns: np.ndarray) -> np.ndarray:
        """Vertices (V, F) with the pins at their targets.

        `rest` (V, F) is where the bones alone would put the vertices; `targets` (n, F) where the
        pins are; `turns` (n, F) the turn of each pin against the bones, as unit numbers (only
        those of turning pins are looked at).
        """
        out = rest.copy()
        moved = np.abs(targets - rest[: self.pins.count]).max(axis=0, initial=0.0) >= 1e-9
        at_work = moved | self._twisted(turns)
        nudged = self._nudged(rest, targets, turns)
        out[:, at_work] = 0.0
        for share, gently in ((nudged, True), (1.0 - nudged, False)):
            frames = np.flatnonzero(at_work & (share > 0))
            for start in range(0, len(frames), self._at_once):
                some = frames[start : start + self._at_once]
                out[:, some] += share[some] * self._solved(rest.T[some], targets.T[some], turns.T[some], gently).T
        return out

    def _nudged(self, rest: np.ndarray, targets: np.ndarray, turns: np.ndarray) -> FloatArray:
        """How far pins are only nudged on each frame (F,), 1 to 0, by their places and by turns at their edge."""
        far = np.abs(targets - rest[: self.pins.count]).max(axis=0, initial=0.0)
        turning = self.pins.turning
        swept = (np.abs(turns[turning] - 1) * self.pins.radius[turning, None]).max(axis=0, initial=0.0)
        edges = np.maximum(far, swept) / max(self._edge, 1e-12)
        return np.asarray(np.clip((PULL - edges) / (PULL - NUDGE), 0.0, 1.0))

    def _solved(self, rest: np.ndarray, targets: np.ndarray, turns: np.ndarray, gently: bool) -> np.ndarray:
        """Vertices (B, V) of some frames."""
        order, held = self._order, self._count
        place = self.least_squares(rest, targets, turns)
        place[:, order[:held]] = rest[:, order[:held]]
        place[:, : self.pins.count] = targets
        out = np.empty_like(rest)
        out[:, order] = self._iterated(place[:, order], rest[:, order], turns, gently)
        return out

    def _iterated(self, place: np.ndarray, rest: np.ndarray, turns: np.ndarray, gently: bool) -> np.ndarray:
        """The fixed number of local and global steps from a first guess (B, V), in the working order.

        The frames stand as blocks in one matrix: what a product costs by itself is paid once for all of them.
        """
        held, table = self._count, self._table
        edge = table.data * (rest[:, self._from] - rest[:, table.indices])
        around = np.add.reduceat(edge, self._ends, axis=1)
        to_turn, to_place = -np.conj(edge), edge / 2
        to_turn[:, self._own], to_place[:, self._own] = np.conj(around), around / 2
        onto_turn, onto_place = self._blocks(to_turn, 0), self._blocks(to_place, held)
        from_held = (self._onto_held @ place[:, :held].T).T

        def step(free: np.ndarray) -> np.ndarray:
            place[:, held:] = free
            turn = (onto_turn @ place.ravel()).reshape(place.shape)
            turn /= np.maximum(np.abs(turn), 1e-30)
            for pin, reach in self._turned:
                turn[:, reach] = turns[:, pin : pin + 1]
            right = (onto_place @ turn.ravel()).reshape(from_held.shape) - from_held
            solved, _ = zpbtrs(self._band, right.T, lower=1, overwrite_b=1)
            return np.ascontiguousarray(solved.T)

        free = np.ascontiguousarray(place[:, held:])
        if gently:
            free = accelerated(step, free, NUDGE_STEPS, _NUDGE_MEMORY)
        else:
            for _ in range(ITERATIONS):
                free = step(free)
        place[:, held:] = free
        return place

    def _blocks(self, edges: np.ndarray, first: int) -> csr_matrix:
        """The matrix of all frames (B (V - first), B V), a block each, from what stands on their edges (B, E)."""
        table, count = self._table, len(edges)
        size, start = table.shape[0], table.indptr[first]
        frames = np.arange(count, dtype=np.int32)[:, None]
        columns = table.indices[start:] + frames * size
        ends = table.indptr[first + 1 :] - start + frames * len(table.indices[start:])
        rows = np.concatenate([[0], ends.ravel()]).astype(np.int32)
        shape = count * (size - first), count * size
        return csr_matrix((edges[:, start:].ravel(), columns.ravel(), rows), shape=shape)

    def _twisted(self, turns: np.ndarray) -> np.ndarray:
        """Frames (F,) on which a turning pin is turned."""
        twist = np.abs(turns[self.pins.turning] - 1).max(axis=0, initial=0.0)
        return np.asarray(twist >= 1e-12)

    def least_squares(self, rest: np.ndarray, targets: np.ndarray, turns: np.ndarray) -> np.ndarray:
        """Rigid moving least squares (B, V): every vertex turned and moved as the pins near it are.

        A turning pin counts as a small cross that turns.
        """
        arms = [(0.0, np.arange(self.pins.count))] + [
            (self.pins.radius[self.pins.turning] * arm, self.pins.turning) for arm in (1, 1j, -1, -1j)
        ]
        source = np.concatenate([rest[:, which] + arm for arm, which in arms], axis=1)
        goal = np.concatenate([targets[:, which] + arm * turns[:, which] for arm, which in arms], axis=1)
        pull = 1.0 / np.maximum(np.abs(rest[:, :, None] - source[:, None, :]) ** 2, 1e-6)
        pull /= pull.sum(axis=2, keepdims=True)
        from_, to = (pull @ x[:, :, None] for x in (source, goal))
        spin = (pull * (np.conj(source[:, None, :] - from_) * (goal[:, None, :] - to))).sum(axis=2)
        size = np.abs(spin)
        spin = np.where(size > 1e-12, spin / np.maximum(size, 1e-12), 1.0)
        found: np.ndarray = spin * (rest - from_[:, :, 0]) + to[:, :, 0]
        return found
