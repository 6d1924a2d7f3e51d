"""Art put elsewhere: moved, turned, scaled or reflected as a whole."""

from __future__ import annotations

from gaitwire.core.geometry.path import mapped
from gaitwire.core.puppet.art import Art, ArtNode, ClipPath, Group, Matrix, Picture, Shape, compose
from gaitwire.core.puppet.boxes import boxed
from gaitwire.core.puppet.soften import plain_shape


def placed(art: Art, matrix: Matrix) -> Art:
    """The art under a matrix; strokes grow with it."""
    return boxed(tuple(_node(node, matrix) for node in art.nodes), art.box)


def _node(node: ArtNode, matrix: Matrix) -> ArtNode:
    if isinstance(node, Picture):
        return node.model_copy(update={"matrix": compose(matrix, node.matrix)})
    if isinstance(node, Shape):
        if node.matrix is not None:  # its stroke was squeezed, and must stay so
            return node.model_copy(update={"matrix": compose(matrix, node.matrix)})
        return plain_shape(node.model_copy(update={"matrix": matrix}))
    return _group(node, matrix)


def _group(group: Group, matrix: Matrix) -> Group:
    clips = tuple(ClipPath(paths=tuple((mapped(d, matrix), rule) for d, rule in c.paths)) for c in group.clips)
    return group.model_copy(update={"children": tuple(_node(c, matrix) for c in group.children), "clips": clips})


def reflection(axis: float) -> Matrix:
    """The matrix that reflects in the upright line x = axis."""
    return -1.0, 0.0, 0.0, 1.0, 2 * axis, 0.0
