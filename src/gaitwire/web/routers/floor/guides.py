"""Edits of guides."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Any

from fastapi import APIRouter, Form, UploadFile
from starlette.responses import HTMLResponse

from gaitwire.services.gait.gait_cards import card_at
from gaitwire.services.scene.guides import MOST_FILMED, add_guide_files, add_stride_guide, remove_guide, update_guide
from gaitwire.web.routers.floor.answers import FloorGestures, all_wires
from gaitwire.web.routers.floor.timing import Typed, numbered, read_number
from gaitwire.web.routers.shared.forms import flag, read_field, read_uploads

router = APIRouter(prefix="/floor/{scene_id}/guides")


_FIELDS: dict[str, Callable[[str], Any]] = {
    "name": str, "x": numbered("a place"), "y": numbered("a place"), "scale": numbered("a size", 0.01),
    "opacity": numbered("an opacity", 0.01), "start": numbered("a frame"), "over": flag, "turned": flag,
    "loops": flag, "hidden": flag,
}  # fmt: skip


@router.post("/pictures")
def add_pictures(floor: FloorGestures, file: list[UploadFile]) -> HTMLResponse:
    """Lay pictures, several as a run, or a film."""
    laid = add_guide_files(floor, read_uploads(file))
    return all_wires(floor, f"The film is longer: its first {MOST_FILMED} frames were kept." if laid.cut else "")


@router.post("/stride")
def add_stride(
    floor: FloorGestures,
    frames: Typed = "24",
    turned: Annotated[bool, Form()] = False,
    card: Annotated[str, Form(max_length=60)] = "plain",
) -> HTMLResponse:
    """Lay a stride of the wire figure, as a gait card walks."""
    add_stride_guide(floor, round(read_number(frames, "a length")), turned, card_at(floor.workspace, card))
    return all_wires(floor)


@router.post("/{guide_id}/set")
def set_guide(
    floor: FloorGestures, guide_id: str, field: Typed, value: Annotated[str, Form(max_length=200)]
) -> HTMLResponse:
    """Change one thing about a guide."""
    values = read_field(_FIELDS, field, value)
    if field == "start":
        values["start"] -= floor.scene.first_number
    update_guide(floor, guide_id, values)
    return all_wires(floor)


@router.post("/{guide_id}/place")
def place(floor: FloorGestures, guide_id: str, x: Typed, y: Typed, scale: Typed) -> HTMLResponse:
    """Put a guide elsewhere, in another size; as a drag does."""
    values = {"x": read_number(x, "a place"), "y": read_number(y, "a place"), "scale": read_number(scale, "a size")}
    update_guide(floor, guide_id, values)
    return all_wires(floor)


@router.post("/{guide_id}/remove")
def remove(floor: FloorGestures, guide_id: str) -> HTMLResponse:
    """Take a guide away."""
    remove_guide(floor, guide_id)
    return all_wires(floor)
