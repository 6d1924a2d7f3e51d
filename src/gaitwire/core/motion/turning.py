"""Turning round: from a time on a puppet faces the other way, as if it had turned on the spot.

In stages its head leads, its trunk follows, then leg after leg steps round; each is mirrored on a frame of its own.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal, NamedTuple

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from gaitwire.core.bounds import Frame, Id
from gaitwire.core.conventions import FloatArray
from gaitwire.core.tolerances import TIME

Manner = Literal["whole", "stages"]

EDGE = 0.18
"""Share of its width that what turns as a whole keeps in the middle: a flat thing seen from its edge is nothing."""
HALF = 0.6
"""Share of its width that is left to what turns in stages where it is mirrored; at half of it faces look pinched."""


class Turn(BaseModel):
    """A puppet turns round in `frames` frames from `time` on; in none at once."""

    model_config = ConfigDict(frozen=True)

    id: Id
    scene_id: Id
    instance_id: Id
    time: Frame
    frames: float = Field(default=6.0, ge=0, le=500, allow_inf_nan=False)
    manner: Manner = "whole"
    """As one flat thing, or in stages."""


class TurnStage(NamedTuple):
    """Within which shares of a turn something is turned, and how it nods over the whole turn: (share, degrees)."""

    first: float
    last: float
    nods: tuple[tuple[float, float], ...] = ()


# How much and when is common practice of animators: a head dips as it comes round and leads by a few frames; what
# leads draws back a little first and goes a little too far after.
STAGES = {
    "head": TurnStage(0.08, 0.48, ((0, 0), (0.12, -4), (0.3, 9), (0.62, -4), (1, 0))),
    "trunk": TurnStage(0.22, 0.68, ((0, 0), (0.2, -3), (0.48, 5), (0.8, -2), (1, 0))),
    "leg": TurnStage(0.4, 0.82),
    "last leg": TurnStage(0.58, 1.0),
}
WHOLE = TurnStage(0.0, 1.0)


def widths(turns: Sequence[Turn], frames: FloatArray, stage: str = "trunk", narrowest: float = HALF) -> FloatArray:
    """How wide what turns in a stage is seen on frames (F,): 1, or -1 once it faces the other way."""
    found = np.ones(len(frames))
    for turn in turns:
        seen = np.cos(np.pi * _share(turn, frames, stage))
        least = EDGE if turn.manner == "whole" else narrowest
        found *= np.where(np.abs(seen) < least, np.copysign(least, seen), seen)
    return found


def senses(turns: Sequence[Turn], frames: FloatArray, stage: str = "trunk") -> FloatArray:
    """1 on frames (F,) on which it faces as it did, -1 on those on which it faces the other way."""
    return np.sign(widths(turns, frames, stage))


def across(turns: Sequence[Turn], frames: FloatArray, stage: str) -> FloatArray:
    """How much of its way to the side is left to what is carried round (F,): from 1 to -1, at once in a whole turn."""
    found = np.ones(len(frames))
    for turn in turns:
        seen = np.cos(np.pi * _share(turn, frames, stage))
        found *= np.sign(seen) if turn.manner == "whole" else seen
    return found


def toward(turns: Sequence[Turn], frames: FloatArray, stage: str) -> FloatArray:
    """How far what turns in stages looks towards the eye on frames (F,): 0, and 1 half way round."""
    found = np.zeros(len(frames))
    for turn in turns:
        if turn.manner == "stages":
            found = np.maximum(found, np.sin(np.pi * _share(turn, frames, stage)))
    return found


def nods(turns: Sequence[Turn], frames: FloatArray, stage: str) -> FloatArray:
    """By how many degrees it leans ahead on frames (F,): a little back first, ahead as it comes round, back again."""
    found = np.zeros(len(frames))
    for turn in turns:
        knots = STAGES[stage].nods
        if turn.manner == "whole" or turn.frames < TIME or not knots:
            continue
        at, degrees = (np.array(column, float) for column in zip(*knots, strict=True))
        share = _gone(turn, np.asarray(frames, float))
        n = np.clip(np.searchsorted(at, share, side="right") - 1, 0, len(at) - 2)
        within = (share - at[n]) / (at[n + 1] - at[n])
        found += degrees[n] + (degrees[n + 1] - degrees[n]) * within**2 * (3 - 2 * within)
    return found


def _share(turn: Turn, frames: FloatArray, stage: str) -> FloatArray:
    """How much of its turn a stage has done on frames (F,)."""
    first, last, _ = WHOLE if turn.manner == "whole" else STAGES[stage]
    if turn.frames < TIME:
        return np.where(np.asarray(frames, float) > turn.time - TIME, 1.0, 0.0)
    return np.clip((_gone(turn, np.asarray(frames, float)) - first) / (last - first), 0.0, 1.0)


def _gone(turn: Turn, frames: FloatArray) -> FloatArray:
    return np.clip((frames - turn.time) / turn.frames, 0.0, 1.0)
