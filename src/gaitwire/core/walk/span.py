"""Gait spans: stretches of frames on which a card moves a puppet, as a layer beneath its keys."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Annotated, Self

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, model_validator

from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.walk.card import GaitCard
from gaitwire.core.walk.onto import Slot, Walker, stride_on, travelled, walker_of
from gaitwire.core.walk.stride import Moment, Stride

Frame = Annotated[float, Field(allow_inf_nan=False, ge=-1e5, le=1e5)]


class GaitSpan(BaseModel):
    """A walk from `start` to `stop`, both included, made anew from its card whenever that changes.

    In place, or, if it `travels`, the way the puppet faces. `begins` is the share of a stride at which
    it starts: at 0 the near foot lands. `slope` is by how many degrees the floor rises in the way of it.
    """

    model_config = ConfigDict(frozen=True)

    id: str
    scene_id: str
    instance_id: str
    start: Frame
    stop: Frame
    card: GaitCard
    travels: bool = False
    begins: float = Field(default=0.0, ge=0, lt=1)
    slope: float = Field(default=0.0, ge=-30, le=30, allow_inf_nan=False)

    @model_validator(mode="after")
    def _in_order(self) -> Self:
        if self.stop <= self.start:
            raise ValueError("a walk ends after it starts")
        return self

    def strides_at(self, frames: FloatArray) -> FloatArray:
        """Times in strides (F,) at frames; at its ends it stands still."""
        return np.asarray(self.begins + (np.clip(frames, self.start, self.stop) - self.start) / self.card.frames)

    def frames_at(self, strides: FloatArray) -> FloatArray:
        """The frames (F,) of times in strides."""
        return np.asarray(self.start + (strides - self.begins) * self.card.frames)


@dataclass(frozen=True)
class Gait:
    """A span on the puppet that walks it; `pixels` are scene pixels for one of the puppet's, less than 0 if turned."""

    span: GaitSpan
    walker: Walker
    pixels: float

    @cached_property
    def stride(self) -> Stride:
        """The card on the puppet's build."""
        return Stride(self.span.card, *self.walker.builds, slope=self.span.slope)

    def at(self, frames: FloatArray) -> dict[Slot, FloatArray]:
        """Turns and shifts (F,) by bone at the frames, offsets from rest; without the seat's way."""
        return stride_on(self.walker, self.stride, self.span.strides_at(frames))

    def way(self, frames: FloatArray) -> np.ndarray:
        """Scene pixels (F,), complex with y down, that the puppet has gone since the span began."""
        if not self.span.travels:
            return np.zeros(len(frames), complex)
        strides = self.span.strides_at(np.append(frames, self.span.start))
        gone = self.pixels * travelled(self.walker, self.stride, strides)
        along = gone[:-1] - gone[-1]
        rises = math.radians(self.span.slope)
        return np.asarray(along * math.cos(rises) - 1j * np.abs(along) * math.sin(rises))

    def poses(self) -> list[Moment]:
        """Its contacts, downs, passings and ups, with the frames, also fractional, on which they come, as times."""
        return self.poses_between(*self.span.strides_at(np.array([self.span.start, self.span.stop])).tolist())

    def poses_between(self, first: float, last: float) -> list[Moment]:
        """The same from one time in strides to another, also beyond the span."""
        found = self.stride.poses(first, last)
        times = self.span.frames_at(np.array([m.time for m in found], float)).tolist()
        return [m._replace(time=t) for m, t in zip(found, times, strict=True)]


def gaits_on(puppet: Puppet, spans: Sequence[GaitSpan], pixels: float) -> tuple[Gait, ...]:
    """The walks of a puppet; of one that cannot walk they sleep: none."""
    if not spans:
        return ()
    try:
        walker = walker_of(puppet)
    except InvalidInputError:
        return ()
    return tuple(Gait(span, walker, pixels) for span in spans)


def laid(gaits: Sequence[Gait], frames: FloatArray) -> dict[Slot, FloatArray]:
    """What a puppet's gaits, in order of time, lay beneath its keys on the frames (F,).

    A gait stands at its end until the next begins, and the first at its start before that; each goes
    on from where the one before has come to. The seat's way is under the owner ''.
    """
    starts = np.array([g.span.start for g in gaits])
    which = np.maximum(np.searchsorted(starts, frames, side="right") - 1, 0)
    found: dict[Slot, FloatArray] = {}
    gone = 0j
    for n, gait in enumerate(gaits):
        own = which == n
        if own.any():
            values = gait.at(frames[own])
            if gait.span.travels or gone:
                way = gone + gait.way(frames[own])
                values["", "shift_x"], values["", "shift_y"] = way.real, way.imag
            for slot, row in values.items():
                found.setdefault(slot, np.zeros(len(frames)))[own] = row
        gone += complex(gait.way(np.array([gait.span.stop]))[0])
    return found
