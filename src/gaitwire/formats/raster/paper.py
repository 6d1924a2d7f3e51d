"""A surface to draw frames on."""

from __future__ import annotations

import io
import math
from collections.abc import Mapping, Sequence
from itertools import groupby

import numpy as np
import numpy.typing as npt
import skia
from PIL import Image

from gaitwire.core.evaluate.frames import Frames
from gaitwire.core.geometry.mesh import Meshes
from gaitwire.core.puppet.art import Art, Matrix
from gaitwire.formats.raster.brush import Bent, Brush, PictureSource, no_pictures
from gaitwire.formats.raster.paints import to_color, to_matrix

Pixels = npt.NDArray[np.uint8]
"""(height, width, 4): red, green, blue, alpha, not premultiplied."""

ArtByPart = Mapping[tuple[str, str], Sequence[Art]]
"""Every part's drawings in their order, by (instance id, part id)."""


class Raster:
    """Draws frames of one scene at one size."""

    def __init__(
        self,
        arts: ArtByPart,
        size: tuple[int, int],
        source: PictureSource = no_pictures,
        view: Matrix = (1, 0, 0, 1, 0, 0),
        background: str | None = None,
        meshes: Meshes | None = None,
    ) -> None:
        self._surface = skia.Surface(*size)
        self._size = size
        self._view = view
        self._background = background
        self._arts, self._meshes = arts, meshes or {}
        self._brush = Brush(source)
        self._recorded: dict[tuple[tuple[str, str], int], skia.Picture] = {}

    def draw(self, frames: Frames, index: int) -> Pixels:
        """Pixels of one frame, (height, width, 4)."""
        with self._surface as canvas:
            canvas.clear(to_color(self._background, 1.0) if self._background else skia.ColorTRANSPARENT)
            canvas.save()
            canvas.concat(to_matrix(self._view))
            order = map(int, frames.order[index])
            seen = [p for p in order if frames.opacity[index, p] > 0 and frames.part_keys[p] in self._arts]
            for _, parts in groupby(seen, lambda part: frames.part_keys[part][0]):
                self._draw_whole(canvas, frames, index, list(parts))
            canvas.restore()
        return _read(self._surface, self._size)

    def _draw_whole(self, canvas: skia.Canvas, frames: Frames, index: int, parts: list[int]) -> None:
        """Parts of one puppet, one after the other; one that fades does so as one picture."""
        fade = float(frames.fade[index, parts[0]])
        if fade < 1.0:
            canvas.saveLayerAlpha(None, round(255 * fade))
        for part in parts:
            canvas.save()
            canvas.concat(to_matrix(tuple(frames.matrices[index, part])))
            _play(canvas, self._drawn(frames, index, part), float(frames.opacity[index, part]))
            canvas.restore()
        if fade < 1.0:
            canvas.restore()

    def _drawn(self, frames: Frames, index: int, part: int) -> skia.Picture:
        """What the part shows: recorded once for a rigid one, afresh for one that bends."""
        key, number = frames.part_keys[part], int(frames.drawing[index, part])
        art, soft = self._arts[key][number], frames.soft.get(part)
        if soft is not None:
            points = frames.points[index].astype(float)
            scale = _size(self._view) * _size(tuple(frames.matrices[index, part]))
            bent = Bent(points[soft.drawing(number)], self._meshes[key[1]], points[soft.mesh], scale)
            return _record(art, self._brush, bent)
        if (key, number) not in self._recorded:
            self._recorded[key, number] = _record(art, self._brush)
        return self._recorded[key, number]


def _size(matrix: Matrix) -> float:
    """How much larger a matrix makes things, on the whole."""
    a, b, c, d, _, _ = matrix
    return math.sqrt(abs(a * d - b * c))


def _read(surface: skia.Surface, size: tuple[int, int]) -> Pixels:
    out = np.empty((size[1], size[0], 4), np.uint8)
    info = skia.ImageInfo.Make(*size, skia.kRGBA_8888_ColorType, skia.kUnpremul_AlphaType)
    surface.readPixels(info, out, size[0] * 4, 0, 0)
    return out


_ANYWHERE = skia.Rect(-1e5, -1e5, 1e5, 1e5)


def _record(art: Art, brush: Brush, bent: Bent | None = None) -> skia.Picture:
    recorder = skia.PictureRecorder()
    edge = _ANYWHERE if bent else skia.Rect(*art.bounds.grown(2.0))
    brush.nodes(recorder.beginRecording(edge), art.nodes, bent)
    return recorder.finishRecordingAsPicture()


def _play(canvas: skia.Canvas, recorded: skia.Picture, opacity: float) -> None:
    if opacity >= 1.0:
        canvas.drawPicture(recorded)
        return
    canvas.saveLayerAlpha(None, round(255 * opacity))
    canvas.drawPicture(recorded)
    canvas.restore()


def draw_art(arts: list[Art], size: tuple[int, int], view: Matrix, source: PictureSource = no_pictures) -> Pixels:
    """A still of some parts at rest, back to front, under a view matrix."""
    surface = skia.Surface(*size)
    brush = Brush(source)
    with surface as canvas:
        canvas.clear(skia.ColorTRANSPARENT)
        canvas.concat(to_matrix(view))
        for art in arts:
            brush.nodes(canvas, art.nodes)
    return _read(surface, size)


def picture_bytes(pixels: Pixels, kind: str = "PNG") -> bytes:
    """Encoded picture."""
    out = io.BytesIO()
    Image.fromarray(pixels, "RGBA").save(out, kind)
    return out.getvalue()
