"""Edits of sounds."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Form, UploadFile
from starlette.responses import HTMLResponse

from gaitwire.services.scene.sounds import add_sounds, drag_sound, remove_sound, update_sound
from gaitwire.web.routers.floor.answers import FloorGestures, FrameField, all_wires
from gaitwire.web.routers.floor.timing import Typed, numbered
from gaitwire.web.routers.shared.forms import flag, read_field, read_uploads

router = APIRouter(prefix="/floor/{scene_id}/sounds")

_FIELDS: dict[str, Callable[[str], Any]] = {
    "name": str, "start": numbered("a frame"), "cut_in": numbered("seconds"), "cut_out": numbered("seconds"),
    "volume": numbered("a volume", 0.01), "muted": flag,
}  # fmt: skip


@router.post("/add")
def add(floor: FloorGestures, file: list[UploadFile], frame: FrameField = 0.0) -> HTMLResponse:
    """Lay sounds from a frame on."""
    made = add_sounds(floor, read_uploads(file), frame)
    response = all_wires(floor)
    response.headers["Gw-Made"] = made[0] if made else ""
    return response


@router.post("/{sound_id}/set")
def set_sound(
    floor: FloorGestures, sound_id: str, field: Typed, value: Annotated[str, Form(max_length=200)]
) -> HTMLResponse:
    """Change one thing about a sound."""
    values = read_field(_FIELDS, field, value)
    if field == "start":
        values["start"] -= floor.scene.first_number
    update_sound(floor, sound_id, values)
    return all_wires(floor)


@router.post("/{sound_id}/drag")
def drag(
    floor: FloorGestures, sound_id: str, by: FrameField, edge: Annotated[Literal["", "in", "out"], Form()] = ""
) -> HTMLResponse:
    """Move a sound, or one of its ends, by frames."""
    drag_sound(floor, sound_id, edge, by)
    return all_wires(floor)


@router.post("/{sound_id}/remove")
def remove(floor: FloorGestures, sound_id: str) -> HTMLResponse:
    """Take a sound away."""
    remove_sound(floor, sound_id)
    return all_wires(floor)
