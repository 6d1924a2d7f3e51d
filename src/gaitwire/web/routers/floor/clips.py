"""Copying and pasting on the Floor, and the shelf of saved poses."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Form
from starlette.responses import HTMLResponse, Response

from gaitwire.core.addresses import Node
from gaitwire.core.timing.clip import Way
from gaitwire.services.scene.clips import (
    Pasted,
    apply_saved_pose,
    clip_of_beads,
    clip_of_pose,
    mirror_pose,
    paste_clip,
    read_clip,
    remove_saved_pose,
    rename_saved_pose,
    save_pose,
    saved_poses,
    start_with_pose,
    whole_of,
)
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.posing import held_time
from gaitwire.web.context import Space
from gaitwire.web.routers.floor.answers import FloorGestures, FrameField, LongText, all_wires, read_beads, read_nodes
from gaitwire.web.routers.floor.timing import Typed, read_number
from gaitwire.web.templating import page

router = APIRouter(prefix="/floor/{scene_id}")

WayOf = Annotated[Way, Form()]
Blocking = Annotated[bool, Form()]


def _meant(floor: Floor, nodes: str, instance: str) -> list[Node]:
    """What is chosen, or all of the puppet that is worked on."""
    return read_nodes(nodes) or whole_of(floor, instance)


def _told(floor: Floor, found: Pasted) -> HTMLResponse:
    missing = ", ".join(found.unmatched[:6])
    return all_wires(floor, f"Nothing here answers to {missing}; the rest was keyed." if missing else "")


@router.post("/clip/copy")
def copy(
    workspace: Space,
    scene_id: str,
    instance: Typed,
    frame: FrameField,
    nodes: LongText = "[]",
    beads: LongText = "[]",
    blocking: Blocking = False,
) -> Response:
    """A clip of the chosen beads, or of the pose of what is chosen, as JSON that the page keeps."""
    floor = Floor(workspace, scene_id)
    picked = read_beads(beads)
    stands = held_time(floor, instance, frame) if blocking else frame
    clip = clip_of_beads(floor, picked) if picked else clip_of_pose(floor, _meant(floor, nodes, instance), stands)
    return Response(clip.model_dump_json(), media_type="application/json")


@router.post("/clip/paste")
def paste(
    floor: FloorGestures,
    clip: LongText,
    instance: Typed,
    frame: FrameField,
    nodes: LongText = "[]",
    way: WayOf = "",
    share: Typed = "100",
    blocking: Blocking = False,
) -> HTMLResponse:
    """Put a clip in from a frame on."""
    part = read_number(share, "the share") / 100
    return _told(floor, paste_clip(floor, read_clip(clip), instance, frame, read_nodes(nodes), way, part, blocking))


@router.post("/clip/mirror")
def mirror(
    floor: FloorGestures,
    instance: Typed,
    frame: FrameField,
    nodes: LongText = "[]",
    way: WayOf = "sides",
    blocking: Blocking = False,
) -> HTMLResponse:
    """Turn the pose on a frame over."""
    mirror_pose(floor, _meant(floor, nodes, instance), frame, way, blocking)
    return all_wires(floor)


@router.get("/poseshelf/{instance_id}")
def shelf(workspace: Space, scene_id: str, instance_id: str) -> HTMLResponse:
    """The saved poses of one puppet in the scene."""
    puppet = Floor(workspace, scene_id).instance(instance_id).puppet_id
    return page("floor/poseshelf.html", poses=saved_poses(workspace.store, puppet))


@router.post("/poseshelf/save")
def save(
    floor: FloorGestures,
    instance: Typed,
    frame: FrameField,
    nodes: LongText = "[]",
    name: Typed = "",
    blocking: Blocking = False,
) -> HTMLResponse:
    """Put the pose of what is chosen on the pose shelf."""
    stands = held_time(floor, instance, frame) if blocking else frame
    save_pose(floor, _meant(floor, nodes, instance), stands, name)
    return all_wires(floor)


@router.post("/poseshelf/{pose_id}/apply")
def apply(
    floor: FloorGestures,
    pose_id: str,
    instance: Typed,
    frame: FrameField,
    nodes: LongText = "[]",
    share: Typed = "100",
    way: WayOf = "",
    blocking: Blocking = False,
) -> HTMLResponse:
    """Key a share of a saved pose on a frame."""
    part = read_number(share, "the share") / 100
    return _told(floor, apply_saved_pose(floor, pose_id, instance, frame, read_nodes(nodes), part, way, blocking))


@router.post("/poseshelf/{pose_id}/rename")
def rename(floor: FloorGestures, pose_id: str, name: Annotated[str, Form(max_length=200)]) -> HTMLResponse:
    """Give a saved pose another name."""
    rename_saved_pose(floor, pose_id, name)
    return all_wires(floor)


@router.post("/poseshelf/{pose_id}/starting")
def starting(floor: FloorGestures, pose_id: str, starts: Annotated[bool, Form()]) -> HTMLResponse:
    """Let a puppet start in this pose wherever it is brought in, or not."""
    start_with_pose(floor, pose_id, starts)
    return all_wires(floor)


@router.post("/poseshelf/{pose_id}/remove")
def remove(floor: FloorGestures, pose_id: str) -> HTMLResponse:
    """Take a pose off the shelf."""
    remove_saved_pose(floor, pose_id)
    return all_wires(floor, "The pose is off its shelf. Undo brings it back.")
