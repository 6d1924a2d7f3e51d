"""The Send-off: choose a file, watch it being made, look at it, save it."""

from __future__ import annotations

from typing import Annotated
from urllib.parse import quote

from fastapi import APIRouter, Depends, Form, Request
from starlette.responses import FileResponse, HTMLResponse, Response

from gaitwire.core.errors import ConflictError, InvalidInputError
from gaitwire.formats.exporting import ExportSettings
from gaitwire.formats.sinks import SINKS, format_named
from gaitwire.services.output.sendoff import frame_of, held_apart, plan, settings_from
from gaitwire.services.session.jobs import Job, JobBoard
from gaitwire.services.session.making import BUDGET, HELPERS
from gaitwire.web.context import Space, standing
from gaitwire.web.routers.shared.forms import Nth
from gaitwire.web.templating import page

router = APIRouter(prefix="/send-off")


def _board(request: Request) -> JobBoard:
    board: JobBoard = request.app.state.jobs
    return board


Board = Annotated[JobBoard, Depends(_board)]


@router.get("/{scene_id}")
def send_off(workspace: Space, scene_id: str) -> HTMLResponse:
    """The page."""
    scene = workspace.scene(scene_id)
    state = standing(workspace, "scene", scene_id)
    return page(
        "sendoff/sendoff.html", standing=state, scene=scene, formats=SINKS.values(), own=own_settings(),
        held=held_apart(workspace, scene_id),
    )  # fmt: skip


def own_settings() -> dict[str, list[str]]:
    """Settings that not every kind of file has, each with the names of those that have it."""
    found: dict[str, list[str]] = {}
    for format_ in SINKS.values():
        for name in format_.settings.model_fields:
            if name not in ExportSettings.model_fields:
                found.setdefault(name, []).append(format_.name)
    return found


def _number(text: str, name: str) -> int:
    try:
        return int(text)
    except ValueError:
        raise InvalidInputError(f"The {name} “{text[:20]}” is no whole number.", "Type a number.") from None


def _percent(text: str) -> float:
    try:
        return float(text.replace(",", "."))
    except ValueError:
        raise InvalidInputError(f"The size “{text[:20]}” is no number.", "Type 100, say.") from None


def _times(text: str) -> int:
    times = _number(text, "number of times")
    if times < 1:
        raise InvalidInputError("It plays at least once.", "Type 1 or more, or choose “without end”.")
    return times


@router.post("/{scene_id}/make")
def make(
    workspace: Space,
    board: Board,
    scene_id: str,
    kind: Annotated[str, Form(max_length=20)],
    scale: Annotated[str, Form(max_length=20)] = "100",
    endless: Annotated[bool, Form()] = True,
    loops: Annotated[str, Form(max_length=20)] = "1",
    first: Annotated[str, Form(max_length=20)] = "",
    last: Annotated[str, Form(max_length=20)] = "",
    background: Annotated[bool, Form()] = False,
    back: Annotated[bool, Form()] = False,
    blocking: Annotated[bool, Form()] = False,
    sampled: Annotated[bool, Form()] = False,
) -> HTMLResponse:
    """Begin a send-off; its progress comes back, and asks for itself until it is done."""
    scene = workspace.scene(scene_id)
    number = scene.first_number
    percent = _percent(scale)
    if not 5 <= percent <= 400:
        raise InvalidInputError("The size lies between 5 and 400 %.", "100 is the size of the stage.")
    settings = settings_from(
        format_named(kind),
        scale=percent / 100,
        loops=0 if endless else _times(loops),
        background=background,
        back=back,
        blocking=blocking,
        sampled=sampled,
        first=_number(first, "first frame") - number if first else 0,
        last=_number(last, "last frame") - number if last else None,
    )
    planned = plan(workspace, scene_id, settings)
    job = board.start(kind, planned.name, len(planned.times), planned.production)
    return _progress(job, scene_id)


def _progress(job: Job, scene_id: str) -> HTMLResponse:
    return page("sendoff/job.html", job=job, scene_id=scene_id, format=job.format, workers=HELPERS + 1, budget=BUDGET)


@router.get("/{scene_id}/jobs/{job_id}")
def progress(board: Board, scene_id: str, job_id: str) -> HTMLResponse:
    """How far a job is."""
    return _progress(board.get(job_id), scene_id)


@router.get("/{scene_id}/jobs/{job_id}/aside")
def aside(board: Board, scene_id: str, job_id: str) -> HTMLResponse:
    """What else is told of a finished file; asks for itself until that is all."""
    return page("sendoff/aside.html", job=board.get(job_id), scene_id=scene_id)


@router.post("/{scene_id}/jobs/{job_id}/cancel")
def cancel(board: Board, scene_id: str, job_id: str) -> HTMLResponse:
    """Stop a job."""
    return _progress(board.cancel(job_id), scene_id)


@router.get("/{scene_id}/jobs/{job_id}/file")
def fetch(board: Board, scene_id: str, job_id: str, save: bool = False) -> Response:
    """The very file: to look at, or to save."""
    job = board.get(job_id)
    if job.state != "done":
        raise ConflictError("This file is not ready.", "Wait until it is done.")
    # What is opened by itself, as an SVG may be, may play, and do nothing else.
    policy = "default-src 'none'; img-src data:; style-src 'none'; sandbox"
    headers = {"Cache-Control": "no-store", "Content-Security-Policy": policy}
    if save:
        headers["Content-Disposition"] = f"attachment; filename*=UTF-8''{quote(job.file.name)}"
    return FileResponse(job.file, media_type=job.format.media_type, headers=headers)


@router.get("/{scene_id}/jobs/{job_id}/frames/{index}.png")
def fetch_frame(board: Board, scene_id: str, job_id: str, index: Nth) -> Response:
    """One picture of a finished sequence, out of the very file."""
    return Response(frame_of(board.get(job_id), index), media_type="image/png", headers={"Cache-Control": "no-store"})
