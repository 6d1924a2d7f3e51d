"""The seam of a loop: where its end meets its start, by how much a channel jumps there, and how to close it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from gaitwire.core.timing.easing.nearest import nearest_cubic
from gaitwire.core.timing.easing.registry import EASINGS, FREE
from gaitwire.core.timing.edit import KeyChange, MakeId, key_at
from gaitwire.core.timing.key import Curve, Key, curve_from_shares
from gaitwire.core.timing.sample import compile_keys, sample
from gaitwire.core.timing.stay import as_played

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
    if first is None or len(keys) < 2:
        return KeyChange()
    at = keys.index(first)
    last = keys[at - 1] if loop is not None else [k for k in keys if k.time < end - _STEP][-1]
    following = keys[(at + 1) % len(keys)]
    arriving = (first.time + loop if loop is not None else end) - last.time
    leaving = (following.time - first.time) % loop if loop is not None else following.time - first.time
    if arriving <= 0 or leaving <= 0 or last.id == first.id:
        return KeyChange()
    before, after = (first.value - last.value) / arriving, (following.value - first.value) / leaving
    slope = 0.0 if before * after <= 0 else 2 * before * after / (before + after)
    into = _handles(last, first.value - last.value, as_played(keys, loop is not None))
    out = _handles(first, following.value - first.value, as_played(keys, loop is not None))
    left = Curve(into.x1, into.dy1, 2 / 3, -slope * arriving / 3)
    right = Curve(1 / 3, slope * leaving / 3, out.x2, out.dy2)
    return KeyChange((_curved(last, left), _curved(first, right)))


def _handles(key: Key, rise: float, played: Sequence[Key]) -> Curve:
    """A key's segment as a free curve: its own, or the nearest to its easing."""
    ease = next(k.ease for k in played if k.id == key.id)
    if key.curve is not None and ease == FREE:
        return key.curve
    named = ease if ease in EASINGS and ease != "hold" else "linear"
    return curve_from_shares(*nearest_cubic(named), rise)


def _curved(key: Key, curve: Curve) -> Key:
    return Key.model_validate({**key.model_dump(), "ease": FREE, "curve": curve, "chart": ()})
