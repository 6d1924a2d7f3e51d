"""Time on a loop: [start, end), whose end shows the start's key, stored once; and channels that repeat."""

from __future__ import annotations

from typing import Literal, NamedTuple

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.tolerances import TIME

RepeatKind = Literal["cycle", "there and back", "onward"]


class Repeat(NamedTuple):
    """A stretch of a channel that is played over and over; the ends in frames."""

    kind: RepeatKind
    start: float
    end: float


def wrap(time: float, length: float) -> float:
    """The time within [0, length) that shows the same as `time` on a loop of `length` frames."""
    wrapped = time % length
    return 0.0 if length - wrapped < TIME else wrapped


def slide(times: list[float], by: float, length: float | None) -> list[float]:
    """Times moved by `by` frames: around the loop when `length` is given, else not before 0.

    Without a loop a whole group stops together at frame 0, so that its spacing is kept.
    """
    if length is not None:
        return [wrap(t + by, length) for t in times]
    by = max(by, -min(times, default=0.0))
    return [t + by for t in times]


def repeated(repeat: Repeat, frames: FloatArray, lead_in: bool) -> tuple[FloatArray, FloatArray]:
    """Where in its stretch a repeating channel is at the frames (F,), and in which round, both (F,).

    With `lead_in` frames before the stretch are played as they are, in round 0; else the rounds go
    back without end. A cycle's end shows its start. There and back, every second round runs
    backward; rounds count for onward channels, each of which starts where the last one ended.
    """
    length = repeat.end - repeat.start
    since = np.asarray(frames, float) - repeat.start
    rounds = np.floor(since / length)
    within = since - rounds * length
    if repeat.kind == "there and back":
        within = np.where(rounds % 2 == 1, length - within, within)
    at = repeat.start + within
    if lead_in:
        early = since < 0
        at, rounds = np.where(early, frames, at), np.where(early, 0.0, rounds)
    return at, rounds
