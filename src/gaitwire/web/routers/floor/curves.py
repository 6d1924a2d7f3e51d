"""Edits that are made in the panel of curves."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Form
from pydantic import TypeAdapter, ValidationError
from starlette.responses import HTMLResponse

from gaitwire.core.errors import InvalidInputError
from gaitwire.services.scene.curve_points import add_curve_point, join_points, move_point, pull_point
from gaitwire.web.routers.floor.answers import FloorGestures, FrameField, LongText, some_wires

router = APIRouter(prefix="/floor/{scene_id}/graph")

NumberField = Annotated[float, Form(allow_inf_nan=False, ge=-1e7, le=1e7)]
IdField = Annotated[str, Form(max_length=60)]
_IDS: TypeAdapter[list[str]] = TypeAdapter(list[str])


@router.post("/move")
def move(floor: FloorGestures, channel: IdField, key: IdField, time: FrameField, value: NumberField) -> HTMLResponse:
    """Put a point elsewhere."""
    return some_wires(floor, move_point(floor, channel, key, time, value))


@router.post("/pull")
def pull(
    floor: FloorGestures,
    channel: IdField,
    key: IdField,
    side: Annotated[Literal["in", "out"], Form()],
    time: FrameField,
    value: NumberField,
) -> HTMLResponse:
    """Pull a handle."""
    return some_wires(floor, pull_point(floor, channel, key, side, time, value))


@router.post("/add")
def add(floor: FloorGestures, channel: IdField, time: FrameField) -> HTMLResponse:
    """Add a point on a curve."""
    return some_wires(floor, add_curve_point(floor, channel, time))


@router.post("/join")
def join(floor: FloorGestures, channel: IdField, keys: LongText, kind: IdField) -> HTMLResponse:
    """Make points smooth, level or corners."""
    try:
        ids = _IDS.validate_json(keys)
    except ValidationError:
        raise InvalidInputError("The chosen points could not be read.", "Choose them again.") from None
    return some_wires(floor, join_points(floor, channel, ids, kind))
