"""Walks written as keys."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Form
from starlette.responses import HTMLResponse

from gaitwire.core.walk.mixing import mixed_card
from gaitwire.services.walking import find_shipped
from gaitwire.web.routers.floor_answers import Gestures, all_wires
from gaitwire.web.routers.floor_timing import Typed, read_number

WHOLE = 1e-3
"""Share of a stride by which a loop may miss a whole number of them."""

router = APIRouter(prefix="/floor/{scene_id}/walk")


@router.post("/{instance_id}")
def write_walk(
    floor: Gestures,
    instance_id: str,
    card: Annotated[str, Form(max_length=60)],
    start: Typed,
    stop: Typed,
    travels: Annotated[bool, Form()] = False,
    other: Annotated[str, Form(max_length=60)] = "",
    share: Typed = "0",
) -> HTMLResponse:
    """Key a gait card's walk on a puppet, from one frame to another as the scene numbers them; or a mix of two."""
    walk = find_shipped(card)
    if other:
        walk = mixed_card(walk, find_shipped(other), read_number(share, "a share") / 100)
    begin, end = (read_number(text, "a frame") - floor.scene.first_number for text in (start, stop))
    found = floor.put_walk(instance_id, walk, begin, end, travels)
    said = f"{found.strides:.2f} strides, {found.keys} keys."
    if found.shortened is not None:
        said += f" The stride is {found.shortened:.2f} legs: longer ones are out of reach."
    rounds = (end - begin + 1) / walk.frames
    if floor.scene.loop and not travels and abs(rounds - round(rounds)) > WHOLE:
        said += f" The loop's end does not meet its start: a stride takes {walk.frames:g} frames."
    return all_wires(floor, said)
