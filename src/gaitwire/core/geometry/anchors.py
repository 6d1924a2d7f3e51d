"""A path as the points one takes hold of: anchors with a handle on either side."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.geometry.path import cut_cubic, number, parse

IN, AT, OUT = 0, 1, 2
"""Rows of an anchor: the handle before it, itself, the handle after it."""

_SAME = 1e-6
_STEPS = 33
_IN_LINE = 0.02
"""Sine of the angle up to which two handles count as one line."""


class Run(NamedTuple):
    """One run of a path: its anchors (n, 3, 2), and whether it comes back to its start.

    A handle that lies on its anchor leaves that side straight.
    """

    anchors: FloatArray
    closed: bool


class AnchorSpot(NamedTuple):
    """A place on a path: which run, which of its segments, and how far along that."""

    run: int
    segment: int
    share: float
    distance: float


def runs_of(d: str) -> list[Run]:
    """The runs of path data."""
    runs: list[Run] = []
    rows: list[FloatArray] = []
    closed = False

    def finish() -> None:
        if len(rows) > 1 or (rows and not runs):
            runs.append(_closed_up(np.array(rows), closed))

    for command, points in parse(d):
        if command == "M":
            finish()
            rows, closed = [np.repeat(points, 3, axis=0)], False
        elif command == "L":
            rows.append(np.repeat(points, 3, axis=0))
        elif command == "C":
            rows[-1][OUT] = points[0]
            rows.append(np.array([points[1], points[2], points[2]]))
        elif command == "Z":
            closed = True
    finish()
    return runs


def _closed_up(anchors: FloatArray, closed: bool) -> Run:
    """A closed run whose last anchor lies on its first has that one only once."""
    if closed and len(anchors) > 2 and np.abs(anchors[-1, AT] - anchors[0, AT]).max() < _SAME:
        anchors[0, IN] = anchors[-1, IN]
        anchors = anchors[:-1]
    return Run(anchors, closed)


def path_of(runs: Sequence[Run]) -> str:
    """Path data of runs, the reverse of `runs_of`."""
    return "".join(_written(run) for run in runs)


def _written(run: Run) -> str:
    def text(*points: FloatArray) -> str:
        return " ".join(number(float(v)) for p in points for v in p)

    out = [f"M{text(run.anchors[0, AT])}"]
    for before, after in segments_of(run):
        if np.abs(before[OUT] - before[AT]).max() < _SAME and np.abs(after[IN] - after[AT]).max() < _SAME:
            out.append(f"L{text(after[AT])}")
        else:
            out.append(f"C{text(before[OUT], after[IN], after[AT])}")
    return "".join(out) + ("Z" if run.closed else "")


def segments_of(run: Run) -> list[tuple[FloatArray, FloatArray]]:
    """Each segment's two anchors, in order; a closed run's last one leads back to its first."""
    count = len(run.anchors)
    last = count if run.closed and count > 1 else count - 1
    return [(run.anchors[i], run.anchors[(i + 1) % count]) for i in range(last)]


def _curve(before: FloatArray, after: FloatArray) -> FloatArray:
    return np.array([before[AT], before[OUT], after[IN], after[AT]])


def nearest(runs: Sequence[Run], place: tuple[float, float]) -> AnchorSpot | None:
    """The place on the path that is nearest to a point; None for a path without segments."""
    t = np.linspace(0, 1, _STEPS)[:, None]
    best: AnchorSpot | None = None
    for r, run in enumerate(runs):
        for i, (before, after) in enumerate(segments_of(run)):
            p0, p1, p2, p3 = _curve(before, after)
            s = 1 - t
            points = s**3 * p0 + 3 * s * s * t * p1 + 3 * s * t * t * p2 + t**3 * p3
            away = np.hypot(*(points - place).T)
            at = int(away.argmin())
            if best is None or away[at] < best.distance:
                best = AnchorSpot(r, i, float(np.clip(t[at, 0], 0.02, 0.98)), float(away[at]))
    return best


def with_anchor(run: Run, segment: int, share: float) -> Run:
    """The run with one more anchor on a segment; its course stays the same."""
    before, after = segments_of(run)[segment]
    left, right = _split(_curve(before, after), share)
    anchors = run.anchors.copy()
    count = len(anchors)
    anchors[segment, OUT] = left[1]
    anchors[(segment + 1) % count, IN] = right[2]
    made = np.array([left[2], left[3], right[1]])
    return run._replace(anchors=np.insert(anchors, segment + 1, made, axis=0))


def _split(curve: FloatArray, share: float) -> tuple[FloatArray, FloatArray]:
    """A cubic cut in two (de Casteljau)."""
    if abs(share - 0.5) < 1e-12:
        left, right = cut_cubic(curve, 2)
        return left, right
    a, b, c = (curve[i] + (curve[i + 1] - curve[i]) * share for i in range(3))
    d, e = a + (b - a) * share, b + (c - b) * share
    middle = d + (e - d) * share
    return np.array([curve[0], a, d, middle]), np.array([middle, e, c, curve[3]])


def without(run: Run, indices: Sequence[int]) -> Run | None:
    """The run without some anchors; None when too few are left to draw."""
    anchors = np.delete(run.anchors, list(indices), axis=0)
    return run._replace(anchors=anchors) if len(anchors) > 1 else None


def moved(run: Run, index: int, row: int, place: tuple[float, float]) -> Run:
    """The run with an anchor (its handles go along) or a handle elsewhere.

    A handle that lay in line with its opposite takes that one round with it.
    """
    anchors = run.anchors.copy()
    anchor = anchors[index]
    target = np.array(place, float)
    if row == AT:
        anchor += target - anchor[AT].copy()
        return run._replace(anchors=anchors)
    opposite = IN if row == OUT else OUT
    arm, other = anchor[row] - anchor[AT], anchor[opposite] - anchor[AT]
    size, reach = np.hypot(*arm), np.hypot(*other)
    in_line = size > _SAME and reach > _SAME and abs(arm[0] * other[1] - arm[1] * other[0]) < _IN_LINE * size * reach
    anchor[row] = target
    fresh = target - anchor[AT]
    if in_line and arm @ other < 0 and np.hypot(*fresh) > _SAME:
        anchor[opposite] = anchor[AT] - fresh / np.hypot(*fresh) * reach
    return run._replace(anchors=anchors)


def cornered(run: Run, index: int) -> Run:
    """The run with both handles of an anchor on it."""
    anchors = run.anchors.copy()
    anchors[index, IN] = anchors[index, OUT] = anchors[index, AT]
    return run._replace(anchors=anchors)


def smoothed(run: Run, indices: Sequence[int] | None = None) -> Run:
    """The run with handles along its course at some anchors (None: all), a third of the way to each neighbour.

    So that it goes through its anchors as a centripetal curve would (Catmull and Rom 1974).
    """
    anchors = run.anchors.copy()
    count = len(anchors)
    for i in range(count) if indices is None else indices:
        if not run.closed and i in (0, count - 1):
            anchors[i, IN] = anchors[i, OUT] = anchors[i, AT]
            continue
        before, at, after = anchors[i - 1, AT], anchors[i, AT], anchors[(i + 1) % count, AT]
        way = after - before
        size = np.hypot(*way)
        if size > _SAME:
            way = way / size
            anchors[i, IN] = at - way * np.hypot(*(at - before)) / 3
            anchors[i, OUT] = at + way * np.hypot(*(after - at)) / 3
    return run._replace(anchors=anchors)


def run_through(points: Sequence[tuple[float, float]], closed: bool) -> Run:
    """A smooth run through points."""
    anchors = np.repeat(np.asarray(points, float)[:, None, :], 3, axis=1)
    return smoothed(Run(anchors, closed))
