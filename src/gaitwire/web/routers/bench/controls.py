"""Bend fixes, pads and gauges on the Bench."""

from __future__ import annotations

from typing import Annotated, Literal, cast

from fastapi import APIRouter, Depends, Form
from pydantic import TypeAdapter, ValidationError
from starlette.responses import HTMLResponse, JSONResponse

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.puppet.controls import CORRECTED, Reshape, Row
from gaitwire.services.rig.corrective_shapes import RowOwner
from gaitwire.services.rig.mirrored_shapes import Reflected, Reflecting
from gaitwire.web.context import Revision, Space
from gaitwire.web.routers.bench.page import changed
from gaitwire.web.routers.shared.forms import (
    Field,
    Ids,
    Readers,
    StepsField,
    TypedValue,
    flag,
    number,
    number_or_none,
    read_field,
    read_ids,
)

router = APIRouter(prefix="/bench/{puppet_id}")


def _work(workspace: Space, puppet_id: str, revision: Revision = None) -> Reflecting:
    return Reflecting(workspace, puppet_id, revision)


CorrectiveGestures = Annotated[Reflecting, Depends(_work)]
DegreesField = Annotated[float, Form(allow_inf_nan=False, ge=-720, le=720)]
BenchText = Annotated[str, Form(max_length=400_000)]

_ROWS: TypeAdapter[list[Row]] = TypeAdapter(list[Row])
_RESHAPES: TypeAdapter[list[Reshape]] = TypeAdapter(list[Reshape])
_OWNERS: TypeAdapter[list[tuple[str, str]]] = TypeAdapter(list[tuple[str, str]])


@router.post("/fixes/add")
def add_fix(work: CorrectiveGestures, bone: Annotated[str, Form()], angle: DegreesField) -> HTMLResponse:
    """A bend fix of a joint at an angle, to be corrected."""
    return changed(work, made=work.add_fix(bone, angle))


@router.post("/controls/add")
def add_control(
    work: CorrectiveGestures,
    kind: Annotated[Literal["pad", "gauge"], Form()],
    name: Annotated[str, Form(max_length=80)] = "",
) -> HTMLResponse:
    """A pad or a gauge with nothing on it."""
    return changed(work, made=work.add_control(kind, name))


@router.post("/controls/remove")
def remove_controls(work: CorrectiveGestures, ids: Ids) -> HTMLResponse:
    """Remove controls with all that they hold."""
    work.remove_controls(read_ids(ids))
    return changed(work)


_CONTROL_FIELDS: Readers = {"name": str, "wraps": flag}


@router.post("/controls/{control_id}/set")
def set_control(work: CorrectiveGestures, control_id: str, field: Field, value: TypedValue) -> HTMLResponse:
    """Rename a control, or let a pad go round."""
    work.set_control(control_id, read_field(_CONTROL_FIELDS, field, value))
    return changed(work)


@router.post("/controls/{control_id}/step")
def step_control(work: CorrectiveGestures, control_id: str, steps: StepsField) -> HTMLResponse:
    """Move a control in the list."""
    work.step_control(control_id, steps)
    return changed(work)


@router.post("/controls/{control_id}/mirror")
def mirror(
    work: CorrectiveGestures, control_id: str, across: Annotated[Literal["", "true", "false"], Form()] = ""
) -> HTMLResponse:
    """A bend fix on the joint of the other side."""
    found = work.mirror_fix(control_id, None if across == "" else across == "true")
    return changed(work, _said(found, "The other side has it too"))


@router.post("/controls/{control_id}/reflect")
def reflect(work: CorrectiveGestures, control_id: str, ids: Ids = "") -> HTMLResponse:
    """The other half of a pad, or some places of it."""
    found = work.reflect(control_id, read_ids(ids))
    return changed(work, _said(found, f"{found.entries} place{'' if found.entries == 1 else 's'} on the other half"))


def _said(found: Reflected, done: str) -> str:
    return f"{done}; nothing there for {', '.join(found.lost)}." if found.lost else f"{done}."


@router.post("/controls/{control_id}/entries/add")
def add_entry(
    work: CorrectiveGestures,
    control_id: str,
    x: DegreesField,
    y: DegreesField = 0.0,
    name: Annotated[str, Form(max_length=80)] = "",
) -> HTMLResponse:
    """A place on a control, which begins with what is seen there."""
    return changed(work, made=work.add_entry(control_id, x, y, name))


_ENTRY_FIELDS: Readers = {"name": str, "x": number, "y": number}


@router.post("/entries/remove")
def remove_entries(work: CorrectiveGestures, ids: Ids) -> HTMLResponse:
    """Forget places."""
    work.remove_entries(read_ids(ids))
    return changed(work)


@router.post("/entries/{entry_id}/set")
def set_entry(work: CorrectiveGestures, entry_id: str, field: Field, value: TypedValue) -> HTMLResponse:
    """Name a place, or put it elsewhere."""
    work.set_entry(entry_id, read_field(_ENTRY_FIELDS, field, value))
    return changed(work)


@router.post("/entries/{entry_id}/place")
def place_entry(work: CorrectiveGestures, entry_id: str, x: DegreesField, y: DegreesField = 0.0) -> HTMLResponse:
    """Put a place elsewhere."""
    work.set_entry(entry_id, {"x": x, "y": y})
    return changed(work)


@router.post("/entries/{entry_id}/rows")
def put_rows(
    work: CorrectiveGestures, entry_id: str, rows: BenchText = "[]", reshapes: BenchText = "[]"
) -> HTMLResponse:
    """What a drag has come to."""
    try:
        found = _ROWS.validate_json(rows), _RESHAPES.validate_json(reshapes)
    except ValidationError:
        raise InvalidInputError("This gesture could not be read.", "Do it again.") from None
    work.put_rows(entry_id, *found)
    return changed(work)


@router.post("/entries/{entry_id}/value")
def set_value(
    work: CorrectiveGestures, entry_id: str, owners: BenchText, field: Field, value: TypedValue
) -> HTMLResponse:
    """A typed value of some parts, pins or bones; empty: as at rest."""
    work.set_value(entry_id, _owners(owners), field, number_or_none(value))
    return changed(work)


@router.post("/entries/{entry_id}/clear")
def clear(work: CorrectiveGestures, entry_id: str, owners: BenchText) -> HTMLResponse:
    """Forget what a place says of some parts, pins or bones."""
    work.clear(entry_id, [owner for _, owner in _owners(owners)])
    return changed(work)


@router.post("/entries/{entry_id}/order")
def step_order(work: CorrectiveGestures, entry_id: str, owners: BenchText, steps: StepsField) -> HTMLResponse:
    """Parts by places further to the front there, or back."""
    work.step_order(entry_id, [owner for kind, owner in _owners(owners) if kind == "part"], steps)
    return changed(work)


def _owners(text: str) -> list[RowOwner]:
    try:
        found = _OWNERS.validate_json(text)
    except ValidationError:
        raise InvalidInputError("What was chosen could not be read.", "Choose again.") from None
    return [cast(RowOwner, owner) for owner in found if owner[0] in CORRECTED]


@router.get("/entries/{entry_id}/anchors/{part_id}.json")
def anchors(work: CorrectiveGestures, entry_id: str, part_id: str) -> JSONResponse:
    """The points of a part as it stands at a place."""
    return JSONResponse(work.anchors(entry_id, part_id), headers={"Cache-Control": "no-store"})
