"""What was posed stays: what a gesture did not mean is put back, in the gesture's own step of history.

Every gesture on a scene says which frames of which wires it means. Where it moves a marked pose, or the
scene's start, on any other frame, that gets a key with what its channel said there before.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Iterable, Mapping, Sequence
from typing import Any

from gaitwire.core.addresses import Node
from gaitwire.core.ids import new_id
from gaitwire.core.motion.phrase import PhraseUse
from gaitwire.core.scene import Instance, Scene
from gaitwire.core.scene_draft import SceneDraft
from gaitwire.core.timing.channel import PROPERTIES, Channel
from gaitwire.core.timing.edit import KeyChange
from gaitwire.core.timing.holding import late_start
from gaitwire.core.timing.key import Key
from gaitwire.core.timing.mark import Pose
from gaitwire.core.timing.pinning import ChannelCourse, departures, keyed_as_it_is, pinned
from gaitwire.core.tolerances import TIME
from gaitwire.core.walk.span import GaitSpan

_ASIDE = ("walk", "phrase")
"""Kinds of owners whose channels are settings and no part of a pose; their start is kept, marks do not key them."""

FOREVER = math.inf
"""The end of a span that has none."""


class Meaning:
    """Which frames of which wires a gesture means to change."""

    def __init__(self, loop: float | None) -> None:
        self._loop = loop
        self._spans: dict[Node, list[tuple[float, float]]] = {}
        self.firsts: dict[str, float] = {}
        """Channels that got their first key, and when."""

    def add(self, instance_id: str, owner_id: str, start: float, stop: float | None = None) -> None:
        """From a frame to another, both included; `stop` None: that frame alone."""
        self._spans.setdefault((instance_id, owner_id), []).append((start, start if stop is None else stop))

    def covers(self, channel: Channel, time: float) -> bool:
        spans = self._spans.get((channel.instance_id, channel.owner_id), ())
        return any(self._within(time, start, stop) for start, stop in spans)

    def _within(self, time: float, start: float, stop: float) -> bool:
        if self._loop is None or stop - start >= self._loop:
            return start - TIME <= time <= stop + TIME
        return (time - start + TIME) % self._loop <= stop - start + 2 * TIME


class _Change:
    """A scene before and after what a gesture has written so far."""

    def __init__(self, draft: SceneDraft) -> None:
        before = self.before = draft.before
        self.old = {c.id: c for c in before.channels}
        self.keys, self.every = before.keys_by_channel(), before.keys_by_channel(asleep=True)
        self.written = draft.written(Key)
        self.channels: dict[str, Channel | None] = {**self.old, **draft.written(Channel)}
        self.instances: dict[str, Instance] = _now(before.instances, draft.written(Instance))
        self.stayed = {i.id for i in before.instances} & self.instances.keys()
        settings = {**draft.written(GaitSpan), **draft.written(PhraseUse)}
        self.gone = {i for i, row in settings.items() if row is None}
        """Walks and phrases that were taken away, and their settings with them."""
        self.scene = draft.scene
        old = {p.id: p for p in before.poses}
        self.poses: dict[str, Pose] = _now(before.poses, draft.written(Pose))
        self.marked = {p.id for p in self.poses.values() if p.id not in old}
        self.stood = [p for i, p in old.items() if i in self.poses and abs(self.poses[i].time - p.time) < TIME]

    def changed(self) -> dict[str, KeyChange]:
        """What the gesture did to the keys of each channel."""
        homes = {k.id: k.channel_id for k in self.before.keys if k.id in self.written}
        put: dict[str, list[Key]] = {}
        removed: dict[str, list[str]] = {}
        for key_id, key in self.written.items():
            home = homes.get(key_id)
            if key is not None:
                put.setdefault(key.channel_id, []).append(key)
            if home is not None and (key is None or key.channel_id != home):
                removed.setdefault(home, []).append(key_id)
        touched = {*put, *removed}
        if self.scene.loop_length != self.before.loop_length:
            touched |= self.channels.keys()  # what leads from the last key to the first is longer or shorter
        return {i: KeyChange(tuple(put.get(i, ())), tuple(removed.get(i, ()))) for i in touched}

    def channel(self, channel_id: str) -> Channel | None:
        """A channel whose poses are to be kept; None for one that repeats, or whose puppet is gone."""
        old = self.old.get(channel_id)
        channel = self.channels.get(channel_id) or old
        if channel is None or channel.instance_id not in self.stayed or channel.owner_id in self.gone:
            return None
        if channel.repeat or (old is not None and old.repeat):
            return None  # every round of it shows the same: what is meant on one is meant on all
        return channel

    def after(self, channel: Channel, keys: KeyChange) -> ChannelCourse:
        """What a channel plays with its keys changed."""
        scene = self.scene
        every = {k.id: k for k in self.every.get(channel.id, []) if k.id not in keys.removed} | {
            k.id: k for k in keys.put
        }
        awake = [k for k in every.values() if not scene.loop or 0 <= k.time < scene.frames]
        return course_of(scene, channel, (), self.instances.values()).changed(KeyChange(tuple(awake)))

    def course(self, channel: Channel) -> ChannelCourse:
        """What it played before."""
        return course_of(self.before, channel, self.keys.get(channel.id, []))


def course_of(
    scene: Scene, channel: Channel, keys: Sequence[Key], instances: Iterable[Instance] | None = None
) -> ChannelCourse:
    """What a channel's own keys play in a scene; `instances` as they are by now, if they have changed."""
    prop = PROPERTIES[channel.owner_kind][channel.property]
    holds = any(i.holds for i in instances or scene.instances if i.id == channel.instance_id)
    return ChannelCourse(channel.id, keys, prop.unkeyed, scene.loop_length, prop.stepped, holds)


def _now(rows: Iterable[Any], written: Mapping[str, Any]) -> dict[str, Any]:
    """Rows by id, with what was written over them."""
    found = {r.id: r for r in rows} | dict(written)
    return {i: r for i, r in found.items() if r is not None}


MovedFrames = Mapping[tuple[str, str, str], Collection[float]]
"""Further times at which a property (instance, owner, name) stands as it was meant to."""


def keep_poses(draft: SceneDraft, meaning: Meaning, more: MovedFrames) -> dict[str, set[float]]:
    """Put back what a gesture moved and did not mean; when that was, by puppet."""
    before, change = draft.before, _Change(draft)
    times: dict[str, set[float]] = {i: {0.0} for i in change.instances}
    for pose in change.stood:
        times[pose.instance_id].add(pose.time)
    kept: dict[str, set[float]] = {}
    after: dict[str, ChannelCourse] = {}
    pairs = []
    for channel_id, keys in change.changed().items():
        channel = change.channel(channel_id)
        if channel is not None:
            after[channel_id] = change.after(channel, keys)
            pairs.append((channel, change.course(channel), after[channel_id]))
    for channel, was, now in pairs:
        address = (channel.instance_id, channel.owner_id, channel.property)
        wanted = sorted(times[channel.instance_id] | set(more.get(address, ())))
        if not _has_start(was, now):
            wanted = [t for t in wanted if t > TIME or _is_marked(change.stood, channel, t)]
        end = change.scene.frames if change.scene.loop else FOREVER
        wanted = [t for t in wanted if t < end and not meaning.covers(channel, t)]
        # A pose that is where it was by chance may be moved by the key that another one gets.
        found = pinned(was, now, wanted if departures(was, now, wanted) else (), new_id)
        if not found.times:
            continue
        if change.channels.get(channel.id) is None:
            draft.put([channel])
        draft.put(found.change.put)
        after[channel.id] = now.changed(found.change)
        kept.setdefault(channel.instance_id, set()).update(found.times)
        if before.move_length and channel.id in meaning.firsts and not was.stepped:
            first = meaning.firsts[channel.id]
            others = [k for k in after[channel.id].keys if abs(k.time - first) > TIME]
            draft.put(late_start(others, first, before.move_length, was.loop, new_id).put)
    _key_marked(draft, change, after)
    return kept


def _has_start(was: ChannelCourse, now: ChannelCourse) -> bool:
    """Whether a channel stands at the scene's start as it was put there.

    Not where a loop carries it from its last key to its first: a key there that nobody set would only be
    in the way. Nor where all of its keys were taken away.
    """
    return bool(now.keys) and (was.loop is None or len(was.keys) < 2)


def _is_marked(stood: Sequence[Pose], channel: Channel, time: float) -> bool:
    return any(p.instance_id == channel.instance_id and abs(p.time - time) < TIME for p in stood)


def _key_marked(draft: SceneDraft, change: _Change, after: Mapping[str, ChannelCourse]) -> None:
    """Key every channel that has keys where its puppet's pose has been marked, as it stands."""
    marked = [p for p in change.poses.values() if p.id in change.marked]
    if not marked:
        return
    put: list[Key] = []
    for channel in change.channels.values():
        if channel is None or channel.owner_kind in _ASIDE or change.channel(channel.id) is None:
            continue
        course = after.get(channel.id) or change.course(channel)
        for pose in marked:
            if pose.instance_id == channel.instance_id and course.keys:
                made = keyed_as_it_is(course, pose.time, new_id)
                course = course.changed(made)
                put += made.put
    draft.put({k.id: k for k in put}.values())


_TOLD = 6
"""Frames that are named one by one."""


def kept_said(scene: Scene, kept: Mapping[str, Collection[float]]) -> str:
    """On which frames a gesture left poses as they were, in one quiet line; nothing for none."""
    times = sorted({t + scene.first_number for found in kept.values() for t in found})
    if not times:
        return ""
    named = [f"{t:g}" for t in times[:_TOLD]]
    if len(times) > _TOLD:
        named.append(f"{len(times) - _TOLD} more frames")
    listed = f"{', '.join(named[:-1])} and {named[-1]}" if len(named) > 1 else named[0]
    return f"Kept as it was on {listed}."
