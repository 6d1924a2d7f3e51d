"""Edits of plants, hitches and bearings."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping
from typing import Annotated, Any

from fastapi import APIRouter, Form
from starlette.responses import HTMLResponse

from gaitwire.core.addresses import Node
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.owners import owner_name
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.limb_tips import all_limbs, bend_over, limbs_of, solve_from_tip
from gaitwire.services.scene.links import (
    change_bearing,
    hitch_nodes,
    lift_limbs,
    plant_limbs,
    put_on_floor,
    remove_link,
    update_bearing,
    update_hitch,
    update_plant,
)
from gaitwire.services.scene.phrases import drag_use
from gaitwire.services.scene.turns import set_turn
from gaitwire.services.scene.walks import set_gait
from gaitwire.web.routers.floor.answers import FloorGestures, FrameField, LongText, all_wires, read_nodes
from gaitwire.web.routers.floor.timing import Typed, numbered, read_number
from gaitwire.web.routers.floor.walks import told_beyond
from gaitwire.web.routers.shared.forms import read_field

router = APIRouter(prefix="/floor/{scene_id}/links")


_TIMES = {"time", "start", "stop"}

_FIELDS: Mapping[str, Mapping[str, Callable[[str], Any]]] = {
    "plants": {
        **dict.fromkeys(("start", "stop"), numbered("a frame")),
        **dict.fromkeys(("soft_in", "soft_out"), numbered("a length")),
        **dict.fromkeys(("x", "y"), numbered("a place")),
        **dict.fromkeys(("angle", "pitch"), numbered("an angle")),
    },
    "hitches": {"time": numbered("a frame"), "gravity": numbered("a fall"), "spin": numbered("a spin")},
    "bearings": {"time": numbered("a frame"), "soft": numbered("a length")},
}
"""How what is typed about each kind of link is read."""

_UPDATES: Mapping[str, Callable[[Floor, str, dict[str, Any]], None]] = {
    "plants": update_plant, "hitches": update_hitch, "bearings": update_bearing,
}  # fmt: skip


def later_said(floor: Floor, instances: Collection[str], frame: float) -> str:
    """Which marked poses an act from a frame on changes too; nothing where there are none."""
    first = floor.scene.first_number
    later = sorted({p.time for p in floor.scene.poses if p.instance_id in instances and p.time > frame})
    if not later:
        return ""
    named = ", ".join(f"{t + first:g}" for t in later[:_TOLD]) + (" and more" if len(later) > _TOLD else "")
    return f"From here on: the pose{'' if len(later) == 1 else 's'} on {named} too."


_TOLD = 6
"""Poses that are named one by one."""


def _carrier(text: str) -> Node | None:
    found = read_nodes(text)
    return found[0] if found else None


@router.post("/plant")
def plant(floor: FloorGestures, nodes: LongText, frame: FrameField, carrier: LongText = "[]") -> HTMLResponse:
    """Plant the limbs of what is chosen where their tips are."""
    limbs = limbs_of(floor, read_nodes(nodes))
    made = plant_limbs(floor, limbs, frame, _carrier(carrier))
    said = [f"{len(made)} planted."] if len(made) > 1 else []
    for name, by in floor.outcome.caught.items():
        if abs(by) >= 1:
            said.append(f"{name} stands on the floor now, {abs(by):.0f} px {'lower' if by > 0 else 'higher'}.")
    return all_wires(floor, " ".join(said))


@router.post("/plants/{link_id}/to-floor")
def to_floor(floor: FloorGestures, link_id: str) -> HTMLResponse:
    """Put a plant on the floor."""
    put_on_floor(floor, link_id)
    return all_wires(floor)


@router.post("/lift")
def lift(floor: FloorGestures, nodes: LongText, frame: FrameField) -> HTMLResponse:
    """Let the planted limbs of what is chosen go."""
    lift_limbs(floor, limbs_of(floor, read_nodes(nodes)), frame)
    return all_wires(floor)


@router.post("/solve")
def solve(floor: FloorGestures, nodes: LongText, frame: FrameField, solved: Annotated[bool, Form()]) -> HTMLResponse:
    """Solve limbs from their tips from a frame on, or turn them by their bones."""
    chosen = read_nodes(nodes)
    limbs = limbs_of(floor, chosen) or all_limbs(floor, {instance for instance, _ in chosen})
    solve_from_tip(floor, limbs, frame, solved)
    return all_wires(floor)


@router.post("/bend")
def bend(floor: FloorGestures, nodes: LongText, frame: FrameField) -> HTMLResponse:
    """Let limbs bend to the other side from a frame on."""
    limbs = limbs_of(floor, read_nodes(nodes))
    bend_over(floor, limbs, frame)
    return all_wires(floor, later_said(floor, {i for i, _ in limbs}, frame))


@router.post("/hitch")
def hitch(
    floor: FloorGestures,
    nodes: LongText,
    frame: FrameField,
    carrier: LongText = "[]",
    arc: Annotated[bool, Form()] = False,
) -> HTMLResponse:
    """Let what is chosen go with a bone, let it go, or throw it."""
    hitch_nodes(floor, read_nodes(nodes), frame, _carrier(carrier), arc)
    return all_wires(floor)


@router.post("/bear")
def bear(
    floor: FloorGestures, nodes: LongText, frame: FrameField, root: Annotated[bool, Form()] = False
) -> HTMLResponse:
    """Let the chosen bone carry the body, or its root again."""
    chosen = read_nodes(nodes)
    if not chosen:
        raise InvalidInputError("Nothing is chosen.", "Choose the bone that is to carry the body.")
    who = chosen[0]
    change_bearing(floor, who[0], frame, "" if root else who[1])
    name = "Its root" if root else owner_name(floor.scene, floor.workspace.cast(floor.scene), who)
    said = f"{name} carries the body from {frame + floor.scene.first_number:g} on."
    return all_wires(floor, f"{said} {later_said(floor, {who[0]}, frame)}".strip())


@router.post("/{table}/{link_id}/set")
def set_link(
    floor: FloorGestures, table: str, link_id: str, field: Typed, value: Annotated[str, Form(max_length=40)]
) -> HTMLResponse:
    """Change one thing about a plant, a hitch or a bearing."""
    values = read_field(_FIELDS.get(table, {}), field, value)
    if field in _TIMES:
        values[field] -= floor.scene.first_number
    _UPDATES[table](floor, link_id, values)
    return all_wires(floor)


@router.post("/{table}/{link_id}/move")
def move(floor: FloorGestures, table: str, link_id: str, start: FrameField, stop: FrameField) -> HTMLResponse:
    """Move a link or a walk in time, as a drag on its wire does."""
    if table == "gaits":
        return all_wires(floor, told_beyond(set_gait(floor, link_id, {"start": start, "stop": stop}).beyond))
    if table == "turns":
        set_turn(floor, link_id, {"time": start})
        return all_wires(floor)
    if table == "phrase_uses":
        drag_use(floor, link_id, start, stop)
        return all_wires(floor)
    if table not in _UPDATES:
        raise InvalidInputError(f"There is no “{table[:20]}” to move.")
    values = {"start": start, "stop": stop} if table == "plants" else {"time": start}
    _UPDATES[table](floor, link_id, values)
    return all_wires(floor)


@router.post("/plants/{link_id}/place")
def place(floor: FloorGestures, link_id: str, x: Typed, y: Typed, angle: Typed) -> HTMLResponse:
    """Put a footprint elsewhere, as a drag does."""
    values = {
        "x": read_number(x, "a place"),
        "y": read_number(y, "a place"),
        "angle": read_number(angle, "an angle"),
    }
    update_plant(floor, link_id, values)
    return all_wires(floor)


@router.post("/{table}/{link_id}/remove")
def remove(floor: FloorGestures, table: str, link_id: str) -> HTMLResponse:
    """Take a link away."""
    if table not in _UPDATES:
        raise InvalidInputError(f"There is no “{table[:20]}” to remove.")
    remove_link(floor, table, link_id)
    return all_wires(floor)
