"""Editing keys: pure functions from a channel's keys to the keys to store and the ids to remove."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from itertools import pairwise
from typing import NamedTuple

import numpy as np

from gaitwire.core.timing.easing.chart import find_spacing, moved_tick
from gaitwire.core.timing.easing.registry import CHART, EASINGS, FREE, find_easing
from gaitwire.core.timing.key import WHOLE, Curve, Key, curve_from_shares, eased_like, refit_curve, steeper
from gaitwire.core.timing.loop import slide, wrap
from gaitwire.core.timing.segment import risen
from gaitwire.core.tolerances import TIME

DEFAULT_EASE = "quad-in-out"
"""What a new key's segment plays until it is told otherwise; a cubic, so that exports keep it exactly."""

MakeId = Callable[[], str]


class KeyChange(NamedTuple):
    """Keys to store and ids to remove."""

    put: tuple[Key, ...] = ()
    removed: tuple[str, ...] = ()


def key_at(keys: Sequence[Key], time: float) -> Key | None:
    """The key at that time, if there is one."""
    return next((k for k in keys if abs(k.time - time) < TIME), None)


def left_of(keys: Sequence[Key], time: float, loop: float | None) -> Key | None:
    """The key whose segment holds that time; on a loop the last one reaches across the seam."""
    before = [k for k in keys if k.time <= time + TIME]
    if before:
        return max(before, key=lambda k: k.time)
    return max(keys, key=lambda k: k.time) if loop is not None and keys else None


def set_key(
    keys: Sequence[Key], channel_id: str, time: float, value: float, loop: float | None, make_id: MakeId,
    default: str = DEFAULT_EASE, aside: bool = False,
) -> KeyChange:  # fmt: skip
    """Key a value at a time: the key there takes it, else a new one continues its segment's easing.

    `aside`: its bone was not chosen for it. A stay that is given a value is a stay no more.
    """
    if loop is not None:
        time = wrap(time, loop)
    found = key_at(keys, time)
    if found is not None:
        update = {"value": value, "stay": False, "aside": found.aside and aside}
        return KeyChange(put=(found.model_copy(update=update),))
    left = left_of(keys, time, loop)
    ease = left.ease if left is not None and left.ease in EASINGS else default
    made = Key(id=make_id(), channel_id=channel_id, time=time, value=value, ease=ease, aside=aside)
    if left is None or left.excerpt is None:
        return KeyChange((made,))
    # Its segment is another one now: it plays the whole of its easing again.
    return KeyChange((left.model_copy(update={"excerpt": None}), made))


def _landed(keys: Sequence[Key], moved: Sequence[Key], staying: Collection[str]) -> KeyChange:
    """Moved keys as they land: one that stays where they land gives way to them."""
    times = {round(k.time / TIME): k for k in moved}
    covered = [k.id for k in keys if k.id in staying and round(k.time / TIME) in times]
    return KeyChange(put=tuple(times.values()), removed=tuple(covered))


def move_keys(keys: Sequence[Key], chosen: Collection[str], by: float, loop: float | None) -> KeyChange:
    """Slide chosen keys by `by` frames, around the loop if there is one.

    Every key takes its segment's easing with it, so that a channel slid as a whole plays the same
    thing later, seam and all.
    """
    picked = [k for k in keys if k.id in chosen]
    times = slide([k.time for k in picked], by, loop)
    moved = [k.model_copy(update={"time": t}) for k, t in zip(picked, times, strict=True)]
    return _landed(keys, moved, {k.id for k in keys} - set(chosen))


def copy_keys(
    keys: Sequence[Key], chosen: Collection[str], by: float, loop: float | None, make_id: MakeId
) -> KeyChange:
    """Duplicate chosen keys `by` frames later; a key that lies there gives way."""
    copies = []
    for key in keys:
        if key.id in chosen:
            time = key.time + by
            copies.append(key.model_copy(update={"id": make_id(), "time": wrap(time, loop) if loop else time}))
    return _landed(keys, copies, {k.id for k in keys})


def _rises(keys: Sequence[Key], loop: float | None) -> dict[str, float]:
    """How much each key's segment rises, by key id; 0 where nothing follows."""
    ordered = sorted(keys, key=lambda k: k.time)
    rises = {a.id: b.value - a.value for a, b in pairwise(ordered)}
    if ordered:
        rises[ordered[-1].id] = ordered[0].value - ordered[-1].value if loop is not None else 0.0
    return rises


def ease_keys(keys: Sequence[Key], chosen: Collection[str], ease: str) -> KeyChange:
    """Give the segments of chosen keys a named easing; raises InvalidInputError for an unknown one."""
    find_easing(ease)
    return KeyChange(put=tuple(_eased(k, ease) for k in keys if k.id in chosen))


def _eased(key: Key, ease: str, chart: tuple[float, ...] = ()) -> Key:
    return key.model_copy(update={**WHOLE, "ease": ease, "chart": chart})


def lengths_of(keys: Sequence[Key], loop: float | None) -> dict[str, float]:
    """How many frames each key's segment lasts, by key id; 0 where nothing follows."""
    found = {a.id: b.time - a.time for a, b in pairwise(keys)}
    if keys:
        found[keys[-1].id] = keys[0].time + loop - keys[-1].time if loop is not None else 0.0
    return found


def in_betweens(length: float) -> int:
    """How many whole frames lie within a segment of that many frames."""
    return max(0, round(length) - 1)


def ticks_of(key: Key, length: float, rise: float) -> tuple[float, ...]:
    """Where the in-betweens of a key's segment lie, in shares of its rise, one for each frame within it."""
    shares = np.arange(1, in_betweens(length) + 1) / max(length, 1e-9)
    if key.ease in EASINGS and key.excerpt is None:
        return tuple(EASINGS[key.ease](shares).tolist())
    if key.ease != CHART and abs(rise) < 1e-12:
        return tuple(shares.tolist())
    return tuple((risen(key, rise or 1.0, shares) / (rise or 1.0)).tolist())


def space_keys(keys: Sequence[Key], chosen: Collection[str], name: str, loop: float | None) -> KeyChange:
    """Give the segments of chosen keys a ready spacing; raises InvalidInputError for an unknown one."""
    spacing = find_spacing(name)
    lengths = lengths_of(keys, loop)
    put = []
    for key in keys:
        if key.id in chosen:
            count = in_betweens(lengths[key.id])
            ticks = spacing.ticks(count) if spacing.ticks and count else ()
            put.append(_eased(key, CHART, ticks) if ticks else _eased(key, spacing.ease or "linear"))
    return KeyChange(put=tuple(put))


def tick_keys(keys: Sequence[Key], chosen: Collection[str], index: int, share: float, loop: float | None) -> KeyChange:
    """Put one in-between of chosen keys' segments elsewhere, in shares of their rise; the others stay.

    Segments that have no such in-between are left alone.
    """
    lengths, rises = lengths_of(keys, loop), _rises(keys, loop)
    put = []
    for key in keys:
        if key.id in chosen and index < in_betweens(lengths[key.id]):
            ticks = moved_tick(ticks_of(key, lengths[key.id], rises[key.id]), index, share)
            put.append(Key.model_validate({**key.model_dump(), **WHOLE, "ease": CHART, "chart": ticks}))
    return KeyChange(put=tuple(put))


def shape_keys(
    keys: Sequence[Key], chosen: Collection[str], shares: tuple[float, float, float, float], loop: float | None
) -> KeyChange:
    """Give the segments of chosen keys one free curve, in shares of each segment's length and rise."""
    rises = _rises(keys, loop)
    x1, y1, x2, y2 = shares
    return KeyChange(
        put=tuple(_revised(k, curve_from_shares(x1, y1, x2, y2, rises[k.id])) for k in keys if k.id in chosen)
    )


def reuse_shape(
    source: Key, source_rise: float, keys: Sequence[Key], chosen: Collection[str], loop: float | None
) -> KeyChange:
    """Give the segments of chosen keys the easing of another segment, whatever its length and rise."""
    rises = _rises(keys, loop)
    if source.curve is None:
        gains = {i: rise / source_rise if abs(source_rise) > 1e-12 else 1.0 for i, rise in rises.items()}
        return KeyChange(tuple(steeper(eased_like(k, source), gains[k.id]) for k in keys if k.id in chosen))
    curve = source.curve
    return KeyChange(
        put=tuple(_revised(k, refit_curve(curve, source_rise, rises[k.id])) for k in keys if k.id in chosen)
    )


def rise_of(keys: Sequence[Key], key_id: str, loop: float | None) -> float:
    """How much the segment of a key rises."""
    return _rises(keys, loop).get(key_id, 0.0)


def _revised(key: Key, curve: Curve) -> Key:
    return Key.model_validate({**key.model_dump(), **WHOLE, "ease": FREE, "curve": curve})
