"""Hops planned on the Floor."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Form
from pydantic import TypeAdapter, ValidationError
from starlette.responses import HTMLResponse

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.motion.hop import Hop
from gaitwire.services.scene.hops import HOP_FIELDS, plan_hop
from gaitwire.services.session.revising import revised
from gaitwire.web.routers.floor.answers import FloorGestures, FrameField, LongText, all_wires
from gaitwire.web.routers.shared.forms import number

router = APIRouter(prefix="/floor/{scene_id}/hops")

_SAID: TypeAdapter[dict[str, str]] = TypeAdapter(dict[str, str])


@router.post("/plan")
def plan(floor: FloorGestures, instance: Annotated[str, Form()], frame: FrameField, settings: LongText) -> HTMLResponse:
    """Write the keys of a hop from a frame on."""
    try:
        said = _SAID.validate_json(settings)
    except ValidationError:
        raise InvalidInputError("These settings could not be read.", "Type them again.") from None
    hop = revised(Hop(), {f.name: number(said[f.name]) / f.factor for f in HOP_FIELDS if f.name in said})
    found = plan_hop(floor, instance, frame, hop)
    first = floor.scene.first_number
    gravity = found.gravity * float(floor.scene.rate) ** 2
    return all_wires(
        floor,
        f"{found.keys} keys: it leaves the ground on {found.off + first:.0f}, touches down on {found.down + first:.0f}"
        f" and stands on {found.end + first:.0f}; gravity is {gravity:.0f} px/s².",
    )
