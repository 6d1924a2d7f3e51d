"""Gait spans: stretches of frames on which a card moves a puppet, as a layer beneath its keys."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Literal, Self

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, model_validator

from gaitwire.core.addresses import OwnAddress
from gaitwire.core.bounds import Frame, Id
from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.motion.turning import Turn, senses
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.timing.key import Key
from gaitwire.core.timing.sample import KeyTable, compile_keys, sample
from gaitwire.core.tolerances import TIME
from gaitwire.core.walk.card import GaitCard
from gaitwire.core.walk.foreshortening import foreshortened
from gaitwire.core.walk.four import Foot, FourStrides, Girdles, feet_of, four_strides, swapped, swapped_pose
from gaitwire.core.walk.journey import Journey, Journeys, stops_of
from gaitwire.core.walk.onto import pose_on
from gaitwire.core.walk.smooth import ramp
from gaitwire.core.walk.stride import Moment, Stride, StridePose
from gaitwire.core.walk.varied import Varied
from gaitwire.core.walk.walker import Walker, walker_of

Pace = Literal["clock", "stands", "seat"]
PACES: dict[Pace, str] = {
    "clock": "goes on by the clock",
    "stands": "sets out and comes to stand",
    "seat": "goes as the puppet is moved",
}
"""What a walk goes by: the clock, from standing to standing, or the keys that move the puppet itself."""
SOFT_STEPS, MOST_SOFT = 1.5, 0.45
"""Steps over which a walk comes up to its speed, and share of its time that it may take at most."""
RATIOS = ("stretch", "widen")
"""Properties of which a walk is a factor."""
LEAST_WAY = 1e-3
"""Leg lengths that a walk goes at least: less would be nowhere."""
_GROWS = 1e-9


class GaitSpan(BaseModel):
    """A walk from `start` to `stop`, both included, made anew from its card whenever that changes.

    In place, or, if it `travels`, the way the puppet faces. `begins` is the share of a stride at which
    it starts: at 0 the near foot lands. `slope` is by how many degrees the floor rises in the way of it.
    """

    model_config = ConfigDict(frozen=True)

    id: Id
    scene_id: Id
    instance_id: Id
    start: Frame
    stop: Frame
    card: GaitCard
    travels: bool = False
    begins: float = Field(default=0.0, ge=0, lt=1)
    slope: float = Field(default=0.0, ge=-30, le=30, allow_inf_nan=False)
    pace: Pace = "clock"
    stands_before: bool = False
    """The first of a puppet's: whether it stands at its start on all frames before that; else they are not its own."""

    @model_validator(mode="after")
    def _in_order(self) -> Self:
        if self.stop <= self.start:
            raise ValueError("a walk ends after it starts")
        return self

    def strides_at(self, frames: FloatArray) -> FloatArray:
        """Times in strides (F,) at frames, by the clock; at its ends it stands still."""
        return np.asarray(self.begins + (np.clip(frames, self.start, self.stop) - self.start) / self.card.frames)

    def frames_at(self, strides: FloatArray) -> FloatArray:
        """The frames (F,) of times in strides."""
        return np.asarray(self.start + (strides - self.begins) * self.card.frames)


RiddenSettings = Mapping[str, Mapping[str, KeyTable]]
"""Keys of walks' settings, by the walk's id and the setting's name."""


@dataclass(frozen=True)
class PuppetMotion:
    """What moves a puppet of a scene besides its walks.

    `pixels` are scene pixels for one of the puppet's, less than 0 if it is turned; `seat` the keys that
    move the puppet itself, across and down; `ridden` those of settings that depart from their cards.
    """

    pixels: float
    seat: KeyTable | None = None
    ridden: RiddenSettings = field(default_factory=dict)
    turns: tuple[Turn, ...] = ()


@dataclass(frozen=True)
class Gait:
    """A span on the puppet that walks it."""

    span: GaitSpan
    walker: Walker
    moved: PuppetMotion

    @property
    def pixels(self) -> float:
        """Scene pixels for one of the puppet's as it sets out, less than 0 if it is turned."""
        return self.moved.pixels * float(senses(self.moved.turns, np.array([self.span.start]))[0])

    def riding(self, name: str, departs: float) -> Gait:
        """The same with one setting apart from the card by a number, instead of by its keys."""
        table = compile_keys([[Key(id="", channel_id="", time=0.0, value=departs)]], None, {})
        own = {**self.moved.ridden.get(self.span.id, {}), name: table}
        return replace(self, moved=replace(self.moved, ridden={**self.moved.ridden, self.span.id: own}))

    @cached_property
    def four(self) -> FourStrides | None:
        """The strides of one that goes on all fours."""
        return four_strides(self.span.card, self.walker, self.span.slope) if self.walker.fore else None

    @cached_property
    def stride(self) -> Stride:
        """The card on the puppet's build; of its hind legs, if it has four."""
        return self.four.hind if self.four else Stride(self.span.card, *self.walker.builds, slope=self.span.slope)

    @cached_property
    def feet(self) -> list[Foot]:
        """Its feet, two or four."""
        fore = self.four.fore if self.four else None
        return feet_of(self.walker, self.stride, fore, self.span.card.fore_phase)

    @cached_property
    def journeys(self) -> Journeys | None:
        """The walks from standing to standing, one after the other, for a span that is not by the clock."""
        span = self.span
        if span.pace == "clock":
            return None
        frames = np.arange(span.start, span.stop + 1.0)
        ways = self._driven(frames)
        rests = stops_of(ways) if span.pace == "seat" else np.zeros(0)
        return Journeys(self.stride, np.concatenate([[0.0], rests, [max(float(ways[-1]), LEAST_WAY)]]))

    def _ways(self, frames: FloatArray) -> FloatArray:
        """How far a walk from standing to standing has come (F,), in leg lengths along the floor.

        Where its own time drives it, poses linger as the card says; where keys do, they say when it is where.
        """
        driven = self._driven(frames)
        if self.journeys is None or self.span.pace != "stands" or not self.span.card.dwell:
            return driven
        return self.journeys.lingering(driven)

    def _driven(self, frames: FloatArray) -> FloatArray:
        """The same but for poses that linger."""
        span, within = self.span, np.clip(frames, self.span.start, self.span.stop)
        if span.pace == "seat":
            return self._seat_ways(within)
        long = span.stop - span.start
        soft = min(SOFT_STEPS * span.card.frames / 2 / long, MOST_SOFT)
        whole = self.stride.length * long / span.card.frames * (1 - soft)
        return np.asarray(whole * ramp((within - span.start) / long, soft, soft))

    def _seat_ways(self, frames: FloatArray) -> FloatArray:
        """How far the seat's keys have carried the puppet the way it faces (F,); backward is not counted."""
        moved = self.moved
        if moved.seat is None:
            return np.zeros(len(frames))
        grid = np.arange(self.span.start, self.span.stop + 1.0)
        x, y = sample(moved.seat, grid)
        ahead = moved.pixels * self.walker.facing * senses(moved.turns, (grid[1:] + grid[:-1]) / 2)
        steps = np.hypot(np.diff(x), np.diff(y)) * (np.diff(x) * ahead > 0)
        ways = np.concatenate([[0.0], np.cumsum(steps)]) / (abs(self.pixels) * self.walker.length)
        return np.interp(frames, grid, ways)

    def at(self, frames: FloatArray, deep: float = 0.0) -> dict[OwnAddress, FloatArray]:
        """Turns and shifts (F,) by bone at the frames, offsets from rest; without the seat's way.

        Where it is not seen from the side, with the seat's place and size, under the owner '': it has come
        `deep` leg lengths before it sets out.
        """
        varied = self._varied(frames)
        if self.walker.view != "side":
            return self._seen(frames, varied, deep)
        if self.journeys is None:
            phases = self.stride.phase_of(self.span.strides_at(frames))
            fore = self.four and self.four.fore.at_phase(phases - self.span.card.fore_phase, varied)
            return self._posed(self.stride.at_phase(phases, varied), fore)
        found: dict[OwnAddress, FloatArray] = {}
        for n, own, gone in self.journeys.parts(self._ways(frames)):
            departs = {name: row[own] for name, row in varied.items()}
            fore = swapped_pose(self._fore_journeys[n].at(gone * self._ratio, departs)) if self.four else None
            for address, row in self._posed(self.journeys.each[n].at(gone, departs), fore).items():
                found.setdefault(address, np.zeros(len(frames)))[own] = row
        return found

    def _seen(self, frames: FloatArray, varied: Varied, deep: float) -> dict[OwnAddress, FloatArray]:
        gone = deep + self.depth(frames)
        if self.journeys is None:
            pose = self.stride.at(self.span.strides_at(frames), varied)
            return foreshortened(self.walker, self.stride, pose, gone, self.pixels)
        found: dict[OwnAddress, FloatArray] = {}
        for own, pose in self.journeys.at(self._ways(frames), varied):
            for address, row in foreshortened(self.walker, self.stride, pose, gone[own], self.pixels).items():
                found.setdefault(address, at_rest(address, len(frames)))[own] = row
        return found

    def depth(self, frames: FloatArray) -> FloatArray:
        """Leg lengths (F,) that a walk which is not seen from the side has come towards the eye, or from it."""
        seen = self.walker.view != "side" and self.span.travels
        return self._gone(frames) if seen else np.zeros(len(frames))

    def _posed(self, pose: StridePose, fore: StridePose | None) -> dict[OwnAddress, FloatArray]:
        return pose_on(self.walker, self.stride, pose, Girdles(self.walker, pose, fore) if fore else None)

    @property
    def _ratio(self) -> float:
        """Lengths of a foreleg in one of a hind leg."""
        return self.walker.length / self.walker.fore.length if self.walker.fore else 1.0

    @cached_property
    def _fore_journeys(self) -> list[Journey]:
        """The same walks of the forelegs, which set out with the other side: so pairs across go together."""
        if self.four is None or self.journeys is None:
            return []
        stride = swapped(self.four.fore)
        return [Journey(stride, j.distance * self._ratio) for j in self.journeys.each]

    def _varied(self, frames: FloatArray) -> Varied:
        """How far ridden settings depart from the card's (F,); the hips are sunk by no less than the card says."""
        found = {name: sample(table, frames)[0] for name, table in self.moved.ridden.get(self.span.id, {}).items()}
        if "sink" in found:
            found["sink"] = np.maximum(found["sink"], 0.0)
        return found

    def way(self, frames: FloatArray) -> np.ndarray:
        """Scene pixels (F,), complex with y down, that the walk has carried the puppet since it began."""
        if not self.span.travels or self.span.pace == "seat" or self.walker.view != "side":
            return np.zeros(len(frames), complex)
        gone = self._gone(frames)
        rises = math.radians(self.span.slope)
        along = self.pixels * self.walker.facing * self.walker.length * gone
        return np.asarray(along * math.cos(rises) - 1j * np.abs(along) * math.sin(rises))

    def _gone(self, frames: FloatArray) -> FloatArray:
        """Leg lengths (F,) that it has come since it began."""
        if self.span.pace != "clock":
            return self._ways(frames)
        phases = self.stride.phase_of(self.span.strides_at(np.append(frames, self.span.start)))
        return np.asarray(self.stride.length * (phases[:-1] - phases[-1]))

    @cached_property
    def _phases(self) -> tuple[FloatArray, FloatArray]:
        """Frames close to each other, and the phases of a journey there, both growing."""
        frames = np.linspace(self.span.start, self.span.stop, int(8 * (self.span.stop - self.span.start)) + 2)
        found = self.journeys.phase_at(self._ways(frames)) if self.journeys else self.span.strides_at(frames)
        return frames, found + np.arange(len(frames)) * _GROWS

    def phases_at(self, frames: FloatArray) -> FloatArray:
        """The phases (F,) of the walk at frames."""
        if self.journeys is None:
            return self.stride.phase_of(self.span.strides_at(frames))
        return np.interp(frames, *self._phases)

    def frames_at(self, phases: FloatArray) -> FloatArray:
        """The frames (F,) at which the walk has come to some phases."""
        if self.journeys is None:
            return self.span.frames_at(self.stride.time_of(phases))
        frames, known = self._phases
        return np.interp(phases, known, frames)

    def poses(self) -> list[Moment]:
        """Its contacts, downs, passings and ups, with the frames, also fractional, on which they come, as times."""
        if self.journeys is not None:
            return self._placed(self.journeys.moments())
        return self.poses_between(*self.span.strides_at(np.array([self.span.start, self.span.stop])).tolist())

    def poses_between(self, first: float, last: float) -> list[Moment]:
        """The same from one time in strides to another, also beyond the span."""
        if self.journeys is not None:
            return self.poses()
        found = self.stride.poses(first, last)
        times = self.span.frames_at(np.array([m.time for m in found], float)).tolist()
        return [m._replace(time=t) for m, t in zip(found, times, strict=True)]

    def _placed(self, moments: list[Moment]) -> list[Moment]:
        times = self.frames_at(np.array([m.time for m in moments])).tolist()
        return [m._replace(time=t) for m, t in zip(moments, times, strict=True)]


def gaits_on(puppet: Puppet, spans: Sequence[GaitSpan], moved: PuppetMotion) -> tuple[Gait, ...]:
    """The walks of a puppet; of one that cannot walk they sleep: none."""
    if not spans:
        return ()
    try:
        walker = walker_of(puppet)
    except InvalidInputError:
        return ()
    return tuple(Gait(span, walker, moved) for span in spans)


def composed(gaits: Sequence[Gait], frames: FloatArray) -> dict[OwnAddress, FloatArray]:
    """What a puppet's gaits, in order of time, lay beneath its keys on the frames (F,).

    A gait stands at its end until the next begins; before the first starts none weighs anything, unless that
    stands before. Each goes on from where the one before has come to. The seat's way is under the owner ''.
    """
    starts = np.array([g.span.start for g in gaits])
    which = np.searchsorted(starts, np.asarray(frames) + TIME, side="right") - 1
    if gaits and gaits[0].span.stands_before:
        which = np.maximum(which, 0)
    found: dict[OwnAddress, FloatArray] = {}
    gone, deep = 0j, 0.0
    for n, gait in enumerate(gaits):
        own = which == n
        if own.any():
            values = gait.at(frames[own], deep)
            if gait.walker.view == "side" and (gait.span.travels or gone):
                way = gone + gait.way(frames[own])
                values["", "shift_x"], values["", "shift_y"] = way.real, way.imag
            for address, row in values.items():
                found.setdefault(address, at_rest(address, len(frames)))[own] = row
        end = np.array([gait.span.stop])
        gone, deep = gone + complex(gait.way(end)[0]), deep + float(gait.depth(end)[0])
    return found


def at_rest(address: OwnAddress, count: int) -> FloatArray:
    """What a walk does to a property that it leaves alone: ratios are multiplied, all else is added."""
    return np.full(count, 1.0 if address[1] in RATIOS else 0.0)
