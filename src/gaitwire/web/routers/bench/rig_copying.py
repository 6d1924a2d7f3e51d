"""Another puppet's rig on the Bench: compared, then copied."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Form
from starlette.responses import HTMLResponse

from gaitwire.services.rig.rig_copying import RigCopying
from gaitwire.web.context import on_puppet
from gaitwire.web.routers.bench.page import changed
from gaitwire.web.templating import page

router = APIRouter(prefix="/bench/{puppet_id}")


RigCopyGestures = Annotated[RigCopying, Depends(on_puppet(RigCopying))]


@router.get("/rig/{source_id}")
def compared(work: RigCopyGestures, source_id: str) -> HTMLResponse:
    """What of another puppet's rig would find its like here, and what would not."""
    return page("bench/rig.html", found=work.compared(source_id), source=work.workspace.puppet(source_id))


@router.post("/rig")
def copy_rig(work: RigCopyGestures, source: Annotated[str, Form()]) -> HTMLResponse:
    """Copy another puppet's rig."""
    found = work.copy_rig(source)
    lost = f" No match for {', '.join(found.lost)}." if found.lost else ""
    return changed(work, f"{len(found.pairs)} parts hang as they do there.{lost}")
