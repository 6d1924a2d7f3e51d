"""Numbers, lengths, colours and matrices as SVG writes them."""

from __future__ import annotations

import math
import re

import tinycss2.color4
from svgelements import Length, Matrix

from gaitwire.core.errors import UnreadableArtError
from gaitwire.formats.reading import LIMITS

_PPI = 96.0


def length(text: str | None, relative: float, default: float = 0.0, font_size: float = 16.0) -> float:
    """A length in pixels; a percentage is of `relative`. Unreadable text gives the default."""
    if text is None or not text.strip():
        return default
    text = text.strip()
    match = re.fullmatch(r"([-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?)(em|ex|rem)", text)
    if match:
        return checked(float(match[1]) * font_size * (0.5 if match[2] == "ex" else 1.0))
    try:
        value = Length(text).value(ppi=_PPI, relative_length=relative)
    except (ValueError, TypeError, AttributeError):
        return default
    return checked(float(value)) if isinstance(value, (int, float)) else default


def checked(value: float) -> float:
    """The value, if it is a number on any sensible page; else UnreadableArtError."""
    if not math.isfinite(value) or abs(value) > LIMITS.coordinate:
        raise UnreadableArtError(
            "This SVG has a coordinate that is no number, or far off any page.", "Repair or remove that shape."
        )
    return value


def share(text: str | None, default: float = 1.0) -> float:
    """An opacity or offset: a number or a percentage, held to [0, 1]."""
    if text is None:
        return default
    text = text.strip()
    try:
        value = float(text[:-1]) / 100 if text.endswith("%") else float(text)
    except ValueError:
        return default
    return min(1.0, max(0.0, value)) if math.isfinite(value) else default


def numbers(text: str) -> list[float]:
    """All numbers of a list; raises UnreadableArtError for one that is no number."""
    return [checked(float(n)) for n in re.findall(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?", text)]


def color(text: str, current: str = "black") -> tuple[str, float] | None:
    """('#rrggbb', opacity), or None for a colour nobody can read."""
    parsed = tinycss2.color4.parse_color(text)
    if parsed == "currentcolor":
        parsed = tinycss2.color4.parse_color(current)
    if parsed is None or isinstance(parsed, str):
        return None
    try:
        rgb = parsed.to("srgb")
    except (NotImplementedError, ValueError):
        return None
    channels = [round(_held(c or 0.0) * 255) for c in rgb.coordinates]
    return "#{:02x}{:02x}{:02x}".format(*channels), _held(float(parsed.alpha))


def _held(value: float) -> float:
    """A share, held to [0, 1]; 0 for what is no number."""
    return min(1.0, max(0.0, value)) if value == value else 0.0


def transform(text: str | None) -> Matrix:
    """A transform list as a matrix; raises UnreadableArtError for coordinates far off any page."""
    if not text:
        return Matrix()
    try:
        matrix = Matrix(text)
    except (ValueError, TypeError, IndexError):
        raise UnreadableArtError(f"The transform “{text[:40]}” cannot be read.", "Repair that shape.") from None
    for value in components(matrix):
        checked(value)
    return matrix


def components(matrix: Matrix) -> tuple[float, float, float, float, float, float]:
    """The six numbers of a matrix."""
    return (
        float(matrix.a), float(matrix.b), float(matrix.c), float(matrix.d), float(matrix.e), float(matrix.f),
    )  # fmt: skip


def url_target(text: str) -> str | None:
    """The id in url(#id), or None."""
    match = re.match(r"""url\(\s*['"]?#([^'")]+)['"]?\s*\)""", text.strip())
    return match[1] if match else None
