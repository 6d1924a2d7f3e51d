"""What was posed stays: after a change of a channel's keys, its values at times that the change did not mean.

A pose is what a channel's own keys say at its time. Where a change elsewhere would move it, it gets a
key with the value that it had; what lay between two such keys plays on exactly as it did. So movement
towards a new key begins at the pose before it, and ends at the one after.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from typing import NamedTuple

import numpy as np

from gaitwire.core.timing.cutting import add_point, cut, segment_at, value_at
from gaitwire.core.timing.edit import DEFAULT_EASE, KeyChange, MakeId, key_at, left_of, set_key
from gaitwire.core.timing.key import WHOLE, Key, eased_like
from gaitwire.core.timing.loop import wrap
from gaitwire.core.timing.retime import warp_keys
from gaitwire.core.timing.sample import compile_keys, sample
from gaitwire.core.timing.stay import valued
from gaitwire.core.tolerances import TIME

MOVED = 1e-5
"""In a channel's own units: what departs by less has not been moved."""

_BESIDE = 0.25
"""Frames before and after a time at which a course that only crosses another one there is off it."""


class ChannelCourse(NamedTuple):
    """A channel's keys in order of time, stays with the values that they repeat; without any it is at rest."""

    channel_id: str
    keys: Sequence[Key]
    rest: float
    loop: float | None
    stepped: bool = False
    holds: bool = False
    """What is keyed anew stands still until the next key."""

    def value(self, time: float) -> float:
        """What the channel's own keys say at a time."""
        if not self.keys:
            return self.rest
        if self.stepped:
            past = [k for k in self.keys if k.time <= time + TIME]
            return (past or self.keys)[-1 if past or self.loop is not None else 0].value
        return value_at(self.keys, time, self.loop)

    def changed(self, change: KeyChange) -> ChannelCourse:
        """The same channel after a change of its keys."""
        keys = {k.id: k for k in self.keys if k.id not in change.removed} | {k.id: k for k in change.put}
        return self._replace(keys=valued(sorted(keys.values(), key=lambda k: k.time), self.loop is not None))

    @property
    def ease(self) -> str:
        """What a new key's segment plays where no other tells."""
        return "hold" if self.stepped or self.holds else DEFAULT_EASE


class PinnedKeys(NamedTuple):
    """What keeps a channel's poses, and when they are."""

    change: KeyChange = KeyChange()
    times: tuple[float, ...] = ()


def pinned(before: ChannelCourse, after: ChannelCourse, times: Collection[float], make_id: MakeId) -> PinnedKeys:
    """The keys to put into a changed channel so that it is at `times` what it was.

    Stays whose own key was left alone keep their values too: a key put between the two would take them along.
    """
    course = after
    pins: dict[str, float] = {}
    for _ in range(len(before.keys) + len(times) + 1):
        moved = departures(before, course, times) + _led_away(before, course)
        if not moved:
            break
        for time in moved:
            change = set_key(
                course.keys, course.channel_id, time, before.value(time), course.loop, make_id, course.ease, True
            )
            pins[change.put[-1].id] = time
            course = course.changed(change)
    if not pins:
        return PinnedKeys()
    known = {k.id: k for k in after.keys}
    put = tuple(k for k in _undisturbed(before, after, course, pins) if known.get(k.id) != k)
    return PinnedKeys(KeyChange(put), tuple(sorted(set(pins.values()))))


def departures(before: ChannelCourse, after: ChannelCourse, times: Collection[float]) -> list[float]:
    """Those of some times at which a channel says something else than before.

    Where it has no key, also those which another course only happens to cross.
    """
    at = np.array([*times], float)
    if not at.size or before.stepped:
        return [t for t in times if abs(before.value(t) - after.value(t)) > MOVED]
    around = (at[:, None] + (-_BESIDE, 0.0, _BESIDE)).ravel()
    rows = [
        sample(compile_keys([c.keys], c.loop), around)[0] if c.keys else np.full(len(around), c.rest)
        for c in (before, after)
    ]
    away = np.abs(rows[0] - rows[1]).reshape(-1, 3) > MOVED
    crossed = away[:, 0] & away[:, 2] & [key_at(after.keys, t) is None for t in at.tolist()]
    return [t for t, moved in zip(times, (away[:, 1] | crossed).tolist(), strict=True) if moved]


def _led_away(before: ChannelCourse, after: ChannelCourse) -> list[float]:
    """Times of stays that repeat another value now, though the key that they repeated is there as it was."""
    found = []
    now = {k.id: k for k in after.keys}
    source: Key | None = None
    for key in before.keys:
        stay = now.get(key.id)
        if not key.stay:
            kept = stay is not None and abs(stay.time - key.time) < TIME and abs(stay.value - key.value) <= MOVED
            source = key if kept else None
        elif source is not None and stay is not None and stay.stay and abs(stay.time - key.time) < TIME:
            found += [key.time] if abs(stay.value - key.value) > MOVED else []
    return found


def _undisturbed(before: ChannelCourse, meant: ChannelCourse, after: ChannelCourse, pins: Collection[str]) -> list[Key]:
    """Keys that play between two that lie on the course before what was played there; `meant` is the change itself."""
    keys = list(after.keys)
    old, new = ({k.id: k for k in c.keys} for c in (before, meant))
    found = []
    for n, left in enumerate(keys):
        right = keys[(n + 1) % len(keys)]
        last = n + 1 == len(keys)
        untouched = left.id in pins or _bare(old.get(left.id)) == _bare(new.get(left.id))
        beside = left.id in pins or right.id in pins
        if beside and untouched and right is not left and not right.stay and not (last and after.loop is None):
            on_course = all(abs(before.value(k.time) - k.value) <= MOVED for k in (left, right))
            length = right.time - left.time + (after.loop or 0.0 if last else 0.0)
            played = _played(before, left, length) or _played(meant, left, length)
            left = played if on_course and played is not None else left
        found.append(left)
    return found


def _bare(key: Key | None) -> Key | None:
    """A key without what it does not say itself: a stay's value is that of the key it repeats."""
    return key.model_copy(update={"value": 0.0}) if key is not None and key.stay else key


def _played(course: ChannelCourse, left: Key, length: float) -> Key | None:
    """A key that plays what a course plays for so many frames from it on; None where a key of that lies between."""
    found = segment_at(course.keys, left.time, course.loop)
    if found is None:
        return _flat(left, course)
    first, last, start, whole = found
    since, until = (left.time - start) / whole, (left.time - start + length) / whole
    if until > 1 + TIME:
        return None
    source = first.model_copy(update={**WHOLE, "ease": "hold"}) if last.stay else first
    return eased_like(left, cut(source, last.value - first.value, max(0.0, since), min(1.0, until)))


def _flat(key: Key, course: ChannelCourse) -> Key:
    """A key that plays nothing on its way to another one of the same value."""
    bare = key.curve is None and key.excerpt is None
    return key if bare else key.model_copy(update={**WHOLE, "ease": course.ease})


def keyed_as_it_is(course: ChannelCourse, time: float, make_id: MakeId) -> KeyChange:
    """A key at a time at which a channel that has some has none, so that its course stays; nothing where one is."""
    there = key_at(course.keys, time)
    if there is not None and not there.stay:
        return KeyChange()
    if there is None and segment_at(course.keys, time, course.loop) is not None and not course.stepped:
        return add_point(course.keys, time, course.loop, make_id)
    change = set_key(course.keys, course.channel_id, time, course.value(time), course.loop, make_id, course.ease, True)
    left = left_of([k for k in course.keys if k is not there], time, course.loop)
    return change if left is None else KeyChange((_flat(left, course), *change.put))


def warped(
    course: ChannelCourse, before: Sequence[float], after: Sequence[float], poses: Collection[float],
    around: float | None,
    length: float | None, make_id: MakeId,
) -> KeyChange:  # fmt: skip
    """Carry a channel's keys along as marks in time move, and with them what it says on poses that have no key.

    `before` and `after` are the marks' times, in order; those among the `poses` get a key first where they would
    not be what they were. `around`: the loop around which marks may lie; `length`: that of the scene's loop then.
    """
    begun = course
    for _ in range(len(poses) + 1):
        moved = begun.changed(warp_keys(begun.keys, before, after, around, length))._replace(loop=length)
        lost = [
            a
            for a, b in zip(before, after, strict=True)
            if a in poses and abs(course.value(a) - moved.value(_on(b, length))) > MOVED
            and key_at(begun.keys, _on(a, course.loop)) is None
        ]  # fmt: skip
        if not lost or not course.keys:
            break
        for time in lost:
            begun = begun.changed(keyed_as_it_is(begun, _on(time, course.loop), make_id))
    known = {k.id: k for k in course.keys}
    now = {k.id: k for k in moved.keys}
    return KeyChange(tuple(k for i, k in now.items() if known.get(i) != k), tuple(known.keys() - now.keys()))


def _on(time: float, loop: float | None) -> float:
    return time if loop is None else wrap(time, loop)
