"""The camera of a scene."""

from __future__ import annotations

from fastapi import APIRouter
from starlette.responses import HTMLResponse

from gaitwire.services.scene.camera import add_camera
from gaitwire.web.routers.floor.answers import FloorGestures, all_wires

router = APIRouter(prefix="/floor/{scene_id}/camera")


@router.post("/add")
def post_add_camera(floor: FloorGestures) -> HTMLResponse:
    """Set up the scene's camera."""
    made = add_camera(floor)
    response = all_wires(floor, "A camera. Drag its frame; its corners zoom, its knob turns.")
    response.headers["Gw-Made"] = made
    return response
