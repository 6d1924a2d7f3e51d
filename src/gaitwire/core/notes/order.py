"""Where a bend fix, pad or gauge changes the drawing order: there it may pop."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.blends import Blend
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.evaluate.controls import Shares, control_shares_of
from gaitwire.core.evaluate.values import sample_controls, shown_times
from gaitwire.core.geometry import affine
from gaitwire.core.notes.note import Note, NoteScene
from gaitwire.core.timing.channel import PART_PROPERTIES


def order(stage: NoteScene) -> Iterator[Note]:
    """For every control and frame on which parts change places by it: a fact to look at, not a fault."""
    for puppet in stage.compiled_puppets:
        if not any(step.prop == "place" for blend in puppet.blends for step in blend.steps):
            continue
        frames = stage.frames.frames
        controls = sample_controls(puppet, shown_times(puppet, frames))
        control_shares = control_shares_of(puppet, controls, _turns(stage, puppet))
        for blend, shares in zip(puppet.blends, control_shares, strict=True):
            if shares is not None:
                yield from _switched(puppet, blend, shares, frames, stage.compiled.scene.loop)


def _turns(stage: NoteScene, puppet: CompiledPuppet) -> FloatArray:
    """The turns (N, F) in degrees of the joints that have bend fixes, as they are seen; others are left at rest."""
    who = puppet.source.instance.id
    out = np.zeros((len(puppet.nodes.owners), len(stage.frames)))
    for blend in puppet.blends:
        if blend.is_fix:
            parent = int(puppet.skeleton.parent[blend.joint])
            above, own = (stage.matrices(who, puppet.nodes.owners[n][1]) for n in (parent, blend.joint))
            a, b = affine.compose(affine.invert(above), own)[:2]
            out[blend.joint] = np.degrees(np.arctan2(b, a))
    return out


def switches(puppet: CompiledPuppet, blend: Blend, shares: Shares, loop: bool) -> dict[int, list[str]]:
    """Frames, by their numbers, on which parts change places by a control, and which parts."""
    found: dict[int, list[str]] = {}
    for step in blend.steps:
        if step.prop != "place":
            continue
        wanted = np.nan_to_num(step.numbers[shares.nearest])
        changed = np.flatnonzero(wanted != np.roll(wanted, 1)).tolist()
        part_id = puppet.parts.owners[step.column // len(PART_PROPERTIES)][1]
        name = next(p.name for p in puppet.source.puppet.parts if p.id == part_id)
        for frame in changed if loop else [f for f in changed if f]:
            found.setdefault(frame, []).append(name)
    return found


def _switched(puppet: CompiledPuppet, blend: Blend, shares: Shares, frames: FloatArray, loop: bool) -> Iterator[Note]:
    who, control = puppet.source.instance.id, blend.control
    owner = control.bone_id if control.kind == "fix" and control.bone_id else control.id
    for frame, parts in sorted(switches(puppet, blend, shares, loop).items()):
        said = f"{control.name} changes the drawing order here: {', '.join(parts)}."
        at = float(frames[frame])
        yield Note("order", who, owner, control.name, at, at, at, float(len(parts)), "parts", said, fault=False)
