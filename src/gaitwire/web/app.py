"""The application: routers, static files, guards."""

from __future__ import annotations

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path
from stat import S_ISREG
from typing import Any

from fastapi import FastAPI
from starlette.datastructures import Headers
from starlette.responses import FileResponse, Response
from starlette.staticfiles import NotModifiedResponse, StaticFiles
from starlette.types import Scope

from gaitwire.services.jobs import JobBoard
from gaitwire.services.workers import warm_up
from gaitwire.services.workspace import Workspace
from gaitwire.web import errors, live
from gaitwire.web.routers import (
    bench,
    bench_controls,
    bench_joints,
    bench_rig,
    floor,
    floor_beads,
    floor_camera,
    floor_card,
    floor_clips,
    floor_graph,
    floor_guides,
    floor_hops,
    floor_links,
    floor_phrases,
    floor_poses,
    floor_smears,
    floor_sounds,
    floor_timing,
    floor_walk,
    history,
    pictures,
    rigging,
    send_off,
    shelf,
    sketch,
    stride,
    stride_live,
)
from gaitwire.web.safety import Guard
from gaitwire.web.templating import STATIC


class _Static(StaticFiles):
    """Files that carry a stamp in their address may be kept; others are asked for again.

    They are read once: a page asks for some sixty, and reading each through threads costs it half a second.
    """

    def __init__(self, **settings: Any) -> None:
        super().__init__(**settings)
        self._read: dict[tuple[str, int], bytes] = {}

    async def get_response(self, path: str, scope: Scope) -> Response:
        place, stat = self.lookup_path(path)
        if stat is None or not S_ISREG(stat.st_mode):
            return await super().get_response(path, scope)
        known = (place, stat.st_mtime_ns)
        if known not in self._read:
            self._read[known] = Path(place).read_bytes()
        headers = FileResponse(place, stat_result=stat).headers
        stamped = b"v=" in scope.get("query_string", b"")
        headers["Cache-Control"] = "max-age=31536000, immutable" if stamped else "no-cache"
        if self.is_not_modified(headers, Headers(scope=scope)):
            return NotModifiedResponse(headers)
        return Response(self._read[known], headers=dict(headers))


def create_app(workspace: Workspace) -> FastAPI:
    """The program's pages over an open workspace, which is closed with them."""

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        warm_up()
        yield
        app.state.jobs.close()
        workspace.store.close()

    app = FastAPI(title="Gait Wire", lifespan=lifespan, docs_url=None, redoc_url=None, openapi_url=None)
    app.state.workspace = workspace
    app.state.jobs = JobBoard()
    app.mount("/static", _Static(directory=STATIC), name="static")
    for router in (
        shelf.router,
        bench.router,
        bench_joints.router,
        bench_controls.router,
        bench_rig.router,
        rigging.router,
        sketch.router,
        floor.router,
        floor_camera.router,
        floor_card.router,
        floor_clips.router,
        floor_graph.router,
        floor_guides.router,
        floor_links.router,
        floor_phrases.router,
        floor_beads.router,
        floor_poses.router,
        floor_timing.router,
        floor_walk.router,
        floor_hops.router,
        floor_smears.router,
        floor_sounds.router,
        send_off.router,
        stride.router,
        stride_live.router,
        pictures.router,
        history.router,
        live.router,
    ):
        # Their routes as they are: including a router builds each of them anew for every app, which takes a second.
        app.router.routes.extend(router.routes)
    errors.install(app)
    app.add_middleware(Guard)
    return app
