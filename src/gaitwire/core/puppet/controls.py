"""Bend fixes, facing pads and gauges: what each holds in store, and at which place of it.

All three blend stored corrections by a place: a fix by its joint's angle, a gauge by one number, a pad by two.
Nought is the puppet at rest.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, model_validator

from gaitwire.core.bounds import Id, Label, Name, Number, Place, Rank, Value
from gaitwire.core.geometry.spread import Spread
from gaitwire.core.timing.channel import PROPERTIES, Property

ControlKind = Literal["fix", "pad", "gauge"]

RowKind = Literal["bone", "pin", "part"]

ROUND = 360.0
"""Degrees after which a pad that wraps, and every joint, comes back to where it was."""

LIMITS: dict[ControlKind, tuple[float, float]] = {"fix": (180.0, 0.0), "pad": (180.0, 90.0), "gauge": (100.0, 0.0)}
"""How far from nought an entry may lie, across and up: degrees, or percent of a gauge."""

NEAR = 0.5
"""Two entries nearer than this lie on the same place."""

_PLACING = ("turn", "shift_x", "shift_y", "stretch", "widen", "skew")

CORRECTED: dict[RowKind, dict[str, Property]] = {
    "bone": {name: PROPERTIES["bone"][name] for name in _PLACING},
    "pin": dict(PROPERTIES["pin"]),
    "part": {name: PROPERTIES["bone"][name] for name in _PLACING} | dict(PROPERTIES["part"]),
}
"""What a correction can say. A part's own placing is about its bone's pivot, in the bone's space."""

STEPPED = ("drawing", "place", "shown")
"""What has nothing in between: the nearest entry decides."""


class Row(BaseModel):
    """One property of one owner as an entry has it: an offset from rest, a ratio, or a number of a drawing."""

    model_config = ConfigDict(frozen=True)

    kind: RowKind
    owner_id: Id
    property: Id
    value: Value


class Reshape(BaseModel):
    """Points of a rigid part's drawing that lie elsewhere: (index in the order they are written, across, down).

    It is about a drawing of so many points: of another one, which has more or fewer, it says nothing.
    """

    model_config = ConfigDict(frozen=True)

    part_id: Id
    drawing: Number
    count: Number
    points: tuple[tuple[Number, Place, Place], ...] = Field(max_length=100_000)

    @model_validator(mode="after")
    def _of_that_many(self) -> Reshape:
        if any(not 0 <= index < self.count for index, _, _ in self.points):
            raise ValueError("a point is not one of the drawing's")
        return self


class Control(BaseModel):
    """A bend fix, a facing pad or a gauge."""

    model_config = ConfigDict(frozen=True)

    id: Id
    puppet_id: Id
    kind: ControlKind
    name: Name
    rank: Rank = 0
    """Its place in the list: where two want different drawings, the later one has its way."""
    bone_id: Id | None = None
    """Of a fix: its joint."""
    wraps: bool = False
    """Of a pad: it goes round for a full turn."""


class Entry(BaseModel):
    """A stored correction and its place on a control: degrees across and up, or percent of a gauge."""

    model_config = ConfigDict(frozen=True)

    id: Id
    puppet_id: Id
    control_id: Id
    name: Label = ""
    x: float = Field(default=0.0, allow_inf_nan=False, ge=-3600, le=3600)
    y: float = Field(default=0.0, allow_inf_nan=False, ge=-3600, le=3600)
    rows: tuple[Row, ...] = ()
    reshapes: tuple[Reshape, ...] = ()


def spread_of(control: Control, entries: Sequence[Entry]) -> Spread:
    """The entries' places, rest first."""
    flat = control.kind != "pad"
    points = np.array([(0.0, 0.0), *((e.x, 0.0 if flat else e.y) for e in entries)])
    return Spread(points, ROUND if control.wraps and control.kind == "pad" else None)
