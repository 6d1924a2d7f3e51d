"""Smears made on the Floor."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Form
from starlette.responses import HTMLResponse

from gaitwire.services.scene.smears import Smear, SmearKind, smear_parts
from gaitwire.web.routers.floor.answers import FloorGestures, FrameField, LongText, all_wires, read_nodes
from gaitwire.web.routers.shared.forms import number

router = APIRouter(prefix="/floor/{scene_id}/smears")


@router.post("")
def smear(
    floor: FloorGestures, nodes: LongText, frame: FrameField, kind: Annotated[SmearKind, Form()],
    frames: Annotated[str, Form()],
    tail: Annotated[str, Form()], keep: Annotated[str, Form()], hangers: Annotated[bool, Form()] = False,
) -> HTMLResponse:  # fmt: skip
    """Show smears of what is chosen on a frame; `tail` and `keep` in percent."""
    wanted = Smear(kind, number(frames), number(tail) / 100, number(keep) / 100, hangers)
    names = smear_parts(floor, read_nodes(nodes), frame, wanted)
    return all_wires(floor, f"{frame + floor.scene.first_number:.0f} shows {_listed(names)} smeared, for this frame.")


def _listed(names: list[str]) -> str:
    """Names in a few words."""
    return ", ".join(names[:4]) + (f" and {len(names) - 4} more" if len(names) > 4 else "")
