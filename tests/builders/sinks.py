"""Kinds of file that the program does not know, in a module that workers can import."""

from __future__ import annotations

import os
from dataclasses import replace

from gaitwire.core.evaluate.frames import Frames
from gaitwire.formats.exporting import ExportSettings
from gaitwire.formats.raster.paper import Pixels
from gaitwire.formats.sinks import SINKS, Format, FrameSink, PictureSink
from gaitwire.formats.sinks.png_sequence import PngSequence
from gaitwire.formats.sinks.sink import Draw


class FatalPictures(PngSequence):
    """Pictures that end the process that draws them."""

    def piece(self, pixels: Pixels) -> bytes:
        os._exit(9)


FATAL = replace(SINKS["png"], name="fatal", sink=FatalPictures)


class Greys(PictureSink[ExportSettings]):
    """A line for every picture: how grey it is, in the mean."""

    def open(self, draw: Draw) -> None:
        self._lines = [f"{self.production.name}, first {draw(0)[..., :3].mean():.3f}"]

    def piece(self, pixels: Pixels) -> bytes:
        return f"{pixels[..., :3].mean():.3f}".encode()

    def add(self, piece: bytes) -> None:
        self._lines.append(piece.decode())

    def close(self) -> None:
        self.target.write_text("\n".join(self._lines))

    def aside(self) -> str:
        return f"{len(self._lines)} lines"


GREYS = Format("greys", "Greys", ".greys", "text/plain", "how grey every frame is", Greys)


class Tops(FrameSink[ExportSettings]):
    """A line for every frame: the part on top."""

    def open(self) -> None:
        self._lines: list[str] = []

    def add(self, frames: Frames) -> None:
        self._lines += [frames.part_keys[int(row[-1])][1] for row in frames.order]

    def close(self) -> None:
        self.target.write_text("\n".join(self._lines))


TOPS = Format("tops", "Tops", ".tops", "text/plain", "the part on top of every frame", Tops)
