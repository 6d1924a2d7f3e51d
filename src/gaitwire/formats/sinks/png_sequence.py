"""A PNG for every frame, in a zip; they are stored as they are, being compressed already."""

from __future__ import annotations

import io
import zipfile
from pathlib import Path

from PIL import Image

from gaitwire.core.errors import NotFoundError
from gaitwire.formats.exporting import ExportSettings
from gaitwire.formats.raster.paper import Pixels
from gaitwire.formats.sinks.sink import Draw, PictureSink

_RUNS = 3
"""zlib's Z_RLE: for flat art it makes files an eighth smaller than the quicker levels do, in the same time."""


def frame_name(name: str, frame: int, count: int) -> str:
    """File name of a frame: the scene's name and a number wide enough for all."""
    safe = "".join(ch if ch.isalnum() or ch in "-_ " else "_" for ch in name).strip().replace(" ", "_") or "scene"
    return f"{safe}_{frame:0{max(4, len(str(count)))}d}.png"


class PngSequence(PictureSink[ExportSettings]):
    """Every frame with its alpha."""

    _archive: zipfile.ZipFile

    def open(self, draw: Draw) -> None:
        self._first = self.production.settings.first + self.production.compiled.scene.first_number
        self._added = 0
        self._archive = zipfile.ZipFile(self.target, "w", zipfile.ZIP_STORED)

    def piece(self, pixels: Pixels) -> bytes:
        out = io.BytesIO()
        Image.fromarray(pixels, "RGBA").save(out, "PNG", compress_level=1, compress_type=_RUNS)
        return out.getvalue()

    def add(self, piece: bytes) -> None:
        name = frame_name(self.production.name, self._first + self._added, self._first + len(self.production))
        self._archive.writestr(zipfile.ZipInfo(name), piece)
        self._added += 1

    def close(self) -> None:
        self._archive.close()


def picture_in(file: Path, index: int) -> bytes:
    """One picture of a finished sequence; raises NotFoundError."""
    with zipfile.ZipFile(file) as archive:
        names = archive.namelist()
        if not 0 <= index < len(names):
            raise NotFoundError("There is no such picture.", f"The sequence has {len(names)}.")
        return archive.read(names[index])


def laid_out(file: Path, folder: Path) -> None:
    """All pictures of a finished sequence in a folder."""
    folder.mkdir(parents=True, exist_ok=True)
    with zipfile.ZipFile(file) as archive:
        archive.extractall(folder)
