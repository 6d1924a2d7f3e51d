"""Path data of our own narrow form (M, L, C, Z, absolute) as arrays, and the box around it."""

from __future__ import annotations

import re
from collections.abc import Iterator

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.geometry.bounds import Box

_TOKEN = re.compile(r"([MLCZ])([^MLCZ]*)")
POINTS = {"M": 1, "L": 1, "C": 3, "Z": 0}
"""How many points each command has."""


def parse(d: str) -> Iterator[tuple[str, FloatArray]]:
    """Commands of the path and their points, (n, 2) each."""
    for command, rest in _TOKEN.findall(d):
        yield command, np.fromstring(rest, sep=" ").reshape(POINTS[command], 2) if rest.strip() else np.zeros((0, 2))


_PAIR = r"-?\d+(?:\.\d+)? -?\d+(?:\.\d+)?"
_WELL_FORMED = re.compile(rf"(?: ?M ?{_PAIR}(?: ?L ?{_PAIR}| ?C ?{_PAIR} {_PAIR} {_PAIR}| ?Z)*)*")


def is_well_formed(d: str) -> bool:
    """Whether it is path data of ours: M, L, C and Z in capitals, each with its points, none left over."""
    return _WELL_FORMED.fullmatch(d) is not None


def number(value: float) -> str:
    """A number as path data has it: at most four decimals, no trailing noughts."""
    text = f"{value:.4f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text


def _turning_values(curves: FloatArray) -> FloatArray:
    """What x and y are where cubics (n, 4, 2) turn in that coordinate: (2, n, 2), the start where they do not."""
    p0, p1, p2, p3 = np.moveaxis(curves, 1, 0)
    a, b, c = -p0 + 3 * p1 - 3 * p2 + p3, 2 * (p0 - 2 * p1 + p2), p1 - p0
    with np.errstate(divide="ignore", invalid="ignore"):
        # The two roots by way of q, which loses no digits where a is next to nothing.
        q = -0.5 * (b + np.where(b < 0, -1.0, 1.0) * np.sqrt(b * b - 4 * a * c))
        t = np.stack([q / a, c / q])
    t = np.where((t > 0) & (t < 1), t, 0.0)  # what is no number is no turn either
    s = 1 - t
    return np.asarray(s**3 * p0 + 3 * s * s * t * p1 + 3 * s * t * t * p2 + t**3 * p3)


def path_box(d: str) -> Box | None:
    """The tight box around a path without its stroke; None for an empty path."""
    ends: list[FloatArray] = []
    curves: list[FloatArray] = []
    here = np.zeros((1, 2))
    for command, points in parse(d):
        if not len(points):
            continue
        if command == "C":
            curves.append(np.concatenate([here, points]))
        here = points[-1:]
        ends.append(here)
    if not ends:
        return None
    everything = np.concatenate(ends)
    if curves:
        everything = np.concatenate([everything, _turning_values(np.array(curves)).reshape(-1, 2)])
    (x0, y0), (x1, y1) = everything.min(axis=0), everything.max(axis=0)
    return Box(float(x0), float(y0), float(x1), float(y1))


def points_of(d: str) -> FloatArray:
    """All points of a path in the order they are written, handles included: (n, 2)."""
    found = [points for _, points in parse(d) if len(points)]
    return np.concatenate(found) if found else np.zeros((0, 2))


def commands_of(d: str) -> str:
    """The path's commands, one letter each."""
    return "".join(command for command, _ in parse(d))


def written(commands: str, points: FloatArray) -> str:
    """Path data of commands and their points (n, 2), the reverse of `commands_of` and `points_of`."""
    out: list[str] = []
    at = 0
    for command in commands:
        count = POINTS[command]
        out.append(command + " ".join(number(float(v)) for v in points[at : at + count].ravel()))
        at += count
    return "".join(out)


def mapped(d: str, matrix: tuple[float, float, float, float, float, float]) -> str:
    """The path under a matrix."""
    a, b, c, e, f, g = matrix
    points = points_of(d)
    x, y = points.T
    return written(commands_of(d), np.stack([a * x + c * y + f, b * x + e * y + g], axis=-1))


def cut_cubic(points: FloatArray, pieces: int) -> list[FloatArray]:
    """A cubic (4, 2) as `pieces` cubics that draw the same curve (de Casteljau)."""
    out = []
    rest = points
    for n in range(pieces, 1, -1):
        t = 1.0 / n
        a, b, c = (rest[i] + (rest[i + 1] - rest[i]) * t for i in range(3))
        ab, bc = a + (b - a) * t, b + (c - b) * t
        middle = ab + (bc - ab) * t
        out.append(np.array([rest[0], a, ab, middle]))
        rest = np.array([middle, bc, c, rest[3]])
    return [*out, rest]


def _as_cubic(start: FloatArray, end: FloatArray) -> FloatArray:
    return np.array([start, start + (end - start) / 3, start + (end - start) * 2 / 3, end])


def curves_of(d: str) -> Iterator[tuple[str, FloatArray]]:
    """The path as moves ('M', (1, 2)), cubics ('C', (4, 2) with their start) and closings ('Z', empty).

    A closing that leaves a gap is drawn as a cubic first, so that every visible piece is a curve.
    """
    here = start = np.zeros(2)
    for command, points in parse(d):
        if command == "M":
            here = start = points[0]
            yield "M", points
        elif command == "Z":
            if np.any(here != start):
                yield "C", _as_cubic(here, start)
            here = start
            yield "Z", points
        else:
            yield "C", _as_cubic(here, points[0]) if command == "L" else np.vstack([here, points])
            here = points[-1]


def finer(d: str, longest: float) -> str:
    """The same drawing in cubics, none of them longer than about `longest` pixels."""
    commands, points = "", []
    for command, curve in curves_of(d):
        if command != "C":
            commands += command
            points += list(curve)
            continue
        length = float(np.hypot(*np.diff(curve, axis=0).T).sum())
        for piece in cut_cubic(curve, max(1, min(200, int(np.ceil(length / longest))))):
            commands += "C"
            points += list(piece[1:])
    return written(commands, np.array(points).reshape(-1, 2))


_FLAT = np.linspace(0, 1, 13)[1:, None]


def rings_of(d: str) -> list[FloatArray]:
    """The path's pieces as polylines, each (n, 2); twelve straight steps to a curve."""
    rings: list[list[FloatArray]] = []
    for command, curve in curves_of(d):
        if command == "M":
            rings.append([curve])
        elif command == "C":
            if not rings:
                rings.append([curve[:1]])
            s = 1 - _FLAT
            p0, p1, p2, p3 = curve
            rings[-1].append(s**3 * p0 + 3 * s * s * _FLAT * p1 + 3 * s * _FLAT**2 * p2 + _FLAT**3 * p3)
            if np.allclose(curve[1], p0 + (p3 - p0) / 3) and np.allclose(curve[2], p0 + (p3 - p0) * 2 / 3):
                rings[-1][-1] = curve[3:]
    return [np.concatenate(ring) for ring in rings if sum(map(len, ring)) > 1]
