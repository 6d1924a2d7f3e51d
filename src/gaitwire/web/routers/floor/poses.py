"""Edits of whole-body poses."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Form, Query
from starlette.responses import HTMLResponse

from gaitwire.core.bounds import LATEST
from gaitwire.core.errors import InvalidInputError
from gaitwire.services.scene.found_poses import mark_all_poses, mark_found_poses
from gaitwire.services.scene.poses import (
    break_down,
    copy_pose,
    copy_pose_to_end,
    delete_pose,
    keep_only_moved,
    key_whole_pose,
    move_pose,
    read_duration,
    set_duration,
    update_pose,
)
from gaitwire.web.routers.floor.answers import FloorGestures, FrameField, LongText, all_wires, read_nodes
from gaitwire.web.routers.floor.timing import Typed, read_number

router = APIRouter(prefix="/floor/{scene_id}/poses")


def _made(response: HTMLResponse, pose_id: str) -> HTMLResponse:
    response.headers["Gw-Made"] = pose_id
    return response


@router.post("/key")
def key_whole(floor: FloorGestures, instance: Typed, frame: FrameField, nodes: LongText = "[]") -> HTMLResponse:
    """Key the whole body on a frame and mark it as a pose."""
    made = key_whole_pose(floor, instance, frame, read_nodes(nodes))
    return _made(all_wires(floor), made)


@router.post("/mark-found")
def mark_found(floor: FloorGestures, instance: Typed) -> HTMLResponse:
    """Mark the frames on which most of a puppet has beads."""
    count = mark_found_poses(floor, instance)
    if not count:
        raise InvalidInputError("No frame has a whole pose yet.", "Pose the body and key the whole of it.")
    return all_wires(floor, f"{count} pose{'' if count == 1 else 's'} marked.")


@router.post("/mark")
def mark(
    floor: FloorGestures, instance: Annotated[str, Query(max_length=80)], times: Annotated[str, Query(max_length=4000)]
) -> HTMLResponse:
    """Mark frames of a puppet as poses."""
    mark_all_poses(floor, instance, [read_number(t, "a frame") for t in times.split(",")])
    return all_wires(floor)


@router.post("/only-moved")
def only_moved(
    floor: FloorGestures, instance: Annotated[str, Query(max_length=80)],
    frame: Annotated[float, Query(allow_inf_nan=False, ge=-LATEST, le=LATEST)],
) -> HTMLResponse:  # fmt: skip
    """Of a pose that blocking made, keep only what the hand moved."""
    keep_only_moved(floor, instance, frame)
    return all_wires(floor)


@router.post("/{pose_id}/set")
def set_pose(
    floor: FloorGestures, pose_id: str, field: Typed, value: Annotated[str, Form(max_length=80)]
) -> HTMLResponse:
    """Name a pose, say what kind it is, or how long it lasts."""
    if field == "duration":
        scene = floor.scene
        length = set_duration(floor, pose_id, read_duration(value, float(scene.rate)))
        return all_wires(floor, f"The scene is {length} frames long now." if length != scene.frames else "")
    if field not in ("name", "kind"):
        raise InvalidInputError(f"“{field}” cannot be set here.")
    made = update_pose(floor, pose_id, {field: value.strip()})
    return _made(all_wires(floor), made)


@router.post("/{pose_id}/move")
def post_move_pose(floor: FloorGestures, pose_id: str, to: FrameField) -> HTMLResponse:
    """Retime a pose."""
    move_pose(floor, pose_id, to)
    return _made(all_wires(floor), pose_id)


@router.post("/{pose_id}/copy")
def post_copy_pose(floor: FloorGestures, pose_id: str, frame: FrameField) -> HTMLResponse:
    """Key a pose again on a frame."""
    return _made(all_wires(floor), copy_pose(floor, pose_id, frame))


@router.post("/{pose_id}/end")
def pose_at_end(floor: FloorGestures, pose_id: str) -> HTMLResponse:
    """Key a pose again at the end."""
    made = copy_pose_to_end(floor, pose_id)
    return _made(all_wires(floor), made)


@router.post("/{pose_id}/breakdown")
def post_break_down(floor: FloorGestures, pose_id: str, share: Typed = "50") -> HTMLResponse:
    """Put a breakdown between a pose and its next, at a share in percent."""
    made = break_down(floor, pose_id, read_number(share, "the share") / 100)
    return _made(all_wires(floor), made)


@router.post("/{pose_id}/delete")
def post_delete_pose(floor: FloorGestures, pose_id: str, keys: Annotated[bool, Form()] = True) -> HTMLResponse:
    """Take a pose away, with or without its keys."""
    delete_pose(floor, pose_id, keys)
    return all_wires(floor, "" if keys else "The mark is gone; the keys stay.")
