"""viewBox and preserveAspectRatio: how one rectangle is fitted into another."""

from __future__ import annotations

import re

from gaitwire.core.puppet.art import Matrix
from gaitwire.formats.svg.values import numbers

_ALIGN = {"Min": 0.0, "Mid": 0.5, "Max": 1.0}


def fit(
    view_box: str | None, aspect: str | None, x: float, y: float, w: float, h: float
) -> tuple[Matrix, tuple[float, float]]:
    """The matrix from the view box to the rectangle (x, y, w, h), and the size percentages refer to.

    Source: W3C, SVG 2, section 8.2, *computing the equivalent transform of an SVG viewport*.
    """
    box = numbers(view_box or "")
    if len(box) != 4 or box[2] <= 0 or box[3] <= 0:
        return (1, 0, 0, 1, x, y), (w, h)
    vx, vy, vw, vh = box
    sx, sy = w / vw, h / vh
    words = (aspect or "xMidYMid meet").split()
    match = re.fullmatch(r"x(Min|Mid|Max)Y(Min|Mid|Max)", words[0] if words else "")
    if words and words[0] == "none":
        return (sx, 0, 0, sy, x - vx * sx, y - vy * sy), (vw, vh)
    scale = max(sx, sy) if "slice" in words else min(sx, sy)
    ax, ay = (_ALIGN[match[1]], _ALIGN[match[2]]) if match else (0.5, 0.5)
    tx = x - vx * scale + (w - vw * scale) * ax
    ty = y - vy * scale + (h - vh * scale) * ay
    return (scale, 0, 0, scale, tx, ty), (vw, vh)
