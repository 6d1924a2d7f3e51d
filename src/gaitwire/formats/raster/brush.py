"""Art nodes on a Skia canvas, as they are or bent."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import skia

from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import JobError
from gaitwire.core.geometry.mesh import Mesh
from gaitwire.core.puppet.art import ArtNode, ClipPath, Group, Picture, Shape
from gaitwire.formats.raster.paints import clip_path, joined_clip, shape_paints, to_matrix, to_path

PictureSource = Callable[[str], bytes]
"""Gives an embedded picture's bytes by its hash."""

_SAMPLING = skia.SamplingOptions(skia.FilterMode.kLinear, skia.MipmapMode.kLinear)


def no_pictures(digest: str) -> bytes:
    raise JobError("A picture is missing.", digest)


@dataclass
class Bent:
    """One drawing of a soft part on one frame: its points, taken in turn, and its mesh as it now lies."""

    points: FloatArray  # (K, 2)
    mesh: Mesh  # at rest
    vertices: FloatArray  # (V, 2) now
    scale: float = 1.0  # pixels of the paper to one of the part's
    at: int = 0

    def take(self, count: int) -> FloatArray:
        """The next points."""
        self.at += count
        return self.points[self.at - count : self.at]


class Brush:
    """Draws art nodes on a canvas; decoded pictures are kept."""

    def __init__(self, source: PictureSource = no_pictures) -> None:
        self._source = source
        self._images: dict[str, skia.Image] = {}

    def nodes(self, canvas: skia.Canvas, nodes: tuple[ArtNode, ...], bent: Bent | None = None) -> None:
        """Draw nodes back to front; bent ones have their points in the order of `art_points`."""
        for node in nodes:
            if isinstance(node, Shape):
                self._shape(canvas, node, bent)
            elif isinstance(node, Picture):
                self._picture(canvas, node, bent)
            else:
                self._group(canvas, node, bent)

    def _group(self, canvas: skia.Canvas, group: Group, bent: Bent | None) -> None:
        faded = group.opacity < 1.0
        canvas.save()
        for clip in group.clips:
            canvas.clipPath(_clip(clip, bent), skia.ClipOp.kIntersect, True)
        if faded:
            canvas.saveLayerAlpha(None, round(255 * group.opacity))
        self.nodes(canvas, group.children, bent)
        if faded:
            canvas.restore()
        canvas.restore()

    def _shape(self, canvas: skia.Canvas, shape: Shape, bent: Bent | None) -> None:
        canvas.save()
        if shape.matrix is not None:
            canvas.concat(to_matrix(shape.matrix))
        path = to_path(shape.d, shape.rule, bent.take if bent else None)
        together = shape.opacity < 1.0 and shape.fill is not None and shape.stroke is not None
        if together:  # Fill and stroke overlap, so they fade as one.
            canvas.saveLayerAlpha(None, round(255 * shape.opacity))
        for paint in shape_paints(shape, 1.0 if together else shape.opacity):
            canvas.drawPath(path, paint)
        if together:
            canvas.restore()
        canvas.restore()

    def _image(self, digest: str) -> skia.Image:
        if digest not in self._images:
            # A copy: the image is decoded when it is first drawn, and the bytes may be gone by then.
            image = skia.Image.MakeFromEncoded(skia.Data.MakeWithCopy(self._source(digest)))
            if image is None:
                raise JobError("A picture in the art cannot be decoded.", "Import the art again.")
            self._images[digest] = image
        return self._images[digest]

    def _shrunk(self, picture: Picture, scale: float) -> skia.Image:
        """The picture halved until one of its pixels is about one of the paper's: a mesh is not smoothed by itself."""
        a, b, c, d, _, _ = picture.matrix
        fine = 1 / max(scale * math.sqrt(abs(a * d - b * c)), 1e-6)
        level = max(0, min(6, math.floor(math.log2(max(fine, 1.0)) + 0.25)))
        if level == 0:
            return self._image(picture.hash)
        key = f"{picture.hash}/{level}"
        if key not in self._images:
            width, height = max(1, picture.width >> level), max(1, picture.height >> level)
            self._images[key] = self._image(picture.hash).resize(width, height, _SAMPLING)
        return self._images[key]

    def _picture(self, canvas: skia.Canvas, picture: Picture, bent: Bent | None) -> None:
        image = self._image(picture.hash)
        paint = skia.Paint(AntiAlias=True, Alphaf=picture.opacity)
        if bent is not None:
            image = self._shrunk(picture, bent.scale)
            # Beyond its own edge a picture shows nothing, and its mesh reaches beyond: so its outline is smooth.
            paint.setShader(image.makeShader(skia.TileMode.kDecal, skia.TileMode.kDecal, _SAMPLING))
            canvas.drawVertices(_textured(bent, picture, image), paint)
            return
        canvas.save()
        canvas.concat(to_matrix(picture.matrix))
        canvas.drawImage(image, 0, 0, _SAMPLING, paint)
        canvas.restore()


def _textured(bent: Bent, picture: Picture, image: skia.Image) -> skia.Vertices:
    """The mesh as it now lies, with the places in the image that its vertices hold."""
    a, b, c, d, e, f = picture.matrix
    texture = (bent.mesh.vertices - (e, f)) @ np.linalg.inv(np.array([[a, b], [c, d]]))
    texture *= (image.width() / picture.width, image.height() / picture.height)
    return skia.Vertices.MakeCopy(
        skia.Vertices.VertexMode.kTriangles_VertexMode,
        [skia.Point(x, y) for x, y in bent.vertices.tolist()],
        [skia.Point(x, y) for x, y in texture.tolist()],
        None,
        bent.mesh.triangles.ravel().tolist(),
    )


def _clip(clip: ClipPath, bent: Bent | None) -> skia.Path:
    if bent is None:
        return clip_path(clip)
    return joined_clip([to_path(d, rule, bent.take) for d, rule in clip.paths])
