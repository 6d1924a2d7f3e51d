"""The links of a loose end as arrays: which hangs from which, and what it weighs."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt
from scipy.linalg import eigh

from gaitwire.core.conventions import FloatArray, IntArray

ComplexArray = npt.NDArray[np.complex128]


@dataclass(frozen=True, eq=False)
class Links:
    """A forest of n links, each after the one that it hangs from; the roots hang from what carries them.

    Places are complex, in pixels: a link has a pivot and a tip, where all of its mass is.
    """

    above: tuple[int, ...]  # of each link, or -1
    lengths: FloatArray  # (n,) at rest
    masses: FloatArray  # (n,)

    @property
    def count(self) -> int:
        return len(self.above)

    @cached_property
    def roots(self) -> IntArray:
        """Of each link (n,), the root of its tree."""
        found = list(range(self.count))
        for n, up in enumerate(self.above):
            found[n] = n if up < 0 else found[up]
        return np.array(found, np.int64)

    @cached_property
    def carried_by(self) -> npt.NDArray[np.bool_]:
        """Whether a link (n, n) is another, or hangs from it."""
        found = np.eye(self.count, dtype=bool)
        for n, up in enumerate(self.above):
            if up >= 0:
                found[n] |= found[up]
        return found

    @cached_property
    def _spans(self) -> tuple[IntArray, IntArray]:
        """Of a link's tip, and of each link that carries it: the ends of what that one adds, among pivots and tips."""
        to, since = np.zeros((2, self.count, self.count), np.int64)
        for n in range(self.count):
            to[n, n], since[n, n], below = self.count + n, n, n
            while (up := self.above[below]) >= 0:
                to[n, up], since[n, up], below = below, up, up
        return to, since

    def arms(self, pivots: ComplexArray, tips: ComplexArray) -> ComplexArray:
        """What each link (..., n, n) adds to the place of each tip, from pivots and tips (..., n): column by column.

        A tip lies at its root's pivot plus its row; to turn a link by an angle is to multiply its column.
        """
        to, since = self._spans
        places = np.concatenate([pivots, tips], axis=-1)
        return np.asarray(places[..., to] - places[..., since])

    @cached_property
    def relative(self) -> FloatArray:
        """Angles (n, n) against the link above, from angles."""
        found = np.eye(self.count)
        for n, up in enumerate(self.above):
            if up >= 0:
                found[n, up] = -1.0
        return found

    @cached_property
    def reaches(self) -> FloatArray:
        """How far a tip is from the pivot of each link (n, n) that carries it, stretched out straight."""
        carried = self.carried_by.astype(float)
        arms = np.where(self.carried_by, self.lengths[None, :], 0.0)
        return np.asarray((arms @ carried) * carried)

    @cached_property
    def inertias(self) -> FloatArray:
        """Of all that hangs from each pivot (n,), about it, stretched out straight."""
        return np.asarray(self.masses @ self.reaches**2)

    @cached_property
    def firmness(self) -> FloatArray:
        """Stiffness of each pivot (n,) with which the slowest swing of its tree, straight, is of a radian a second."""
        arms = np.where(self.carried_by, self.lengths[None, :], 0.0)
        bends = self.relative.T * self.inertias @ self.relative
        heavy = arms.T * self.masses @ arms
        found = self.inertias.copy()
        for root in np.unique(self.roots):
            own = np.flatnonzero(self.roots == root)
            at = np.ix_(own, own)
            found[own] /= eigh(bends[at], heavy[at], eigvals_only=True)[0]
        return found

    @cached_property
    def moments(self) -> FloatArray:
        """Mass times distance of all that hangs from each pivot (n,), stretched out straight."""
        return np.asarray(self.masses @ self.reaches)

    @cached_property
    def together(self) -> npt.NDArray[np.bool_]:
        """Whether two links (n, n) are of one tree."""
        return np.asarray(self.roots[:, None] == self.roots)

    @cached_property
    def reach(self) -> FloatArray:
        """Of each link's tree (n,), from its root to the tip that is farthest from it."""
        return np.asarray(np.where(self.together, self.reaches.max(axis=1), 0.0).max(axis=1))


def links_of(above: Sequence[int], pivots: ComplexArray, tips: ComplexArray) -> Links:
    """Links by how they lie at rest (n,), each as heavy as what it adds to the length."""
    lengths = np.abs(tips - pivots)
    for n, up in enumerate(above):
        if up >= 0:  # what lies between two pivots is as long as that, wherever the upper link ends
            lengths[up] = max(lengths[up], abs(pivots[n] - pivots[up]))
    lengths = np.maximum(lengths, 1e-3 * max(float(lengths.max(initial=0.0)), 1e-3))
    return Links(tuple(above), lengths, lengths.copy())


def side_by_side(rows: Sequence[Links]) -> Links:
    """Several as one, none of which carries another's."""
    above: list[int] = []
    for links in rows:
        first = len(above)
        above += [up if up < 0 else up + first for up in links.above]
    return Links(tuple(above), *(np.concatenate(x) for x in zip(*((k.lengths, k.masses) for k in rows), strict=True)))
