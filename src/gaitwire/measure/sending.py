"""Exports: how many pictures a second two worker processes draw and encode."""

from __future__ import annotations

import tempfile
import time
from pathlib import Path

from gaitwire.core.errors import JobError
from gaitwire.formats.exporting import ExportSettings
from gaitwire.services.jobs import new_job, run_job
from gaitwire.services.sendoff import prepare
from gaitwire.services.workers import warm_up
from gaitwire.services.workspace import Workspace

_FRAMES = 96


def export_png_fps(workspace: Workspace, scene_id: str) -> float:
    """Pictures a second, from the start of the job to the finished file; raises JobError if it fails."""
    warm_up()  # as a running server has done
    production = prepare(workspace, scene_id, ExportSettings(last=_FRAMES - 1))
    with tempfile.TemporaryDirectory() as home:
        job = new_job("png", production.name, len(production.frames), Path(home))
        start = time.perf_counter()
        run_job(job, lambda: production)
        seconds = time.perf_counter() - start
        if job.state != "done":
            raise JobError(job.error or "The export did not finish.")
    return round(len(production.frames) / seconds, 1)
