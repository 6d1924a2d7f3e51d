"""Keys through a course of values, fewer than it has frames."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.timing.easing.registry import FREE
from gaitwire.core.timing.edit import MakeId
from gaitwire.core.timing.key import Curve, Key
from gaitwire.core.timing.sample import compile_keys, sample


def keys_through(
    channel_id: str, frames: FloatArray, values: FloatArray, at: Sequence[int], loop: float | None, make_id: MakeId
) -> list[Key]:
    """Keys on some of the frames, by index in order, between which the course (F,) is followed by free curves.

    Each segment leaves and arrives as fast as the course does there (a cubic Hermite segment). With a
    `loop` the frames are all of it, and the last segment leads to the first key again.
    """
    around = (np.roll(values, -1) - np.roll(values, 1)) / 2.0
    slopes = np.gradient(values, frames) if loop is None else around
    keys = []
    for n, here in enumerate(at):
        ahead = at[(n + 1) % len(at)]
        span = float(frames[ahead] - frames[here])
        if span <= 0 and loop is not None:
            span += loop
        curve = Curve(1 / 3, slopes[here] * span / 3, 2 / 3, -slopes[ahead] * span / 3)
        keys.append(
            Key(
                id=make_id(), channel_id=channel_id, time=float(frames[here]), value=round(float(values[here]), 9),
                ease=FREE, curve=curve,
            )
        )  # fmt: skip
    return keys


def fewest_keys(
    channel_id: str, frames: FloatArray, values: FloatArray, allowed: float, make_id: MakeId
) -> tuple[list[Key], float]:
    """Keys on as few of the frames as keep within `allowed` of a course (F,), and their greatest error.

    From its ends on, a key is put where the course is missed most, until it is missed nowhere by more.
    """
    at = [0, len(frames) - 1] if len(frames) > 1 else [0]
    while True:
        keys = keys_through(channel_id, frames, values, at, None, make_id)
        off = np.abs(sample(compile_keys([keys], None), frames)[0] - values)
        if off.max() <= allowed or len(at) == len(frames):
            return keys, float(off.max())
        at = sorted({*at, int(off.argmax())})


def course_error(keys: Sequence[Key], frames: FloatArray, values: FloatArray, loop: float | None) -> float:
    """The greatest distance between keys and the course (F,) that they follow, on its frames."""
    return float(np.abs(sample(compile_keys([list(keys)], loop), frames)[0] - values).max())
