"""Points of a rigid part's drawing that are moved by hand: anchors, which take their handles along."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.geometry.path import POINTS, commands_of, points_of
from gaitwire.core.puppet.art import Art
from gaitwire.core.puppet.soften import paths_of

_SAME = 1e-3
"""Pixels."""


@dataclass(frozen=True)
class Outline:
    """The points of softened art: where they lie at rest, and how they hang together."""

    points: FloatArray  # (K, 2)
    anchors: tuple[tuple[int, ...], ...]  # indices of each anchor; two where a path closes on its start
    curves: tuple[tuple[int, int, int, int], ...]  # start, two handles, end
    straight: tuple[bool, ...]

    def carried(self, moved: Mapping[int, tuple[float, float]]) -> list[tuple[int, float, float]]:
        """Where all points go (index, across, down) when anchors, named by their first index, are moved."""
        away = np.zeros_like(self.points)
        for first, *others in self.anchors:
            away[[first, *others]] = moved.get(first, (0.0, 0.0))
        for (a, b, c, d), straight in zip(self.curves, self.straight, strict=True):
            away[b], away[c] = (
                ((2 * away[a] + away[d]) / 3, (away[a] + 2 * away[d]) / 3) if straight else (away[a], away[d])
            )
        return [(int(i), float(away[i, 0]), float(away[i, 1])) for i in np.flatnonzero(np.abs(away).max(axis=1))]

    def moved(self, points: Sequence[tuple[int, float, float]]) -> dict[int, tuple[float, float]]:
        """The anchors that stored points move, the reverse of `carried`."""
        known = {i: (x, y) for i, x, y in points}
        return {first: known[first] for first, *_ in self.anchors if first in known}


def outline_of(art: Art) -> Outline:
    """The outline of softened art, all of whose paths are cubics."""
    points: list[FloatArray] = []
    anchors: list[tuple[int, ...]] = []
    curves: list[tuple[int, int, int, int]] = []
    for d in paths_of(art.nodes):
        at = sum(map(len, points))
        own = points_of(d)
        points.append(own)
        _read_path(commands_of(d), own, at, anchors, curves)
    whole = np.concatenate(points) if points else np.zeros((0, 2))
    straight = tuple(bool(_is_straight(whole[list(curve)])) for curve in curves)
    return Outline(whole, tuple(anchors), tuple(curves), straight)


def _read_path(
    commands: str, own: FloatArray, at: int, anchors: list[tuple[int, ...]], curves: list[tuple[int, int, int, int]]
) -> None:
    here, first = 0, len(anchors)
    for command in commands:
        count = POINTS[command]
        if command == "M":
            first = len(anchors)
            anchors.append((at + here,))
        elif command == "C":
            curves.append((at + here - 1, at + here, at + here + 1, at + here + 2))
            anchors.append((at + here + 2,))
        elif command == "Z" and len(anchors) > first + 1:
            start, last = anchors[first][0], anchors[-1][0]
            if np.abs(own[start - at] - own[last - at]).max() < _SAME:
                anchors[first] = (start, last)
                anchors.pop()
        here += count


def _is_straight(curve: FloatArray) -> bool:
    p0, p1, p2, p3 = curve
    return bool(np.allclose(p1, p0 + (p3 - p0) / 3, atol=_SAME) and np.allclose(p2, p0 + (p3 - p0) * 2 / 3, atol=_SAME))
