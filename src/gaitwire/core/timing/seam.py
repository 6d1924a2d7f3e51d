"""The seam of a loop: where its end meets its start, by how much a channel jumps there, and how to close it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from gaitwire.core.timing.edit import KeyChange, MakeId, key_at
from gaitwire.core.timing.key import Key
from gaitwire.core.timing.loop import Repeat
from gaitwire.core.timing.sample import compile_keys, sample
from gaitwire.core.timing.shape import curve_segments, curved, slope_at
from gaitwire.core.timing.stay import as_played
from gaitwire.core.tolerances import TIME

_HAIR = 1e-6
"""Frames before the end at which it is looked at: on a loop the end itself is the start already."""

_STEP = 1e-4
"""Frames over which a speed is measured."""


class Seam(NamedTuple):
    """What happens from the end of a stretch to its start: a jump in value, and in speed (per frame)."""

    jump: float
    speed: float


def seam_of(keys: Sequence[Key], start: float, end: float, loop: float | None) -> Seam:
    """A channel's seam, if the stretch from `start` to `end` is played over and over.

    On a loop of `loop` frames from 0 the last segment reaches across, so that only steps jump.
    """
    table = compile_keys([list(keys)], loop)
    times = np.array([end - _HAIR - _STEP, end - _HAIR, start, start + _STEP])
    before, last, first, after = sample(table, times)[0].tolist()
    return Seam(first - last, (after - first - last + before) / _STEP)


def repeated_seam(keys: Sequence[Key], again: tuple[Repeat, bool], loop: float) -> Seam:
    """The seam at the end of a loop of so many frames of a channel in it that repeats a stretch of its own."""
    table = compile_keys([list(keys)], loop, {0: again})
    times = np.array([loop - _HAIR - _STEP, loop - _HAIR, 0.0, _STEP])
    before, last, first, after = sample(table, times)[0].tolist()
    return Seam(first - last, (after - first - last + before) / _STEP)


def fitting(repeat: Repeat, loop: float) -> float:
    """The length of a stretch, nearest to what it is, that repeats so that a loop's end meets its start; 0 for none.

    A cycle goes a whole number of times into the loop, there and back twice as often; what goes onward never comes
    back.
    """
    if repeat.kind == "onward":
        return 0.0
    once = loop / (2 if repeat.kind == "there and back" else 1)
    about = max(1, round(once / (repeat.end - repeat.start)))
    lengths = [once / n for n in (about - 1, about, about + 1) if n > 0]
    return min(lengths, key=lambda length: abs(length - (repeat.end - repeat.start)))


def fitting_loop(repeat: Repeat, loop: float) -> int | None:
    """The length of a loop, nearest to one, whose end a stretch that repeats meets as it is; None for no whole one."""
    if repeat.kind == "onward":
        return None
    whole = (repeat.end - repeat.start) * (2 if repeat.kind == "there and back" else 1)
    found = max(1, round(loop / whole)) * whole
    return round(found) if abs(found - round(found)) < TIME else None


def close_seam(
    keys: Sequence[Key], channel_id: str, start: float, end: float, loop: float | None, make_id: MakeId
) -> KeyChange:
    """Make a channel end as it begins, and at the same speed.

    Where it does not loop by itself its end gets a key with the start's value. The segments on
    either side of the seam become curves that meet in one slope: level where the channel turns
    back there, else between the slopes of its neighbours, so that nothing overshoots (as
    monotone cubic pieces do: Fritsch and Carlson 1980).
    """
    if loop is not None:
        return _smoothed(list(keys), start, end, loop)
    own = list(keys)
    value = float(sample(compile_keys([own], None), np.array([start]))[0, 0])
    first, last = key_at(own, start), key_at(own, end)
    ends = [
        (found or own[0]).model_copy(
            update={"id": found.id if found else make_id(), "channel_id": channel_id, "time": t, "value": value,
                    "stay": False}
        )
        for found, t in ((first, start), (last, end))
    ]  # fmt: skip
    inside = [k for k in own if k.id not in {e.id for e in ends}]
    changed = _smoothed(sorted([*inside, *ends], key=lambda k: k.time), start, end, None)
    put = {k.id: k for k in [*ends, *changed.put]}
    return KeyChange(tuple(put.values()))


def _smoothed(keys: list[Key], start: float, end: float, loop: float | None) -> KeyChange:
    """Both sides of the seam with one slope; nothing where no key lies on it, and the segment just goes on."""
    first = key_at(keys, start)
    segments = curve_segments(as_played(keys, loop is not None), loop)
    last_id = first.id if first and loop is not None else next((k.id for k in keys if abs(k.time - end) < TIME), "")
    into = next((s for s in segments if s.right.id == last_id), None)
    out = next((s for s in segments if first and s.left.id == first.id), None)
    if first is None or into is None or out is None:
        return KeyChange()
    slope = slope_at(into, out)
    own = {k.id: k for k in keys}
    curves = {into.left.id: into.curve._replace(x2=2 / 3, dy2=-slope * into.length / 3)}
    leaving = curves.get(out.left.id, out.curve)
    curves[out.left.id] = leaving._replace(x1=1 / 3, dy1=slope * out.length / 3)
    return KeyChange(tuple(curved(own[key_id], curve) for key_id, curve in curves.items()))
