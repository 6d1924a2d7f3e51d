"""Pictures of puppets and scenes, art for the stage, and blobs."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from starlette.responses import Response

from gaitwire.services.output import stills
from gaitwire.store.blobs import get_blob
from gaitwire.web.context import Space
from gaitwire.web.routers.shared.forms import At

router = APIRouter()

_KEPT = {"Cache-Control": "max-age=31536000, immutable"}


@router.get("/pictures/puppet/{puppet_id}.png")
def puppet_picture(workspace: Space, puppet_id: str, small: bool = False) -> Response:
    """A still of the puppet at rest; a small one for lists."""
    size = (160, 120) if small else (480, 360)
    return Response(stills.puppet_still(workspace, puppet_id, size), media_type="image/png", headers=_KEPT)


@router.get("/pictures/scene/{scene_id}.png")
def scene_picture(workspace: Space, scene_id: str, frame: At = 0.0) -> Response:
    """A still of the scene at a frame."""
    data = stills.scene_still(workspace, scene_id, frame, (480, 270))
    return Response(data, media_type="image/png", headers=_KEPT)


@router.get("/pictures/pose/{pose_id}.png")
def pose_picture(workspace: Space, pose_id: str) -> Response:
    """A still of a saved pose."""
    return Response(stills.pose_still(workspace, pose_id, (128, 128)), media_type="image/png")


@router.get("/pictures/phrase/{ref}/{puppet_id}.png")
def phrase_picture(workspace: Space, ref: str, puppet_id: str) -> Response:
    """A still of a puppet in the middle of a phrase."""
    data = stills.phrase_still(workspace, ref, puppet_id, (112, 112))
    return Response(data, media_type="image/png", headers=_KEPT)


@router.get("/pictures/part/{digest}.png")
def part_picture(workspace: Space, digest: str) -> Response:
    """A still of one part's art, for lists."""
    return Response(stills.art_still(workspace, digest, (48, 48)), media_type="image/png", headers=_KEPT)


@router.get("/art")
def art(workspace: Space, h: Annotated[list[str], Query(max_length=500)]) -> Response:
    """Artwork of several parts by hash, as one JSON object."""
    found = [f'"{digest}":{workspace.art(digest).model_dump_json(exclude_none=True)}' for digest in dict.fromkeys(h)]
    return Response("{" + ",".join(found) + "}", media_type="application/json", headers=_KEPT)


@router.get("/blobs/{digest}")
def blob(workspace: Space, digest: str) -> Response:
    """An embedded picture, or a sound."""
    found = get_blob(workspace.store, digest)
    shown = found.media_type.startswith(("image/", "audio/"))
    media_type = found.media_type if shown else "application/octet-stream"
    return Response(found.data, media_type=media_type, headers=_KEPT)
