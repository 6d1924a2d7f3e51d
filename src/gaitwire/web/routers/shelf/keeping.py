"""Safekeeping: copies of the store, history's size, and how the program is."""

from __future__ import annotations

import time
from typing import Annotated, Any

from fastapi import APIRouter, Form, Request
from starlette.responses import FileResponse, HTMLResponse, JSONResponse, Response

from gaitwire.core.errors import GaitWireError
from gaitwire.services.session.health import health_of
from gaitwire.services.session.journal import log
from gaitwire.store import backups
from gaitwire.store.upkeep import compact, cut_history, file_size, history_size
from gaitwire.web.context import Space
from gaitwire.web.templating import page

router = APIRouter()

AGES = {7: "a week", 30: "a month", 365: "a year"}
"""Days to what history is cut to, in words."""


@router.get("/health")
def health(request: Request, workspace: Space) -> JSONResponse:
    """How the program is, in numbers."""
    found: dict[str, Any] = health_of(workspace.store) | {"jobs": request.app.state.jobs.counts()}
    return JSONResponse(found, headers={"Cache-Control": "no-store"})


def _shown(workspace: Space, said: str = "", name: str = "keeping/keeping.html") -> HTMLResponse:
    store = workspace.store
    size = history_size(store)
    days = 0.0 if size.oldest is None else (time.time() - size.oldest) / 86_400
    copies = backups.list_copies(store.path.parent)
    return page(
        name, copies=copies, bytes=file_size(store), history=size, days=days, ages=AGES, said=said,
        folder=store.path.parent, read_only=store.read_only,
    )  # fmt: skip


@router.get("/keeping")
def keeping(workspace: Space) -> HTMLResponse:
    """The page."""
    return _shown(workspace)


@router.get("/keeping/copies/{name}")
def look(workspace: Space, name: str) -> HTMLResponse:
    """What lies in a copy."""
    copy = backups.find_copy(workspace.store.path.parent, name)
    try:
        return page("keeping/contents.html", copy=copy, contents=backups.look_into(copy), fault="")
    except GaitWireError as error:
        return page("keeping/contents.html", copy=copy, contents=None, fault=str(error))


@router.get("/keeping/copies/{name}/file")
def save(workspace: Space, name: str) -> Response:
    """A copy as a file."""
    copy = backups.find_copy(workspace.store.path.parent, name)
    return FileResponse(copy.path, media_type="application/vnd.sqlite3", filename=f"gaitwire-{copy.name}.sqlite3")


@router.post("/keeping/copy")
def copy(workspace: Space) -> HTMLResponse:
    """Copy the store now."""
    made = backups.make_copy(workspace.store, "asked")
    return _shown(workspace, f"Copied at {made.made_at:%H:%M:%S}.", "keeping/body.html")


@router.post("/keeping/restore")
def restore(workspace: Space, name: Annotated[str, Form(max_length=100)]) -> HTMLResponse:
    """Put a copy's contents in the store's place."""
    chosen = backups.find_copy(workspace.store.path.parent, name)
    before = backups.restore_into(workspace.store, chosen)
    log.warning("%s was restored; %s holds what stood there", chosen.name, before.name)
    said = f"The Shelf is as it was in {chosen.name}. What stood there before is in the copy {before.name}."
    return _shown(workspace, said, "keeping/body.html")


@router.post("/keeping/cut")
def cut(workspace: Space, days: Annotated[float, Form(ge=0, le=36_500)]) -> HTMLResponse:
    """Forget the oldest steps, and make the file small."""
    gone = cut_history(workspace.store, days * 86_400)
    before, after = compact(workspace.store)
    said = f"{gone} steps can no longer be undone. The file has {after / 1e6:.1f} MB now, {before / 1e6:.1f} before."
    return _shown(workspace, said, "keeping/body.html")
