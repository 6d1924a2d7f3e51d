"""GIF: one palette for the whole film, and of each frame only what is not as the frame before."""

from __future__ import annotations

import math
from fractions import Fraction
from itertools import pairwise
from typing import BinaryIO, NamedTuple

import numpy as np
import numpy.typing as npt
from PIL import Image
from PIL.GifImagePlugin import getdata, getheader

from gaitwire.formats.exporting import PlayedSettings
from gaitwire.formats.raster.paper import Pixels
from gaitwire.formats.sinks.sink import Draw, PictureSink

_LOOKED_AT = 6
"""Frames from which the palette is taken."""

_MOST = 3_000_000
"""Pixels of them, all together."""

_CLEAR = 255
"""The number that is no colour: nothing is drawn there."""

_STAYS, _GOES = 1, 2
"""What a frame leaves for the next: itself, or nothing."""

Indices = npt.NDArray[np.uint8]
"""(height, width) numbers of colours."""


def delays(count: int, rate: Fraction) -> list[int]:
    """Hundredths of a second of each GIF frame, rounded so that no error adds up; at least 2 each."""
    edges = [round(100 * i / float(rate)) for i in range(count + 1)]
    return [max(2, b - a) for a, b in pairwise(edges)]


def thinned(picture: Pixels, share: float) -> Pixels:
    """Every nth pixel of a picture, so that about a share of them is left."""
    every = math.ceil(math.sqrt(max(1.0, 1 / share)))
    return picture[::every, ::every].copy()


def palette_of(pictures: list[Pixels]) -> Image.Image:
    """255 colours for a whole film, from a few of its pictures side by side: no flicker between frames."""
    over_black = Image.fromarray(np.concatenate(pictures, axis=1), "RGBA").convert("RGB")
    return over_black.quantize(255, method=Image.Quantize.MEDIANCUT)


class _Waiting(NamedTuple):
    """A frame that is written when it is known for how long it shows."""

    image: Image.Image
    corner: tuple[int, int]
    hundredths: int


class Gif(PictureSink[PlayedSettings]):
    """`loops` 0 plays without end. Alpha becomes all or nothing at one half."""

    _file: BinaryIO
    _palette: Image.Image

    def open(self, draw: Draw) -> None:
        count = len(self.production)
        chosen = np.unique(np.linspace(0, count - 1, min(_LOOKED_AT, count)).astype(int)).tolist()
        width, height = self.production.size
        share = _MOST / (width * height * len(chosen))
        self._palette = palette_of([thinned(draw(n), share) for n in chosen])
        self._clears = not self.production.settings.background
        self._delays = iter(delays(count, self.production.rate))
        self._before: Indices | None = None
        self._waiting: _Waiting | None = None
        self._file = self.target.open("wb")
        info: dict[str, object] = {"transparency": _CLEAR}
        loops = self.production.settings.loops
        if loops != 1:
            info["loop"] = 0 if loops == 0 else loops - 1
        blank = self._image(np.full((height, width), _CLEAR, np.uint8))
        self._file.writelines(getheader(blank, info=info)[0])

    def piece(self, pixels: Pixels) -> bytes:
        picture = Image.fromarray(pixels, "RGBA").convert("RGB")
        indices = np.array(picture.quantize(palette=self._palette, dither=Image.Dither.NONE))
        indices[pixels[..., 3] < 128] = _CLEAR
        return indices.tobytes()

    def add(self, piece: bytes) -> None:
        width, height = self.production.size
        indices = np.frombuffer(piece, np.uint8).reshape(height, width)
        hundredths = next(self._delays)
        if self._before is not None and np.array_equal(indices, self._before) and self._waiting is not None:
            self._waiting = self._waiting._replace(hundredths=self._waiting.hundredths + hundredths)
            return
        self._write()
        shown = indices
        if not self._clears and self._before is not None:
            shown = np.where(indices == self._before, np.uint8(_CLEAR), indices)
        left, top, right, bottom = _seen(shown)
        self._waiting = _Waiting(self._image(shown[top:bottom, left:right]), (left, top), hundredths)
        self._before = indices

    def close(self) -> None:
        self._write()
        self._file.write(b";")
        self._file.close()

    def _image(self, indices: Indices) -> Image.Image:
        image = Image.fromarray(np.ascontiguousarray(indices), "P")
        image.putpalette(((self._palette.getpalette() or []) + [0] * 768)[:768])
        return image

    def _write(self) -> None:
        if self._waiting is None:
            return
        image, corner, hundredths = self._waiting
        disposal = _GOES if self._clears else _STAYS
        self._file.writelines(getdata(image, corner, duration=hundredths * 10, disposal=disposal, transparency=_CLEAR))


def _seen(indices: Indices) -> tuple[int, int, int, int]:
    """Left, top, right and bottom of what is not clear; one pixel where all is."""
    seen = indices != _CLEAR
    rows, columns = np.flatnonzero(seen.any(axis=1)), np.flatnonzero(seen.any(axis=0))
    if not len(rows):
        return 0, 0, 1, 1
    return int(columns[0]), int(rows[0]), int(columns[-1]) + 1, int(rows[-1]) + 1
