"""Art made ready to bend: curves everywhere, none too long, and no matrices of shapes' own.

At rest it looks as before; its points, in the order they are written, are what a soft part moves.
"""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.geometry.path import POINTS, commands_of, finer, mapped, points_of, written
from gaitwire.core.puppet.art import Art, ArtNode, ClipPath, Gradient, Group, Matrix, Paint, Picture, Shape, compose

_TIMES_GRAIN = 1.5
"""A curve of a soft part is at most so many times as long as its mesh is wide."""


def soften(art: Art, grain: float) -> Art:
    """The art with every path in cubics no longer than the mesh can bend."""
    longest = max(_TIMES_GRAIN * grain, 2.0)
    return art.model_copy(update={"nodes": tuple(_node(node, longest) for node in art.nodes)})


def _node(node: ArtNode, longest: float) -> ArtNode:
    if isinstance(node, Picture):
        return node
    if isinstance(node, Group):
        clips = tuple(ClipPath(paths=tuple((finer(d, longest), rule) for d, rule in c.paths)) for c in node.clips)
        return node.model_copy(update={"children": tuple(_node(c, longest) for c in node.children), "clips": clips})
    return _shape(node, longest)


def _shape(shape: Shape, longest: float) -> Shape:
    plain = plain_shape(shape)
    return plain.model_copy(update={"d": finer(plain.d, longest)})


def plain_shape(shape: Shape) -> Shape:
    """The shape without a matrix of its own; a stroke that was squeezed becomes an even one as wide on the whole."""
    if shape.matrix is None:
        return shape
    a, b, c, d, _, _ = shape.matrix
    wider = math.sqrt(abs(a * d - b * c))
    stroke = shape.stroke
    if stroke is not None:
        stroke = stroke.model_copy(
            update={
                "width": stroke.width * wider,
                "dash": tuple(v * wider for v in stroke.dash),
                "dash_offset": stroke.dash_offset * wider,
                "paint": _paint(stroke.paint, shape.matrix),
            }
        )
    fill = None if shape.fill is None else _paint(shape.fill, shape.matrix)
    path = mapped(shape.d, shape.matrix)
    return shape.model_copy(update={"d": path, "fill": fill, "stroke": stroke, "matrix": None})


def _paint(paint: Paint, outer: Matrix) -> Paint:
    if not isinstance(paint, Gradient):
        return paint
    return paint.model_copy(update={"matrix": compose(outer, paint.matrix)})


def paths_of(nodes: tuple[ArtNode, ...]) -> Iterator[str]:
    """Every path in the order its points are counted: a group's clips come before its children."""
    for node in nodes:
        if isinstance(node, Shape):
            yield node.d
        elif isinstance(node, Group):
            for clip in node.clips:
                yield from (d for d, _ in clip.paths)
            yield from paths_of(node.children)


def art_points(art: Art) -> FloatArray:
    """All points of softened art (K, 2), in the order every sink counts them."""
    found = [points_of(d) for d in paths_of(art.nodes)]
    return np.concatenate(found) if found else np.zeros((0, 2))


def with_points(art: Art, points: FloatArray) -> Art:
    """Softened art with its points (K, 2) elsewhere, in the order of `art_points`; gradients stay where they are."""
    at = 0

    def path(d: str) -> str:
        nonlocal at
        commands = commands_of(d)
        first, at = at, at + sum(POINTS[c] for c in commands)
        return written(commands, points[first:at])

    def node(one: ArtNode) -> ArtNode:
        if isinstance(one, Shape):
            return one.model_copy(update={"d": path(one.d)})
        if isinstance(one, Picture):
            return one
        clips = tuple(ClipPath(paths=tuple((path(d), rule) for d, rule in c.paths)) for c in one.clips)
        return one.model_copy(update={"clips": clips, "children": tuple(node(c) for c in one.children)})

    return art.model_copy(update={"nodes": tuple(node(n) for n in art.nodes)})


def has_pictures(nodes: tuple[ArtNode, ...]) -> bool:
    """Whether a picture lies among the nodes, which a sink draws as a textured mesh."""
    return any(isinstance(n, Picture) or (isinstance(n, Group) and has_pictures(n.children)) for n in nodes)
