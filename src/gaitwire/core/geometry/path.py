"""Path data of our own narrow form (M, L, C, Z, absolute) as arrays, and the box around it."""

from __future__ import annotations

import re
from collections.abc import Iterator

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.geometry.bounds import Box

_TOKEN = re.compile(r"([MLCZ])([^MLCZ]*)")
_POINTS = {"M": 1, "L": 1, "C": 3, "Z": 0}


def parse(d: str) -> Iterator[tuple[str, FloatArray]]:
    """Commands of the path and their points, (n, 2) each."""
    for command, rest in _TOKEN.findall(d):
        yield command, np.fromstring(rest, sep=" ").reshape(_POINTS[command], 2) if rest.strip() else np.zeros((0, 2))


def number(value: float) -> str:
    """A number as path data has it: at most four decimals, no trailing noughts."""
    text = f"{value:.4f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text


def _extremes(p0: FloatArray, p1: FloatArray, p2: FloatArray, p3: FloatArray) -> FloatArray:
    """Points of a cubic where x or y turns, and its ends: (n, 2)."""
    a, b, c = -p0 + 3 * p1 - 3 * p2 + p3, 2 * (p0 - 2 * p1 + p2), p1 - p0
    found = [p0, p3]
    for axis in (0, 1):
        roots = np.roots([a[axis], b[axis], c[axis]]) if abs(a[axis]) > 1e-12 else _linear_root(b[axis], c[axis])
        for t in np.atleast_1d(roots):
            if abs(t.imag) < 1e-9 and 0 < t.real < 1:
                s, r = float(t.real), 1 - float(t.real)
                found.append(r**3 * p0 + 3 * r * r * s * p1 + 3 * r * s * s * p2 + s**3 * p3)
    return np.array(found)


def _linear_root(b: float, c: float) -> FloatArray:
    return np.array([-c / b]) if abs(b) > 1e-12 else np.zeros(0)


def path_box(d: str) -> Box | None:
    """The tight box around a path without its stroke; None for an empty path."""
    seen: list[FloatArray] = []
    here = np.zeros(2)
    for command, points in parse(d):
        if command == "C":
            seen.append(_extremes(here, points[0], points[1], points[2]))
        elif len(points):
            seen.append(points)
        if len(points):
            here = points[-1]
    if not seen:
        return None
    everything = np.concatenate(seen)
    (x0, y0), (x1, y1) = everything.min(axis=0), everything.max(axis=0)
    return Box(float(x0), float(y0), float(x1), float(y1))
