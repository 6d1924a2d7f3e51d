"""A surface to draw frames on."""

from __future__ import annotations

import io
from collections.abc import Callable, Mapping

import numpy as np
import numpy.typing as npt
import skia
from PIL import Image

from gaitwire.core.errors import JobError
from gaitwire.core.evaluate.frames import Frames
from gaitwire.core.puppet.art import Art, ArtNode, Group, Matrix, Picture, Shape
from gaitwire.formats.raster.paints import clip_path, shape_paints, to_color, to_matrix, to_path

PictureSource = Callable[[str], bytes]
"""Gives an embedded picture's bytes by its hash."""

Pixels = npt.NDArray[np.uint8]
"""(height, width, 4): red, green, blue, alpha, not premultiplied."""

_SAMPLING = skia.SamplingOptions(skia.FilterMode.kLinear, skia.MipmapMode.kLinear)


def _no_pictures(digest: str) -> bytes:
    raise JobError("A picture is missing.", digest)


class _Brush:
    """Draws art nodes on a canvas; decoded pictures are kept."""

    def __init__(self, source: PictureSource) -> None:
        self._source = source
        self._images: dict[str, skia.Image] = {}

    def nodes(self, canvas: skia.Canvas, nodes: tuple[ArtNode, ...], opacity: float = 1.0) -> None:
        for node in nodes:
            if isinstance(node, Shape):
                self._shape(canvas, node, opacity)
            elif isinstance(node, Picture):
                self._picture(canvas, node, opacity)
            else:
                self._group(canvas, node, opacity)

    def _group(self, canvas: skia.Canvas, group: Group, opacity: float) -> None:
        faded = group.opacity * opacity < 1.0
        canvas.save()
        for clip in group.clips:
            canvas.clipPath(clip_path(clip), skia.ClipOp.kIntersect, True)
        if faded:
            canvas.saveLayerAlpha(None, round(255 * group.opacity * opacity))
        self.nodes(canvas, group.children)
        if faded:
            canvas.restore()
        canvas.restore()

    def _shape(self, canvas: skia.Canvas, shape: Shape, opacity: float) -> None:
        canvas.save()
        if shape.matrix is not None:
            canvas.concat(to_matrix(shape.matrix))
        path, alpha = to_path(shape.d, shape.rule), shape.opacity * opacity
        together = alpha < 1.0 and shape.fill is not None and shape.stroke is not None
        if together:  # Fill and stroke overlap, so they fade as one.
            canvas.saveLayerAlpha(None, round(255 * alpha))
        for paint in shape_paints(shape, 1.0 if together else alpha):
            canvas.drawPath(path, paint)
        if together:
            canvas.restore()
        canvas.restore()

    def _picture(self, canvas: skia.Canvas, picture: Picture, opacity: float) -> None:
        if picture.hash not in self._images:
            image = skia.Image.MakeFromEncoded(self._source(picture.hash))
            if image is None:
                raise JobError("A picture in the art cannot be decoded.", "Import the art again.")
            self._images[picture.hash] = image
        canvas.save()
        canvas.concat(to_matrix(picture.matrix))
        paint = skia.Paint(AntiAlias=True, Alphaf=picture.opacity * opacity)
        canvas.drawImage(self._images[picture.hash], 0, 0, _SAMPLING, paint)
        canvas.restore()


class Raster:
    """Draws frames of one scene at one size. `arts` holds each part's art, by (instance, part)."""

    def __init__(
        self,
        arts: Mapping[tuple[str, str], Art],
        size: tuple[int, int],
        source: PictureSource = _no_pictures,
        view: Matrix = (1, 0, 0, 1, 0, 0),
        background: str | None = None,
    ) -> None:
        self._surface = skia.Surface(*size)
        self._size = size
        self._view = view
        self._background = background
        brush = _Brush(source)
        self._recorded = {key: _record(art, brush) for key, art in arts.items()}

    def draw(self, frames: Frames, index: int) -> Pixels:
        """Pixels of one frame, (height, width, 4)."""
        with self._surface as canvas:
            canvas.clear(to_color(self._background, 1.0) if self._background else skia.ColorTRANSPARENT)
            canvas.save()
            canvas.concat(to_matrix(self._view))
            for part in frames.order[index]:
                opacity = float(frames.opacity[index, part])
                recorded = self._recorded.get(frames.part_keys[part])
                if opacity <= 0 or recorded is None:
                    continue
                canvas.save()
                canvas.concat(to_matrix(tuple(frames.matrices[index, part])))
                _play(canvas, recorded, opacity)
                canvas.restore()
            canvas.restore()
        return _read(self._surface, self._size)


def _read(surface: skia.Surface, size: tuple[int, int]) -> Pixels:
    out = np.empty((size[1], size[0], 4), np.uint8)
    info = skia.ImageInfo.Make(*size, skia.kRGBA_8888_ColorType, skia.kUnpremul_AlphaType)
    surface.readPixels(info, out, size[0] * 4, 0, 0)
    return out


def _record(art: Art, brush: _Brush) -> skia.Picture:
    recorder = skia.PictureRecorder()
    brush.nodes(recorder.beginRecording(skia.Rect(*art.bounds.grown(2.0))), art.nodes)
    return recorder.finishRecordingAsPicture()


def _play(canvas: skia.Canvas, recorded: skia.Picture, opacity: float) -> None:
    if opacity >= 1.0:
        canvas.drawPicture(recorded)
        return
    canvas.saveLayerAlpha(None, round(255 * opacity))
    canvas.drawPicture(recorded)
    canvas.restore()


def draw_art(arts: list[Art], size: tuple[int, int], view: Matrix, source: PictureSource = _no_pictures) -> Pixels:
    """A still of some parts at rest, back to front, under a view matrix."""
    surface = skia.Surface(*size)
    brush = _Brush(source)
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
