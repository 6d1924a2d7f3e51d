"""Drawing in place on the Bench."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Depends, Form
from pydantic import TypeAdapter, ValidationError
from starlette.responses import HTMLResponse, JSONResponse

from gaitwire.core.bounds import Number, Place
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.puppet.sketch import SketchKind, Style
from gaitwire.services.rig.sketching import Sketching
from gaitwire.web.context import Revision, Space
from gaitwire.web.routers.bench.page import changed
from gaitwire.web.routers.shared.forms import Axis, Coordinate, Counted, Nth

router = APIRouter(prefix="/bench/{puppet_id}/parts/{part_id}/sketch")


def _sketching(workspace: Space, puppet_id: str, revision: Revision = None) -> Sketching:
    return Sketching(workspace, puppet_id, revision)


SketchGestures = Annotated[Sketching, Depends(_sketching)]
ColorField = Annotated[str, Form(pattern=r"^(#[0-9a-f]{6})?$")]
Width = Annotated[float, Form(ge=0.1, le=200, allow_inf_nan=False)]
BenchText = Annotated[str, Form(max_length=400_000)]
_PLACES: TypeAdapter[list[tuple[float, float]]] = TypeAdapter(list[tuple[Place, Place]])
_POINTS: TypeAdapter[list[tuple[int, int]]] = TypeAdapter(list[tuple[Number, Number]])


def _read(adapter: TypeAdapter[list[tuple[float, float]]] | TypeAdapter[list[tuple[int, int]]], text: str) -> list:  # type: ignore[type-arg]
    try:
        return adapter.validate_json(text)
    except ValidationError:
        raise InvalidInputError("These points could not be read.", "Draw again.") from None


@router.get("")
def sheet(sketching: SketchGestures, part_id: str) -> JSONResponse:
    """Shapes with their points, and the puppet's own colours."""
    return JSONResponse(sketching.sheet(part_id), headers={"Cache-Control": "no-store"})


@router.post("/add")
def add(
    sketching: SketchGestures, part_id: str, kind: Annotated[SketchKind, Form()], places: BenchText,
    fill: ColorField = "",
    stroke: ColorField = "", width: Width = 3.0, closed: Annotated[bool, Form()] = True,
    clipped: Annotated[bool, Form()] = False,
) -> HTMLResponse:  # fmt: skip
    """A new shape."""
    made = sketching.add(part_id, kind, _read(_PLACES, places), Style(fill, stroke, width), closed, clipped)
    return changed(sketching, made=str(made))


@router.post("/{index}/style")
def style(
    sketching: SketchGestures, part_id: str, index: Nth, field: Annotated[Literal["fill", "stroke", "width"], Form()],
    color: ColorField = "", width: Width = 3.0,
) -> HTMLResponse:  # fmt: skip
    """Another fill, outline or width."""
    sketching.restyle(part_id, index, **{field: width if field == "width" else color})
    return changed(sketching)


@router.post("/{index}/move")
def move(
    sketching: SketchGestures, part_id: str, index: Nth, run: Counted, point: Counted,
    row: Annotated[int, Form(ge=0, le=2)], x: Coordinate, y: Coordinate, axis: Axis = None,
) -> HTMLResponse:  # fmt: skip
    """Move an anchor or a handle."""
    sketching.move_point(part_id, index, (run, point), row, (x, y), axis)
    return changed(sketching)


@router.post("/{index}/insert")
def insert(
    sketching: SketchGestures, part_id: str, index: Nth, x: Coordinate, y: Coordinate,
    axis: Axis = None,
) -> HTMLResponse:  # fmt: skip
    """One more point on the outline."""
    sketching.add_point(part_id, index, (x, y), axis)
    return changed(sketching)


@router.post("/{index}/points/{act}")
def change_points(
    sketching: SketchGestures, part_id: str, index: Nth, act: Literal["drop", "smooth", "corner"], points: BenchText
) -> HTMLResponse:
    """Take points away, or make them smooth or corners."""
    chosen = _read(_POINTS, points)
    if act == "drop":
        sketching.drop_points(part_id, index, chosen)
    else:
        sketching.bend_points(part_id, index, chosen, act == "smooth")
    return changed(sketching)


@router.post("/{index}/mirror")
def mirror(
    sketching: SketchGestures, part_id: str, index: Nth, axis: Coordinate, keep: Annotated[bool, Form()] = True
) -> HTMLResponse:
    """Reflect a shape in an upright line."""
    sketching.mirror(part_id, index, axis, keep)
    return changed(sketching)


@router.post("/{index}/remove")
def remove(sketching: SketchGestures, part_id: str, index: Nth) -> HTMLResponse:
    """Remove a shape."""
    sketching.remove(part_id, index)
    return changed(sketching)
