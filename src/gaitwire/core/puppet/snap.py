"""Snapping of pivots to what an eye would aim at: corners, edges and centres of parts, other joints."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Literal, NamedTuple

from gaitwire.core.geometry.bounds import Box

SnapKind = Literal["joint", "corner", "centre", "edge", ""]


class Snap(NamedTuple):
    """A point, and what it caught on ('' for nothing)."""

    x: float
    y: float
    kind: SnapKind


def snap_point(x: float, y: float, boxes: Iterable[Box], joints: Iterable[tuple[float, float]], reach: float) -> Snap:
    """The point to catch on within `reach` pixels: joints, corners and centres first, then edges.

    All in the puppet's pixels. An edge holds one coordinate and leaves the other free.
    """
    boxes = list(boxes)
    points: list[tuple[float, float, SnapKind]] = [(jx, jy, "joint") for jx, jy in joints]
    for b in boxes:
        points += [(cx, cy, "corner") for cx in (b.x0, b.x1) for cy in (b.y0, b.y1)]
        mx, my = b.centre
        points += [(mx, my, "centre")]
        points += [(mx, b.y0, "edge"), (mx, b.y1, "edge"), (b.x0, my, "edge"), (b.x1, my, "edge")]
    near = [((px - x) ** 2 + (py - y) ** 2, px, py, kind) for px, py, kind in points]
    best = min(near, default=None, key=lambda n: n[0])
    if best is not None and best[0] <= reach * reach:
        return Snap(best[1], best[2], best[3])
    return _edge(x, y, boxes, reach)


def _edge(x: float, y: float, boxes: list[Box], reach: float) -> Snap:
    found: tuple[float, Snap] | None = None
    for b in boxes:
        sides = []
        if b.y0 - reach <= y <= b.y1 + reach:
            sides += [(abs(x - side), Snap(side, y, "edge")) for side in (b.x0, b.x1)]
        if b.x0 - reach <= x <= b.x1 + reach:
            sides += [(abs(y - side), Snap(x, side, "edge")) for side in (b.y0, b.y1)]
        for distance, snap in sides:
            if distance <= reach and (found is None or distance < found[0]):
                found = (distance, snap)
    return found[1] if found else Snap(x, y, "")
