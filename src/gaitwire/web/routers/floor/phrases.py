"""Phrases on the Floor: made from beads, laid on puppets, changed, untied, made into keys."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Annotated, Any

from fastapi import APIRouter, Form, Query
from starlette.responses import HTMLResponse

from gaitwire.core import bounds
from gaitwire.core.motion.phrase import ENDINGS, From
from gaitwire.services.library.phrases import read_tags
from gaitwire.services.scene.phrase_keys import make_phrase_own
from gaitwire.services.scene.phrases import (
    copy_use,
    course_of_use,
    end_phrases_by,
    find_use,
    fit_phrase_to_loop,
    keep_use,
    make_phrase,
    put_phrase,
    remove_use,
    renew_phrase,
    set_use,
    untie_use,
)
from gaitwire.web.routers.floor.answers import FloorGestures, FrameField, LongText, all_wires, read_beads
from gaitwire.web.routers.floor.timing import Typed
from gaitwire.web.routers.shared.forms import TypedValue, flag, number, number_or_none, percent, read_field

router = APIRouter(prefix="/floor/{scene_id}/phrases")


@router.post("/make")
def make(
    floor: FloorGestures,
    beads: LongText,
    name: Annotated[str, Form(max_length=200)] = "",
    tags: Annotated[str, Form(max_length=600)] = "",
    counts_from: Annotated[From, Form()] = "first",
    goes_on: Annotated[bool, Form()] = False,
    put: Annotated[bool, Form()] = False,
    into: Typed = "",
) -> HTMLResponse:
    """Keep the chosen beads as a phrase, or give one of one's own their motion."""
    picked = read_beads(beads)
    if into:
        renew_phrase(floor, into, picked)
        return all_wires(floor, "The phrase has this motion now, wherever it is tied.")
    make_phrase(floor, picked, name, put, tags=read_tags(tags), counts_from=counts_from, goes_on=goes_on)
    return all_wires(floor, f"“{name}” is on the Shelf{' and lies here in place of the beads' if put else ''}.")


@router.post("/lay")
def lay(floor: FloorGestures, instance: Typed, ref: Typed, frame: FrameField) -> HTMLResponse:
    """Lay a phrase on a puppet from a frame on."""
    found = put_phrase(floor, instance, ref, frame)
    missing = ", ".join(found.unmatched[:6])
    said = [f"Nothing here answers to {missing}; the rest moves."] if missing else []
    if found.elsewhere:
        said.append(f"It was made for another view: this puppet is drawn {found.elsewhere}.")
    if (cut := course_of_use(floor, find_use(floor, found.use)).cut) > 0:
        said.append(f"The scene is too short for it: its last {cut:.0f} frames do not show.")
    response = all_wires(floor, " ".join(said))
    response.headers["Gw-Made"] = found.use
    return response


@router.post("/end-by")
def end_by(
    floor: FloorGestures, ids: Annotated[str, Query(max_length=8000)], frame: Annotated[bounds.Frame, Query()]
) -> HTMLResponse:
    """Let phrases that went on with a longer scene end with the round in which they were where it ended."""
    end_phrases_by(floor, ids.split(","), frame)
    return all_wires(floor)


_FIELDS: Mapping[str, Callable[[str], Any]] = {
    "start": number, "begins": number, "ends": number_or_none, "pace": percent, "amount": percent,
    "repeats": lambda text: round(number(text or "0")), "fade_in": number, "fade_out": number, "change_in": number,
    "still": percent, "other_side": flag, "around": flag,
}  # fmt: skip


@router.post("/{use_id}/set")
def post_set_use(floor: FloorGestures, use_id: str, field: Typed, value: TypedValue = "") -> HTMLResponse:
    """Change one thing about a use."""
    if field == "ending":
        values: dict[str, Any] = dict(ENDINGS[value].values) if value in ENDINGS else {}
    else:
        values = read_field(_FIELDS, field, value)
    if field == "start":
        values["start"] -= floor.scene.first_number
    set_use(floor, use_id, values)
    return all_wires(floor)


@router.post("/{use_id}/setting")
def set_setting(floor: FloorGestures, use_id: str, field: Typed, value: Typed) -> HTMLResponse:
    """Change one of the settings of a phrase that ships."""
    set_use(floor, use_id, {"settings": {field: number(value)}})
    return all_wires(floor)


@router.post("/{use_id}/untie")
def untie(floor: FloorGestures, use_id: str) -> HTMLResponse:
    """Let a use follow its source no longer."""
    untie_use(floor, use_id)
    return all_wires(floor, "It has its own motion now.")


@router.post("/{use_id}/keep")
def keep(floor: FloorGestures, use_id: str, name: Annotated[str, Form(max_length=200)] = "") -> HTMLResponse:
    """Keep what a use plays as a phrase of one's own."""
    keep_use(floor, use_id, name)
    return all_wires(floor, "It is on the Shelf as a phrase of your own, and this is tied to it.")


@router.post("/{use_id}/again")
def again(floor: FloorGestures, use_id: str, frame: FrameField) -> HTMLResponse:
    """The same once more from a frame on."""
    made = copy_use(floor, use_id, frame)
    response = all_wires(floor)
    response.headers["Gw-Made"] = made
    return response


@router.post("/{use_id}/fit")
def fit(floor: FloorGestures, use_id: str) -> HTMLResponse:
    """Let a phrase be played whole times round the loop."""
    count = fit_phrase_to_loop(floor, use_id)
    return all_wires(floor, f"Played {count} time{'' if count == 1 else 's'} round the loop.")


@router.post("/{use_id}/own")
def own(floor: FloorGestures, use_id: str) -> HTMLResponse:
    """Make keys of a use."""
    found = make_phrase_own(floor, use_id)
    return all_wires(floor, f"{found.keys} keys, within {found.error:.2f} {found.unit} of the phrase.")


@router.post("/{use_id}/remove")
def remove(floor: FloorGestures, use_id: str) -> HTMLResponse:
    """Take a use away."""
    remove_use(floor, use_id)
    return all_wires(floor, "The phrase was taken away here; on the Shelf it stays.")
