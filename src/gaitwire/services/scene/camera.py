"""The camera of a scene."""

from __future__ import annotations

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate.camera import CAMERA
from gaitwire.core.ids import new_id
from gaitwire.core.scene import CAMERA_ID, Instance
from gaitwire.services.scene.gestures import Draft, gesture


@gesture("set up a camera")
def add_camera(draft: Draft) -> str:
    """Set up a camera that shows the whole stage; its instance's id. Raises InvalidInputError for a second one."""
    if draft.scene.camera:
        raise InvalidInputError("This scene has its camera.", "Choose it on the wires.")
    made = new_id()
    scene = draft.scene
    instance = Instance(
        id=made, scene_id=scene.id, puppet_id=CAMERA_ID, name=CAMERA.name, x=scene.width / 2,
        y=scene.height / 2, depth=1 + max((i.depth for i in scene.instances), default=-1),
    )  # fmt: skip
    draft.put([instance])
    return made
