"""Making channels stand still: stays put in, creeping segments found, needless keys thinned out."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from itertools import pairwise
from math import inf
from typing import NamedTuple

import numpy as np

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.timing.edit import KeyChange, MakeId, key_at, left_of
from gaitwire.core.timing.key import Key
from gaitwire.core.timing.loop import wrap
from gaitwire.core.timing.sample import compile_keys, sample
from gaitwire.core.tolerances import TIME


def stay_keys(keys: Sequence[Key], time: float, loop: float | None, make_id: MakeId) -> KeyChange:
    """Make a channel hold from its last key until a time; nothing where a key lies there already.

    The stay takes over its segment's easing, so that the move after it is the one that was there,
    only shorter. One that already stays is drawn out or back to the time.
    """
    left = left_of(keys, time, loop)
    if left is None or key_at(keys, time) is not None:
        return KeyChange()
    if left.stay:
        return KeyChange((left.model_copy(update={"time": time}),))
    after = _following(keys, left, loop)
    if after is not None and after.stay:  # held for longer already: it moves off earlier now
        return KeyChange((after.model_copy(update={"time": time}),))
    return KeyChange((left.model_copy(update={"id": make_id(), "time": time, "stay": True, "aside": False}),))


def late_start(keys: Sequence[Key], time: float, length: float, loop: float | None, make_id: MakeId) -> KeyChange:
    """A stay that lets a channel start only `length` frames before a key at a time; none where it does anyway."""
    left = left_of(keys, time, loop)
    if left is None:
        return KeyChange()
    since = (time - left.time) % loop if loop is not None else time - left.time
    if since <= length + TIME:
        return KeyChange()
    return stay_keys(keys, wrap(time - length, loop) if loop is not None else time - length, loop, make_id)


def _following(keys: Sequence[Key], key: Key, loop: float | None) -> Key | None:
    later = [k for k in keys if k.time > key.time + TIME]
    if later:
        return later[0]
    return keys[0] if loop is not None and len(keys) > 1 else None


def held_for(keys: Sequence[Key], stay: Key, loop: float | None) -> float:
    """For how many frames a stay holds the key that it repeats."""
    left = left_of([k for k in keys if not k.stay], stay.time, loop)
    if left is None:
        return 0.0
    return (stay.time - left.time) % loop if loop is not None else stay.time - left.time


def hold_keys(keys: Sequence[Key], chosen: Collection[str], frames: float, loop: float | None) -> KeyChange:
    """Chosen stays at so many frames after the key that each repeats; raises InvalidInputError beyond the next key."""
    put = []
    for key in keys:
        if key.id not in chosen or not key.stay:
            continue
        after = _following(keys, key, loop)
        room = inf if after is None or after is key else after.time - key.time
        room += loop if room <= 0 and loop is not None else 0.0
        by = frames - held_for(keys, key, loop)
        if by >= room - TIME:
            raise InvalidInputError("The next key comes before that.", "Type fewer frames, or move that key first.")
        time = key.time + by
        put.append(key.model_copy(update={"time": wrap(time, loop) if loop is not None else time}))
    return KeyChange(tuple(put))


def hold_span(
    keys: Sequence[Key], channel_id: str, start: float, stop: float, loop: float | None, make_id: MakeId
) -> KeyChange:
    """Make a channel hold from one frame to a later one as it stands on the first; keys between give way."""
    if not keys:
        return KeyChange()
    first = key_at(keys, start)
    inside = [k for k in keys if start + TIME < k.time < stop - TIME]
    put: list[Key] = []
    if first is None:
        left = left_of(keys, start, loop) or keys[0]
        value = float(sample(compile_keys([list(keys)], loop), np.array([start]))[0, 0])
        first = left.model_copy(
            update={"id": make_id(), "channel_id": channel_id, "time": start, "value": value, "stay": False}
        )
        put.append(first)
    if key_at(keys, stop) is None:
        last = inside[-1] if inside else first
        put.append(last.model_copy(update={"id": make_id(), "time": stop, "value": first.value, "stay": True}))
    return KeyChange(tuple(put), tuple(k.id for k in inside))


def creeping(keys: Sequence[Key], longest: float, loop: float | None) -> list[Key]:
    """Ends of segments that move for longer than that many frames though nobody chose their bone for it."""
    found = []
    for left, right in _segments(keys, loop):
        length = (right.time - left.time) % loop if loop is not None else right.time - left.time
        if right.aside and not right.stay and length > longest + TIME and abs(right.value - left.value) > 1e-9:
            found.append(right)
    return found


def _segments(keys: Sequence[Key], loop: float | None) -> list[tuple[Key, Key]]:
    if loop is not None and len(keys) > 1:
        return list(zip(keys, [*keys[1:], keys[0]], strict=True))
    return list(pairwise(keys))


class Thinned(NamedTuple):
    """Keys that are not needed, and by how much the channel is off without them at worst."""

    removed: tuple[str, ...]
    error: float


def thin_keys(
    keys: Sequence[Key], chosen: Collection[str], rest: float, allowed: float, frames: int, loop: float | None
) -> Thinned:
    """Chosen keys without which the channel stays within `allowed` of itself on every frame of the scene.

    They are tried one by one, those whose loss shows least first. If none is left, the channel is at `rest`.
    """
    times = np.arange(frames, dtype=float)
    left = list(keys)
    wanted = sample(compile_keys([left], loop), times)[0]
    removed: list[str] = []
    worst = 0.0

    def off(without: Key) -> float:
        others = [k for k in left if k is not without]
        if any(k.stay for k in others) and not any(not k.stay for k in others):
            return np.inf
        now = sample(compile_keys([others], loop), times)[0] if others else np.full(len(times), rest)
        return float(np.abs(now - wanted).max())

    while True:
        tried = [(off(k), k) for k in left if k.id in chosen]
        error, key = min(tried, key=lambda pair: pair[0], default=(np.inf, None))
        if key is None or error > allowed + 1e-9:
            return Thinned(tuple(removed), worst)
        left.remove(key)
        removed.append(key.id)
        worst = max(worst, error)
