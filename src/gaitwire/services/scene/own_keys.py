"""Keys of one's own in place of something computed: what was seen stays, and nothing beyond its span changes."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

import numpy as np

from gaitwire.core.addresses import Address
from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.inverse_layers import Beneath
from gaitwire.core.ids import new_id
from gaitwire.core.timing.channel import PROPERTIES, Channel
from gaitwire.core.timing.course import fewest_keys
from gaitwire.core.timing.cutting import add_point
from gaitwire.core.timing.edit import KeyChange, key_at
from gaitwire.core.timing.key import Key, eased_like
from gaitwire.core.timing.loop import wrap
from gaitwire.core.tolerances import TIME
from gaitwire.services.scene.gestures import Draft
from gaitwire.services.scene.kept_poses import course_of
from gaitwire.services.scene.key_changes import store_keys

ALLOWED = 0.1
"""Degrees, pixels or percent by which keys may miss what was computed."""


class KeysMade(NamedTuple):
    """What something was made into: keys, and by how much they miss it at most, in what unit."""

    keys: int
    error: float
    unit: str


def worst_of(found: Iterable[KeysMade]) -> KeysMade:
    """All keys together, with the greatest error."""
    rows = list(found)
    worst = max(rows, key=lambda made: made.error, default=KeysMade(0, 0.0, ""))
    return KeysMade(sum(made.keys for made in rows), worst.error, worst.unit)


def own_course(
    draft: Draft, address: Address, frames: FloatArray, layers: Beneath, allowed: float, seen: FloatArray | None = None
) -> KeysMade:
    """Key a property so that on whole frames (F,) it shows what it showed, with the layers as they will be.

    `seen` (F,) is that where more than its values tells. On a loop the frames may be counted on beyond its end.
    """
    scene = draft.scene
    loop = scene.loop_length
    times = frames if loop is None else np.mod(frames, loop)
    seen = draft.value_at(address, times) if seen is None else seen
    values = np.array([layers.key_value(address, float(v), float(t)) for v, t in zip(seen, times, strict=True)])
    channel = next((c for c in scene.channels if (c.instance_id, c.owner_id, c.property) == address), None)
    keys = scene.keys_by_channel().get(channel.id, []) if channel else []
    known, channel = channel, channel or draft.new_channel(address)
    prop = PROPERTIES[channel.owner_kind][channel.property]
    own = course_of(scene, channel, keys)
    if all(abs(own.value(t) - v) <= allowed / prop.display for t, v in zip(times.tolist(), values, strict=True)):
        return KeysMade(0, 0.0, prop.unit)  # it plays nothing here that its keys do not play by themselves
    if known is None:
        draft.put([channel])
    if prop.stepped:
        made, error = _steps(channel, frames, values), 0.0
    else:
        made, error = fewest_keys(channel.id, frames, values, allowed / prop.display, new_id)
    if loop is not None:
        made = [k.model_copy(update={"time": wrap(k.time, loop)}) for k in made]
    draft.means(address[:2], float(frames[0]), float(frames[-1]))
    change = _replaced(keys, made, frames, loop)
    store_keys(draft, change)
    return KeysMade(len(made), error * prop.display, prop.unit)


def _steps(channel: Channel, frames: FloatArray, values: FloatArray) -> list[Key]:
    """Keys wherever a row that steps changes, and on its first frame."""
    changes = [0, *(np.flatnonzero(np.diff(values)) + 1).tolist()]
    return [
        Key(id=new_id(), channel_id=channel.id, time=float(frames[n]), value=float(values[n]), ease="hold")
        for n in changes
    ]


def _replaced(keys: list[Key], made: list[Key], frames: FloatArray, loop: float | None) -> KeyChange:
    """Keys with others in place of those on some frames; what leads up to them and away stays as it is."""
    kept, put = list(keys), {k.id: k for k in made}
    ends = [float(t) if loop is None else wrap(float(t), loop) for t in (frames[0], frames[-1])]
    for time in ends:
        within = loop is not None or (any(k.time < time for k in kept) and any(k.time > time for k in kept))
        if len(kept) > 1 and within and key_at(kept, time) is None:
            for key in add_point(kept, time, loop, new_id).put:
                kept = sorted([*(k for k in kept if k.id != key.id), key], key=lambda k: k.time)
                put[key.id] = key
    span = float(frames[-1] - frames[0])
    inside = [k for k in kept if _since(k.time, ends[0], loop) <= span + TIME and _since(k.time, ends[0], loop) > -TIME]
    leaves = key_at(inside, ends[1])
    last = key_at(made, ends[1])
    if leaves is not None and last is not None:  # what comes after goes on from there as it did
        put[last.id] = eased_like(last, leaves)
    gone = {k.id for k in inside}
    return KeyChange(tuple(k for k in put.values() if k.id not in gone), tuple(gone & {k.id for k in keys}))


def _since(time: float, start: float, loop: float | None) -> float:
    return time - start if loop is None else (time - start + TIME) % loop - TIME
