"""Marks in time: the poses of a puppet's whole body, and named markers of a scene."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from gaitwire.core.bounds import LATEST, Frame, Id, Label, Name

PoseKind = Literal["extreme", "breakdown"]


class Pose(BaseModel):
    """A time at which a puppet's whole body stands as it was meant to."""

    model_config = ConfigDict(frozen=True)

    id: Id
    scene_id: Id
    instance_id: Id
    time: Frame
    name: Label = ""
    kind: PoseKind = "extreme"


class Marker(BaseModel):
    """A named frame of a scene."""

    model_config = ConfigDict(frozen=True)

    id: Id
    scene_id: Id
    time: float = Field(allow_inf_nan=False, ge=0, le=LATEST)
    name: Name
