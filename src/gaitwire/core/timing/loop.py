"""Time on a loop: [start, end), whose end shows the start's key, stored once."""

from __future__ import annotations

from gaitwire.core.tolerances import TIME


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
