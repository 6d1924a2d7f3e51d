"""Points of curves: moved, pulled, added and joined, as they are in the curve panel."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from typing import Literal

from pydantic import ValidationError

from gaitwire.core.addresses import Node
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.ids import new_id
from gaitwire.core.scene import Scene
from gaitwire.core.timing.channel import PROPERTIES, Property
from gaitwire.core.timing.cutting import add_point
from gaitwire.core.timing.edit import KeyChange
from gaitwire.core.timing.key import Key
from gaitwire.core.timing.loop import wrap
from gaitwire.core.timing.shape import JOINTS, JointKind, curve_segments, join_keys, pull_handle
from gaitwire.core.tolerances import TIME
from gaitwire.services.scene.gestures import Draft, gesture
from gaitwire.services.scene.key_changes import store_keys

CurveWork = Callable[[Scene, list[Key], Property], KeyChange]


def _change_curve(draft: Draft, channel_id: str, work: CurveWork) -> list[Node]:
    scene = draft.scene
    channel = next((c for c in scene.channels if c.id == channel_id), None)
    keys = scene.keys_by_channel().get(channel_id, [])
    if channel is None or not keys:
        raise InvalidInputError("This curve is not there any more.", "Choose its wire again.")
    node = (channel.instance_id, channel.owner_id)
    draft.refuse_locked([node])
    try:
        change = work(scene, keys, PROPERTIES[channel.owner_kind][channel.property])
    except ValidationError:
        raise InvalidInputError("This curve cannot be bent that way.", "Keep handles between beads.") from None
    changed = {k.id for k in change.put} | set(change.removed)
    for key in (*change.put, *(k for k in keys if k.id in changed)):
        draft.means(node, key.time)
    store_keys(draft, change)
    return [node]


@gesture("move a point")
def move_point(draft: Draft, channel_id: str, key_id: str, time: float, value: float) -> list[Node]:
    """Put a key elsewhere in time and value (in shown units); one that is there gives way."""

    def work(scene: Scene, keys: list[Key], prop: Property) -> KeyChange:
        key = _found(keys, key_id)
        at = wrap(time, scene.loop_length) if scene.loop_length else max(0.0, time)
        held = min(prop.high, max(prop.low, value / prop.display))
        gone = tuple(k.id for k in keys if abs(k.time - at) < TIME and k.id != key_id)
        return KeyChange((key.model_copy(update={"time": at, "value": held, "stay": False}),), gone)

    return _change_curve(draft, channel_id, work)


@gesture("bend a curve")
def pull_point(
    draft: Draft, channel_id: str, key_id: str, side: Literal["in", "out"], time: float, value: float
) -> list[Node]:
    """Pull a handle of a key to a time and a value (in shown units)."""

    def work(scene: Scene, keys: list[Key], prop: Property) -> KeyChange:
        key = _found(keys, key_id)
        segments = curve_segments(keys, scene.loop_length)
        mine = [s for s in segments if (s.left if side == "out" else s.right).id == key_id]
        length = mine[0].length if mine else 1.0
        x = (time - key.time) / length if side == "out" else 1 + (time - key.time) / length
        return pull_handle(keys, key_id, side, x, value / prop.display - key.value, scene.loop_length)

    return _change_curve(draft, channel_id, work)


@gesture("add a point")
def add_curve_point(draft: Draft, channel_id: str, time: float) -> list[Node]:
    """Add a key on a curve, which stays as it is."""
    return _change_curve(draft, channel_id, lambda scene, keys, _: add_point(keys, time, scene.loop_length, new_id))


@gesture()
def join_points(draft: Draft, channel_id: str, key_ids: Collection[str], kind: str) -> list[Node]:
    """Make keys of a curve smooth, level or corners."""
    if kind not in JOINTS:
        raise InvalidInputError(f"Curves cannot be joined “{kind}”.", f"Known: {', '.join(JOINTS)}.")
    joint: JointKind = next(name for name in JOINTS if name == kind)
    draft.labelled(f"join {kind}")
    return _change_curve(draft, channel_id, lambda scene, keys, _: join_keys(keys, key_ids, joint, scene.loop_length))


def _found(keys: Sequence[Key], key_id: str) -> Key:
    key = next((k for k in keys if k.id == key_id), None)
    if key is None:
        raise InvalidInputError("This point is not there any more.", "Choose another.")
    return key
