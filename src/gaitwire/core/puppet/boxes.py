"""Boxes around art nodes, in the puppet's pixels."""

from __future__ import annotations

from gaitwire.core.geometry.bounds import Box, union
from gaitwire.core.geometry.path import path_box
from gaitwire.core.puppet.art import Art, ArtNode, Group, Picture, Shape


def _cut(a: Box, b: Box) -> Box | None:
    box = Box(max(a.x0, b.x0), max(a.y0, b.y0), min(a.x1, b.x1), min(a.y1, b.y1))
    return box if box.x1 >= box.x0 and box.y1 >= box.y0 else None


def node_box(node: ArtNode, strokes: bool = True) -> Box | None:
    """The box around what the node draws, half the stroke's width included if asked."""
    if isinstance(node, Picture):
        return Box(0, 0, node.width, node.height).carried(node.matrix)
    if isinstance(node, Shape):
        box = path_box(node.d)
        if box is None:
            return None
        grown = box.grown(node.stroke.width / 2) if node.stroke and strokes else box
        return grown.carried(node.matrix)
    return _group_box(node, strokes)


def _group_box(group: Group, strokes: bool) -> Box | None:
    box = union(b for child in group.children if (b := node_box(child, strokes)) is not None)
    for clip in group.clips:
        edge = union(b for d, _ in clip.paths if (b := path_box(d)) is not None)
        box = _cut(box, edge) if box is not None and edge is not None else None
    return box


def boxed(nodes: tuple[ArtNode, ...], otherwise: tuple[float, float, float, float]) -> Art:
    """The nodes as art, with the box around them; another box where they show nothing."""
    box = union(b for node in nodes if (b := node_box(node)) is not None)
    return Art(nodes=nodes, box=Box(*(round(v, 4) for v in box)) if box else otherwise)
