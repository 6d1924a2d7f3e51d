"""Edits of beads: moved, copied, eased, spaced, scaled, staggered."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Annotated

from fastapi import APIRouter, Form
from starlette.responses import HTMLResponse

from gaitwire.core.addresses import Bead, Node
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.scene_tables import TIMED
from gaitwire.services.views.wires import wire_order
from gaitwire.web.routers.floor.answers import (
    FloorGestures,
    FrameField,
    LongText,
    Spreading,
    all_wires,
    read_beads,
    read_hung,
    resized,
    some_wires,
)

router = APIRouter(prefix="/floor/{scene_id}/beads")


def _owners(beads: Iterable[Bead]) -> set[Node]:
    return {(b.instance_id, b.owner_id) for b in beads}


@router.post("/move")
def move_beads(
    floor: Spreading, beads: LongText, by: Annotated[float, Form(allow_inf_nan=False, ge=-20_000, le=20_000)]
) -> HTMLResponse:
    """Slide beads, around the loop."""
    chosen, before = read_beads(beads), floor.scene
    moved = floor.move_beads(chosen, by)
    if any(getattr(before, t.name) != getattr(floor.scene, t.name) for t in TIMED):
        return all_wires(floor, picked=moved)
    return some_wires(floor, _owners(chosen), moved)


@router.post("/hold-for")
def hold_for(
    floor: FloorGestures, beads: LongText, frames: Annotated[float, Form(allow_inf_nan=False, gt=0, le=20_000)]
) -> HTMLResponse:
    """Let stays among some beads hold for so many frames."""
    chosen = read_beads(beads)
    return some_wires(floor, _owners(chosen), floor.hold_for(chosen, frames))


@router.post("/end-here")
def end_here(floor: FloorGestures, beads: LongText) -> HTMLResponse:
    """Let the scene end with the last of some beads; in a loop that frame is then the start again."""
    last = max((b.time for b in read_beads(beads)), default=0.0)
    before = floor.scene
    floor.update(frames=max(1, round(last) + (0 if before.loop else 1)))
    return resized(floor, before)


@router.post("/copy")
def copy_beads(floor: FloorGestures, beads: LongText, frame: FrameField) -> HTMLResponse:
    """Duplicate beads at the playhead."""
    chosen = read_beads(beads)
    return some_wires(floor, _owners(chosen), floor.copy_beads(chosen, frame))


@router.post("/delete")
def delete_beads(floor: FloorGestures, beads: LongText) -> HTMLResponse:
    """Delete beads."""
    chosen = read_beads(beads)
    floor.delete_beads(chosen)
    return some_wires(floor, _owners(chosen), [])


@router.post("/ease")
def ease_beads(floor: FloorGestures, beads: LongText, ease: Annotated[str, Form(max_length=40)]) -> HTMLResponse:
    """Ease all chosen beads in one go."""
    chosen = read_beads(beads)
    floor.ease_beads(chosen, ease)
    return some_wires(floor, _owners(chosen), chosen)


ShareField = Annotated[float, Form(allow_inf_nan=False, ge=-10, le=10)]


@router.post("/shape")
def shape_beads(
    floor: FloorGestures, beads: LongText, x1: ShareField, y1: ShareField, x2: ShareField, y2: ShareField
) -> HTMLResponse:
    """Give all chosen beads one free curve."""
    chosen = read_beads(beads)
    floor.shape_beads(chosen, (x1, y1, x2, y2))
    return some_wires(floor, _owners(chosen), chosen)


@router.post("/reuse")
def reuse_curve(floor: FloorGestures, beads: LongText, source: LongText) -> HTMLResponse:
    """Give all chosen beads the curve of another."""
    chosen, sources = read_beads(beads), read_beads(source)
    if not sources:
        raise InvalidInputError("No curve was taken yet.", "Choose a bead and take its curve first.")
    floor.reuse_curve(sources[0], chosen)
    return some_wires(floor, _owners(chosen), chosen)


@router.post("/space")
def space_beads(floor: FloorGestures, beads: LongText, name: Annotated[str, Form(max_length=40)]) -> HTMLResponse:
    """Give all chosen beads a ready spacing of the in-betweens after them."""
    chosen = read_beads(beads)
    floor.space_beads(chosen, name)
    return some_wires(floor, _owners(chosen), chosen)


@router.post("/tick")
def move_tick(
    floor: FloorGestures,
    beads: LongText,
    index: Annotated[int, Form(ge=0, le=20_000)],
    share: Annotated[float, Form(allow_inf_nan=False, ge=-3, le=3)],
) -> HTMLResponse:
    """Put one in-between after the chosen beads elsewhere."""
    chosen = read_beads(beads)
    floor.move_tick(chosen, index, share)
    return some_wires(floor, _owners(chosen), chosen)


@router.post("/scale")
def scale_beads(
    floor: Spreading,
    beads: LongText,
    factor: Annotated[float, Form(allow_inf_nan=False, ge=-1000, le=1000)],
    about: FrameField,
    whole: Annotated[bool, Form()] = True,
) -> HTMLResponse:
    """Draw beads out in time, or together; the factor is in percent."""
    chosen = read_beads(beads)
    return some_wires(floor, _owners(chosen), floor.scale_beads(chosen, factor / 100, about, whole))


@router.post("/amplify")
def amplify_beads(
    floor: FloorGestures, beads: LongText, factor: Annotated[float, Form(allow_inf_nan=False, ge=-10_000, le=10_000)],
    first: Annotated[bool, Form()] = False,
) -> HTMLResponse:  # fmt: skip
    """Draw beads out in value, or turn them to the other side; the factor is in percent."""
    chosen = read_beads(beads)
    floor.amplify_beads(chosen, factor / 100, first)
    return some_wires(floor, _owners(chosen), chosen)


@router.post("/reverse")
def reverse_beads(floor: Spreading, beads: LongText) -> HTMLResponse:
    """Turn beads round in time."""
    chosen = read_beads(beads)
    return some_wires(floor, _owners(chosen), floor.reverse_beads(chosen))


@router.post("/stagger")
def stagger_beads(floor: Spreading, beads: LongText, by: FrameField) -> HTMLResponse:
    """Slide each wire's beads later than those of the wire above."""
    chosen = read_beads(beads)
    return some_wires(
        floor,
        _owners(chosen),
        floor.stagger_beads(chosen, by, wire_order(floor.scene, floor.workspace.cast(floor.scene))),
    )


@router.post("/snap")
def snap_beads(floor: Spreading, beads: LongText) -> HTMLResponse:
    """Put beads on whole frames."""
    chosen = read_beads(beads)
    floor.snap_beads(chosen)
    return some_wires(floor, _owners(chosen), [])


@router.post("/clear")
def clear_range(
    floor: FloorGestures, nodes: LongText, start: FrameField, stop: FrameField, hangers: Annotated[bool, Form()] = False
) -> HTMLResponse:
    """Delete all beads of some wires between two frames, and of all that hangs from them."""
    wanted = read_hung(floor, nodes, hangers)
    if not floor.clear_range(wanted, start, stop):
        raise InvalidInputError("There are no beads there.", "Choose other frames or other wires.")
    return all_wires(floor, picked=[])
