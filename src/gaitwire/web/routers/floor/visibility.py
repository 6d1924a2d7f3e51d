"""What is shown on which frames, and what takes the place of what."""

from __future__ import annotations

import re
from typing import Annotated

from fastapi import APIRouter, Form
from starlette.responses import HTMLResponse

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.owners import owner_name
from gaitwire.services.scene.visibility import Span, show_only, swap_nodes
from gaitwire.web.routers.floor.answers import FloorGestures, FrameField, LongText, all_wires, read_nodes
from gaitwire.web.routers.floor.links import later_said

router = APIRouter(prefix="/floor/{scene_id}")

_MOST = 100
"""Spans that can be told at a time."""
_SPAN = re.compile(r"(-?\d{1,6})(?:\s*(?:-|–|to|\.\.)\s*(-?\d{1,6}))?")


def read_spans(text: str, first: int) -> list[Span]:
    """Frames as they are typed, such as 8-21, 40: (first, last) each, counted from 0; raises InvalidInputError."""
    found: list[Span] = []
    for piece in filter(None, (p.strip() for p in re.split(r"[,;]", text))):
        match = _SPAN.fullmatch(piece)
        if match is None or len(found) == _MOST:
            raise InvalidInputError(f"“{piece[:20]}” are no frames.", "Type them as in 8-21, 40, 52-60.")
        start, stop = match.group(1), match.group(2) or match.group(1)
        found.append((float(int(start) - first), float(int(stop) - first)))
    return found


@router.post("/show-only")
def post_show_only(floor: FloorGestures, nodes: LongText, spans: Annotated[str, Form(max_length=2000)]) -> HTMLResponse:
    """Show parts, what bones carry, or whole puppets on some frames only."""
    show_only(floor, read_nodes(nodes), read_spans(spans, floor.scene.first_number))
    return all_wires(floor)


@router.post("/swap")
def swap(floor: FloorGestures, nodes: LongText, other: LongText, frame: FrameField) -> HTMLResponse:
    """From a frame on another part, or another puppet, is shown in the place of one."""
    chosen, instead = read_nodes(nodes), read_nodes(other)
    if len(chosen) != 1 or len(instead) != 1:
        raise InvalidInputError("One thing takes the place of one.", "Choose one part or one puppet.")
    early = swap_nodes(floor, chosen[0], instead[0], frame)
    name = owner_name(floor.scene, floor.workspace.cast(floor.scene), instead[0])
    number = f"{frame + floor.scene.first_number:g}"
    said = f"“{name}” from {number} on{', and not before' if early else ''}."
    later = later_said(floor, {chosen[0][0], instead[0][0]}, frame)
    return all_wires(floor, f"{said} {later}".strip())
