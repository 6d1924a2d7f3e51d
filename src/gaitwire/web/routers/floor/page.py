"""The Floor: one scene, its wires, its stage."""

from __future__ import annotations

import hashlib
from typing import Annotated, Any

import numpy as np
from fastapi import APIRouter, Form, Path
from pydantic import TypeAdapter, ValidationError
from starlette.responses import HTMLResponse, JSONResponse, Response

from gaitwire.core import bounds
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate import CompiledScene, evaluate
from gaitwire.core.evaluate.camera import filmed
from gaitwire.core.evaluate.frames import pack
from gaitwire.core.scene import Instance, stamp_of
from gaitwire.core.timing.channel import PROPERTIES
from gaitwire.services.scene.floor import add_puppet, remove_instance, step_depth, update_instance
from gaitwire.services.scene.found_poses import poses_of, unmarked_poses_of
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.posing import back_on_joints, key_pose, nudge, set_values
from gaitwire.services.scene.rides import PointerPlace, record_control, record_ride
from gaitwire.services.scene.sounds import sound_rows
from gaitwire.services.scene.walks import walks_of
from gaitwire.services.session.workspace import Workspace
from gaitwire.services.views.body_map import body_map
from gaitwire.services.views.link_card import footprints
from gaitwire.services.views.link_marks import bearers
from gaitwire.services.views.opposite import opposite
from gaitwire.services.views.walk_prints import walk_prints
from gaitwire.services.views.wires import build_timeline, front_to_back
from gaitwire.web.context import Space, standing
from gaitwire.web.routers.floor.answers import (
    FloorGestures,
    FrameField,
    LongText,
    all_wires,
    blocked,
    read_nodes,
    some_wires,
)
from gaitwire.web.routers.floor.panels import PANELS
from gaitwire.web.routers.shared.forms import At, AtIf, Axis
from gaitwire.web.routers.shared.staging import node_entries, part_entries, scene_limbs
from gaitwire.web.templating import page, urls

router = APIRouter(prefix="/floor/{scene_id}")

TOOLS = (
    ("turn", "turn", "Drag a bone or part to turn it (T)"),
    ("shift", "shift", "Drag to move it off its joint (S)"),
    ("pull", "pull", "Drag a hand, a foot or a joint above it: its limb follows (L)"),
    ("stretch", "stretch", "Drag along the bone to stretch it (E)"),
    ("squash", "squash", "Pull it from anywhere: it is stretched or squashed along that line, its area kept (Shift E)"),
    ("widen", "widen", "Drag across the bone to widen it (W)"),
    ("skew", "skew", "Drag sideways: the root edge stays (K)"),
    ("curl", "curl", "Drag the end of a chain, a tail or a neck: every joint takes its share of the turn (C)"),
    ("box", "box", "Move, turn or scale all that is chosen as one thing, about a point you place (Q)"),
)


_VALUES: TypeAdapter[list[tuple[str, str, str, float]]] = TypeAdapter(
    list[tuple[bounds.Id, bounds.Id, bounds.Id, bounds.Value]]
)
StepField = Annotated[float, Form(allow_inf_nan=False, ge=-1e4, le=1e4)]


@router.get("")
def floor(workspace: Space, scene_id: str) -> HTMLResponse:
    """The page."""
    scene = workspace.scene(scene_id)
    timeline = build_timeline(scene, workspace.cast(scene), workspace.phrases(scene))
    state = standing(workspace, "scene", scene_id)
    leading = next((i for i in front_to_back(scene) if not i.aside), None)
    bench = leading.puppet_id if leading else ""
    return page(
        "floor/floor.html",
        standing=state,
        scene=scene,
        timeline=timeline,
        tools=TOOLS,
        panels=PANELS.values(),
        bench=bench,
        sounds=sound_rows(workspace, scene),
    )


@router.get("/stage.json")
def stage(workspace: Space, scene_id: str, body: str = "") -> JSONResponse:
    """What the stage draws, in the order of the frames' parts and nodes.

    Parts, nodes and limbs are left out for a page that has them: `body` is the mark it got with them.
    """
    compiled = workspace.compiled(scene_id)
    scene = compiled.scene
    view = Floor(workspace, scene_id)
    mark = _body_mark(compiled)
    state = {
        "revision": scene.revision,
        "stamp": stamp_of(scene, compiled.puppets, compiled.phrases),
        "frames": scene.frames,
        "rate": float(scene.rate),
        "loop": scene.loop,
        "first": scene.first_number,
        "size": [scene.width, scene.height],
        "background": scene.background,
        "ground": scene.ground,
        "bounce": scene.bounce,
        "instances": [_instance(view, i, _version(compiled, i)) for i in front_to_back(scene)],
        "markers": [{"id": m.id, "time": m.time, "name": m.name} for m in scene.markers],
        "body": mark,
        "camera": _camera(compiled),
        "grid": scene.grid,
        "plants": footprints(compiled),
        "bearings": bearers(scene, compiled.puppets),
        "walks": bool(scene.gaits),
        "sounds": [s.model_dump(exclude={"scene_id", "peaks"}) | {"left": s.left} for s in scene.sounds],
        "guides": [g.model_dump(exclude={"scene_id"}) for g in scene.guides],
    }
    return JSONResponse(state if body == mark else {**state, **_body(workspace, compiled)})


def _body(workspace: Workspace, compiled: CompiledScene) -> dict[str, Any]:
    """What the stage is made of: it changes only with the puppets and how they stand in the scene."""
    instances = compiled.scene.instances
    locked = {i.id for i in instances if i.locked or i.aside}
    unseen = {i.id for i in instances if i.hidden or i.aside}
    return {
        "parts": part_entries(workspace, compiled, locked),
        "nodes": node_entries(compiled, locked, unseen),
        "limbs": scene_limbs(compiled),
    }


def _body_mark(compiled: CompiledScene) -> str:
    """A mark that changes whenever the body does."""
    puppets = sorted((p.id, p.revision) for p in compiled.puppets.values())
    swinging = [sorted(p.swinging) for p in compiled.compiled_puppets]
    return hashlib.sha1(repr((compiled.scene.instances, puppets, swinging)).encode()).hexdigest()


def _camera(compiled: CompiledScene) -> dict[str, Any] | None:
    """The scene's camera: its instance, and its place among the frames' nodes."""
    camera = compiled.scene.camera
    if camera is None:
        return None
    keys = [key for puppet in compiled.compiled_puppets for key in puppet.nodes.owners]
    return {"instance": camera.id, "node": keys.index((camera.id, camera.id))}


def _instance(view: Floor, instance: Instance, version: int) -> dict[str, Any]:
    poses = poses_of(view, instance.id)
    return {
        "instance": instance.id,
        "name": instance.name,
        "backdrop": instance.backdrop,
        "aside": instance.aside,
        "faint": instance.faint if instance.guide else None,
        "bench": "" if instance.is_camera else urls.bench(instance.puppet_id),
        "version": version,
        "poses": [{"id": p.id, "time": p.time, "name": p.name, "kind": p.kind} for p in poses],
        "found": [] if instance.aside else found_poses(view, instance),
    }


def found_poses(view: Floor, instance: Instance) -> list[dict[str, Any]]:
    """Poses that nobody marked: those of its walks, if it has none that are, and where most of the body has beads."""
    walked = [{"time": m.time, "name": m.name} for g in walks_of(view, instance.id) for m in g.poses()]
    if walked:
        return [] if poses_of(view, instance.id) else walked
    return [{"time": t, "name": ""} for t in unmarked_poses_of(view, instance.id)]


def _version(compiled: CompiledScene, instance: Instance) -> int:
    """The revision of an instance's puppet; -1 while it is missing."""
    puppet = compiled.puppets.get(instance.puppet_id)
    return puppet.revision if puppet else -1


@router.get("/bodymap/{instance_id}")
def map_of(workspace: Space, scene_id: str, instance_id: str) -> HTMLResponse:
    """The body map of one puppet in the scene."""
    puppet = Floor(workspace, scene_id).puppet_of(instance_id)
    return page("shared/body_map.html", map=body_map(puppet), tips=True)


@router.get("/opposite.bin")
def opposite_pose(
    workspace: Space, scene_id: str, instance: str, frame: At, first: At = 0.0, last: AtIf = None
) -> Response:
    """The mirrored pose half a round away, as a frame."""
    return _binary(pack(opposite(Floor(workspace, scene_id), instance, frame, first, last).frames))


@router.get("/prints.json")
def prints(workspace: Space, scene_id: str) -> JSONResponse:
    """The footprints of walks that go somewhere: [heel x, y, ball x, y, side, frame] each."""
    found = walk_prints(workspace.compiled(scene_id))
    return JSONResponse([[*p.heel, *p.ball, p.side, p.frame] for p in found])


def _binary(data: bytes) -> Response:
    return Response(data, media_type="application/octet-stream", headers={"Cache-Control": "no-store"})


@router.get("/frames.bin")
def frames(
    workspace: Space, scene_id: str, at: AtIf = None, blocking: bool = False,
    lens: bool = False, stamp: int | None = None,
) -> Response:  # fmt: skip
    """The whole scene as one packed buffer, or one frame of it; with or without in-betweens, or as it is filmed.

    `stamp`: as it was then, if that was lately.
    """
    compiled = workspace.compiled_at(scene_id, stamp)
    scene = compiled.scene
    wanted = np.array([at]) if at is not None else np.arange(scene.frames, dtype=float)
    found = evaluate(compiled, wanted, cache=workspace.blocks, blocking=blocking)
    return _binary(pack(filmed(found) if lens else found, stamp_of(scene, compiled.puppets, compiled.phrases)))


@router.post("/values")
def post_set_values(
    floor: FloorGestures, frame: FrameField, values: LongText, blocking: Annotated[bool, Form()] = False
) -> HTMLResponse:
    """Key values at a frame. In the blocking view the whole pose is keyed."""
    try:
        rows = _VALUES.validate_json(values)
    except ValidationError:
        raise InvalidInputError("These values could not be read.", "Type a number.") from None
    addresses = {(i, o, p): v for i, o, p, v in rows}
    if blocking:
        return blocked(floor, frame, addresses)
    return some_wires(floor, set_values(floor, frame, addresses))


@router.post("/typed")
def typed(
    floor: FloorGestures,
    frame: FrameField,
    nodes: LongText,
    field: Annotated[str, Form()],
    value: Annotated[str, Form()],
    blocking: Annotated[bool, Form()] = False,
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
    addresses = {(i, o, field): number / prop.display for i, o in owners}
    if blocking:
        return blocked(floor, frame, addresses)
    keyed = set_values(floor, frame, addresses, f"set {prop.label}")
    return all_wires(floor) if kind == "part" else some_wires(floor, keyed)


_PLACES: TypeAdapter[list[tuple[float, float, float]]] = TypeAdapter(
    list[tuple[bounds.Frame, bounds.Place, bounds.Place]]
)


def _read_places(text: str) -> list[PointerPlace]:
    try:
        return [PointerPlace(*row) for row in _PLACES.validate_json(text)]
    except ValidationError:
        raise InvalidInputError("This ride could not be read.", "Ride again.") from None


@router.post("/ride")
def ride(
    floor: FloorGestures, gesture: Annotated[str, Form()], nodes: LongText, x: StepField, y: StepField, places: LongText
) -> HTMLResponse:
    """Record what a hand did to the chosen nodes while the scene played: (frame, x, y) in turn."""
    wanted = read_nodes(nodes)
    found = record_ride(floor, gesture, wanted, (x, y), _read_places(places))
    said = f"{found.keys} keys, within {found.error:.2f} {found.unit} of the hand."
    return some_wires(floor, wanted, remark=said)


@router.post("/ride-control")
def ride_control(
    floor: FloorGestures, instance: Annotated[str, Form()], control: Annotated[str, Form()], places: LongText
) -> HTMLResponse:
    """Record where a hand had the point of a pad or gauge while the scene played: (frame, x, y) in turn."""
    found = record_control(floor, instance, control, _read_places(places))
    said = f"{found.keys} keys, within {found.error:.2f} {found.unit} of the hand."
    return some_wires(floor, [(instance, control)], remark=said)


@router.post("/key-pose")
def post_key_pose(floor: FloorGestures, frame: FrameField, nodes: LongText) -> HTMLResponse:
    """Key every channel of the chosen nodes as they stand at a frame."""
    wanted = read_nodes(nodes)
    key_pose(floor, frame, wanted)
    return some_wires(floor, wanted)


@router.post("/back-on-joints")
def post_back_on_joints(floor: FloorGestures, frame: FrameField, nodes: LongText) -> HTMLResponse:
    """Key bones that slipped out back on their joints."""
    wanted = read_nodes(nodes)
    back_on_joints(floor, frame, wanted)
    return some_wires(floor, wanted)


@router.post("/nudge")
def post_nudge(floor: FloorGestures, frame: FrameField, nodes: LongText, dx: StepField, dy: StepField) -> HTMLResponse:
    """Shift the chosen nodes by pixels of the stage."""
    return some_wires(floor, nudge(floor, frame, read_nodes(nodes), dx, dy))


@router.post("/puppets/add")
def post_add_puppet(
    floor: FloorGestures,
    puppet: Annotated[str, Form()],
    x: Axis = None,
    y: Axis = None,
) -> HTMLResponse:
    """Bring a puppet into the scene: where it was dropped, or standing on the ground in the middle."""
    place = {name: value for name, value in (("x", x), ("y", y)) if value is not None}
    made = add_puppet(floor, puppet, **place)
    response = all_wires(floor)
    response.headers["Gw-Made"] = made
    return response


_PLACE: dict[str, Any] = {
    "name": str, "x": float, "y": float, "scale": lambda text: float(text) / 100, "depth": int,
    "turned": lambda text: text == "true", "hidden": lambda text: text == "true", "locked": lambda text: text == "true",
    "backdrop": lambda text: text == "true", "exposure": int, "guide": lambda text: text == "true",
    "faint": lambda text: float(text) / 100, "distance": lambda text: float(text) / 100,
    "holds": lambda text: text == "true",
}  # fmt: skip


@router.post("/puppets/{instance_id}/set")
def set_instance(
    floor: FloorGestures, instance_id: str, field: Annotated[str, Form()], value: Annotated[str, Form(max_length=200)]
) -> HTMLResponse:
    """Change where and how a puppet stands in the scene."""
    if field not in _PLACE:
        raise InvalidInputError(f"“{field}” cannot be set here.")
    try:
        update_instance(floor, instance_id, **{field: _PLACE[field](value)})
    except ValueError:
        raise InvalidInputError(f"“{value[:20]}” is no number.", "Type a number.") from None
    return all_wires(floor)


@router.post("/puppets/{instance_id}/depth/{steps}")
def post_step_depth(
    floor: FloorGestures, instance_id: str, steps: Annotated[int, Path(ge=-100_000, le=100_000)]
) -> HTMLResponse:
    """Move a puppet one place to the front or the back."""
    step_depth(floor, instance_id, steps)
    return all_wires(floor)


@router.post("/puppets/{instance_id}/remove")
def post_remove_instance(floor: FloorGestures, instance_id: str) -> HTMLResponse:
    """Take a puppet out of the scene."""
    remove_instance(floor, instance_id)
    return all_wires(floor, "The puppet was taken out. Undo brings it back, keys and all.")
