"""The application: routers, static files, guards."""

from __future__ import annotations

from collections.abc import AsyncIterator
from contextlib import asynccontextmanager

from fastapi import FastAPI

from gaitwire.services.session.jobs import JobBoard
from gaitwire.services.session.upkeep import Upkeep
from gaitwire.services.session.workers import warm_up
from gaitwire.services.session.workspace import Workspace
from gaitwire.web import errors, live
from gaitwire.web.routers import bench, floor, sendoff, shared, shelf, stride
from gaitwire.web.safety import Guard
from gaitwire.web.static_files import PageFiles

ROUTERS = (
    *shelf.ROUTERS, *bench.ROUTERS, *floor.ROUTERS, *sendoff.ROUTERS, *stride.ROUTERS, *shared.ROUTERS, live.router,
)  # fmt: skip
"""All pages' routes."""


def create_app(workspace: Workspace) -> FastAPI:
    """The program's pages over an open workspace, which is closed with them."""

    upkeep = Upkeep(workspace.store)

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        warm_up()
        upkeep.start()
        yield
        upkeep.close()
        app.state.jobs.close()
        workspace.store.close()

    app = FastAPI(title="Gait Wire", lifespan=lifespan, docs_url=None, redoc_url=None, openapi_url=None)
    app.state.workspace = workspace
    app.state.jobs = JobBoard()
    app.mount("/static", PageFiles(), name="static")
    for router in ROUTERS:
        # Their routes as they are: including a router builds each of them anew for every app, which takes a second.
        app.router.routes.extend(router.routes)
    errors.install(app)
    app.add_middleware(Guard)
    return app
