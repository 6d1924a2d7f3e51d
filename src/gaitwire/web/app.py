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
    floor_scene,
    floor_shows,
    floor_smears,
    floor_sounds,
    floor_timing,
    floor_walk,
    history,
    keeping,
    pictures,
    rigging,
    send_off,
    shelf,
    sketch,
    stride,
    stride_live,
)
from gaitwire.web.safety import Guard
from gaitwire.web.static_files import PageFiles
from gaitwire.web.templating import STATIC

ROUTERS = (
    shelf.router,
    bench.router,
    bench_joints.router,
    bench_controls.router,
    bench_rig.router,
    rigging.router,
    sketch.router,
    floor.router,
    floor_scene.router,
    floor_shows.router,
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
    keeping.router,
    live.router,
)
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
    app.mount("/static", PageFiles(directory=STATIC), name="static")
    for router in ROUTERS:
        # Their routes as they are: including a router builds each of them anew for every app, which takes a second.
        app.router.routes.extend(router.routes)
    errors.install(app)
    app.add_middleware(Guard)
    return app
