"""Axis-aligned boxes."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple


class Box(NamedTuple):
    """Left, top, right, bottom, in pixels."""

    x0: float
    y0: float
    x1: float
    y1: float

    @property
    def width(self) -> float:
        return self.x1 - self.x0

    @property
    def height(self) -> float:
        return self.y1 - self.y0

    @property
    def centre(self) -> tuple[float, float]:
        return (self.x0 + self.x1) / 2, (self.y0 + self.y1) / 2

    def grown(self, by: float) -> Box:
        """The box, larger by `by` pixels on every side."""
        return Box(self.x0 - by, self.y0 - by, self.x1 + by, self.y1 + by)

    def carried(self, matrix: tuple[float, ...] | None) -> Box:
        """The box around its corners once an SVG matrix (a, b, c, d, e, f) has moved them."""
        if matrix is None:
            return self
        a, b, c, d, e, f = matrix
        corners = [(x, y) for x in (self.x0, self.x1) for y in (self.y0, self.y1)]
        xs, ys = [a * x + c * y + e for x, y in corners], [b * x + d * y + f for x, y in corners]
        return Box(min(xs), min(ys), max(xs), max(ys))


def union(boxes: Iterable[Box]) -> Box | None:
    """The smallest box around all, or None when there are none."""
    found = list(boxes)
    if not found:
        return None
    return Box(min(b.x0 for b in found), min(b.y0 for b in found), max(b.x1 for b in found), max(b.y1 for b in found))
