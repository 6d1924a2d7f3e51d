"""The steps of a walk, whether it lies beneath the keys or was made of them."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.notes.note import NoteScene

_LOW = 0.1
"""Share of a puppet's height within which a foot counts as on the ground."""

_STRIDES = 0.12
"""Share of its height that its feet are apart, at the least, when it steps: below that it only shifts its weight."""

_EVEN = 2.0
"""How many times as long as the shortest one a step may last."""


class Steps(NamedTuple):
    """Frames of a walk: on which feet pass each other, on which they are set down, and how long a stride is."""

    passings: tuple[float, ...]
    contacts: tuple[float, ...]
    stride: float
    first: float
    last: float
    """The frames between which it walks, both included; all of a loop's."""


def steps_of(stage: NoteScene, puppet: CompiledPuppet) -> Steps | None:
    """The steps of a puppet on two feet on level ground; None where it does not walk."""
    if puppet.gaits:
        return _beneath(stage, puppet)
    feet = feet_of(stage, puppet)
    if feet is None:
        return None
    near, far = feet
    apart, deep = near.real - far.real, np.maximum(near.imag, far.imag)
    passings, contacts = _crossings(apart, stage.compiled.scene.loop)
    tall = puppet.source.puppet.height * puppet.source.instance.scale
    # Feet that step on the ground, not up a ladder or through the air, and further than one shifts one's weight.
    stepped = [c for c in contacts if abs(apart[c]) > _STRIDES * tall]
    if len(stepped) < 2 or len(stepped) < len(contacts) or np.ptp(deep[[*passings, *contacts]]) > _LOW * tall:
        return None
    loop = stage.compiled.scene.loop
    lasts = np.diff([*passings, *([passings[0] + len(apart)] if loop else [])])
    if lasts.max() > _EVEN * lasts.min():
        return None
    stride = 2 * len(apart) / len(passings) if loop else 2 * float(np.median(lasts))
    first, last = (0, len(apart) - 1) if loop else (passings[0], passings[-1])
    return Steps(tuple(map(float, passings)), tuple(map(float, contacts)), stride, float(first), float(last))


def _beneath(stage: NoteScene, puppet: CompiledPuppet) -> Steps | None:
    """Of the walk that lies beneath; of the first, where several do."""
    gait = puppet.gaits[0]
    if gait.four is not None or gait.span.slope or (gait.span.travels and gait.walker.view != "side"):
        return None  # on all fours, up a slope, or nearer and nearer
    end = len(stage.frames) - 1
    times = {name: tuple(m.time for m in gait.poses() if m.name == name and m.time <= end) for name in _NAMES}
    if not all(times.values()):
        return None
    last = float(min(np.floor(gait.span.stop), end))
    return Steps(times["passing"], times["contact"], gait.span.card.frames, float(np.ceil(gait.span.start)), last)


_NAMES = ("passing", "contact")


def feet_of(stage: NoteScene, puppet: CompiledPuppet) -> tuple[np.ndarray, np.ndarray] | None:
    """The near and the far ankle's way (F,), complex, in scene pixels, if there is one of each."""
    found = []
    for side in ("near", "far"):
        bones = [b for b in puppet.source.puppet.bones if b.role == "foot" and b.side == side]
        if len(bones) != 1:
            return None
        found.append(stage.point(puppet.source.instance.id, bones[0].id, 0j))
    return found[0], found[1]


def _crossings(apart: np.ndarray, loop: bool) -> tuple[list[int], list[int]]:
    """Frames on which the feet pass each other, and on which they are furthest apart between that."""
    after = np.roll(apart, -1)
    passes = np.flatnonzero((apart * after < 0) | (apart == 0))
    passes = passes if loop else passes[passes < len(apart) - 1]
    if len(passes) < 2:
        return [], []
    ends = [*passes[1:], passes[0] + len(apart)] if loop else passes[1:]
    contacts = []
    for start, stop in zip(passes, ends, strict=False):
        between = np.arange(start, stop) % len(apart)
        contacts.append(int(between[np.abs(apart[between]).argmax()]))
    return [int(p) for p in passes], contacts
