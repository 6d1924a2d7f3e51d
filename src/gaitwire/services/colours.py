"""The colour that art mostly has about a place."""

from __future__ import annotations

from collections import Counter

import numpy as np

from gaitwire.core.geometry.bounds import Box
from gaitwire.core.puppet.art import Art
from gaitwire.formats.raster import draw_art
from gaitwire.services.stills import fit_box, picture_source
from gaitwire.services.workspace import Workspace

_WINDOW = 64
"""Pixels a side of the picture that a colour is sampled from."""
_FULL = 250
"""Alpha from which on a pixel counts."""


def main_colour(workspace: Workspace, art: Art, box: Box) -> str | None:
    """The most frequent colour (#rrggbb) of art within a box, in the puppet's pixels; None where nothing is solid."""
    size = (_WINDOW, _WINDOW)
    picture = draw_art([art], size, fit_box(box, size, margin=0.0), picture_source(workspace))
    pixels = np.asarray(picture).reshape(-1, 4)
    solid = pixels[pixels[:, 3] > _FULL, :3]
    if not len(solid):
        return None
    return "#{:02x}{:02x}{:02x}".format(*Counter(map(tuple, solid.tolist())).most_common(1)[0][0])
