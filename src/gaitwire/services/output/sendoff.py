"""The Send-off: a scene made ready for export, and exports done at once for the command line."""

from __future__ import annotations

import shutil
import tempfile
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import InvalidInputError, JobError, NotFoundError
from gaitwire.core.evaluate import CompiledScene, compile_scene
from gaitwire.core.evaluate.posed import pose
from gaitwire.core.evaluate.values import sample_parts, shown_times
from gaitwire.core.puppet.art import Picture, leaves
from gaitwire.formats.exporting import ExportSettings, Production, played
from gaitwire.formats.sinks import SINKS, Format, format_named
from gaitwire.services.session.jobs import Job, new_job, run_job
from gaitwire.services.session.locking import PREFIX
from gaitwire.services.session.pictures import arts_of
from gaitwire.services.session.revising import revised
from gaitwire.services.session.workspace import Workspace
from gaitwire.store.blobs import get_blob
from gaitwire.store.documents import list_documents

MAX_PIXELS = 8192 * 8192

SEEN = 1e-2
"""What a bone's matrix, or a part's opacity or place, may differ by without being seen."""


@dataclass(frozen=True)
class Plan:
    """A scene as it stood when its send-off was asked for: what there is to draw is worked out from it later."""

    workspace: Workspace
    compiled: CompiledScene
    settings: ExportSettings
    times: FloatArray

    @property
    def name(self) -> str:
        return self.compiled.scene.name

    def production(self) -> Production[Any]:
        """Everything an export needs."""
        workspace, compiled = self.workspace, self.compiled
        arts = arts_of(workspace, compiled)
        hashes = {n.hash for row in arts.values() for art in row for n in leaves(art.nodes) if isinstance(n, Picture)}
        pictures = {digest: tuple(get_blob(workspace.store, digest)) for digest in hashes}
        return Production(self.name, compiled, self.times, arts, self.settings, pictures)  # type: ignore[arg-type]


def plan(workspace: Workspace, scene_id: str, settings: ExportSettings) -> Plan:
    """What is to be sent off; raises InvalidInputError for a range or size that is not there."""
    compiled = workspace.compiled(scene_id)
    scene = compiled.scene.filmed
    if not settings.background and any(i.backdrop for i in scene.instances):
        scene = scene.model_copy(update={"instances": tuple(i for i in scene.instances if not i.backdrop)})
    if scene is not compiled.scene:
        compiled = compile_scene(scene, compiled.puppets, compiled.skins, compiled, compiled.phrases)
    if settings.first >= scene.frames:
        raise InvalidInputError(f"This scene has only {scene.frames} frames.", "Begin earlier.")
    last = scene.frames - 1 if settings.last is None else min(settings.last, scene.frames - 1)
    width, height = settings.pixels(scene)
    if width * height > MAX_PIXELS:
        raise InvalidInputError("This picture would be too large.", "Choose a smaller size.")
    return Plan(workspace, compiled, settings, played(settings.first, last, settings.back))


def held_apart(workspace: Workspace, scene_id: str) -> int:
    """On how many frames the blocking view shows something else than what is made of the scene."""
    compiled = workspace.compiled(scene_id)
    if not compiled.scene.poses:
        return 0
    frames = np.arange(float(compiled.scene.frames))
    unlike = np.zeros(len(frames), bool)
    for group in compiled.groups:
        for as_made, held in zip(pose(group, frames), pose(group, frames, blocking=True), strict=True):
            unlike |= (np.abs(as_made.world - held.world) > SEEN).any(axis=(0, 1))
    for puppet in compiled.compiled_puppets:
        parts = [sample_parts(puppet, shown_times(puppet, frames, blocking)) for blocking in (False, True)]
        unlike |= (np.abs(parts[0] - parts[1]) > SEEN).any(axis=(0, 1))
    return int(unlike.sum())


def prepare(workspace: Workspace, scene_id: str, settings: ExportSettings) -> Production[Any]:
    """Everything an export needs; raises InvalidInputError as `plan` does."""
    return plan(workspace, scene_id, settings).production()


def settings_from(format_: Format, **values: Any) -> ExportSettings:
    """Settings as they were typed, those that a kind of file knows; raises InvalidInputError, by field."""
    known = format_.settings.model_fields
    return revised(format_.settings(), {name: value for name, value in values.items() if name in known})


def find_scene(workspace: Workspace, name: str) -> str:
    """Id of the scene of that name (or id); raises NotFoundError with the names there are."""
    entries = list_documents(workspace.store, "scene")
    for entry in entries:
        if name in (entry.id, entry.name) or name.lower() == entry.name.lower():
            return entry.id
    known = ", ".join(f"“{e.name}”" for e in entries) or "none"
    raise NotFoundError(f"There is no scene called “{name}”.", f"There is: {known}.")


def format_of(target: Path, name: str = "") -> Format:
    """The kind of file of that name, else the first that ends like the target; a folder takes what can lie in one.

    Raises InvalidInputError for a target of another kind.
    """
    if name:
        return format_named(name)
    suffix = target.suffix.lower()
    for format_ in SINKS.values():
        if suffix == format_.suffix or (not suffix and format_.unpack is not None):
            return format_
    known = ", ".join(dict.fromkeys(f.suffix for f in SINKS.values()))
    raise InvalidInputError(f"“{target.name}” is no kind of file that can be written.", f"Use {known} or a folder.")


def render_to(
    workspace: Workspace, scene_id: str, target: Path, format_: Format, settings: ExportSettings | None = None
) -> None:
    """Write a scene to a file, or a folder where the kind of file may be one; whole, or not at all.

    Raises JobError when the work fails.
    """
    planned = plan(workspace, scene_id, settings or format_.settings())
    with tempfile.TemporaryDirectory(prefix=PREFIX) as home:
        job = new_job(format_.name, planned.name, len(planned.times), Path(home))
        run_job(job, planned.production, aside=False)
        if job.state != "done":
            raise JobError(job.error or "The send-off did not finish.")
        if format_.unpack is not None and not target.suffix:
            format_.unpack(job.file, target)
            return
        target.parent.mkdir(parents=True, exist_ok=True)
        shutil.move(job.file, target)


def frame_of(job: Job, index: int) -> bytes:
    """One picture out of a finished sequence's file; raises NotFoundError."""
    if job.state != "done" or job.format.frame is None:
        raise NotFoundError("There is no such picture.", "Make the send-off first.")
    return job.format.frame(job.file, index)
