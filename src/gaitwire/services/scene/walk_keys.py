"""Walks written as keys: a gait card on a puppet of a scene, frame by frame."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, NamedTuple

import numpy as np

from gaitwire.core.addresses import Address
from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate.inverse_layers import fenced
from gaitwire.core.evaluate.seat import moved_in
from gaitwire.core.ids import new_id
from gaitwire.core.timing.channel import PROPERTIES, Channel
from gaitwire.core.timing.key import Key
from gaitwire.core.timing.mark import Pose
from gaitwire.core.tolerances import TIME
from gaitwire.core.walk.card import GaitCard
from gaitwire.core.walk.span import Gait, GaitSpan, composed
from gaitwire.core.walk.walker import walker_of
from gaitwire.services.scene.gestures import Draft, SceneState, gesture
from gaitwire.services.scene.key_changes import store_keys
from gaitwire.services.scene.led import swinging_in
from gaitwire.services.scene.posing import end_rounds_at


class Written(NamedTuple):
    """What a walk came to: keys, strides, and the stride's length in leg lengths where it was shortened."""

    keys: int
    strides: float
    shortened: float | None


def make_room(draft: Draft, instance_id: str, start: float, stop: float, besides: str = "") -> None:
    """Of the walks that lie beneath a puppet's keys, keep only what lies before and after some frames."""
    for other in draft.scene.gaits:
        if other.instance_id != instance_id or other.id == besides or other.stop < start or stop < other.start:
            continue
        if other.start <= start - 2:
            draft.put([other.model_copy(update={"stop": start - 1})])
        else:
            take_walk_away(draft, other.id)
        if other.stop >= stop + 2:
            begins = float(other.strides_at(np.array([stop + 1]))[0]) % 1.0
            tail = {"id": new_id(), "start": stop + 1, "begins": begins}
            draft.put([other.model_copy(update=tail)])


def take_walk_away(draft: Draft, gait_id: str) -> None:
    """Remove a walk, and the keys of its settings."""
    scene = draft.scene
    channels = {c.id for c in scene.channels if c.owner_id == gait_id}
    draft.remove(Key, [k.id for k in scene.keys if k.channel_id in channels])
    draft.remove(Channel, channels)
    draft.remove(GaitSpan, [gait_id])


def whole_frames(floor: SceneState, start: float, stop: float | None) -> FloatArray:
    """The whole frames of a range; raises InvalidInputError where the scene has none or too few."""
    scene = floor.scene
    last = scene.frames - 1.0 if stop is None else stop
    if start < -TIME or last > scene.frames - 1 + TIME:
        raise InvalidInputError("These frames are not all in the scene.", "Choose some that are, or make it longer.")
    frames = np.arange(np.ceil(start - TIME), np.floor(last + TIME) + 1)
    if len(frames) < 2:
        raise InvalidInputError("This is too short for a walk.", "Choose a longer range.")
    return frames


@gesture()
def put_walk(
    draft: Draft, /, instance_id: str, card: GaitCard, start: float = 0.0, stop: float | None = None,
    travels: bool = False,
    **more: Any,
) -> Written:  # fmt: skip
    """Key a walk on every frame from one to another, both included; what stood there gives way.

    In place, or travelling the way the puppet faces: then its seat carries it. Planted feet are
    still on every frame to a millionth of a pixel. Raises InvalidInputError for a puppet that
    lacks roles, and for frames that the scene has not.
    """
    instance = draft.instance(instance_id)
    walker = walker_of(draft.workspace.puppet(instance.puppet_id))
    frames = whole_frames(draft, start, stop)
    span = GaitSpan(
        id=new_id(), scene_id=draft.scene_id, instance_id=instance_id, start=start, stop=float(frames[-1]),
        card=card, travels=travels, **more,
    )  # fmt: skip
    gait = Gait(span, walker, moved_in(draft.scene, instance))
    swings = swinging_in(draft, instance_id)
    walked = composed([gait], frames).items()
    rows = {(instance_id, o or instance_id, p): row for (o, p), row in walked if o not in swings}
    draft.labelled(f"walk: {card.name}")
    draft.refuse_locked((instance_id, owner) for _, owner, _ in rows)
    make_room(draft, instance_id, frames[0], frames[-1])
    count = put_rows(draft, frames, rows)
    mark_walk_poses(draft, frames, gait)
    strides = float(frames[-1] - start) / card.frames
    return Written(count, strides, gait.stride.length if gait.stride.shortened else None)


def mark_walk_poses(draft: Draft, frames: FloatArray, gait: Gait) -> None:
    """Mark the contacts, downs, passings and ups of a walk on some frames, in place of the marks that lie there."""
    scene, who = draft.scene, gait.span.instance_id
    old = [p for p in scene.poses if p.instance_id == who and frames[0] - TIME <= p.time <= frames[-1] + TIME]
    draft.remove(Pose, [p.id for p in old])
    within = gait.span.strides_at(np.array([frames[0], frames[-1]])).tolist()
    found = [m for m in gait.poses_between(*within) if frames[0] - TIME <= m.time <= frames[-1] + TIME]
    named = {float(round(m.time)): m.name for m in found}
    draft.put(
        [
            Pose(
                id=new_id(), scene_id=scene.id, instance_id=who, time=time, name=name,
                kind="extreme" if name == "contact" else "breakdown",
            )
            for time, name in named.items()
        ],
    )  # fmt: skip


def put_rows(draft: Draft, frames: FloatArray, values: Mapping[Address, FloatArray]) -> int:
    """Key rows of values on frames (P,), in place of the keys that lie there."""
    count = 0
    for address, row in values.items():
        channel = cleared(draft, address, frames)
        prop = PROPERTIES[channel.owner_kind][channel.property]
        held = np.clip(row, prop.low, prop.high)
        draft.put(
            [
                Key(id=new_id(), channel_id=channel.id, time=float(t), value=round(float(v), 9), ease="linear")
                for t, v in zip(frames, held, strict=True)
            ],
        )
        count += len(frames)
    return count


def cleared(draft: Draft, address: Address, frames: FloatArray, before: bool = False) -> Channel:
    """A channel, made if it is not there, without keys on frames from the first of some to the last.

    `before`: with a key on the frame before them, so that nothing earlier changes.
    """
    scene = draft.scene
    draft.means(address[:2], float(frames[0]), float(frames[-1]))
    channel = next((c for c in scene.channels if (c.instance_id, c.owner_id, c.property) == address), None)
    if channel is None:
        channel = draft.new_channel(address)
        draft.put([channel])
    keys = scene.keys_by_channel().get(channel.id, [])
    ended = end_rounds_at(draft, float(frames[0]), [address])
    if before and frames[0] >= 1 and not ended:
        store_keys(draft, fenced(scene, channel, keys, float(frames[0]), float(frames[0]) - 1))
    first, last = frames[0] - TIME, frames[-1] + TIME
    draft.remove(Key, [k.id for k in keys if first <= k.time <= last])
    return channel
