"""Raster layers as parts: transparent borders trimmed, places kept."""

from __future__ import annotations

import hashlib
import io

from PIL import Image

from gaitwire.core.geometry.bounds import Box
from gaitwire.core.puppet.art import Art, Picture
from gaitwire.formats.pictures import Checked
from gaitwire.formats.reading import LIMITS


class PixelBudget:
    """Pixels of all layers of one file together are bounded; they are decoded one after the other."""

    def __init__(self) -> None:
        self.left = LIMITS.layer_pixels

    def take(self, width: int, height: int) -> bool:
        """Whether a layer of that size may still be decoded; a file's first bytes tell its size."""
        self.left -= width * height
        return self.left >= 0


def trimmed(found: tuple[Checked, Image.Image], x: float, y: float, opacity: float = 1.0) -> tuple[Art, Checked] | None:
    """Art of one picture whose top left corner lies at (x, y), cut down to what shows; None if nothing does.

    A picture that shows up to its borders is kept as it came, byte for byte.
    """
    checked, picture = found
    digest, _, width, height, _ = checked
    whole = picture.convert("RGBA")
    box = whole.getchannel("A").getbbox()
    if box is None:
        return None
    left, top, right, bottom = box
    if (right - left, bottom - top) != (width, height):
        out = io.BytesIO()
        whole.crop(box).save(out, "PNG")
        cut = out.getvalue()
        digest, width, height = hashlib.sha256(cut).hexdigest(), right - left, bottom - top
        checked = (digest, "image/png", width, height, cut)
    px, py = x + left, y + top
    node = Picture(hash=digest, width=width, height=height, matrix=(1.0, 0.0, 0.0, 1.0, px, py), opacity=opacity)
    return Art(nodes=(node,), box=Box(px, py, px + width, py + height)), checked
