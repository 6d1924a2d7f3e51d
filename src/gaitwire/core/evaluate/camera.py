"""The camera: a frame that moves over the stage, and what it makes of everything, near and far.

It stands in a scene like a puppet without parts, so that it is keyed, eased and carried like one.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.frames import Frames
from gaitwire.core.geometry import affine
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.scene import CAMERA_ID

CAMERA = Puppet(id=CAMERA_ID, name="Camera", width=16, height=16, base_x=0.0, base_y=0.0)


def views_of(camera: FloatArray, size: tuple[float, float], distances: FloatArray) -> FloatArray:
    """What the camera makes of the stage: matrices (F, L, 6) from stage pixels to those of the picture.

    `camera` (F, 6) is its matrix: where its middle is, how it is turned, and, upwards, how much it
    enlarges. `distances` (L,) say how much of its way and zoom each layer takes part in: 1 as the
    stage, less what is far, 0 stays put. Whatever takes part in any of it is turned wholly.
    """
    a, b, c, d, x, y = camera.T[:, :, None]
    zoom = np.hypot(c, d) ** distances  # what stands in a scene is stretched upwards
    turn = np.where(distances > 0, np.degrees(np.arctan2(b, a)), 0.0)
    middle_x, middle_y = size[0] / 2, size[1] / 2
    looks_x, looks_y = middle_x + distances * (x - middle_x), middle_y + distances * (y - middle_y)
    back = np.radians(-turn)
    cos, sin = zoom * np.cos(back), zoom * np.sin(back)
    return np.stack(
        [
            cos, sin, -sin, cos,
            middle_x - cos * looks_x + sin * looks_y,
            middle_y - sin * looks_x - cos * looks_y,
        ],
        axis=-1,
    )  # fmt: skip


def filmed(frames: Frames) -> Frames:
    """The frames as the camera sees them: parts and nodes in pixels of the picture; as they are without a camera."""
    if not frames.views.shape[1]:
        return frames
    views = np.moveaxis(frames.views, 2, 0)
    matrices = affine.compose(views[:, :, frames.layers], np.moveaxis(frames.matrices, 2, 0))
    nodes = affine.compose(views[:, :, :1], np.moveaxis(frames.nodes, 2, 0))
    return replace(
        frames,
        matrices=np.ascontiguousarray(np.moveaxis(matrices, 0, 2)),
        nodes=np.ascontiguousarray(np.moveaxis(nodes, 0, 2)),
        views=frames.views[:, :0],
    )
