"""What a page says on the line of a live drag: one kind of message for each way to drag.

A new way is a model here, its line in `Message`, and its work in `live.py`.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter

from gaitwire.core.bounds import Frame, Id, Label, Number, Place
from gaitwire.core.evaluate.bracing import MOST_BRACES, Brace

Nodes = Annotated[list[tuple[Id, Id]], Field(default_factory=list, max_length=500)]


class Move(BaseModel):
    """Where the pointer is, and on which frame."""

    model_config = ConfigDict(frozen=True)

    x: Place
    y: Place
    frame: Frame = 0.0
    blocking: bool = False
    lens: bool = False
    """The frame is wanted as the camera sees it."""
    began: int = Field(default=0, ge=-(2**53), le=2**53)
    """Counts gestures, so that a turn that goes round and round starts afresh with each."""


class Posing(Move):
    """A move that poses nodes; `braces` keep their place meanwhile, with `free` only as far as they reach."""

    nodes: Nodes
    free: bool = False
    braces: list[Brace] = Field(default_factory=list, max_length=MOST_BRACES)
    from_x: Place = 0.0
    from_y: Place = 0.0


class PoseMove(Posing):
    """Nodes dragged, each in a way (`gesture`) that the first of them says; `step`: degrees that a turn catches on."""

    kind: Literal["pose"]
    gesture: Label = "turn"
    step: float = Field(default=0.0, ge=0, le=360)


class TogetherMove(Posing):
    """Nodes moved, turned or scaled as one thing about a point."""

    kind: Literal["together"]
    gesture: Label = "turn"
    about_x: Place = 0.0
    about_y: Place = 0.0


class ReachMove(Posing):
    """A limb pulled by one of its joints while another stays."""

    kind: Literal["reach"]
    limb: Id
    joint: int = Field(default=0, ge=0, le=20)
    stays: int = Field(default=0, ge=0, le=20)


class FootprintMove(Move):
    """A plant's spot elsewhere, at an angle in degrees."""

    kind: Literal["footprint"]
    plant: Id
    angle: Place = 0.0


class WalkMove(BaseModel):
    """A setting of a walk turned to a value, as it is shown."""

    model_config = ConfigDict(frozen=True)

    kind: Literal["walk"]
    walk: Id
    setting: Label
    value: Place
    frame: Frame = 0.0
    lens: bool = False


class StandMove(Move):
    """The point of a pad or gauge, or (`control` "fix") a joint's angle, which is x."""

    kind: Literal["stand"]
    control: Label
    nodes: Nodes


class CorrectMove(Move):
    """An entry of a fix, pad or gauge corrected by a drag of some owners (kind, id) or of their points."""

    kind: Literal["correct"]
    gesture: Label = "turn"
    entry: Id
    nodes: Nodes
    anchors: list[Number] = Field(default_factory=list, max_length=5000)
    from_x: Place = 0.0
    from_y: Place = 0.0


class SnapMove(Move):
    """Where a joint of some nodes would catch, within `reach` pixels; not where it is `free`."""

    kind: Literal["snap"]
    nodes: Nodes
    free: bool = False
    reach: float = Field(default=8.0, ge=0, le=1e4)


Message = Annotated[
    PoseMove | TogetherMove | ReachMove | FootprintMove | WalkMove | StandMove | CorrectMove | SnapMove,
    Field(discriminator="kind"),
]

MESSAGES: TypeAdapter[Message] = TypeAdapter(Message)
"""Reads one."""
