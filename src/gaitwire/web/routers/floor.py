"""The Floor: one scene, its wires, its stage."""

from __future__ import annotations

import json
from collections.abc import Iterable, Sequence
from typing import Annotated, Any

import numpy as np
from fastapi import APIRouter, Depends, Form, Query
from pydantic import TypeAdapter, ValidationError
from starlette.responses import HTMLResponse, JSONResponse, Response

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate import evaluate
from gaitwire.core.evaluate.frames import pack
from gaitwire.core.scene import stamp_of
from gaitwire.core.timing.channel import PROPERTIES
from gaitwire.services import floor_card as cards
from gaitwire.services.floor import Floor
from gaitwire.services.scene_gestures import Bead
from gaitwire.services.wires import Wire, build_timeline, front_to_back
from gaitwire.services.workspace import Workspace
from gaitwire.store.documents import list_documents
from gaitwire.web.context import Revision, Space, Standing, standing
from gaitwire.web.routers.fragments import FRAGMENTS, answer
from gaitwire.web.routers.staging import node_entries, part_entries, scene_limbs
from gaitwire.web.templating import page, render, urls

router = APIRouter(prefix="/floor/{scene_id}")

TOOLS = (
    ("turn", "turn", "Drag a bone or part to turn it (T)"),
    ("shift", "shift", "Drag to move it off its joint (S)"),
    ("pull", "pull", "Drag a hand, a foot or a joint above it: its limb follows (L)"),
    ("stretch", "stretch", "Drag along the bone to stretch it (E)"),
    ("widen", "widen", "Drag across the bone to widen it (W)"),
    ("skew", "skew", "Drag sideways: the root edge stays (K)"),
)


def _floor(workspace: Space, scene_id: str, revision: Revision = None) -> Floor:
    return Floor(workspace, scene_id, revision)


Gestures = Annotated[Floor, Depends(_floor)]
Text = Annotated[str, Form(max_length=2_000_000)]
Step = Annotated[float, Form(allow_inf_nan=False, ge=-1e4, le=1e4)]
_BEADS: TypeAdapter[list[tuple[str, str, float]]] = TypeAdapter(list[tuple[str, str, float]])
_NODES: TypeAdapter[list[tuple[str, str]]] = TypeAdapter(list[tuple[str, str]])
_VALUES: TypeAdapter[list[tuple[str, str, str, float]]] = TypeAdapter(list[tuple[str, str, str, float]])


def read_beads(text: str) -> list[Bead]:
    """Beads as the page posts them; raises InvalidInputError."""
    try:
        return [Bead(*row) for row in _BEADS.validate_json(text)]
    except ValidationError:
        raise InvalidInputError(
            "The chosen beads could not be read.", "Reload the page and choose them again."
        ) from None


def read_nodes(text: str) -> list[tuple[str, str]]:
    """Chosen nodes as the page posts them; raises InvalidInputError."""
    try:
        return _NODES.validate_json(text)[:500]
    except ValidationError:
        raise InvalidInputError(
            "The chosen bones could not be read.", "Reload the page and choose them again."
        ) from None


@router.get("")
def floor(workspace: Space, scene_id: str) -> HTMLResponse:
    """The page."""
    scene = workspace.scene(scene_id)
    timeline = build_timeline(scene, workspace.cast(scene))
    state = standing(workspace, "scene", scene_id)
    leading = next((i for i in front_to_back(scene) if not i.backdrop), None)
    bench = leading.puppet_id if leading else ""
    return page("floor/floor.html", standing=state, scene=scene, timeline=timeline, tools=TOOLS, bench=bench)


def _fragments(workspace: Workspace, state: Standing, remark: str, *more: str) -> HTMLResponse:
    """The whole timeline: after undo, or when its rows or its length changed."""
    scene = workspace.scene(state.document_id)
    text = render("floor/wires.html", scene=scene, timeline=build_timeline(scene, workspace.cast(scene)))
    return answer(state, remark, f'<hx-partial hx-target="#wires" hx-swap="outerMorph">{text}</hx-partial>', *more)


FRAGMENTS["scene"] = _fragments


def _all(floor: Floor, remark: str = "", picked: Sequence[Bead] | None = None) -> HTMLResponse:
    state = standing(floor.workspace, "scene", floor.scene_id)
    return _fragments(floor.workspace, state, remark, *_picked(picked))


def _picked(beads: Sequence[Bead] | None) -> list[str]:
    """The beads to choose now, for the page; None: those that are chosen stay so."""
    if beads is None:
        return []
    text = render("floor/picked.html", beads=json.dumps([list(b) for b in beads]))
    return [f'<hx-partial hx-target="#picked" hx-swap="outerHTML">{text}</hx-partial>']


def _wires(
    floor: Floor, owners: Iterable[tuple[str, str]], picked: Sequence[Bead] | None = None, remark: str = ""
) -> HTMLResponse:
    """Only the wires that changed, with their groups' own; and the beads to choose now."""
    scene = floor.scene
    wanted = set(owners)
    timeline = build_timeline(scene, floor.workspace.cast(scene), {instance for instance, _ in wanted})
    touched: list[Wire] = []
    found: set[tuple[str, str]] = set()
    for member in timeline.cast:
        for group in member.groups:
            rows = [w for w in (group.head, *group.wires) if (w.instance_id, w.owner_id) in wanted]
            found |= {(w.instance_id, w.owner_id) for w in rows}
            if rows and group.head not in rows:
                rows.append(group.head)
            touched += rows
    if found != wanted:  # a part without keys has no wire of its own any more
        return _all(floor, remark, picked)
    pieces = [
        f'<hx-partial hx-target="#{wire.id} .beads" hx-swap="outerHTML">'
        f"{render('floor/beads.html', wire=wire, timeline=timeline)}</hx-partial>"
        for wire in touched
    ]
    return answer(standing(floor.workspace, "scene", floor.scene_id), remark, *pieces, *_picked(picked))


@router.get("/stage.json")
def stage(workspace: Space, scene_id: str) -> JSONResponse:
    """What the stage draws, in the order of the frames' parts and nodes."""
    compiled = workspace.compiled(scene_id)
    scene = compiled.scene
    locked = {i.id for i in scene.instances if i.locked or i.backdrop}
    unseen = {i.id for i in scene.instances if i.hidden or i.backdrop}
    return JSONResponse(
        {
            "revision": scene.revision,
            "stamp": stamp_of(scene, compiled.puppets),
            "frames": scene.frames,
            "rate": float(scene.rate),
            "loop": scene.loop,
            "first": scene.first_number,
            "size": [scene.width, scene.height],
            "background": scene.background,
            "ground": scene.ground,
            "instances": [
                {"instance": i.id, "name": i.name, "backdrop": i.backdrop, "bench": urls.bench(i.puppet_id)}
                for i in front_to_back(scene)
            ],
            "parts": part_entries(workspace, compiled, locked),
            "nodes": node_entries(compiled, locked, unseen),
            "limbs": scene_limbs(compiled),
        }
    )


@router.get("/frames.bin")
def frames(workspace: Space, scene_id: str, at: Annotated[float | None, Query()] = None) -> Response:
    """The whole scene as one packed buffer, or one frame of it."""
    compiled = workspace.compiled(scene_id)
    scene = compiled.scene
    wanted = np.array([at]) if at is not None else np.arange(scene.frames, dtype=float)
    data = pack(evaluate(compiled, wanted, cache=workspace.blocks), stamp_of(scene, compiled.puppets))
    return Response(data, media_type="application/octet-stream", headers={"Cache-Control": "no-store"})


@router.post("/card")
def card(
    workspace: Space, scene_id: str, frame: Annotated[float, Form()] = 0.0, nodes: Text = "[]", beads: Text = "[]"
) -> HTMLResponse:
    """The card about what is chosen: beads first, then bones, else the scene."""
    view = Floor(workspace, scene_id)
    scene = view.scene
    cast = workspace.cast(scene)
    chosen = cards.chosen_nodes(workspace, scene, read_nodes(nodes))
    picked = [b for b in read_beads(beads) if any(True for i in scene.instances if i.id == b.instance_id)]
    context: dict[str, Any] = {
        "scene": scene,
        "frame": frame,
        "nodes": chosen,
        "beads": picked,
        "rows": [],
        "parts": [],
        "curve": None,
    }
    context["title"] = _title(scene, cast, chosen)
    if picked:
        try:
            context["curve"] = cards.curve_view(view, picked)
        except InvalidInputError:
            context["beads"] = []
        context["families"] = cards.easing_families()
        context["wire_count"] = len({(b.instance_id, b.owner_id) for b in picked})
    if chosen:
        context["rows"] = cards.value_rows(scene, workspace.compiled(scene_id), chosen, frame)
        context["parts"] = cards.part_rows(scene, workspace.compiled(scene_id), chosen, frame)
    context["puppets"] = list_documents(workspace.store, "puppet")
    context["seat"] = next((i for i in scene.instances if len(chosen) == 1 and chosen[0] == (i.id, i.id)), None)
    return page("floor/card.html", **context)


def _title(scene: Any, cast: Any, nodes: list[tuple[str, str]]) -> str:
    if not nodes:
        return str(scene.name)
    return cards.owner_name(scene, cast, nodes[0]) if len(nodes) == 1 else f"{len(nodes)} bones"


@router.post("/values")
def set_values(floor: Gestures, frame: Annotated[float, Form(allow_inf_nan=False)], values: Text) -> HTMLResponse:
    """Key values at a frame."""
    try:
        rows = _VALUES.validate_json(values)
    except ValidationError:
        raise InvalidInputError("These values could not be read.", "Type a number.") from None
    floor.set_values(frame, {(i, o, p): v for i, o, p, v in rows})
    return _wires(floor, {(i, o) for i, o, _, _ in rows})


@router.post("/typed")
def typed(
    floor: Gestures,
    frame: Annotated[float, Form(allow_inf_nan=False)],
    nodes: Text,
    field: Annotated[str, Form()],
    value: Annotated[str, Form()],
) -> HTMLResponse:
    """Key a typed value, in the unit that is shown, on the chosen nodes."""
    owners = read_nodes(nodes)
    kind = floor.owner_kind(*owners[0]) if owners else "bone"
    prop = PROPERTIES[kind].get(field)
    try:
        number = float(value.replace(",", "."))
    except ValueError:
        number = float("nan")
    if prop is None or not np.isfinite(number):
        raise InvalidInputError(f"“{value[:20]}” is no number.", "Type a number.")
    slots = {(i, o, field): number / prop.display for i, o in owners}
    floor.set_values(frame, slots, f"set {prop.label}")
    return _all(floor) if kind == "part" else _wires(floor, {(i, o) for i, o, _ in slots})


@router.post("/key-pose")
def key_pose(floor: Gestures, frame: Annotated[float, Form(allow_inf_nan=False)], nodes: Text) -> HTMLResponse:
    """Key every channel of the chosen nodes as they stand at a frame."""
    wanted = read_nodes(nodes)
    floor.key_pose(frame, wanted)
    return _wires(floor, wanted)


@router.post("/nudge")
def nudge(
    floor: Gestures, frame: Annotated[float, Form(allow_inf_nan=False)], nodes: Text, dx: Step, dy: Step
) -> HTMLResponse:
    """Shift the chosen nodes by pixels of the stage."""
    wanted = read_nodes(nodes)
    floor.nudge(frame, wanted, dx, dy)
    return _wires(floor, wanted)


@router.post("/beads/move")
def move_beads(
    floor: Gestures, beads: Text, by: Annotated[float, Form(allow_inf_nan=False, ge=-20_000, le=20_000)]
) -> HTMLResponse:
    """Slide beads, around the loop."""
    chosen = read_beads(beads)
    return _wires(floor, _owners(chosen), floor.move_beads(chosen, by))


@router.post("/beads/copy")
def copy_beads(floor: Gestures, beads: Text, frame: Annotated[float, Form(allow_inf_nan=False)]) -> HTMLResponse:
    """Duplicate beads at the playhead."""
    chosen = read_beads(beads)
    return _wires(floor, _owners(chosen), floor.copy_beads(chosen, frame))


@router.post("/beads/delete")
def delete_beads(floor: Gestures, beads: Text) -> HTMLResponse:
    """Delete beads."""
    chosen = read_beads(beads)
    floor.delete_beads(chosen)
    return _wires(floor, _owners(chosen), [])


@router.post("/beads/ease")
def ease_beads(floor: Gestures, beads: Text, ease: Annotated[str, Form(max_length=40)]) -> HTMLResponse:
    """Ease all chosen beads in one go."""
    chosen = read_beads(beads)
    floor.ease_beads(chosen, ease)
    return _wires(floor, _owners(chosen), chosen)


Share = Annotated[float, Form(allow_inf_nan=False, ge=-10, le=10)]


@router.post("/beads/shape")
def shape_beads(floor: Gestures, beads: Text, x1: Share, y1: Share, x2: Share, y2: Share) -> HTMLResponse:
    """Give all chosen beads one free curve."""
    chosen = read_beads(beads)
    floor.shape_beads(chosen, (x1, y1, x2, y2))
    return _wires(floor, _owners(chosen), chosen)


@router.post("/beads/reuse")
def reuse_curve(floor: Gestures, beads: Text, source: Text) -> HTMLResponse:
    """Give all chosen beads the curve of another."""
    chosen, sources = read_beads(beads), read_beads(source)
    if not sources:
        raise InvalidInputError("No curve was taken yet.", "Choose a bead and take its curve first.")
    floor.reuse_curve(sources[0], chosen)
    return _wires(floor, _owners(chosen), chosen)


def _owners(beads: Iterable[Bead]) -> set[tuple[str, str]]:
    return {(b.instance_id, b.owner_id) for b in beads}


_SETTINGS: dict[str, Any] = {
    "name": str, "frames": int, "width": int, "height": int, "first_number": int, "background": str,
    "loop": lambda text: text == "true", "ground": lambda text: float(text) if text else None,
}  # fmt: skip


@router.post("/set")
def set_scene(
    floor: Gestures, field: Annotated[str, Form()], value: Annotated[str, Form(max_length=200)]
) -> HTMLResponse:
    """Change one of the scene's own settings."""
    if field == "rate":
        fraction = floor.read_rate(value)
        floor.update(rate_num=fraction.numerator, rate_den=fraction.denominator)
    elif field in _SETTINGS:
        try:
            floor.update(**{field: _SETTINGS[field](value)})
        except ValueError:
            raise InvalidInputError(f"“{value[:20]}” is no number.", "Type a number.") from None
    else:
        raise InvalidInputError(f"“{field}” cannot be set here.")
    return _all(floor)


@router.post("/puppets/add")
def add_puppet(floor: Gestures, puppet: Annotated[str, Form()]) -> HTMLResponse:
    """Bring a puppet into the scene."""
    floor.add_puppet(puppet)
    return _all(floor)


_PLACE: dict[str, Any] = {
    "name": str, "x": float, "y": float, "scale": lambda text: float(text) / 100, "depth": int,
    "turned": lambda text: text == "true", "hidden": lambda text: text == "true", "locked": lambda text: text == "true",
    "backdrop": lambda text: text == "true",
}  # fmt: skip


@router.post("/puppets/{instance_id}/set")
def set_instance(
    floor: Gestures, instance_id: str, field: Annotated[str, Form()], value: Annotated[str, Form(max_length=200)]
) -> HTMLResponse:
    """Change where and how a puppet stands in the scene."""
    if field not in _PLACE:
        raise InvalidInputError(f"“{field}” cannot be set here.")
    try:
        floor.update_instance(instance_id, **{field: _PLACE[field](value)})
    except ValueError:
        raise InvalidInputError(f"“{value[:20]}” is no number.", "Type a number.") from None
    return _all(floor)


@router.post("/puppets/{instance_id}/depth/{steps}")
def step_depth(floor: Gestures, instance_id: str, steps: int) -> HTMLResponse:
    """Move a puppet one place to the front or the back."""
    floor.step_depth(instance_id, steps)
    return _all(floor)


@router.post("/puppets/{instance_id}/remove")
def remove_instance(floor: Gestures, instance_id: str) -> HTMLResponse:
    """Take a puppet out of the scene."""
    floor.remove_instance(instance_id)
    return _all(floor, "The puppet was taken out. Undo brings it back, keys and all.")
