"""Edits of timing: stays, creep, thinning, repeats, offsets over a span, markers."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated

from fastapi import APIRouter, Form
from starlette.responses import HTMLResponse

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.timing.channel import PROPERTIES
from gaitwire.services.scene.timing import (
    close_seams,
    ease_seams,
    find_offset,
    hold_creeps,
    move_marker,
    put_marker,
    put_offsets,
    put_stays,
    put_stays_over,
    remove_marker,
    remove_offset,
    repeat_channels,
    set_offset,
    thin_wires,
)
from gaitwire.web.routers.floor.answers import (
    FloorGestures,
    FrameField,
    LongText,
    all_wires,
    read_hung,
    read_nodes,
    some_wires,
)
from gaitwire.web.templating import plain_number

router = APIRouter(prefix="/floor/{scene_id}")

Typed = Annotated[str, Form(max_length=40)]


def read_number(text: str, what: str) -> float:
    """A typed number; raises InvalidInputError."""
    try:
        number = float(text.replace(",", ".").replace("−", "-"))
    except ValueError:
        raise InvalidInputError(f"“{text[:20]}” is no number for {what}.", "Type a number.") from None
    if not -1e6 < number < 1e6:
        raise InvalidInputError(f"“{text[:20]}” is too far away for {what}.", "Type a smaller number.")
    return number


def numbered(what: str, factor: float = 1.0) -> Callable[[str], float]:
    """How a field that holds a number is read, in the unit that is shown."""
    return lambda text: read_number(text, what) * factor


def _count(number: int, what: str) -> str:
    return f"{number} {what}{'' if number == 1 else 's'}"


@router.post("/stay")
def stay(floor: FloorGestures, nodes: LongText, frame: FrameField) -> HTMLResponse:
    """Hold what is chosen until a frame."""
    wanted = read_nodes(nodes)
    held = put_stays(floor, wanted, frame)
    return some_wires(floor, wanted, remark=f"{_count(held, 'channel')} held until here.")


@router.post("/stay-over")
def stay_over(floor: FloorGestures, nodes: LongText, start: FrameField, stop: FrameField) -> HTMLResponse:
    """Hold what is chosen over a span."""
    wanted = read_nodes(nodes)
    put_stays_over(floor, wanted, start, stop)
    return some_wires(floor, wanted)


@router.post("/hold-creeps")
def post_hold_creeps(floor: FloorGestures, nodes: LongText = "") -> HTMLResponse:
    """Put in the stays that keep creeping bones still."""
    held = hold_creeps(floor, read_nodes(nodes) if nodes else None)
    return all_wires(floor, f"{_count(held, 'channel')} held until the move.")


@router.post("/thin")
def thin(
    floor: FloorGestures, nodes: LongText, allowed: Typed = "0", hangers: Annotated[bool, Form()] = False
) -> HTMLResponse:
    """Take out keys that change nothing, or no more than is allowed."""
    found = thin_wires(floor, read_hung(floor, nodes, hangers), read_number(allowed, "the error"))
    if not found.keys:
        return all_wires(floor, "Every key is needed: nothing was taken out.")
    worst = f"the greatest error is {plain_number(found.error, 3)} {found.prop}"
    return all_wires(floor, f"{_count(found.keys, 'key')} taken out; {worst}.", [])


@router.post("/repeat")
def repeat(
    floor: FloorGestures, nodes: LongText, kind: Typed = "", start: Typed = "", stop: Typed = ""
) -> HTMLResponse:
    """Let what is chosen repeat, or no more."""
    wanted = read_nodes(nodes)
    first = floor.scene.first_number
    ends = [read_number(text, "a frame") - first if text.strip() else None for text in (start, stop)]
    repeat_channels(floor, wanted, kind, *ends)
    return some_wires(floor, wanted)


@router.post("/close-seams")
def post_close_seams(floor: FloorGestures, nodes: LongText = "") -> HTMLResponse:
    """Let what is chosen, or everything, end as it begins."""
    closed = close_seams(floor, read_nodes(nodes) if nodes else None)
    return all_wires(floor, f"{_count(closed, 'channel')} closed.")


@router.post("/close-seams/{instance_id}/{owner_id}")
def close_seams_of(floor: FloorGestures, instance_id: str, owner_id: str) -> HTMLResponse:
    """Let one bone end as it begins."""
    closed = close_seams(floor, [(instance_id, owner_id)])
    return all_wires(floor, f"{_count(closed, 'channel')} closed.")


@router.post("/ease-seams")
def post_ease_seams(floor: FloorGestures, over: Typed, nodes: LongText = "") -> HTMLResponse:
    """Bring what jumps at the loop's end to its start over the last frames; keys stay as they are."""
    eased = ease_seams(floor, read_nodes(nodes) if nodes else None, read_number(over, "a length"))
    return all_wires(floor, f"{_count(eased, 'channel')} eased closed: offsets on their cards, no key was changed.")


@router.post("/offsets/put")
def put_offset(
    floor: FloorGestures, nodes: LongText, prop: Typed, amount: Typed, start: Typed, stop: Typed,
    soft_in: Typed = "0", soft_out: Typed = "0",
) -> HTMLResponse:  # fmt: skip
    """Lay an amount on what is chosen over a span."""
    wanted = read_nodes(nodes)
    if not wanted:
        raise InvalidInputError("Nothing is chosen to offset.", "Choose some bones first.")
    first = floor.scene.first_number
    span = {
        "start": read_number(start, "the start") - first, "stop": read_number(stop, "the end") - first,
        "soft_in": read_number(soft_in, "the soft start"), "soft_out": read_number(soft_out, "the soft end"),
    }  # fmt: skip
    shown = PROPERTIES[floor.owner_kind(*wanted[0])].get(prop)
    value = read_number(amount, "the amount") / (shown.display if shown else 1.0)
    put_offsets(floor, wanted, {"property": prop, "amount": value, **span})
    return some_wires(floor, wanted)


@router.post("/offsets/{offset_id}/set")
def post_set_offset(floor: FloorGestures, offset_id: str, field: Typed, value: Typed) -> HTMLResponse:
    """Change one number of an offset over a span."""
    if field not in ("start", "stop", "soft_in", "soft_out", "amount"):
        raise InvalidInputError(f"“{field}” cannot be set here.")
    found = find_offset(floor, offset_id)
    number = read_number(value, field.replace("_", " "))
    if field in ("start", "stop"):
        number -= floor.scene.first_number
    elif field == "amount":
        number /= PROPERTIES[found.owner_kind][found.property].display
    set_offset(floor, offset_id, {field: number})
    return some_wires(floor, [(found.instance_id, found.owner_id)])


@router.post("/offsets/{offset_id}/remove")
def post_remove_offset(floor: FloorGestures, offset_id: str) -> HTMLResponse:
    """Take an offset over a span away."""
    found = find_offset(floor, offset_id)
    remove_offset(floor, offset_id)
    return some_wires(floor, [(found.instance_id, found.owner_id)])


@router.post("/markers/put")
def post_put_marker(floor: FloorGestures, frame: FrameField, name: Annotated[str, Form(max_length=80)]) -> HTMLResponse:
    """Name a frame."""
    put_marker(floor, frame, name)
    return all_wires(floor)


@router.post("/markers/{marker_id}/move")
def post_move_marker(floor: FloorGestures, marker_id: str, frame: FrameField) -> HTMLResponse:
    """Put a marker on another frame."""
    move_marker(floor, marker_id, max(0.0, frame))
    return all_wires(floor)


@router.post("/markers/{marker_id}/remove")
def post_remove_marker(floor: FloorGestures, marker_id: str) -> HTMLResponse:
    """Take a marker away."""
    remove_marker(floor, marker_id)
    return all_wires(floor)
