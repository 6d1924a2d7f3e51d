"""Stills: one frame as a picture, for lists and thumbnails."""

from __future__ import annotations

import math
from collections.abc import Collection, Iterator

import numpy as np

from gaitwire.core.evaluate import CompiledScene, Frames, compile_scene, evaluate
from gaitwire.core.evaluate.camera import filmed
from gaitwire.core.geometry.bounds import Box, union
from gaitwire.core.motion.phrase import PhraseUse
from gaitwire.core.scene import Instance, Scene
from gaitwire.core.timing.channel import Channel
from gaitwire.formats.raster import Raster, draw_art, picture_bytes
from gaitwire.services.library.phrases import phrase_at
from gaitwire.services.scene.clips import read_clip, saved_pose
from gaitwire.services.session.pictures import Size, arts_of, fit_box, picture_source
from gaitwire.services.session.workspace import Workspace


def puppet_still(workspace: Workspace, puppet_id: str, size: Size) -> bytes:
    """The puppet at rest, whole, on nothing; PNG."""
    puppet = workspace.puppet(puppet_id)
    compiled = workspace.compile_alone(puppet, bends=False)
    arts = arts_of(workspace, compiled)
    box = union(workspace.art(p.art_hash).bounds for p in puppet.parts if not p.hidden) or Box(0, 0, 1, 1)
    raster = Raster(arts, size, picture_source(workspace), fit_box(box, size), meshes=compiled.meshes)
    return picture_bytes(raster.draw(evaluate(compiled, np.zeros(1)), 0))


def pose_still(workspace: Workspace, pose_id: str, size: Size) -> bytes:
    """A saved pose: its puppet alone, whole, on nothing; PNG."""
    saved = saved_pose(workspace.store, pose_id)
    puppet = workspace.puppet(saved.puppet_id)
    place = {"id": puppet.id, "scene_id": "", "puppet_id": puppet.id, "name": puppet.name}
    instance = Instance.model_validate({**place, "x": puppet.base_x, "y": puppet.base_y})
    channels, keys = [], []
    for n, row in enumerate(r for r in read_clip(saved.clip).rows if r.owner.kind != "seat"):
        owner = {"instance_id": puppet.id, "owner_kind": row.owner.kind, "owner_id": row.owner.owner_id}
        channels.append(Channel.model_validate({"id": str(n), "scene_id": "", "property": row.property, **owner}))
        keys.append(row.keys[0].model_copy(update={"channel_id": str(n)}))
    scene = Scene(
        id="", name=puppet.name, frames=1, loop=False, instances=(instance,), channels=tuple(channels), keys=tuple(keys)
    )
    compiled = compile_scene(scene, {puppet.id: puppet}, workspace.skins.of([puppet]))
    return _drawn(workspace, compiled, evaluate(compiled, np.zeros(1)), size)


def phrase_still(workspace: Workspace, ref: str, puppet_id: str, size: Size) -> bytes:
    """A puppet alone where a phrase has moved it furthest, on nothing; PNG. Raises NotFoundError."""
    phrase, puppet = phrase_at(workspace, ref), workspace.puppet(puppet_id)
    instance = Instance(
        id=puppet.id, scene_id="", puppet_id=puppet.id, name=puppet.name, x=puppet.base_x, y=puppet.base_y
    )
    use = PhraseUse(id="", scene_id="", instance_id=puppet.id, phrase=phrase, start=0.0)
    frames = math.ceil(phrase.length) + 1
    scene = Scene(id="", name=puppet.name, frames=frames, loop=False, instances=(instance,), phrase_uses=(use,))
    compiled = compile_scene(scene, {puppet.id: puppet}, workspace.skins.of([puppet]))
    rigid = compile_scene(scene, {puppet.id: puppet}, {})  # where it moves is told without bending anything
    shown = evaluate(rigid, np.arange(frames, dtype=float))
    away = np.abs(shown.matrices - shown.matrices[:1]).sum(axis=2)
    widest = evaluate(compiled, np.array([float(away.sum(axis=1).argmax())]))
    return _drawn(workspace, compiled, widest, size, set(np.flatnonzero(away.max(axis=0) > _MOVED).tolist()))


_MOVED = 1e-3
"""How much a part's matrix changes at least for it to count as moved."""


def _drawn(
    workspace: Workspace, compiled: CompiledScene, frames: Frames, size: Size, parts: Collection[int] | None = None
) -> bytes:
    """The first of some frames on nothing, whole, or as far as some parts go; PNG."""
    box = union(_shown_boxes(workspace, compiled, frames, parts)) or Box(0, 0, 1, 1)
    arts = arts_of(workspace, compiled)
    raster = Raster(arts, size, picture_source(workspace), fit_box(box, size), meshes=compiled.meshes)
    return picture_bytes(raster.draw(frames, 0))


def _shown_boxes(
    workspace: Workspace, compiled: CompiledScene, frames: Frames, parts: Collection[int] | None
) -> Iterator[Box]:
    """Where the parts of a frame, or some of them, are, roughly: the corners of their art, carried along."""
    for index, (_, part_id) in enumerate(frames.part_keys):
        if parts and index not in parts:
            continue
        part = next(p for puppet in compiled.puppets.values() for p in puppet.parts if p.id == part_id)
        if frames.opacity[0, index] > 0:
            yield workspace.art(part.art_hash).bounds.carried(tuple(frames.matrices[0, index].tolist()))


def scene_still(workspace: Workspace, scene_id: str, frame: float, size: Size) -> bytes:
    """One frame of a scene with its background, PNG."""
    compiled = workspace.compiled(scene_id)
    scene = compiled.scene.filmed
    if scene is not compiled.scene:
        compiled = compile_scene(scene, compiled.puppets, compiled.skins, compiled, compiled.phrases)
    view = fit_box(Box(0, 0, scene.width, scene.height), size, margin=0.0)
    arts = arts_of(workspace, compiled)
    raster = Raster(arts, size, picture_source(workspace), view, scene.background, compiled.meshes)
    return picture_bytes(raster.draw(filmed(evaluate(compiled, np.array([frame]), cache=workspace.blocks)), 0))


def art_still(workspace: Workspace, digest: str, size: Size) -> bytes:
    """One part's art, whole, PNG."""
    art = workspace.art(digest)
    return picture_bytes(draw_art([art], size, fit_box(art.bounds, size), picture_source(workspace)))
