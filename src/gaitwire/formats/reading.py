"""What every art reader gives: parts in drawing order, the folders they lay in, and what was lost."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field

from gaitwire.core.puppet.art import Art


@dataclass(frozen=True)
class ReadFolder:
    """A layer that holds other layers; `parent` is an index into the folders, or None."""

    name: str
    parent: int | None


@dataclass(frozen=True)
class ReadPart:
    """One piece of art and the folder it lay in."""

    name: str
    art: Art
    folder: int | None = None
    hidden: bool = False


@dataclass(frozen=True)
class Reading:
    """A whole file, read: page size in pixels, parts back to front, pictures by hash, notes."""

    name: str
    width: float
    height: float
    parts: tuple[ReadPart, ...]
    folders: tuple[ReadFolder, ...]
    pictures: dict[str, tuple[str, bytes]] = field(default_factory=dict)
    """Embedded pictures: hash to (media type, bytes)."""
    notes: tuple[str, ...] = ()
    """What could not be kept, in words for the user."""
    placed: bool = True
    """Whether the parts lie as they were drawn; not so where loose pictures were only set side by side."""


@dataclass(frozen=True)
class Limits:
    """Bounds set before anything is parsed."""

    bytes: int = 20_000_000
    """Of a text, such as an SVG."""
    packed: int = 60_000_000
    """Bytes of an archive or a picture."""
    nodes: int = 20_000
    depth: int = 64
    parts: int = 500
    points: int = 400_000
    pixels: int = 40_000_000
    layer_pixels: int = 800_000_000
    """Of all raster layers of one file together: fifty of 4000 x 4000."""
    files: int = 2_000
    unpacked: int = 300_000_000
    coordinate: float = 1e6


LIMITS = Limits()


class Notes:
    """Collects what was not kept: each remark once, with a count."""

    def __init__(self) -> None:
        self._seen: dict[str, int] = {}

    def add(self, remark: str) -> None:
        self._seen[remark] = self._seen.get(remark, 0) + 1

    def __iter__(self) -> Iterator[str]:
        for remark, count in self._seen.items():
            yield f"{remark} ({count} times)" if count > 1 else remark
