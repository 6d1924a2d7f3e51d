"""Offsets over a span: an amount laid on top of whatever is keyed, with soft ends."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Self

import numpy as np
from pydantic import BaseModel, ConfigDict, model_validator

from gaitwire.core.bounds import Frame, Id, Length, Value
from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.timing.channel import PROPERTIES, OwnerKind
from gaitwire.core.tolerances import DETERMINANT


class Offset(BaseModel):
    """One property of one owner, turned, shifted or stretched by an amount from `start` to `stop`.

    It comes in over `soft_in` frames from the start and goes out over `soft_out` before the end.
    """

    model_config = ConfigDict(frozen=True)

    id: Id
    scene_id: Id
    instance_id: Id
    owner_kind: OwnerKind
    owner_id: Id
    property: Id
    start: Frame
    stop: Frame
    soft_in: Length = 0.0
    soft_out: Length = 0.0
    amount: Value

    @model_validator(mode="after")
    def _in_order(self) -> Self:
        if self.stop <= self.start:
            raise ValueError("an offset's span ends after it starts")
        if self.soft_in + self.soft_out > self.stop - self.start + 1e-9:
            raise ValueError("the soft ends of an offset must fit into its span")
        return self


def window(offset: Offset, frames: FloatArray, loop: float | None) -> FloatArray:
    """The share of an offset's amount at the frames (F,), 0 outside its span; on a loop a span goes across the seam.

    Soft ends follow half a wave of a cosine.
    """
    since = np.asarray(frames, float) - offset.start
    if loop is not None:
        since = np.mod(since, loop)
    length = offset.stop - offset.start
    return _soft(since, offset.soft_in) * _soft(length - since, offset.soft_out)


def _soft(within: FloatArray, over: float) -> FloatArray:
    """How far an end of a span has come in, `within` frames from it: 0 outside, 1 from `over` frames on."""
    share = np.clip(within / over, 0.0, 1.0) if over > 0 else np.where(within >= 0, 1.0, 0.0)
    out: FloatArray = (1 - np.cos(np.pi * share)) / 2
    return out


def without(offsets: Sequence[Offset], value: float, time: float, loop: float | None) -> float:
    """What the keys of a channel must say, so that with its offsets laid on top it has a value at a time.

    Raises InvalidInputError where offsets leave nothing of it, whatever the keys say.
    """
    for offset in offsets:
        share = float(window(offset, np.array([time]), loop)[0])
        if PROPERTIES[offset.owner_kind][offset.property].rest != 1.0:
            value -= offset.amount * share
            continue
        factor = 1 + (offset.amount - 1) * share
        if abs(factor) < DETERMINANT:
            raise InvalidInputError(
                "An offset over this span scales this to nothing.", "Change the offset, or key it outside the span."
            )
        value /= factor
    return value
