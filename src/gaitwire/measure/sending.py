"""Exports: how many pictures a second worker processes draw and encode."""

from __future__ import annotations

import tempfile
from pathlib import Path

from gaitwire.core.errors import JobError
from gaitwire.formats.exporting import ExportSettings
from gaitwire.measure.beside import MeasuredFigure, rate, turned_about
from gaitwire.services.output.sendoff import prepare
from gaitwire.services.session.jobs import new_job, run_job
from gaitwire.services.session.workers import warm_up
from gaitwire.services.session.workspace import Workspace

_FRAMES = 96
_TIMES = 3


def export_png_fps(workspace: Workspace, scene_id: str) -> MeasuredFigure:
    """Pictures a second, from the start of the job to the finished file; raises JobError if it fails."""
    warm_up()  # as a running server has done
    production = prepare(workspace, scene_id, ExportSettings(last=_FRAMES - 1))

    def send(_: int) -> None:
        with tempfile.TemporaryDirectory() as home:
            job = new_job("png", production.name, len(production), Path(home))
            run_job(job, lambda: production, aside=False)
            if job.state != "done":
                raise JobError(job.error or "The export did not finish.")

    return rate(turned_about(send, _TIMES), lambda ms: round(len(production) * 1000 / ms, 1))
