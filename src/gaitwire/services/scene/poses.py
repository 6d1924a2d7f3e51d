"""Work on whole-body poses: marked, keyed, retimed, copied, broken down, timed by their durations."""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping
from typing import Any

import numpy as np

from gaitwire.core.addresses import Address, Node
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.ids import new_id
from gaitwire.core.puppet.limb_chains import chain_of
from gaitwire.core.scene import Scene
from gaitwire.core.scene_tables import TIMED
from gaitwire.core.timing.channel import PROPERTIES, Channel
from gaitwire.core.timing.key import Key
from gaitwire.core.timing.mark import Pose
from gaitwire.core.timing.pinning import warped
from gaitwire.core.timing.retime import warp_keys
from gaitwire.core.tolerances import TIME
from gaitwire.services.scene.found_poses import find_pose, find_pose_or_found, poses_of, put_mark
from gaitwire.services.scene.gestures import Draft, SceneState, gesture
from gaitwire.services.scene.kept_poses import FOREVER, course_of
from gaitwire.services.scene.key_changes import store_keys
from gaitwire.services.scene.posing import as_led, held_time, put_values
from gaitwire.services.session.revising import revised

_DURATION = re.compile(r"\s*([0-9]+(?:[.,][0-9]+)?)\s*(f|frames?|ms|s)?\s*", re.IGNORECASE)


def read_duration(text: str, rate: float) -> int:
    """Whole frames of a duration as people type it: 12, 12 f, 500 ms, 0.5 s; raises InvalidInputError."""
    found = _DURATION.fullmatch(text)
    if found is None:
        raise InvalidInputError(
            f"“{text[:20]}” is no duration.", "Type frames, say 12, or a time, say 500 ms or 0.5 s."
        )
    number, unit = float(found[1].replace(",", ".")), (found[2] or "f").lower()
    frames = round(number * {"ms": rate / 1000, "s": rate}.get(unit, 1.0))
    if not 1 <= frames <= 20_000:
        raise InvalidInputError("A pose stands for one frame at least.", "Type 1 or more.")
    return frames


@gesture("key the whole pose")
def key_whole_pose(draft: Draft, instance_id: str, frame: float, chosen: Collection[Node] = ()) -> str:
    """Key the whole body as it stands on a frame and mark it as a pose; the pose's id.

    Every channel that has keys gets one, and the turn of every bone that has a length (or, where none
    has, of every one). Where bones are chosen, the
    keys of all others are known as made aside: if they then move for long, they creep.
    """
    frame = draft.instance(instance_id).exposed(frame)
    values = body_values(draft, instance_id, frame) | _on_their_way(draft, instance_id, frame)
    put_values(draft, frame, values, chosen or None)
    return put_mark(draft, instance_id, frame)


def _on_their_way(floor: SceneState, instance_id: str, frame: float) -> dict[Address, float]:
    """What the bones of limbs say that are on their way to a plant or from it: that is laid on their keys anew."""
    puppet = floor.workspace.cast(floor.scene).get(floor.instance(instance_id).puppet_id)
    now = floor.values_at(np.array([frame]))
    keyed = {(c.instance_id, c.owner_id, c.property) for c in floor.scene.channels}
    found: dict[Address, float] = {}
    for limb in puppet.limbs if puppet else ():
        own = [p for p in floor.scene.plants if (p.instance_id, p.limb_id) == (instance_id, limb.id)]
        mix = now.get((instance_id, limb.id, "mix"))
        if not own or any(p.start - TIME <= frame <= p.stop + TIME for p in own) or (mix is not None and mix[0]):
            continue
        bones = (limb.tip_id, *(b.id for b in chain_of(puppet, limb))) if puppet else ()
        addresses = ((instance_id, bone, prop) for bone in bones for prop in ("turn", "stretch"))
        found |= {address: float(now[address][0]) for address in addresses if address[2] == "turn" or address in keyed}
    return found


@gesture("block a pose")
def block_pose(draft: Draft, frame: float, values: Mapping[Address, float]) -> list[str]:
    """Key values in the view without in-betweens: the pose that stands there is keyed whole, with them changed.

    So that a new pose takes nothing from the in-betweens that are not shown. Puppets that had none there before.
    """
    before = {(p.instance_id, p.time) for p in draft.scene.poses}
    puppets = dict.fromkeys(address[0] for address in values)
    posed = {who for who, _ in before}
    # A puppet whose first pose is made so is blocked pose to pose: what comes now holds, in files too.
    draft.outcome.begins_to_hold = frozenset(i for i in puppets if i not in posed and not draft.instance(i).holds)
    draft.put([draft.instance(i).model_copy(update={"holds": True}) for i in draft.outcome.begins_to_hold])
    put_block(draft, frame, values)
    return [who for who in puppets if (who, draft.instance(who).exposed(frame)) not in before]


@gesture("only what I moved")
def keep_only_moved(draft: Draft, instance_id: str, frame: float) -> None:
    """Of a pose that blocking made on a frame, keep only what was moved by hand: no mark, no other keys."""
    time = draft.instance(instance_id).exposed(frame)
    scene = draft.scene
    draft.remove(Pose, [p.id for p in poses_of(draft, instance_id) if abs(p.time - time) < TIME])
    keys = scene.keys_by_channel()
    for channel in scene.channels:
        aside = [k for k in keys.get(channel.id, []) if k.aside and abs(k.time - time) < TIME]
        if channel.instance_id == instance_id and aside:
            draft.means((channel.instance_id, channel.owner_id), time)
            draft.remove(Key, [k.id for k in aside])
            if len(aside) == len(keys[channel.id]):
                draft.remove(Channel, [channel.id])


def put_block(draft: Draft, frame: float, values: Mapping[Address, float]) -> None:
    """The same within a gesture that is under way."""
    for instance_id in dict.fromkeys(address[0] for address in values):
        body = body_values(draft, instance_id, held_time(draft, instance_id, frame))
        own = {s: v for s, v in values.items() if s[0] == instance_id}
        put_values(draft, frame, {**body, **own}, {s[:2] for s in own})
        put_mark(draft, instance_id, draft.instance(instance_id).exposed(frame))


def body_values(floor: SceneState, instance_id: str, frame: float) -> dict[Address, float]:
    """What a pose is made of, as it stands on a frame: of everything that is not locked."""
    puppet = floor.workspace.cast(floor.scene).get(floor.instance(instance_id).puppet_id)
    keyed = {(c.instance_id, c.owner_id, c.property) for c in floor.scene.channels if c.instance_id == instance_id}
    every = puppet.bones if puppet else ()
    bones = {b.id for b in every if b.length > 0} or {b.id for b in every}
    locked: set[str] = set()
    if puppet:
        locked = {b.id for b in puppet.bones if b.locked} | {p.id for p in puppet.parts if p.locked}
    found = {
        address: value
        for address, value in floor.stands_at(instance_id, frame).items()
        if address[1] not in locked and (address in keyed or (address[2] == "turn" and address[1] in bones))
    }
    return as_led(floor, found, frame)


@gesture("set a pose")
def update_pose(draft: Draft, pose_id: str, values: Mapping[str, Any]) -> str:
    """Name a pose, or say whether it is an extreme or a breakdown; one that was found is marked so. Its id."""
    made = revised(find_pose_or_found(draft, pose_id), values)
    draft.put([made])
    return made.id


@gesture()
def move_pose(draft: Draft, pose_id: str, to: float) -> None:
    """Retime a pose: what lies between it and its neighbours moves in proportion."""
    pose, scene = find_pose(draft, pose_id), draft.scene
    times = [p.time for p in poses_of(draft, pose.instance_id)]
    at = times.index(pose.time)
    loop = scene.loop_length
    low = times[at - 1] if at else (times[-1] - loop if loop is not None and len(times) > 1 else None)
    high = times[at + 1] if at + 1 < len(times) else (times[0] + loop if loop is not None and at else None)
    if low is None and pose.time > 0 and loop is None:
        low = 0.0
    if loop is None and to < 0:
        raise InvalidInputError("A pose cannot stand before the first frame.", "Put it on frame 0 or later.")
    before = [t for t in (low, pose.time, high) if t is not None]
    after = [t for t in (low, to, high) if t is not None]
    _warp(draft, "retime a pose", pose.instance_id, before, after, loop)


def _warp(
    draft: Draft, label: str, instance_id: str, before: list[float], after: list[float], loop: float | None,
    frames: int | None = None,
) -> None:  # fmt: skip
    """Carry a puppet's keys and poses along as marks move; `frames` is the scene's new length."""
    draft.labelled(label)
    scene = draft.scene
    channels = [c for c in scene.channels if c.instance_id == instance_id]
    draft.refuse_locked({(c.instance_id, c.owner_id) for c in channels} | {(instance_id, instance_id)})
    keys = scene.keys_by_channel()
    poses = {p.time for p in poses_of(draft, instance_id)}
    length = scene.loop_length if frames is None or not scene.loop else float(frames)
    for channel in channels:
        course = course_of(scene, channel, keys.get(channel.id, []))
        draft.means((channel.instance_id, channel.owner_id), -FOREVER, FOREVER)
        store_keys(draft, warped(course, before, after, poses, loop, length, new_id))
    _put_warped(draft, instance_id, before, after, loop, length)
    if frames is not None:
        draft.put([revised(scene, {"frames": frames})])


def _put_warped(
    draft: Draft, instance_id: str, before: list[float], after: list[float], loop: float | None,
    length: float | None,
) -> None:  # fmt: skip
    """Carry a puppet's marks along: its poses, and when its plants, hitches and bearings begin and end."""
    scene = draft.scene
    for table in TIMED:
        fields, own = table.times, [x for x in getattr(scene, table.name) if x.instance_id == instance_id]
        as_keys = [
            Key(id=f"{n} {f}", channel_id="", time=getattr(x, f), value=0.0) for n, x in enumerate(own) for f in fields
        ]
        times = {k.id: k.time for k in warp_keys(as_keys, before, after, loop, length).put}
        moved = [
            x.model_copy(update={f: times.get(f"{n} {f}", getattr(x, f)) for f in fields}) for n, x in enumerate(own)
        ]
        draft.put([m for m, x in zip(moved, own, strict=True) if m != x])


@gesture()
def set_duration(draft: Draft, pose_id: str, frames: int) -> int:
    """Let a pose last for so many frames until the next: all later ones of its puppet move along.

    The scene grows or shrinks with the puppet; its new length in frames.
    """
    pose, scene = find_pose(draft, pose_id), draft.scene
    times = [p.time for p in poses_of(draft, pose.instance_id)]
    marks = [*times, scene.frames + (times[0] if scene.loop else 0.0)]
    at = times.index(pose.time)
    by = frames - (marks[at + 1] - marks[at])
    if by == 0:
        return scene.frames
    after = [t if i <= at else t + by for i, t in enumerate(marks)]
    length = round(scene.frames + by)
    _warp(draft, "time a pose", pose.instance_id, marks, after, scene.loop_length, length)
    return length


def pose_durations(floor: SceneState, instance_id: str) -> dict[str, float]:
    """Frames from each pose of a puppet to its next, by pose id; the last one's to the end of the scene."""
    scene, poses = floor.scene, poses_of(floor, instance_id)
    if not poses:
        return {}
    ends = [*(p.time for p in poses[1:]), scene.frames + (poses[0].time if scene.loop else 0.0)]
    return {p.id: end - p.time for p, end in zip(poses, ends, strict=True)}


@gesture("copy a pose")
def copy_pose(draft: Draft, pose_id: str, frame: float) -> str:
    """Key a pose again on another frame, whole; the new pose's id."""
    pose = find_pose_or_found(draft, pose_id)
    put_values(draft, frame, body_values(draft, pose.instance_id, pose.time))
    return put_mark(draft, pose.instance_id, frame, name=pose.name, kind=pose.kind)


@gesture()
def copy_pose_to_end(draft: Draft, pose_id: str) -> str:
    """Key a pose again on the last frame."""
    if draft.scene.loop:
        raise InvalidInputError(
            "This scene loops: its end shows its start by itself.", "Untick “loops” on the scene's card first."
        )
    return copy_pose(draft, pose_id, float(draft.scene.frames - 1))


@gesture("break down")
def break_down(draft: Draft, pose_id: str, share: float, frame: float | None = None) -> str:
    """Put a breakdown between a pose and its next: a share of the way, in the middle of the time.

    Things that step, as drawings do, stay as the first pose has them. The new pose's id.
    """
    pose, scene = find_pose(draft, pose_id), draft.scene
    length = pose_durations(draft, pose.instance_id)[pose_id]
    poses = poses_of(draft, pose.instance_id)
    following = poses[(poses.index(pose) + 1) % len(poses)]
    if following.id == pose_id or (following.time < pose.time and not scene.loop):
        raise InvalidInputError("There is no pose after this one to go to.", "Choose an earlier one.")
    if length < 2:
        raise InvalidInputError("There is no frame between these two poses.", "Move them apart first.")
    time = pose.time + max(1, length // 2) if frame is None else frame
    if scene.loop:
        time %= scene.frames
    first = body_values(draft, pose.instance_id, pose.time)
    second = body_values(draft, pose.instance_id, following.time)
    values = {s: _between(s, v, second.get(s, v), share, _stepped(draft, scene)) for s, v in first.items()}
    put_values(draft, time, values)
    return put_mark(draft, pose.instance_id, time, kind="breakdown")


def _stepped(floor: SceneState, scene: Scene) -> set[Address]:
    return {
        (c.instance_id, c.owner_id, c.property) for c in scene.channels if PROPERTIES[c.owner_kind][c.property].stepped
    }


@gesture()
def delete_pose(draft: Draft, pose_id: str, with_keys: bool = True) -> None:
    """Take a pose away: its mark, and unless it is only unmarked all keys of the puppet on its frame."""
    pose = find_pose_or_found(draft, pose_id)
    draft.labelled("delete a pose" if with_keys else "unmark a pose")
    draft.remove(Pose, [pose.id])
    if not with_keys:
        return
    scene = draft.scene
    keys = scene.keys_by_channel(asleep=True)
    channels = [c for c in scene.channels if c.instance_id == pose.instance_id]
    draft.refuse_locked({(c.instance_id, c.owner_id) for c in channels})
    for channel in channels:
        draft.means((channel.instance_id, channel.owner_id), pose.time)
        here = [k for k in keys.get(channel.id, []) if abs(k.time - pose.time) < TIME]
        if here and all(k.stay for k in keys[channel.id] if k not in here):
            draft.remove(Key, [k.id for k in keys[channel.id]])
            draft.remove(Channel, [channel.id])
        else:
            draft.remove(Key, [k.id for k in here])


def _between(address: Address, first: float, second: float, share: float, stepped: Collection[Address]) -> float:
    return first if address in stepped else first + share * (second - first)
