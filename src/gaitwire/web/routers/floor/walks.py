"""Walks beneath a puppet's keys, and as keys."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Annotated, Any, get_args

from fastapi import APIRouter, Form, Query
from pydantic import TypeAdapter, ValidationError
from starlette.responses import HTMLResponse

from gaitwire.core import bounds
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.walk.card import GaitCard
from gaitwire.core.walk.mixing import mixed_card
from gaitwire.services.gait.gait_cards import card_at
from gaitwire.services.rig.walk_readiness import mend_for_walk
from gaitwire.services.scene.rides import record_setting
from gaitwire.services.scene.rolls import put_roll, remove_roll
from gaitwire.services.scene.turns import remove_turn, set_turn, turn_back, turn_round
from gaitwire.services.scene.walk_keys import put_walk
from gaitwire.services.scene.walks import (
    Density,
    find_gait,
    make_walks_own,
    put_gait,
    reach_scene_end,
    remove_gait,
    set_gait,
)
from gaitwire.services.scene.weight import weigh_down
from gaitwire.web.routers.floor.answers import FloorGestures, FrameField, LongText, all_wires, read_nodes
from gaitwire.web.routers.floor.timing import Typed, numbered, read_number
from gaitwire.web.routers.shared.forms import flag, read_field
from gaitwire.web.templating import urls

WHOLE = 1e-3
"""Share of a stride by which a loop may miss a whole number of them."""

router = APIRouter(prefix="/floor/{scene_id}")


@router.post("/walk/{instance_id}")
def write_walk(
    floor: FloorGestures,
    instance_id: str,
    card: Annotated[str, Form(max_length=60)],
    start: Typed,
    stop: Typed,
    travels: Annotated[bool, Form()] = False,
    other: Annotated[str, Form(max_length=60)] = "",
    share: Typed = "0",
    layer: Annotated[bool, Form()] = False,
) -> HTMLResponse:
    """Walk a puppet as a gait card says, or a mix of two, from one frame to another as the scene numbers them."""
    walk = card_at(floor.workspace, card)
    if other:
        walk = mixed_card(walk, card_at(floor.workspace, other), read_number(share, "a share") / 100)
    begin, end = (read_number(text, "a frame") - floor.scene.first_number for text in (start, stop))
    if layer:
        made = put_gait(floor, instance_id, walk, begin, end, travels)
        said, act = _strides(floor, walk, begin, end, made)
        return all_wires(floor, said + _open(floor, walk, begin, end, travels), act=act)
    found = put_walk(floor, instance_id, walk, begin, end, travels)
    said = f"{found.strides:.2f} strides, {found.keys} keys.{_shorter(found.shortened)}"
    return all_wires(floor, said + _open(floor, walk, begin, end, travels))


def _strides(
    floor: FloorGestures, walk: GaitCard, begin: float, end: float, gait_id: str
) -> tuple[str, tuple[str, str] | None]:
    """How many strides were laid; where they are not whole, how many frames it would take, and how to have that."""
    around = floor.scene.loop and end >= floor.scene.frames - 1  # the start comes after the last frame
    count = (end - begin + around) / walk.frames
    whole = max(1, round(count))
    stop = begin + whole * walk.frames
    if abs(count - whole) <= WHOLE or stop > floor.scene.frames or not float(stop).is_integer():
        return f"{count:.2f} strides.", None
    first = floor.scene.first_number
    said = f"{count:.2f} strides; {whole} take {whole * walk.frames:g} frames, to {stop + first:g}."
    return said, (urls.floor(floor.scene_id, f"walks/whole?gait={gait_id}&stop={stop:g}"), f"make it {whole}")


def _shorter(stride: float | None) -> str:
    return "" if stride is None else f" The stride is {stride:.2f} legs: longer ones are out of reach."


def _open(floor: FloorGestures, walk: GaitCard, begin: float, end: float, travels: bool) -> str:
    """What is to be told where a loop's end does not meet its start."""
    rounds = (end - begin + 1) / walk.frames
    if not floor.scene.loop or travels or abs(rounds - round(rounds)) <= WHOLE:
        return ""
    return f" The loop's end does not meet its start: a stride takes {walk.frames:g} frames."


_FIELDS: Mapping[str, Callable[[str], Any]] = {
    "start": numbered("a frame"), "stop": numbered("a frame"), "begins": numbered("a share", 0.01), "travels": flag,
    "slope": numbered("a slope"), "pace": str, "stands_before": flag,
}  # fmt: skip


@router.post("/walks/{gait_id}/set")
def set_walk(floor: FloorGestures, gait_id: str, field: Typed, value: Typed) -> HTMLResponse:
    """Change where a walk begins and ends, or whether it travels; or its card, by name."""
    if field == "card":
        values: dict[str, Any] = {"card": card_at(floor.workspace, value)}
    else:
        values = read_field(_FIELDS, field, value)
        for name in {"start", "stop"} & values.keys():
            values[name] -= floor.scene.first_number
    found = set_gait(floor, gait_id, values)
    return all_wires(floor, told_beyond(found.beyond) + _shorter(found.shortened))


def told_beyond(beads: int) -> str:
    """What is to be told of edits that no longer fit."""
    if not beads:
        return ""
    return f"{beads} edited bead{'' if beads == 1 else 's'} lie{'s' if beads == 1 else ''} beyond the walk's end now."


_PLACES: TypeAdapter[list[tuple[float, float]]] = TypeAdapter(list[tuple[bounds.Frame, bounds.Value]])


@router.post("/walks/{gait_id}/ride")
def ride_setting(floor: FloorGestures, gait_id: str, setting: Typed, places: LongText) -> HTMLResponse:
    """Record how a hand turned a walk's setting while the scene played: (frame, shown value) in turn."""
    try:
        seen = _PLACES.validate_json(places)
    except ValidationError:
        raise InvalidInputError("This ride could not be read.", "Ride again.") from None
    found = record_setting(floor, find_gait(floor, gait_id), setting, seen)
    return all_wires(floor, f"{found.keys} keys, within {found.error:.2f} {found.unit} of the hand.")


@router.post("/walks/ready/{instance_id}")
def make_ready(floor: FloorGestures, instance_id: str, remedy: Typed) -> HTMLResponse:
    """Mend what a puppet lacks for a walk."""
    mend_for_walk(floor.workspace, floor.instance(instance_id).puppet_id, remedy)
    return all_wires(floor, "Mended on its Bench, in all scenes; undo there takes it back.")


@router.post("/walks/whole")
def make_whole(
    floor: FloorGestures, gait: Annotated[str, Query(max_length=80)],
    stop: Annotated[float, Query(allow_inf_nan=False, ge=-bounds.LATEST, le=bounds.LATEST)],
) -> HTMLResponse:  # fmt: skip
    """Let a walk end on a frame with which it has whole strides."""
    set_gait(floor, gait, {"stop": stop})
    return all_wires(floor)


@router.post("/walks/reach-end")
def reach_end(floor: FloorGestures, ids: Annotated[str, Query(max_length=4000)]) -> HTMLResponse:
    """Let walks that ended where the scene did go on to its end."""
    reach_scene_end(floor, ids.split(","))
    return all_wires(floor)


@router.post("/walks/{gait_id}/remove")
def remove_walk(floor: FloorGestures, gait_id: str) -> HTMLResponse:
    """Take a walk away."""
    remove_gait(floor, gait_id)
    return all_wires(floor, "The walk was taken away; keys that lay on it stay.")


@router.post("/walk/{instance_id}/weigh")
def weigh(floor: FloorGestures, instance_id: str, dip: Typed, lean: Typed) -> HTMLResponse:
    """Give a keyed walk weight: dips and rises by percent of a leg, and a lean by degrees."""
    beats = weigh_down(floor, instance_id, read_number(dip, "a dip"), read_number(lean, "a lean"))
    steps = sum(b.name == "contact" for b in beats)
    return all_wires(floor, f"Weight on {steps} contact{'' if steps == 1 else 's'}, {len(beats)} frames keyed.")


@router.post("/turn/{instance_id}")
def post_turn_round(
    floor: FloorGestures,
    instance_id: str,
    frame: FrameField,
    frames: Typed = "10",
    back: Annotated[bool, Form()] = False,
) -> HTMLResponse:
    """Let a puppet turn round from a frame on; or, `back`, wherever its way turns back."""
    length = read_number(frames, "a length")
    if back:
        times = turn_back(floor, instance_id, length)
        return all_wires(floor, f"It turns round {times} time{'' if times == 1 else 's'}.")
    turn_round(floor, instance_id, frame, length)
    return all_wires(floor)


_TURN_FIELDS: Mapping[str, Callable[[str], Any]] = {
    "time": numbered("a frame"), "frames": numbered("a length"), "manner": str,
}  # fmt: skip


@router.post("/turns/{turn_id}/set")
def post_set_turn(floor: FloorGestures, turn_id: str, field: Typed, value: Typed) -> HTMLResponse:
    """Change when a puppet turns, or for how long."""
    values = read_field(_TURN_FIELDS, field, value)
    if field == "time":
        values["time"] -= floor.scene.first_number
    set_turn(floor, turn_id, values)
    return all_wires(floor)


@router.post("/turns/{turn_id}/remove")
def post_remove_turn(floor: FloorGestures, turn_id: str) -> HTMLResponse:
    """Let a puppet not turn there."""
    remove_turn(floor, turn_id)
    return all_wires(floor)


@router.post("/roll")
def roll(floor: FloorGestures, nodes: LongText, radius: Typed = "") -> HTMLResponse:
    """Let a bone roll by the way its puppet goes; an empty radius is that down to the floor."""
    for node in read_nodes(nodes)[:1]:
        put_roll(floor, node, read_number(radius, "a radius") if radius.strip() else None)
    return all_wires(floor)


@router.post("/roll-no-more")
def roll_no_more(floor: FloorGestures, nodes: LongText) -> HTMLResponse:
    """Let a bone roll no more."""
    for node in read_nodes(nodes)[:1]:
        remove_roll(floor, node)
    return all_wires(floor)


@router.post("/walk/{instance_id}/own")
def own_walks(floor: FloorGestures, instance_id: str, density: Typed) -> HTMLResponse:
    """Make a puppet's walks into keys."""
    known = next((d for d in get_args(Density) if d == density), None)
    if known is None:
        raise InvalidInputError(f"“{density}” is no density of keys.", f"Known: {', '.join(get_args(Density))}.")
    found = make_walks_own(floor, instance_id, known)
    off = f" They miss the walk by {found.error:.2f} {found.where} at most." if found.where else ""
    return all_wires(floor, f"{found.keys} keys.{off}")
