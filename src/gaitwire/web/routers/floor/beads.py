"""Edits of beads: moved, copied, eased, spaced, scaled, staggered."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Annotated

from fastapi import APIRouter, Form
from starlette.responses import HTMLResponse

from gaitwire.core.addresses import Bead, Node
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.scene_tables import TIMED
from gaitwire.services.scene.beads import (
    amplify_beads,
    clear_range,
    copy_beads,
    delete_beads,
    ease_beads,
    hold_for,
    move_beads,
    move_tick,
    reuse_curve,
    reverse_beads,
    scale_beads,
    shape_beads,
    snap_beads,
    space_beads,
    stagger_beads,
)
from gaitwire.services.scene.floor import update_scene
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
def post_move_beads(
    floor: Spreading, beads: LongText, by: Annotated[float, Form(allow_inf_nan=False, ge=-20_000, le=20_000)]
) -> HTMLResponse:
    """Slide beads, around the loop."""
    chosen, before = read_beads(beads), floor.scene
    moved = move_beads(floor, chosen, by)
    if any(getattr(before, t.name) != getattr(floor.scene, t.name) for t in TIMED):
        return all_wires(floor, picked=moved)
    return some_wires(floor, _owners(chosen), moved)


@router.post("/hold-for")
def post_hold_for(
    floor: FloorGestures, beads: LongText, frames: Annotated[float, Form(allow_inf_nan=False, gt=0, le=20_000)]
) -> HTMLResponse:
    """Let stays among some beads hold for so many frames."""
    chosen = read_beads(beads)
    return some_wires(floor, _owners(chosen), hold_for(floor, chosen, frames))


@router.post("/end-here")
def end_here(floor: FloorGestures, beads: LongText) -> HTMLResponse:
    """Let the scene end with the last of some beads; in a loop that frame is then the start again."""
    last = max((b.time for b in read_beads(beads)), default=0.0)
    before = floor.scene
    update_scene(floor, frames=max(1, round(last) + (0 if before.loop else 1)))
    return resized(floor, before)


@router.post("/copy")
def post_copy_beads(floor: FloorGestures, beads: LongText, frame: FrameField) -> HTMLResponse:
    """Duplicate beads at the playhead."""
    chosen = read_beads(beads)
    return some_wires(floor, _owners(chosen), copy_beads(floor, chosen, frame))


@router.post("/delete")
def post_delete_beads(floor: FloorGestures, beads: LongText) -> HTMLResponse:
    """Delete beads."""
    chosen = read_beads(beads)
    delete_beads(floor, chosen)
    return some_wires(floor, _owners(chosen), [])


@router.post("/ease")
def post_ease_beads(floor: FloorGestures, beads: LongText, ease: Annotated[str, Form(max_length=40)]) -> HTMLResponse:
    """Ease all chosen beads in one go."""
    chosen = read_beads(beads)
    ease_beads(floor, chosen, ease)
    return some_wires(floor, _owners(chosen), chosen)


ShareField = Annotated[float, Form(allow_inf_nan=False, ge=-10, le=10)]


@router.post("/shape")
def post_shape_beads(
    floor: FloorGestures, beads: LongText, x1: ShareField, y1: ShareField, x2: ShareField, y2: ShareField
) -> HTMLResponse:
    """Give all chosen beads one free curve."""
    chosen = read_beads(beads)
    shape_beads(floor, chosen, (x1, y1, x2, y2))
    return some_wires(floor, _owners(chosen), chosen)


@router.post("/reuse")
def post_reuse_curve(floor: FloorGestures, beads: LongText, source: LongText) -> HTMLResponse:
    """Give all chosen beads the curve of another."""
    chosen, sources = read_beads(beads), read_beads(source)
    if not sources:
        raise InvalidInputError("No curve was taken yet.", "Choose a bead and take its curve first.")
    reuse_curve(floor, sources[0], chosen)
    return some_wires(floor, _owners(chosen), chosen)


@router.post("/space")
def post_space_beads(floor: FloorGestures, beads: LongText, name: Annotated[str, Form(max_length=40)]) -> HTMLResponse:
    """Give all chosen beads a ready spacing of the in-betweens after them."""
    chosen = read_beads(beads)
    space_beads(floor, chosen, name)
    return some_wires(floor, _owners(chosen), chosen)


@router.post("/tick")
def post_move_tick(
    floor: FloorGestures,
    beads: LongText,
    index: Annotated[int, Form(ge=0, le=20_000)],
    share: Annotated[float, Form(allow_inf_nan=False, ge=-3, le=3)],
) -> HTMLResponse:
    """Put one in-between after the chosen beads elsewhere."""
    chosen = read_beads(beads)
    move_tick(floor, chosen, index, share)
    return some_wires(floor, _owners(chosen), chosen)


@router.post("/scale")
def post_scale_beads(
    floor: Spreading,
    beads: LongText,
    factor: Annotated[float, Form(allow_inf_nan=False, ge=-1000, le=1000)],
    about: FrameField,
    whole: Annotated[bool, Form()] = True,
) -> HTMLResponse:
    """Draw beads out in time, or together; the factor is in percent."""
    chosen = read_beads(beads)
    return some_wires(floor, _owners(chosen), scale_beads(floor, chosen, factor / 100, about, whole))


@router.post("/amplify")
def post_amplify_beads(
    floor: FloorGestures, beads: LongText, factor: Annotated[float, Form(allow_inf_nan=False, ge=-10_000, le=10_000)],
    first: Annotated[bool, Form()] = False,
) -> HTMLResponse:  # fmt: skip
    """Draw beads out in value, or turn them to the other side; the factor is in percent."""
    chosen = read_beads(beads)
    amplify_beads(floor, chosen, factor / 100, first)
    return some_wires(floor, _owners(chosen), chosen)


@router.post("/reverse")
def post_reverse_beads(floor: Spreading, beads: LongText) -> HTMLResponse:
    """Turn beads round in time."""
    chosen = read_beads(beads)
    return some_wires(floor, _owners(chosen), reverse_beads(floor, chosen))


@router.post("/stagger")
def post_stagger_beads(floor: Spreading, beads: LongText, by: FrameField) -> HTMLResponse:
    """Slide each wire's beads later than those of the wire above."""
    chosen = read_beads(beads)
    return some_wires(
        floor,
        _owners(chosen),
        stagger_beads(floor, chosen, by, wire_order(floor.scene, floor.workspace.cast(floor.scene))),
    )


@router.post("/snap")
def post_snap_beads(floor: Spreading, beads: LongText) -> HTMLResponse:
    """Put beads on whole frames."""
    chosen = read_beads(beads)
    snap_beads(floor, chosen)
    return some_wires(floor, _owners(chosen), [])


@router.post("/clear")
def post_clear_range(
    floor: FloorGestures, nodes: LongText, start: FrameField, stop: FrameField, hangers: Annotated[bool, Form()] = False
) -> HTMLResponse:
    """Delete all beads of some wires between two frames, and of all that hangs from them."""
    wanted = read_hung(floor, nodes, hangers)
    if not clear_range(floor, wanted, start, stop):
        raise InvalidInputError("There are no beads there.", "Choose other frames or other wires.")
    return all_wires(floor, picked=[])
