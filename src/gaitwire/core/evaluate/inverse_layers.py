"""Editing with layers about the keys: what walks, phrases, rolls and offsets add is taken off.

On a walk an edit reaches to the poses beside it.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping

import numpy as np

from gaitwire.core.addresses import Address
from gaitwire.core.errors import LockedError
from gaitwire.core.evaluate import CompiledScene
from gaitwire.core.evaluate.values import AS_KEYED, LayersOverKeys, gait_values, layers_about_keys, layers_at
from gaitwire.core.ids import new_id
from gaitwire.core.scene import Scene
from gaitwire.core.timing.channel import PROPERTIES, Channel
from gaitwire.core.timing.cutting import add_point
from gaitwire.core.timing.edit import KeyChange, key_at, set_key
from gaitwire.core.timing.key import Key
from gaitwire.core.timing.loop import wrap
from gaitwire.core.timing.offset import without
from gaitwire.core.tolerances import TIME
from gaitwire.core.walk.span import Gait

_LEAST = 0.02
"""Where less of the keys than this is seen, they cannot say what is."""


class Beneath:
    """The layers of a scene, asked on a frame for what a channel's key is to be there."""

    def __init__(self, scene: Scene, compile_: Callable[[], CompiledScene]) -> None:
        about_keys = layers_about_keys()
        compiled_puppets = compile_().compiled_puppets if any(layer.is_in(scene) for layer in about_keys) else ()
        layered = (p for p in compiled_puppets if any(layer.is_on(p) for layer in about_keys))
        self._puppets = {p.source.instance.id: p for p in layered}
        self._scene = scene
        self._known: dict[tuple[str, float], Mapping[tuple[str, str], LayersOverKeys]] = {}

    def key_value(self, address: Address, value: float, time: float) -> float:
        """What a key is to say at a time for a property to be seen at a value.

        Raises LockedError where a phrase decides what is seen, whatever the keys say.
        """
        layers = self._layers(address[0], time).get(address[1:], AS_KEYED)
        value -= layers.on_top
        own = [o for o in self._scene.offsets if (o.instance_id, o.owner_id, o.property) == address]
        if own:
            value = without(own, value, time, self._scene.loop_length)
        if abs(layers.factor) < _LEAST:
            raise LockedError(
                f"The phrase “{layers.by}” decides about this here.",
                "Key it before or after the phrase, or make the phrase into keys.",
            )
        return (value - layers.added) / layers.factor

    def _layers(self, instance_id: str, time: float) -> Mapping[tuple[str, str], LayersOverKeys]:
        if instance_id not in self._puppets:
            return {}
        key = (instance_id, time)
        if key not in self._known:
            self._known[key] = layers_at(self._puppets[instance_id], time)
        return self._known[key]

    def fences(self, address: Address, time: float) -> list[float]:
        """The walk's poses before and after a time; none where no walk moves the property."""
        gait = self._gait(address[0], time)
        if gait is None or address[1:] not in gait_values(self._puppets[address[0]], np.array([time])):
            return []
        return _beside(gait, time, self._scene.loop_length)

    def _gait(self, instance_id: str, time: float) -> Gait | None:
        puppet = self._puppets.get(instance_id)
        gaits = puppet.gaits if puppet else ()
        return next((g for g in gaits if g.span.start <= time <= g.span.stop), None)


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
