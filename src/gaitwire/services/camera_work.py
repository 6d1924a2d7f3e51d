"""The camera of a scene, and how much of its way what is near and far takes part in."""

from __future__ import annotations

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate.camera import CAMERA, views_of
from gaitwire.core.scene import CAMERA_ID, Instance
from gaitwire.services.posing import Posing
from gaitwire.store.documents import new_id


class CameraWork(Posing):
    """Gestures with the camera."""

    def add_camera(self) -> str:
        """Set up a camera that shows the whole stage; its instance's id. Raises InvalidInputError for a second one."""
        if self.scene.camera:
            raise InvalidInputError("This scene has its camera.", "Choose it on the wires.")
        made = new_id()
        with self.edit("set up a camera") as edit:
            scene = self.scene
            instance = Instance(
                id=made, scene_id=scene.id, puppet_id=CAMERA_ID, name=CAMERA.name, x=scene.width / 2,
                y=scene.height / 2, depth=1 + max((i.depth for i in scene.instances), default=-1),
            )  # fmt: skip
            edit.put("instances", [instance])
        return made

    def views(self, frames: FloatArray, distance: float) -> FloatArray:
        """What the camera makes of a layer at a distance, (F, 6) from the stage to the picture.

        Raises InvalidInputError where there is none.
        """
        camera, scene = self.scene.camera, self.scene
        if camera is None:
            raise InvalidInputError("This scene has no camera.", "Set one up on the scene's card.")
        found = self.workspace.frames(self.scene_id, frames)
        nodes = found.nodes[:, found.node_keys.index((camera.id, camera.id))]
        return np.asarray(views_of(nodes, (scene.width, scene.height), np.array([distance]))[:, 0])
