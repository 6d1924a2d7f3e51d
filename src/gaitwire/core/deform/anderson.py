"""A fixed point found in fewer steps, each learning from the ones before it.

Anderson 1965, "Iterative Procedures for Nonlinear Integral Equations"; as Peng et al. 2018, "Anderson
Acceleration for Geometry Optimization and Physics Simulation", use it on local and global steps.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

_LEAST = 1e-9
"""What is added to the diagonal of the small systems, as a share of it: their rows may be alike."""


def accelerated(step: Callable[[np.ndarray], np.ndarray], start: np.ndarray, rounds: int, memory: int) -> np.ndarray:
    """Where `rounds` steps lead from a start (B, V), complex, B problems side by side.

    Each takes the mixture of the last `memory` steps whose change is the least, in the least squares.
    """
    found = step(start)
    change = found - start
    changes: list[np.ndarray] = []
    gains: list[np.ndarray] = []
    at = found
    for _ in range(rounds - 1):
        after = step(at)
        now = after - at
        changes, gains = [*changes, now - change][-memory:], [*gains, after - found][-memory:]
        found, change = after, now
        shares = _least_squares(changes, change)
        at = after - sum(share[:, None] * gain for share, gain in zip(shares, gains, strict=True))
    return at


def _least_squares(rows: list[np.ndarray], wanted: np.ndarray) -> np.ndarray:
    """Real shares (m, B) of rows, (B, V) each, whose sum is nearest to what is wanted (B, V)."""
    count = len(rows)
    table = np.empty((len(wanted), count, count))
    right = np.empty((len(wanted), count))
    for i, row in enumerate(rows):
        flat = row.view(float)
        right[:, i] = np.einsum("bv,bv->b", flat, wanted.view(float))
        for j in range(i + 1):
            table[:, i, j] = table[:, j, i] = np.einsum("bv,bv->b", flat, rows[j].view(float))
    own = np.arange(count)
    table[:, own, own] += _LEAST * table[:, own, own].sum(axis=1, keepdims=True) + 1e-300
    solved: np.ndarray = np.linalg.solve(table, right[:, :, None])[:, :, 0].T
    return solved
