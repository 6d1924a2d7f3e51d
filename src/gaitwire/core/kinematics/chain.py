"""A chain of bones solved from its tip: where it bends, so that its end is where it is wanted.

All inner joints of a chain bend by one and the same angle. For two bones that is the law of
cosines; for more it is one root, so that the answer is unique, moves smoothly with the target and
keeps to its side.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.optimize import brentq

from gaitwire.core.conventions import FloatArray
from gaitwire.core.tolerances import LENGTH

_GRID = 361
_BISECTIONS = 60


@dataclass(frozen=True)
class ChainPose:
    """How a chain of n bones lies on F frames."""

    directions: FloatArray  # (n, F) of each bone, degrees
    stretch: FloatArray  # (F,) factor on every bone's length
    miss: FloatArray  # (F,) pixels by which the tip stays away from its target
    bend: FloatArray  # (F,) degrees by which each joint bends


def chord(lengths: FloatArray, bend: FloatArray) -> np.ndarray:
    """From the chain's root to its end (complex, root bone along x): lengths (n, F or 1), bends (F,) in radians."""
    steps = np.arange(len(lengths))[:, None]
    found: np.ndarray = (lengths * np.exp(1j * steps * bend[None, :])).sum(axis=0)
    return found


def _tightest(lengths: FloatArray) -> FloatArray:
    """The bend, in radians, at which each chain's end is nearest to its root before it opens again; as (F or 1,)."""
    count = lengths.shape[1]
    if len(lengths) == 2:
        return np.full(count, np.pi)
    grid = np.linspace(0, np.pi, _GRID)
    rows = np.exp(1j * np.arange(len(lengths))[:, None] * grid)
    reach = np.abs(lengths.T @ rows)  # (F or 1, grid)
    rising = np.diff(reach, axis=1) > 0
    at = np.where(rising.any(axis=1), rising.argmax(axis=1), _GRID - 1)
    low, high = grid[np.maximum(at - 1, 0)], grid[np.minimum(at + 1, _GRID - 1)]
    for _ in range(_BISECTIONS):  # the nearest point lies between: thirds
        a, b = low + (high - low) / 3, high - (high - low) / 3
        nearer = np.abs(chord(lengths, a)) < np.abs(chord(lengths, b))
        low, high = np.where(nearer, low, a), np.where(nearer, b, high)
    return np.asarray((low + high) / 2)


def _bends(lengths: FloatArray, distance: FloatArray, tightest: FloatArray) -> FloatArray:
    """Bend (F,) in radians at which each chain spans a distance within its reach."""
    if len(lengths) == 2:
        a, b = lengths
        cosine = (distance**2 - a * a - b * b) / np.maximum(2 * a * b, LENGTH)
        return np.asarray(np.arccos(np.clip(cosine, -1, 1)))
    low, high = np.zeros_like(distance), np.broadcast_to(tightest, distance.shape).copy()
    for _ in range(_BISECTIONS):
        middle = (low + high) / 2
        wide = np.abs(chord(lengths, middle)) > distance
        low, high = np.where(wide, middle, low), np.where(wide, high, middle)
    return np.asarray((low + high) / 2)


def eased_distance(distance: FloatArray, longest: FloatArray, softness: FloatArray | float) -> FloatArray:
    """How far a chain reaches for a distance: all of it, but slower and slower over its last share.

    Beyond (1 - softness) of its length the chain follows 1 - e^-x and never quite gets straight, so
    that its joints do not snap.
    """
    begin = longest * (1 - np.asarray(softness))
    room = np.maximum(longest - begin, LENGTH)
    beyond = np.minimum((begin - distance) / room, 0.0)
    eased = np.where(distance <= begin, distance, begin - room * np.expm1(beyond))
    return np.asarray(np.minimum(eased, longest))


def solve_chain(
    lengths: FloatArray, dx: FloatArray, dy: FloatArray, bend: FloatArray | float = 1,
    stretch: FloatArray | float = 0.0, softness: FloatArray | float = 0.0,
) -> ChainPose:  # fmt: skip
    """Bend a chain so that its end lies (dx, dy) pixels, (F,) each, from its root.

    `lengths` (n,) of its bones or (n, F) where they change, n >= 2; `bend` 1 turns its joints
    clockwise on screen, -1 the other way; `stretch` and `softness` as in `Limb`; each one number, or
    (F,). A target out of reach (too far, or too near) is missed by as many pixels as `miss` says, and
    the chain points to it.
    """
    lengths = np.asarray(lengths, float)
    lengths = lengths[:, None] if lengths.ndim == 1 else lengths
    distance = np.hypot(dx, dy)
    longest, tightest = lengths.sum(axis=0), _tightest(lengths)
    nearest = np.abs(chord(lengths, tightest))
    spanned = np.maximum(eased_distance(distance, longest, softness), nearest)
    factor = np.where(distance > spanned, np.minimum(distance / np.maximum(spanned, LENGTH), 1 + stretch), 1.0)
    angle = _bends(lengths, spanned, tightest) * bend
    laid = chord(lengths, angle)
    aim = np.arctan2(dy, dx) - np.angle(laid)
    steps = np.arange(len(lengths))[:, None]
    miss = np.abs(np.abs(laid) * factor - distance)
    return ChainPose(np.degrees(aim[None, :] + steps * angle[None, :]), factor, miss, np.degrees(angle))


_STRAIGHT = 1e-6
"""Degrees, at its most bent joint, below which a chain bends to neither side."""

_REACHED = 1e-9
"""Pixels by which a chain may miss the distance that it is to span."""


def rebent(lengths: FloatArray, directions: FloatArray, distance: float, side: float) -> FloatArray:
    """Directions (n,) in degrees of a chain that spans a distance, seen from its first bone, which lies at 0.

    `lengths` (n,) and `directions` (n,) as it lies: its joints are bent by the same share of what they are bent,
    more or less, the share nearest to all of it. A straight one bends evenly to a `side` (1 or -1). Where no share
    will do, it comes as near as it can.
    """
    bends = np.mod(np.diff(directions) + 180.0, 360.0) - 180.0
    share = 1.0
    if np.abs(bends).max() < _STRAIGHT:
        bends, share = np.full(len(bends), float(side)), 0.0
    shape = np.concatenate([[0.0], np.cumsum(bends)])

    def off(share: float) -> float:
        return float(abs((lengths * np.exp(1j * np.radians(share * shape))).sum())) - distance

    if abs(off(share)) < _REACHED:
        return np.asarray(share * shape)
    if len(lengths) == 2:  # the law of cosines, to the side to which it is bent
        a, b = lengths
        cosine = (distance**2 - a * a - b * b) / max(2 * a * b, LENGTH)
        bend = float(np.degrees(np.arccos(np.clip(cosine, -1.0, 1.0))))
        return np.array([0.0, np.copysign(bend, bends[0])])
    shares = np.sort(np.append(np.linspace(0.0, 180.0 / np.abs(bends).max(), _GRID), share))
    apart = np.abs((lengths[:, None] * np.exp(1j * np.radians(np.outer(shape, shares)))).sum(axis=0)) - distance
    crossing = np.flatnonzero(np.sign(apart[:-1]) != np.sign(apart[1:]))
    if not len(crossing):
        return np.asarray(shape * shares[np.abs(apart).argmin()])
    away = np.maximum(np.maximum(shares[crossing] - share, share - shares[crossing + 1]), 0.0)
    at = int(crossing[away.argmin()])
    if apart[at] == 0.0 or apart[at + 1] == 0.0:
        return np.asarray(shape * shares[at if apart[at] == 0.0 else at + 1])
    return np.asarray(shape * brentq(off, shares[at], shares[at + 1], xtol=1e-15))
