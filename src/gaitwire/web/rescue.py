"""What is served while the store is damaged: what is wrong with it, and the copies that can take its place."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

from fastapi import FastAPI, Form, Request
from starlette.responses import HTMLResponse, Response

from gaitwire.core.errors import GaitWireError
from gaitwire.services.session.journal import log
from gaitwire.store.backups import Copy, find_copy, list_copies, look_into, restore_file
from gaitwire.store.faults import StoreError
from gaitwire.web import errors
from gaitwire.web.safety import Guard
from gaitwire.web.static_files import PageFiles
from gaitwire.web.templating import page


def create_rescue(folder: Path, fault: StoreError) -> FastAPI:
    """The one page. `state.restored` tells whether a copy was put in the store's place; then `state.done` is called."""
    app = FastAPI(title="Gait Wire", docs_url=None, redoc_url=None, openapi_url=None)
    app.state.restored = False
    app.mount("/static", PageFiles(), name="static")

    @app.post("/rescue")
    def restore(name: Annotated[str, Form(max_length=100)]) -> Response:
        copy = find_copy(folder, name)
        aside = restore_file(folder, copy)
        log.warning("%s was put in the place of a damaged store, which lies in %s", copy.name, aside)
        app.state.restored = True
        app.state.done()
        return page("keeping/rescued.html", copy=copy)

    @app.get("/{path:path}")
    def show(request: Request, path: str) -> HTMLResponse:
        return page("keeping/rescue.html", fault=fault, copies=[_told(c) for c in list_copies(folder)])

    errors.install(app)
    app.add_middleware(Guard)
    return app


def _told(copy: Copy) -> tuple[Copy, object, str]:
    """A copy, what lies in it, and what is wrong with it."""
    try:
        return copy, look_into(copy), ""
    except GaitWireError as error:
        return copy, None, error.message
