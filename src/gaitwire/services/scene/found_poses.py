"""Whole-body poses as marks, and those that nobody marked but most of the body has beads on."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from typing import Any

import numpy as np

from gaitwire.core.errors import NotFoundError
from gaitwire.core.ids import new_id
from gaitwire.core.timing.mark import Pose
from gaitwire.core.tolerances import TIME
from gaitwire.services.scene.gestures import Draft, SceneState, gesture
from gaitwire.services.session.revising import revised

_MOST_OF_IT = 0.5
"""Share of a puppet's keyed wires that have a bead on a frame where its whole body has a pose."""

FOUND = "found:"
"""How the id begins by which a page knows a pose that is not marked: then its puppet and its frame."""


def poses_of(floor: SceneState, instance_id: str) -> list[Pose]:
    """A puppet's poses in order of time."""
    return [p for p in floor.scene.poses if p.instance_id == instance_id]


def find_pose(floor: SceneState, pose_id: str) -> Pose:
    """A pose; raises NotFoundError."""
    found = next((p for p in floor.scene.poses if p.id == pose_id), None)
    if found is None:
        raise NotFoundError("This pose is not there any more.", "Choose another on the strip.")
    return found


def find_pose_or_found(floor: SceneState, pose_id: str) -> Pose:
    """A pose, or one that was found, as it would be marked; raises NotFoundError."""
    if not pose_id.startswith(FOUND):
        return find_pose(floor, pose_id)
    instance_id, _, time = pose_id.removeprefix(FOUND).rpartition(":")
    try:
        return Pose(id=new_id(), scene_id=floor.scene_id, instance_id=floor.instance(instance_id).id, time=float(time))
    except ValueError:
        raise NotFoundError("This pose is not there any more.", "Choose another on the strip.") from None


def put_mark(draft: Draft, instance_id: str, frame: float, **more: Any) -> str:
    """Mark a frame as a pose, or change the mark that is there."""
    known = next((p for p in poses_of(draft, instance_id) if abs(p.time - frame) < TIME), None)
    made = revised(known, more) if known else None
    made = made or Pose(id=new_id(), scene_id=draft.scene_id, instance_id=instance_id, time=frame, **more)
    draft.put([made])
    return made.id


@gesture("mark a pose")
def mark_pose(draft: Draft, instance_id: str, frame: float, name: str = "", kind: str = "extreme") -> str:
    """Mark a frame as a pose as it stands, without keying it; the pose's id."""
    return put_mark(draft, draft.instance(instance_id).id, frame, name=name, kind=kind)


@gesture("mark poses")
def mark_found_poses(draft: Draft, instance_id: str) -> int:
    """Mark every frame on which most of a puppet's keyed wires have a bead; how many poses there are now."""
    for time in poses_found(draft, instance_id):
        put_mark(draft, instance_id, time)
    return sum(p.instance_id == instance_id for p in draft.changes.scene.poses)


def poses_found(floor: SceneState, instance_id: str) -> list[float]:
    """Times at which most of a puppet's keyed wires have a bead."""
    scene = floor.scene
    keys = scene.keys_by_channel()
    end = scene.frames if scene.loop else np.inf
    beads: set[tuple[str, float]] = set()
    for channel in scene.channels:
        if channel.instance_id == instance_id:
            beads.update([(channel.owner_id, k.time) for k in keys.get(channel.id, ()) if k.time < end])
    counts = Counter([time for _, time in beads])
    owners = len({owner for owner, _ in beads})
    return sorted(t for t, n in counts.items() if n >= _MOST_OF_IT * owners)


@gesture("mark poses")
def mark_all_poses(draft: Draft, instance_id: str, times: Iterable[float]) -> None:
    """Mark frames of a puppet as poses as they stand."""
    for time in times:
        put_mark(draft, draft.instance(instance_id).id, time)


def unmarked_poses(floor: SceneState) -> dict[str, list[float]]:
    """Frames on which puppets have poses that nobody marked, by instance."""
    return {i.id: unmarked_poses_of(floor, i.id) for i in floor.scene.instances if not i.aside}


def unmarked_poses_of(floor: SceneState, instance_id: str) -> list[float]:
    """The same of one puppet. Where others are marked, none of those that stand frame by frame."""
    found = poses_found(floor, instance_id)
    marked = {round(p.time / TIME) for p in poses_of(floor, instance_id)}
    if marked:
        every, loop = set(found), floor.scene.loop_length
        beside = [[(t + by) % loop if loop else t + by for by in (-1.0, 1.0)] for t in found]
        found = [t for t, two in zip(found, beside, strict=True) if not every.issuperset(two)]
    return [t for t in found if round(t / TIME) not in marked]


def spread_out(floor: SceneState, before: dict[str, list[float]]) -> dict[str, list[float]]:
    """Which of some poses that were found are none any more, though they still have beads there."""
    after, keys = unmarked_poses(floor), floor.scene.keys
    home = {c.id: c.instance_id for c in floor.scene.channels}
    beads = {(home[k.channel_id], round(k.time / TIME)) for k in keys if k.channel_id in home}
    lost = {
        who: [t for t in times if t not in after.get(who, ()) and (who, round(t / TIME)) in beads]
        for who, times in before.items()
    }
    return {who: times for who, times in lost.items() if times}
