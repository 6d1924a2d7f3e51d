"""Editing on top of a walk or a roll: what it adds is taken off; on a walk an edit reaches to the poses beside it."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from gaitwire.core.evaluate import CompiledScene
from gaitwire.core.evaluate.values import beneath_values
from gaitwire.core.scene import Scene
from gaitwire.core.timing.channel import PROPERTIES, Channel
from gaitwire.core.timing.edit import KeyChange, key_at, set_key
from gaitwire.core.timing.key import Key
from gaitwire.core.timing.loop import wrap
from gaitwire.core.timing.shape import add_point
from gaitwire.core.tolerances import TIME
from gaitwire.core.walk.span import Gait
from gaitwire.store.documents import new_id

Slot = tuple[str, str, str]


class Beneath:
    """The walks of a scene, asked on a frame for what they add to a channel; none without a compiled scene."""

    def __init__(self, compiled: CompiledScene | None) -> None:
        islands = compiled.islands if compiled else ()
        self._islands = {i.source.instance.id: i for i in islands if i.gaits or i.source.rolls}
        self._loop = compiled.loop if compiled else None
        self._known: dict[tuple[str, float], Mapping[tuple[str, str], float]] = {}

    def value(self, slot: Slot, time: float) -> float:
        """What a walk adds to a property at a time; 0 where none does."""
        return self._values(slot[0], time).get(slot[1:], 0.0)

    def _values(self, instance_id: str, time: float) -> Mapping[tuple[str, str], float]:
        if instance_id not in self._islands:
            return {}
        key = (instance_id, time)
        if key not in self._known:
            self._known[key] = beneath_values(self._islands[instance_id], time)
        return self._known[key]

    def fences(self, slot: Slot, time: float) -> list[float]:
        """The walk's poses before and after a time; none where no walk moves the property."""
        if slot[1:] not in self._values(slot[0], time):
            return []
        gait = self._gait(slot[0], time)
        return _beside(gait, time, self._loop) if gait else []

    def _gait(self, instance_id: str, time: float) -> Gait | None:
        return next((g for g in self._islands[instance_id].gaits if g.span.start <= time <= g.span.stop), None)


def _beside(gait: Gait, time: float, loop: float | None) -> list[float]:
    span = gait.span
    at = float(span.strides_at(np.array([time]))[0])
    times = [m.time for m in gait.poses_between(at - 1.0, at + 1.0)]
    before = max((t for t in times if t < time - TIME), default=span.start)
    after = min((t for t in times if t > time + TIME), default=span.stop)
    if loop is None:
        return [t for t in (max(before, span.start), min(after, span.stop)) if abs(t - time) > TIME]
    return [before, after]


def fenced(scene: Scene, channel: Channel, keys: list[Key], time: float, end: float) -> KeyChange:
    """A key that holds what a channel is at a frame `end`, so that a new one at `time` changes nothing beyond it.

    None where a key lies between already.
    """
    loop = scene.loop_length
    low, high = sorted((time, end))
    rounds = (0.0,) if loop is None else (-loop, 0.0, loop)
    if any(low - TIME <= k.time + r <= high + TIME and abs(k.time + r - time) > TIME for k in keys for r in rounds):
        return KeyChange()
    if loop is not None:
        end = wrap(end, loop)
    within = loop is not None or (any(k.time < end for k in keys) and any(k.time > end for k in keys))
    if len(keys) > 1 and within and key_at(keys, end) is None:
        return add_point(keys, end, loop, new_id)
    rest = PROPERTIES[channel.owner_kind][channel.property].rest
    value = min(keys, key=lambda k: abs(k.time - end)).value if keys else rest
    return set_key(keys, channel.id, end, value, loop, new_id)
