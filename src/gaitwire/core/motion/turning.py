"""Turning round: from a time on a puppet faces the other way, as if it had turned on the spot."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from gaitwire.core.bounds import Frame, Id
from gaitwire.core.conventions import FloatArray
from gaitwire.core.tolerances import TIME

NARROWEST = 0.18
"""Share of its width that a puppet keeps in the middle of a turn: a flat thing seen from its edge is nothing."""


class Turn(BaseModel):
    """A puppet turns round in `frames` frames from `time` on; in none at once."""

    model_config = ConfigDict(frozen=True)

    id: Id
    scene_id: Id
    instance_id: Id
    time: Frame
    frames: float = Field(default=6.0, ge=0, le=500, allow_inf_nan=False)


def widths(turns: Sequence[Turn], frames: FloatArray) -> FloatArray:
    """How wide a puppet that turns is seen on frames (F,): 1, or -1 once it faces the other way."""
    found = np.ones(len(frames))
    for turn in turns:
        found *= np.cos(np.pi * _share(turn, np.asarray(frames, float)))
    return np.where(np.abs(found) < NARROWEST, np.copysign(NARROWEST, found), found)


def senses(turns: Sequence[Turn], frames: FloatArray) -> FloatArray:
    """1 on frames (F,) on which it faces as it did, -1 on those on which it faces the other way."""
    return np.sign(widths(turns, frames))


def _share(turn: Turn, frames: FloatArray) -> FloatArray:
    if turn.frames < TIME:
        return np.where(frames > turn.time - TIME, 1.0, 0.0)
    return np.clip((frames - turn.time) / turn.frames, 0.0, 1.0)
