"""Every kind of art file that can come in: one registry, asked in its order what a file is."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from gaitwire.core.errors import TooLargeError, UnreadableArtError
from gaitwire.formats.openraster import is_openraster, read_openraster
from gaitwire.formats.picture_files import is_picture_name, read_pictures
from gaitwire.formats.reading import LIMITS, Reading
from gaitwire.formats.safe_zip import SafeZip
from gaitwire.formats.svg import read_svg

ZIP_MAGIC = b"PK\x03\x04"
_PNG = b"\x89PNG\r\n\x1a\n"


@dataclass(frozen=True)
class ArtReader:
    """One kind of file: what it is called, how it ends, how it is known, how it is read."""

    label: str
    suffixes: tuple[str, ...]
    knows: Callable[[bytes], bool]
    read: Callable[[bytes, str], Reading]


def _is_picture(data: bytes) -> bool:
    return data.startswith(_PNG) or (data[:4] == b"RIFF" and data[8:12] == b"WEBP")


def _read_zip(data: bytes, name: str) -> Reading:
    archive = SafeZip(data)
    if is_openraster(archive):
        return read_openraster(archive, name)
    return read_pictures({n: archive.read(n) for n in archive if is_picture_name(n)}, name)


def _read_picture(data: bytes, name: str) -> Reading:
    return read_pictures({f"{name}.png": data}, name)


READERS: dict[str, ArtReader] = {
    "archive": ArtReader(
        "OpenRaster, or a zip of PNGs", (".ora", ".zip"), lambda data: data.startswith(ZIP_MAGIC), _read_zip
    ),
    "picture": ArtReader("a PNG or WebP", (".png", ".webp"), _is_picture, _read_picture),
    "svg": ArtReader("a layered SVG", (".svg",), lambda _: True, read_svg),
}
"""The last one takes whatever no other knows, and says what is wrong with it."""

SUFFIXES = tuple(s for reader in READERS.values() for s in reader.suffixes)


def read_art(data: bytes, name: str = "puppet") -> Reading:
    """Read an art file of any known kind; raises UnreadableArtError or TooLargeError."""
    if len(data) > LIMITS.packed:
        raise TooLargeError(f"This file is larger than {LIMITS.packed // 10**6} MB.", "Make its pictures smaller.")
    if not data.strip():
        raise UnreadableArtError("This file is empty.", "Choose another.")
    return next(reader for reader in READERS.values() if reader.knows(data)).read(data, name)
