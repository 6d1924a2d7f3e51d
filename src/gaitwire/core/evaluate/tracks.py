"""The tracks of a coupled group, kept from one compilation of a scene to the next as far as they still hold."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import pairwise
from threading import Lock

from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet, Source
from gaitwire.core.motion.track import Track
from gaitwire.core.timing.key import Key

TrackKey = tuple[str, int, tuple[int, ...]]
"""The solver's name, the member, the nodes that it moves."""


class Tracks:
    """By what they are of. `earlier` are those of the group as it was, the same until a frame."""

    def __init__(self, earlier: Tracks | None = None, since: float = 0.0) -> None:
        self._lock = Lock()
        self._known: dict[TrackKey, Track] = {}
        if earlier is not None:
            with earlier._lock:
                self._known = {key: track.branched(since) for key, track in earlier._known.items()}

    def __reduce__(self) -> tuple[type[Tracks], tuple[()]]:
        return Tracks, ()  # another process steps for itself

    def find(self, key: TrackKey, made: Track) -> Track:
        """The track of something; `made` is kept for it where there is none yet."""
        with self._lock:
            return self._known.setdefault(key, made)


def changed_since(before: Sequence[CompiledPuppet], after: Sequence[CompiledPuppet]) -> float:
    """The frame up to which members of a coupled group move as they did; -1 where nothing is known.

    Told by their keys alone: whatever else has changed may have changed everything.
    """
    if len(before) != len(after):
        return -1.0
    since = min(_since(a.source, b.source) for a, b in zip(before, after, strict=True))
    for start, end in sorted((span for m in after for span in _looks_ahead(m.source)), reverse=True):
        if start < since < end:
            since = start
    return since


def _since(before: Source, after: Source) -> float:
    same = before._replace(channels=[], pose_times=()) == after._replace(channels=[], pose_times=())
    if not same or after.loop is not None or after.phrases or after.gaits:
        return -1.0
    old, new = ({c.id: (c, keys) for c, keys in source.channels} for source in (before, after))
    if any(c.repeat for c, _ in (*old.values(), *new.values())):
        return -1.0
    since = float("inf")
    for channel_id in old.keys() | new.keys():
        rows = [found[channel_id][1] if channel_id in found else [] for found in (old, new)]
        if rows[0] != rows[1]:
            since = min(since, _meet(*rows))
    return since


def _meet(before: Sequence[Key], after: Sequence[Key]) -> float:
    """The time of the last key up to which two courses are the same; what a key plays reaches to the next one."""
    same = 0
    while same < min(len(before), len(after)) and before[same] == after[same]:
        same += 1
    return before[same - 1].time if same else -1.0


def _looks_ahead(source: Source) -> Iterator[tuple[float, float]]:
    """Spans of frames that depend on the frame at their end: before a plant, and in a flight."""
    yield from ((p.start - p.soft_in, p.start) for p in source.plants)
    yield from ((a.time, b.time) for a, b in pairwise(source.hitches) if a.arc)
