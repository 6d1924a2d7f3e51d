"""A scene's own settings."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Form
from starlette.responses import HTMLResponse

from gaitwire.core.errors import InvalidInputError
from gaitwire.services.scene.floor import key_end, read_rate, update_scene
from gaitwire.web.routers.floor.answers import FloorGestures, all_wires, resized

router = APIRouter(prefix="/floor/{scene_id}")

_SETTINGS: dict[str, Any] = {
    "name": str, "frames": int, "width": int, "height": int, "first_number": int, "background": str,
    "move_length": lambda text: int(text or 0), "creep": int, "grid": lambda text: float(text or 0),
    "snaps": lambda text: text == "true", "ground": lambda text: float(text) if text else None,
    "loop": lambda text: text == "true", "bounce": lambda text: text == "true",
    "fall": lambda text: float(text) if text else None, "wind": lambda text: float(text or 0),
    "wind_turn": lambda text: float(text or 0), "gusts": lambda text: float(text or 0) / 100,
}  # fmt: skip


@router.post("/set")
def set_scene(
    floor: FloorGestures, field: Annotated[str, Form()], value: Annotated[str, Form(max_length=200)] = ""
) -> HTMLResponse:
    """Change one of the scene's own settings."""
    before = floor.scene
    if field == "rate":
        fraction = read_rate(value)
        update_scene(floor, rate_num=fraction.numerator, rate_den=fraction.denominator)
    elif field in _SETTINGS:
        try:
            update_scene(floor, **{field: _SETTINGS[field](value)})
        except ValueError:
            raise InvalidInputError(f"“{value[:20]}” is no number.", "Type a number.") from None
    else:
        raise InvalidInputError(f"“{field}” cannot be set here.")
    return resized(floor, before)


@router.post("/key-end")
def post_key_end(floor: FloorGestures) -> HTMLResponse:
    """Key the last frame as it shows."""
    key_end(floor)
    return all_wires(floor)
