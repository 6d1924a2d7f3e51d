"""Editing keys: pure functions from a channel's keys to the keys to store and the ids to remove."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from itertools import pairwise
from typing import NamedTuple

from gaitwire.core.timing.easing.registry import FREE, find_easing
from gaitwire.core.timing.key import Curve, Key, curve_from_shares, refit_curve
from gaitwire.core.timing.loop import slide, wrap
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
    default: str = DEFAULT_EASE,
) -> KeyChange:  # fmt: skip
    """Key a value at a time: the key there takes it, else a new one continues its segment's easing."""
    if loop is not None:
        time = wrap(time, loop)
    found = key_at(keys, time)
    if found is not None:
        return KeyChange(put=(found.model_copy(update={"value": value}),))
    left = left_of(keys, time, loop)
    ease = left.ease if left is not None and left.ease != FREE else default
    return KeyChange(put=(Key(id=make_id(), channel_id=channel_id, time=time, value=value, ease=ease),))


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
    return KeyChange(put=tuple(k.model_copy(update={"ease": ease, "curve": None}) for k in keys if k.id in chosen))


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
    if source.curve is None:
        return ease_keys(keys, chosen, source.ease)
    rises = _rises(keys, loop)
    curve = source.curve
    return KeyChange(
        put=tuple(_revised(k, refit_curve(curve, source_rise, rises[k.id])) for k in keys if k.id in chosen)
    )


def rise_of(keys: Sequence[Key], key_id: str, loop: float | None) -> float:
    """How much the segment of a key rises."""
    return _rises(keys, loop).get(key_id, 0.0)


def _revised(key: Key, curve: Curve) -> Key:
    return Key.model_validate({**key.model_dump(), "ease": FREE, "curve": curve})
