"""Phrases: named bits of motion, drawings and order included; and their uses on puppets of a scene."""

from __future__ import annotations

import math
from collections.abc import Mapping
from itertools import pairwise
from typing import Literal, NamedTuple, Self

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, model_validator

from gaitwire.core.bounds import Frame, Id, Label, Name, Value
from gaitwire.core.conventions import FloatArray
from gaitwire.core.puppet.views import VIEWS as DRAWN
from gaitwire.core.puppet.views import View as Drawn
from gaitwire.core.timing.clip import ClipRow
from gaitwire.core.tolerances import TIME

SuitedView = Literal["side", "front", "any"]
VIEWS: dict[SuitedView, str] = {"side": "side view", "front": "front view", "any": "any view"}
"""The view of a puppet that a phrase suits."""
SUITED: dict[SuitedView, frozenset[Drawn]] = {
    "side": frozenset(("side", "three-quarter")), "front": frozenset(("front", "back", "three-quarter")),
    "any": frozenset(DRAWN),
}  # fmt: skip
"""From where puppets may be drawn for each of them."""

From = Literal["first", "rest"]
COUNTS: dict[From, str] = {"first": "its first pose", "rest": "rest"}
"""What a phrase's values count from when they are laid on top of something."""

MOST_TAGS, LONGEST_TAG = 12, 40
LONGEST = 20_000.0


class Phrase(BaseModel):
    """A bit of motion: keys from frame 0 on, by owner and property.

    `size` is how long a leg of the puppet was on which it was made, in its own pixels, `facing` to which
    side it looked, and `seat` how many scene pixels one of its own was, less than 0 where it was turned
    round: by these what the phrase turns and shifts is fitted to another puppet.
    """

    model_config = ConfigDict(frozen=True)

    id: Id
    name: Name
    tags: tuple[Label, ...] = Field(default=(), max_length=MOST_TAGS)
    view: SuitedView = "any"
    length: float = Field(gt=0, le=LONGEST, allow_inf_nan=False)
    rows: tuple[ClipRow, ...] = Field(min_length=1, max_length=5000)
    counts_from: From = "first"
    goes_on: bool = False
    """Whether its uses pass over into what comes next, unless they say otherwise, instead of going back."""
    still: float = Field(default=0.0, ge=0, le=1)
    """How far its uses hold still what lies beneath, unless they say otherwise."""
    size: float = Field(default=1.0, gt=0, le=1e6, allow_inf_nan=False)
    seat: Value = 1.0
    facing: Literal[-1, 1] = 1
    revision: int = 0

    @model_validator(mode="after")
    def _within(self) -> Self:
        if any(len(tag) > LONGEST_TAG or not tag.strip() for tag in self.tags):
            raise ValueError(f"a tag has between 1 and {LONGEST_TAG} letters")
        if self.seat == 0:
            raise ValueError("a puppet without size has no phrases")
        for row in self.rows:
            times = [k.time for k in row.keys]
            if not times or any(b <= a for a, b in pairwise(times)):
                raise ValueError("a phrase's keys are in order of time")
            if times[0] < -TIME or times[-1] > self.length + TIME:
                raise ValueError("a phrase's keys lie within it")
        return self


class Ending(NamedTuple):
    """What comes after a phrase, in the interface's words, and the fields of a use that say so."""

    label: str
    values: Mapping[str, bool | float | None]


ENDINGS: dict[str, Ending] = {
    "back": Ending("goes back", {"goes_on": False, "change_in": None}),
    "stays": Ending("stays", {"goes_on": True, "change_in": 0.0}),
    "passes": Ending("passes over", {"goes_on": True, "change_in": None}),
}


class PhraseUse(BaseModel):
    """A phrase on a puppet of a scene, from `start` on.

    *Tied*, `source` names the phrase that it follows; *untied* it has its own in `phrase`. Of the
    phrase it plays what lies between `begins` and `ends` (None: to its end), `repeats` times over, or,
    at 0, until the scene ends. It is drawn out in time by `pace` and goes `amount` of the way, coming in
    over `fade_in` frames and going out over `fade_out`. Where it `goes_on` it passes over into the next
    key of whatever it moves instead of going back to what showed before: from its end on, or, with
    `change_in`, stays until so many frames before that, at 0 until the key. On a loop it ends with the
    loop, and changes nothing before its own start, unless it goes `around` from the end to the start.
    `still` is the share by which what lies beneath is held as it was when the phrase began.
    """

    model_config = ConfigDict(frozen=True)

    id: Id
    scene_id: Id
    instance_id: Id
    source: Label = ""
    phrase: Phrase | None = None
    settings: dict[Label, Value] = Field(default_factory=dict, max_length=100)
    start: Frame
    begins: float = Field(default=0.0, ge=0, le=LONGEST, allow_inf_nan=False)
    ends: float | None = Field(default=None, gt=0, le=LONGEST, allow_inf_nan=False)
    pace: float = Field(default=1.0, ge=0.05, le=20, allow_inf_nan=False)
    amount: float = Field(default=1.0, ge=-5, le=5, allow_inf_nan=False)
    repeats: int = Field(default=1, ge=0, le=1000)
    fade_in: float = Field(default=0.0, ge=0, le=LONGEST)
    fade_out: float = Field(default=0.0, ge=0, le=LONGEST)
    change_in: float | None = Field(default=None, ge=0, le=LONGEST, allow_inf_nan=False)
    goes_on: bool = False
    around: bool = False
    still: float = Field(default=0.0, ge=0, le=1)
    other_side: bool = False

    @model_validator(mode="after")
    def _whole(self) -> Self:
        if not self.source and self.phrase is None:
            raise ValueError("a phrase that is tied to nothing has its own motion")
        if self.ends is not None and self.ends <= self.begins + TIME:
            raise ValueError("a phrase ends after it begins")
        return self

    @property
    def ending(self) -> str:
        """What comes after it, by the names of `ENDINGS`."""
        return "back" if not self.goes_on else "passes" if self.change_in is None else "stays"


class PhraseCourse:
    """When a use of a phrase of some length plays what, in a scene of so many frames that may loop."""

    def __init__(self, use: PhraseUse, length: float, frames: int, loop: float | None) -> None:
        self.use, self.loop = use, loop
        self.around = loop is not None and use.around
        self._length = loop or math.inf
        self.ends = min(length if use.ends is None else use.ends, length)
        self.begins = min(use.begins, max(self.ends - TIME, 0.0))
        self.round = (self.ends - self.begins) * use.pace
        room = max((frames if loop is not None else frames - 1) - use.start, TIME)
        self.rounds = use.repeats or max(1, math.ceil(room / self.round - TIME))
        whole = self.rounds * self.round
        self.cut = max(0.0, whole - (self._length if self.around else room)) if use.repeats else 0.0
        """Frames at its end for which the scene is too short."""
        most = room if loop is not None and not self.around else self._length
        self.span = min(whole, most if use.repeats else room)

    @property
    def stop(self) -> float:
        """The frame on which it has been played."""
        return self.use.start + self.span

    def since(self, frames: FloatArray) -> FloatArray:
        """Frames (F,) since it began, below nothing before that; around a loop, since it last did."""
        frames = np.asarray(frames, float)
        if self.around:
            return np.mod(frames - self.use.start, self._length)
        return (frames if self.loop is None else np.mod(frames, self.loop)) - self.use.start

    def played(self, since: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Times (F,) within the phrase, and how many rounds were played before."""
        gone = np.clip(since, 0.0, self.span)
        rounds = np.clip(np.floor(gone / self.round + TIME), 0, self.rounds - 1)
        within = np.clip((gone - rounds * self.round) / self.use.pace, 0.0, self.ends - self.begins)
        return self.begins + within, rounds

    def running(self, since: FloatArray) -> np.ndarray:
        """Whether (F,) it is being played."""
        return (since >= -TIME) & (since <= self.span + TIME)

    def share(self, since: FloatArray, after: FloatArray | None = None) -> FloatArray:
        """How much of it (F,) shows: 0 outside, between its fades 1.

        `after` (F,) is how much of it is left once it has been played, for one that goes on.
        """
        use = self.use
        coming = _soft(since, use.fade_in)
        if after is not None:
            return np.where(since < -TIME, 0.0, coming * np.where(since <= self.span, 1.0, after))
        going = _soft(self.span - since, use.fade_out)
        return np.where(self.running(since), coming * going, 0.0)


def _soft(within: FloatArray, over: float) -> FloatArray:
    """Half a wave of a cosine from 0 to 1 over some frames."""
    if over <= 0:
        return np.ones_like(within)
    return np.asarray((1 - np.cos(np.pi * np.clip(within / over, 0.0, 1.0))) / 2)


Phrases = Mapping[str, Phrase]
"""Phrases by what uses are tied to; one that is missing sleeps."""
