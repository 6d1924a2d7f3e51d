"""What pictures of art are made from: its drawings, where it is looked at from, and its colours."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable

import numpy as np

from gaitwire.core.evaluate import CompiledScene
from gaitwire.core.geometry.bounds import Box
from gaitwire.core.puppet.art import Art, Matrix
from gaitwire.formats.raster import draw_art
from gaitwire.services.session.workspace import Workspace
from gaitwire.store.blobs import get_blob

Size = tuple[int, int]

_WINDOW = 64
"""Pixels a side of the picture that a colour is sampled from."""
_FULL = 250
"""Alpha from which on a pixel counts."""


def arts_of(workspace: Workspace, compiled: CompiledScene) -> dict[tuple[str, str], list[Art]]:
    """The drawings of every part of a scene, by (instance id, part id)."""
    names = {
        part.id: workspace.drawings(puppet, part, part.id in compiled.skins)
        for puppet in compiled.puppets.values()
        for part in puppet.parts
    }
    keys = [key for compiled_puppet in compiled.compiled_puppets for key in compiled_puppet.parts.owners]
    return {key: [workspace.art(name) for name in names[key[1]]] for key in keys}


def fit_box(box: Box, size: Size, margin: float = 0.06) -> Matrix:
    """The view that shows a box whole, in the middle of a picture."""
    room_x, room_y = size[0] * (1 - 2 * margin), size[1] * (1 - 2 * margin)
    scale = min(room_x / max(box.width, 1e-6), room_y / max(box.height, 1e-6))
    cx, cy = box.centre
    return (scale, 0, 0, scale, size[0] / 2 - cx * scale, size[1] / 2 - cy * scale)


def picture_source(workspace: Workspace) -> Callable[[str], bytes]:
    """Where a raster finds embedded pictures."""
    return lambda digest: get_blob(workspace.store, digest).data


def main_colour(workspace: Workspace, art: Art, box: Box) -> str | None:
    """The most frequent colour (#rrggbb) of art within a box, in the puppet's pixels; None where nothing is solid."""
    size = (_WINDOW, _WINDOW)
    picture = draw_art([art], size, fit_box(box, size, margin=0.0), picture_source(workspace))
    pixels = np.asarray(picture).reshape(-1, 4)
    solid = pixels[pixels[:, 3] > _FULL, :3]
    if not len(solid):
        return None
    return "#{:02x}{:02x}{:02x}".format(*Counter(map(tuple, solid.tolist())).most_common(1)[0][0])
