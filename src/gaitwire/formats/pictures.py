"""Embedded raster pictures: decoded only to be checked, kept as they came."""

from __future__ import annotations

import base64
import binascii
import hashlib
import io
import re
import warnings
from urllib.parse import unquote_to_bytes

from PIL import Image, UnidentifiedImageError

from gaitwire.core.errors import TooLargeError
from gaitwire.formats.reading import LIMITS, Notes

MEDIA_TYPES = {"PNG": "image/png", "JPEG": "image/jpeg", "WEBP": "image/webp", "GIF": "image/gif"}

Checked = tuple[str, str, int, int, bytes]
"""Hash, media type, width, height, bytes."""


def data_of(url: str) -> bytes | None:
    """The bytes of a data: URL, or None if it is broken."""
    match = re.match(r"data:[^,]*?(;base64)?,", url, re.IGNORECASE)
    if not match:
        return None
    rest = url[match.end() :]
    try:
        raw = unquote_to_bytes(rest)
        return base64.b64decode(raw) if match[1] else raw
    except (binascii.Error, ValueError):
        return None


def check_picture(data: bytes, notes: Notes) -> Checked | None:
    """Verify by decoding; None, with a note, for what is no PNG, JPEG, WebP or GIF.

    Raises TooLargeError beyond the limit of pixels.
    """
    found = load_picture(data, notes)
    return None if found is None else found[0]


def load_picture(data: bytes, notes: Notes) -> tuple[Checked, Image.Image] | None:
    """The same, with the picture as it was decoded."""
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(data), formats=list(MEDIA_TYPES)) as picture:
                width, height = picture.size
                if width * height > LIMITS.pixels:
                    raise TooLargeError(
                        f"A picture has more than {LIMITS.pixels // 10**6} million pixels.", "Shrink it."
                    )
                picture.load()
                kind = MEDIA_TYPES[picture.format or "PNG"]
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError, Image.DecompressionBombError, Warning):
        notes.add("A picture that is no PNG, JPEG, WebP or GIF was left out.")
        return None
    return (hashlib.sha256(data).hexdigest(), kind, width, height, data), picture
