"""The legs of a captured skeleton: which joints they are, seen from the side, and where heel and toe are."""

from __future__ import annotations

import re
from collections.abc import Sequence

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import InvalidInputError

_FOOT = re.compile(r"foot|ankle")
_SIDES = {
    side: re.compile(rf"(?i:{side})|(^|[^A-Za-z])(?i:{side[0]})([^A-Za-z]|$)|^(?i:{side[0]})[A-Z][a-z]")
    for side in ("right", "left")
}
"""How a side is called: in full, or by its letter, alone or before a name."""
_BEHIND = 0.3
"""How far the heel lies behind the ankle, in shares of how far the toe lies before it."""
_LOW = 0.3
"""Share of the time in which a toe is lowest, and its foot lies flat on the floor more often than not."""
_STILL = 1e-3
"""Share of the skeleton's height below which a bone has no length."""

MarkerPaths = dict[str, np.ndarray]


def leg_markers(names: Sequence[str], parents: Sequence[int], places: FloatArray) -> list[MarkerPaths]:
    """Markers of both legs, those that are there: places (F,) of hip, knee, ankle, heel and toe, complex with y up.

    `places` (J, F, 3) are the joints' in any unit and with any axis up; the way of the walk is along the
    real axis. A leg is found by a joint called a foot or an ankle; knee and hip are the joints above it.
    Raises InvalidInputError where no leg is found.
    """
    height = float(np.ptp(places.reshape(-1, 3), axis=0).max())
    chains = [c for c in (_chain(side, names, parents, places, height * _STILL) for side in _SIDES) if c]
    if not chains:
        raise InvalidInputError(
            "No leg is found in this skeleton.", "It needs joints whose names say left or right, and foot or ankle."
        )
    up, along = _axes([places[list(chain)] for chain in chains])
    return [_seen(places[list(chain)], up, along) for chain in chains]


def _chain(
    side: str, names: Sequence[str], parents: Sequence[int], places: FloatArray, least: float
) -> tuple[int, int, int, int] | None:
    """Indices of a side's hip, knee, ankle and toe."""
    for n, name in enumerate(names):
        plain = name.rpartition(":")[2]
        if not _FOOT.search(plain.lower()) or not _SIDES[side].search(plain):
            continue
        toe = next((k for k, p in enumerate(parents) if p == n and _apart(places, n, k) > least), None)
        knee = _above(n, parents, places, least)
        hip = _above(knee, parents, places, least) if knee is not None else None
        if toe is not None and knee is not None and hip is not None:
            return hip, knee, n, toe
    return None


def _above(joint: int, parents: Sequence[int], places: FloatArray, least: float) -> int | None:
    """The next joint above one that lies apart from it; joints that only twist lie on one spot."""
    up = parents[joint]
    while up >= 0 and _apart(places, joint, up) <= least:
        up = parents[up]
    return up if up >= 0 else None


def _apart(places: FloatArray, one: int, other: int) -> float:
    return float(np.linalg.norm(places[one, 0] - places[other, 0]))


def _axes(legs: Sequence[FloatArray]) -> tuple[FloatArray, FloatArray]:
    """Unit vectors up, and along the way of the walk; of one in place, where its feet point."""
    stands = np.mean([leg[0] - leg[2] for leg in legs], axis=(0, 1))
    up = np.zeros(3)
    up[np.abs(stands).argmax()] = np.sign(stands[np.abs(stands).argmax()])
    gone = np.mean([leg[0, -1] - leg[0, 0] for leg in legs], axis=0)
    points = np.mean([leg[3] - leg[2] for leg in legs], axis=(0, 1))
    gone, points = (v - up * (v @ up) for v in (gone, points))
    long = np.mean([np.linalg.norm(leg[0] - leg[2], axis=-1).max() for leg in legs])
    way = gone if np.linalg.norm(gone) > long else points
    length = np.linalg.norm(way)
    if length <= 0:
        raise InvalidInputError("Which way this skeleton walks cannot be seen.", "Its feet need a toe.")
    return up, np.asarray(way / length)


def _seen(leg: FloatArray, up: FloatArray, along: FloatArray) -> MarkerPaths:
    """A leg's joints (4, F, 3) from the side, with the heel that its foot must have to lie flat."""
    hip, knee, ankle, toe = leg @ along + 1j * (leg @ up)
    foot = toe - ankle
    low = toe.imag <= np.quantile(toe.imag, _LOW)
    flat = np.median(foot[low].real) + 1j * np.median(foot[low].imag)
    turn = foot / np.abs(foot) / (flat / abs(flat))
    # The heel lies as deep below the ankle as the toe does while the foot is flat, and some way behind.
    heel = ankle + turn * (-_BEHIND * flat.real + 1j * flat.imag)
    return {"hip": hip, "knee": knee, "ankle": ankle, "heel": heel, "toe": toe}
