"""Soft parts: their path data animated; what holds pictures as one picture a frame."""

from __future__ import annotations

import base64
from collections.abc import Iterator
from itertools import pairwise

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.frames import PointRange
from gaitwire.core.geometry.path import POINTS, commands_of, written
from gaitwire.formats.animated_svg.bones import Writer
from gaitwire.formats.raster import picture_bytes
from gaitwire.formats.raster.paper import Raster


class BentPaths:
    """Paths of one drawing with their points on every frame (F, K, 2), given out in turn."""

    def __init__(self, writer: Writer, points: FloatArray) -> None:
        self._writer, self._points, self._at = writer, points, 0

    def path(self, d: str) -> tuple[str, str]:
        commands = commands_of(d)
        size = sum(POINTS[c] for c in commands)
        mine = self._points[:, self._at : self._at + size]
        self._at += size
        texts = [written(commands, frame) for frame in np.round(mine, 2)]
        return texts[0], self._writer.sampled("d", texts) if len(set(texts)) > 1 else ""


def bent_paths(writer: Writer, points: PointRange, drawing: int) -> BentPaths:
    """The paths of one of a soft part's drawings."""
    return BentPaths(writer, writer.frames.points[:, points.drawing(drawing)].astype(float))


def flip_book(writer: Writer, part: int) -> str:
    """A soft part that holds pictures, drawn on every frame at the file's own size.

    SVG has no textured mesh, and triangles cut from a picture would show their seams.
    """
    production, frames = writer.production, writer.frames
    scale = production.settings.scale
    key = frames.part_keys[part]
    raster = Raster(
        {key: production.arts[key]}, production.size, lambda digest: production.pictures[digest][1],
        (scale, 0, 0, scale, 0, 0), None, production.compiled.meshes,
    )  # fmt: skip
    return "".join(
        _page(writer, raster.draw(frames, first), [first <= n < last for n in range(len(frames) - 1)])
        for first, last in _runs(writer, part)
    )


def _runs(writer: Writer, part: int) -> Iterator[tuple[int, int]]:
    """Runs of frames on which the part looks the same, the end of the file's time left out."""
    frames = writer.frames
    points = frames.soft[part]
    look = np.concatenate(
        [
            frames.points[:, points.mesh].reshape(len(frames), -1),
            frames.matrices[:, part],
            frames.opacity[:, part, None],
            frames.drawing[:, part, None],
        ],
        axis=1,
    )[:-1]
    changes = np.flatnonzero(np.abs(np.diff(look, axis=0)).max(axis=1, initial=0.0) > 1e-4) + 1
    edges = [0, *changes.tolist(), len(look)]
    yield from pairwise(edges)


def _page(writer: Writer, pixels: np.ndarray, mask: list[bool]) -> str:
    """One picture, cut to what it shows."""
    seen = pixels[..., 3] > 0
    if not seen.any():
        return ""
    rows, columns = np.flatnonzero(seen.any(axis=1)), np.flatnonzero(seen.any(axis=0))
    y0, y1, x0, x1 = rows[0], rows[-1] + 1, columns[0], columns[-1] + 1
    data = base64.b64encode(picture_bytes(np.ascontiguousarray(pixels[y0:y1, x0:x1]))).decode()
    scale = writer.production.settings.scale
    place = f'x="{x0 / scale:g}" y="{y0 / scale:g}" width="{(x1 - x0) / scale:g}" height="{(y1 - y0) / scale:g}"'
    first, animated = writer.shown(mask)
    return f'<image {place} href="data:image/png;base64,{data}"{first} preserveAspectRatio="none">{animated}</image>'
