"""The region that art covers, as polygons; and the outline of a picture's mask."""

from __future__ import annotations

from collections.abc import Callable, Iterable

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import LineString, MultiPolygon, Polygon, box
from shapely.geometry.base import BaseGeometry

from gaitwire.core.conventions import FloatArray
from gaitwire.core.geometry.path import rings_of
from gaitwire.core.puppet.art import Art, ArtNode, Group, Matrix, Picture, Shape

Mask = npt.NDArray[np.bool_]
"""(height, width): where a picture shows something."""
Masks = Callable[[str], Mask]
"""Gives the mask of a picture by its hash."""

_CELLS = 160
"""A mask is looked at in at most so many cells a side: outlines for bending need no more."""


def mask_outline(mask: Mask) -> BaseGeometry:
    """The region of a mask in the picture's pixels; it covers every pixel that shows."""
    height, width = mask.shape
    cell = max(1, -(-max(height, width) // _CELLS))
    rows, columns = -(-height // cell), -(-width // cell)
    padded = np.zeros((rows * cell, columns * cell), bool)
    padded[:height, :width] = mask
    seen: Mask = np.asarray(padded.reshape(rows, cell, columns, cell).any(axis=(1, 3)))
    runs = []
    for row, line in enumerate(seen):
        edges = np.flatnonzero(np.diff(np.concatenate([[0], line.astype(np.int8), [0]])))
        runs += [
            box(a * cell, row * cell, min(b * cell, width), min((row + 1) * cell, height))
            for a, b in zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True)
        ]
    return shapely.union_all(runs)


def _filled(d: str) -> BaseGeometry:
    """What a path encloses, holes included: only how far the art reaches is of interest."""
    return shapely.union_all([_enclosed(ring) for ring in rings_of(d) if len(ring) > 2])


def _enclosed(ring: FloatArray) -> BaseGeometry:
    """All that a ring goes round, however often it crosses itself."""
    whole = Polygon(ring)
    if whole.is_valid:
        return whole
    lines = shapely.union_all([LineString([*ring, ring[0]])])
    return shapely.union_all(shapely.get_parts(shapely.polygonize([lines])))


def _shape(shape: Shape) -> BaseGeometry:
    found = [_filled(shape.d)] if shape.fill is not None else []
    if shape.stroke is not None:
        found += [LineString(ring).buffer(shape.stroke.width / 2) for ring in rings_of(shape.d)]
    return _mapped(shapely.union_all(found), shape.matrix)


def _mapped(region: BaseGeometry, matrix: Matrix | None) -> BaseGeometry:
    if matrix is None:
        return region
    a, b, c, d, e, f = matrix
    return shapely.transform(region, lambda points: points @ np.array([[a, b], [c, d]]) + (e, f))


def _node(node: ArtNode, masks: Masks) -> BaseGeometry:
    if isinstance(node, Shape):
        return _shape(node)
    if isinstance(node, Picture):
        return _mapped(mask_outline(masks(node.hash)), node.matrix)
    return _group(node, masks)


def _group(group: Group, masks: Masks) -> BaseGeometry:
    region = shapely.union_all([_node(child, masks) for child in group.children])
    for clip in group.clips:
        region = region.intersection(shapely.union_all([_filled(d) for d, _ in clip.paths]))
    return region


def art_region(arts: Iterable[Art], masks: Masks) -> MultiPolygon:
    """The region all of the art covers, in the puppet's pixels; empty for art that shows nothing."""
    region = shapely.union_all([_node(node, masks) for art in arts for node in art.nodes])
    return MultiPolygon([p for p in shapely.get_parts(region) if isinstance(p, Polygon) and p.area > 0])
