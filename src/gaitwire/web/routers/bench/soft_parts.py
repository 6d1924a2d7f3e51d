"""The Bench's soft parts, pins, limbs and replacements."""

from __future__ import annotations

from typing import Annotated, Literal

from fastapi import APIRouter, Depends, Form, Query, UploadFile
from pydantic import TypeAdapter, ValidationError
from starlette.responses import HTMLResponse, JSONResponse

from gaitwire.core.bounds import Place
from gaitwire.core.errors import InvalidInputError
from gaitwire.services.rig.drawings import Drawings
from gaitwire.services.rig.limbs import Limbs
from gaitwire.services.rig.soft_parts import Softening
from gaitwire.web.context import Revision, Space, on_puppet
from gaitwire.web.routers.bench.page import changed
from gaitwire.web.routers.shared.forms import (
    Axis,
    Coordinate,
    Field,
    Ids,
    Nth,
    Readers,
    TypedValue,
    flag,
    id_or_none,
    number,
    percent,
    read_field,
    read_ids,
    read_upload,
)

router = APIRouter(prefix="/bench/{puppet_id}")


def _limbs(workspace: Space, puppet_id: str, revision: Revision = None) -> Limbs:
    return Limbs(workspace, puppet_id, revision)


def _drawings(workspace: Space, puppet_id: str, revision: Revision = None) -> Drawings:
    return Drawings(workspace, puppet_id, revision)


Soft = Annotated[Softening, Depends(on_puppet(Softening))]
LimbGestures = Annotated[Limbs, Depends(_limbs)]
DrawingGestures = Annotated[Drawings, Depends(_drawings)]


@router.post("/parts/soften")
def soften(soft: Soft, ids: Ids) -> HTMLResponse:
    """Make parts soft."""
    soft.soften(read_ids(ids))
    return changed(soft)


@router.post("/parts/harden")
def harden(soft: Soft, ids: Ids) -> HTMLResponse:
    """Make parts rigid."""
    soft.harden(read_ids(ids))
    return changed(soft)


@router.post("/parts/{part_id}/bends")
def bends(soft: Soft, part_id: str, bones: Ids = "") -> HTMLResponse:
    """Set the bones that bend a part besides its own."""
    soft.bend_with(part_id, read_ids(bones))
    return changed(soft)


@router.get("/parts/{part_id}/heat.json")
def heat(soft: Soft, part_id: str, bone: Annotated[str, Query()]) -> JSONResponse:
    """How much a bone holds of a soft part, over its mesh."""
    return JSONResponse(soft.heat(part_id, bone)._asdict(), headers={"Cache-Control": "no-store"})


_DABS: TypeAdapter[list[tuple[float, float]]] = TypeAdapter(list[tuple[Place, Place]])


@router.post("/parts/{part_id}/brush")
def brush(
    soft: Soft,
    part_id: str,
    bone: Annotated[str, Form()],
    dabs: Annotated[str, Form(max_length=100_000)],
    radius: Annotated[float, Form(gt=0, le=2000)],
    amount: Annotated[float, Form(ge=-1, le=1)],
) -> HTMLResponse:
    """Brush a bone's hold on a part."""
    try:
        points = _DABS.validate_json(dabs)
    except ValidationError:
        raise InvalidInputError("This stroke could not be read.", "Brush again.") from None
    soft.brush(part_id, bone, points, radius, amount)
    return changed(soft)


@router.post("/parts/unbrush")
def unbrush(soft: Soft, ids: Ids) -> HTMLResponse:
    """Back to the weights that the bones' places give."""
    soft.unbrush(read_ids(ids))
    return changed(soft)


@router.post("/pins/add")
def add_pin(
    soft: Soft,
    part: Annotated[str, Form()],
    kind: Annotated[Literal["lead", "anchor"], Form()],
    x: Coordinate,
    y: Coordinate,
    axis: Axis = None,
) -> HTMLResponse:
    """Place a pin, and its twin if asked."""
    return changed(soft, made=",".join(soft.place_pin(part, kind, x, y, axis)))


@router.post("/pins/{pin_id}/move")
def move_pin(soft: Soft, pin_id: str, x: Coordinate, y: Coordinate, axis: Axis = None) -> HTMLResponse:
    """Put a pin on another point of the art."""
    soft.move_pin(pin_id, x, y, axis)
    return changed(soft)


_PIN_FIELDS: Readers = {
    "name": str, "kind": str, "bone_id": id_or_none, "x": number, "y": number, "holds_turn": flag,
    "stiffness": percent, "hidden": flag,
}  # fmt: skip


@router.post("/pins/set")
def set_pins(soft: Soft, ids: Ids, field: Field, value: TypedValue) -> HTMLResponse:
    """Set one field of several pins."""
    soft.set_pins(read_ids(ids), read_field(_PIN_FIELDS, field, value))
    return changed(soft)


@router.post("/pins/remove")
def remove_pins(soft: Soft, ids: Ids) -> HTMLResponse:
    """Remove pins."""
    soft.remove_pins(read_ids(ids))
    return changed(soft)


@router.post("/limbs/add")
def add_limb(limbs: LimbGestures, tip: Annotated[str, Form()]) -> HTMLResponse:
    """A limb that ends at a bone."""
    return changed(limbs, made=limbs.add(tip))


@router.post("/limbs/all")
def add_limbs(limbs: LimbGestures) -> HTMLResponse:
    """A limb for every hand and foot without one."""
    count = limbs.add_all()
    return changed(limbs, f"{count} limb{'' if count == 1 else 's'} made.")


_LIMB_FIELDS: Readers = {
    "name": str, "bend": lambda text: int(number(text)), "count": lambda text: int(number(text)), "stretch": percent,
    "softness": percent, "whole": flag, "steady": flag,
}  # fmt: skip


@router.post("/limbs/{limb_id}/set")
def set_limb(limbs: LimbGestures, limb_id: str, field: Field, value: TypedValue) -> HTMLResponse:
    """Set one field of a limb."""
    limbs.update(limb_id, read_field(_LIMB_FIELDS, field, value))
    return changed(limbs)


@router.post("/limbs/{limb_id}/remove")
def remove_limb(limbs: LimbGestures, limb_id: str) -> HTMLResponse:
    """Remove a limb; its bones stay."""
    limbs.remove(limb_id)
    return changed(limbs)


@router.post("/parts/{part_id}/drawings/{source}")
def add_drawing(drawings: DrawingGestures, part_id: str, source: Literal["copy", "empty"]) -> HTMLResponse:
    """One more drawing: a copy of the one shown, or an empty one."""
    number_ = drawings.copy(part_id) if source == "copy" else drawings.add_empty(part_id)
    return changed(drawings, made=str(number_))


@router.post("/parts/{part_id}/take-drawing")
def take_drawing(
    drawings: DrawingGestures, part_id: str, other: Annotated[str, Form()], keep: Annotated[bool, Form()] = False
) -> HTMLResponse:
    """The drawing of another part, which goes unless it is kept."""
    return changed(drawings, made=str(drawings.take(part_id, other, keep)))


@router.post("/parts/{part_id}/drawing-file")
def drawing_file(drawings: DrawingGestures, part_id: str, file: UploadFile) -> HTMLResponse:
    """A drawing from a file."""
    return changed(drawings, made=str(drawings.add_file(part_id, read_upload(file), file.filename or "drawing")))


@router.post("/parts/{part_id}/drawing/{number_}")
def change_drawing(
    drawings: DrawingGestures, part_id: str, number_: Nth, act: Annotated[str, Form()], value: TypedValue = ""
) -> HTMLResponse:
    """Show, move, rename or remove one of a part's drawings."""
    if act == "show":
        drawings.show(part_id, number_)
    elif act == "step":
        drawings.step(part_id, number_, int(number(value)))
    elif act == "name":
        drawings.rename(part_id, number_, value)
    elif act == "remove":
        drawings.remove(part_id, [number_])
    else:
        raise InvalidInputError(f"A drawing cannot be “{act}”.")
    return changed(drawings)
