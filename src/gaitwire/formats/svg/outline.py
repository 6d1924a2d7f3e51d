"""SVG's shapes as paths of M, L, C and Z in absolute coordinates."""

from __future__ import annotations

import math
from collections.abc import Callable
from xml.etree.ElementTree import Element

import svgelements as se

from gaitwire.core.conventions import Point
from gaitwire.core.errors import TooLargeError
from gaitwire.core.geometry.path import number
from gaitwire.core.puppet.art import Matrix
from gaitwire.formats.reading import LIMITS, Notes
from gaitwire.formats.svg.document import local_name
from gaitwire.formats.svg.values import checked, length, numbers

Command = tuple[str, tuple[Point, ...]]
Page = tuple[float, float]
"""Width and height that percentages refer to."""

_KAPPA = 4 / 3 * (math.sqrt(2) - 1)


def is_similarity(matrix: Matrix) -> bool:
    """Whether a circle stays a circle, so that a stroke can be scaled with it."""
    a, b, c, d, _, _ = matrix
    size = max(abs(a), abs(b), abs(c), abs(d), 1e-12)
    same = abs(a - d) < 1e-4 * size and abs(b + c) < 1e-4 * size
    return same or (abs(a + d) < 1e-4 * size and abs(b - c) < 1e-4 * size)


def scale_of(matrix: Matrix) -> float:
    """The factor by which lengths grow (of a similarity, or on average)."""
    a, b, c, d, _, _ = matrix
    return math.sqrt(abs(a * d - b * c))


def _ellipse(cx: float, cy: float, rx: float, ry: float) -> list[Command]:
    kx, ky = rx * _KAPPA, ry * _KAPPA
    return [
        ("M", ((cx + rx, cy),)),
        ("C", ((cx + rx, cy + ky), (cx + kx, cy + ry), (cx, cy + ry))),
        ("C", ((cx - kx, cy + ry), (cx - rx, cy + ky), (cx - rx, cy))),
        ("C", ((cx - rx, cy - ky), (cx - kx, cy - ry), (cx, cy - ry))),
        ("C", ((cx + kx, cy - ry), (cx + rx, cy - ky), (cx + rx, cy))),
        ("Z", ()),
    ]


def rectangle(x: float, y: float, w: float, h: float, rx: float = 0.0, ry: float = 0.0) -> list[Command]:
    """A rectangle, its corners rounded by quarter ellipses."""
    rx, ry = min(rx, w / 2), min(ry, h / 2)
    if rx <= 0 or ry <= 0:
        return [("M", ((x, y),)), ("L", ((x + w, y),)), ("L", ((x + w, y + h),)), ("L", ((x, y + h),)), ("Z", ())]
    kx, ky = rx * (1 - _KAPPA), ry * (1 - _KAPPA)
    r, b = x + w, y + h
    return [
        ("M", ((x + rx, y),)), ("L", ((r - rx, y),)), ("C", ((r - kx, y), (r, y + ky), (r, y + ry))),
        ("L", ((r, b - ry),)), ("C", ((r, b - ky), (r - kx, b), (r - rx, b))),
        ("L", ((x + rx, b),)), ("C", ((x + kx, b), (x, b - ky), (x, b - ry))),
        ("L", ((x, y + ry),)), ("C", ((x, y + ky), (x + kx, y), (x + rx, y))), ("Z", ()),
    ]  # fmt: skip


def _path(element: Element, page: Page) -> list[Command]:
    text = element.get("d") or ""
    if len(text) > 4_000_000:
        raise TooLargeError("A path in this SVG is too long.", "Simplify it.")
    try:
        path = se.Path(text)
        path.approximate_arcs_with_cubics()
    except (ValueError, TypeError, IndexError, AttributeError, ZeroDivisionError):
        # SVG draws a broken path up to its first error; so does the reader, by way of its good beginning.
        return []
    return _commands(path)


def _commands(path: se.Path) -> list[Command]:
    out: list[Command] = []
    here: Point = (0.0, 0.0)

    def at(p: se.Point) -> Point:
        return checked(float(p.x)), checked(float(p.y))

    for segment in path:
        if isinstance(segment, se.Move):
            here = at(segment.end)
            out.append(("M", (here,)))
            continue
        if isinstance(segment, se.Close):
            out.append(("Z", ()))
            here = at(segment.end) if segment.end is not None else here
            continue
        end = at(segment.end)
        if isinstance(segment, se.CubicBezier):
            out.append(("C", (at(segment.control1), at(segment.control2), end)))
        elif isinstance(segment, se.QuadraticBezier):
            (qx, qy), (x0, y0), (x1, y1) = at(segment.control), here, end
            first = (x0 + 2 / 3 * (qx - x0), y0 + 2 / 3 * (qy - y0))
            out.append(("C", (first, (x1 + 2 / 3 * (qx - x1), y1 + 2 / 3 * (qy - y1)), end)))
        else:
            out.append(("L", (end,)))
        here = end
    return out


def _rect(element: Element, page: Page) -> list[Command]:
    x, w = length(element.get("x"), page[0]), length(element.get("width"), page[0])
    y, h = length(element.get("y"), page[1]), length(element.get("height"), page[1])
    if w <= 0 or h <= 0:
        return []
    rx, ry = element.get("rx"), element.get("ry")
    rx_px = length(rx if rx not in (None, "auto") else ry, page[0])
    ry_px = length(ry if ry not in (None, "auto") else rx, page[1])
    return rectangle(x, y, w, h, rx_px, ry_px)


def _circle(element: Element, page: Page) -> list[Command]:
    r = length(element.get("r"), math.hypot(*page) / math.sqrt(2))
    return _ellipse(length(element.get("cx"), page[0]), length(element.get("cy"), page[1]), r, r) if r > 0 else []


def _oval(element: Element, page: Page) -> list[Command]:
    rx, ry = element.get("rx"), element.get("ry")
    rx_px = length(rx if rx not in (None, "auto") else ry, page[0])
    ry_px = length(ry if ry not in (None, "auto") else rx, page[1])
    if rx_px <= 0 or ry_px <= 0:
        return []
    return _ellipse(length(element.get("cx"), page[0]), length(element.get("cy"), page[1]), rx_px, ry_px)


def _line(element: Element, page: Page) -> list[Command]:
    start = length(element.get("x1"), page[0]), length(element.get("y1"), page[1])
    end = length(element.get("x2"), page[0]), length(element.get("y2"), page[1])
    return [("M", (start,)), ("L", (end,))]


def _points(element: Element, page: Page) -> list[Command]:
    values = numbers(element.get("points") or "")
    pairs = list(zip(values[::2], values[1::2], strict=False))
    if len(pairs) < 2:
        return []
    out: list[Command] = [("M", (pairs[0],)), *(("L", (p,)) for p in pairs[1:])]
    return [*out, ("Z", ())] if local_name(element) == "polygon" else out


SHAPES: dict[str, Callable[[Element, Page], list[Command]]] = {
    "path": _path,
    "rect": _rect,
    "circle": _circle,
    "ellipse": _oval,
    "line": _line,
    "polyline": _points,
    "polygon": _points,
}


class PointBudget:
    """Counts points over a whole document."""

    def __init__(self) -> None:
        self.left = LIMITS.points

    def spend(self, commands: list[Command]) -> None:
        self.left -= sum(len(points) for _, points in commands)
        if self.left < 0:
            raise TooLargeError(f"This SVG has more than {LIMITS.points} points.", "Simplify its paths.")


def outline(element: Element, page: Page, notes: Notes) -> list[Command]:
    """The element's outline in its own space; empty for what draws nothing."""
    commands = SHAPES[local_name(element)](element, page)
    if not commands and local_name(element) == "path" and (element.get("d") or "").strip() not in ("", "none"):
        notes.add("A path that could not be read was left out.")
    return commands


def to_data(commands: list[Command], matrix: Matrix) -> str:
    """Path data of the commands under a matrix."""
    a, b, c, d, e, f = matrix
    words: list[str] = []
    for command, points in commands:
        words.append(command)
        for x, y in points:
            words += [number(checked(a * x + c * y + e)), number(checked(b * x + d * y + f))]
    return " ".join(words)
