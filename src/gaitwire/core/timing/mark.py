"""Marks in time: the poses of a puppet's whole body, and named markers of a scene."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

PoseKind = Literal["extreme", "breakdown"]


class Pose(BaseModel):
    """A time at which a puppet's whole body stands as it was meant to."""

    model_config = ConfigDict(frozen=True)

    id: str
    scene_id: str
    instance_id: str
    time: float = Field(allow_inf_nan=False)
    name: str = Field(default="", max_length=40)
    kind: PoseKind = "extreme"


class Marker(BaseModel):
    """A named frame of a scene."""

    model_config = ConfigDict(frozen=True)

    id: str
    scene_id: str
    time: float = Field(allow_inf_nan=False, ge=0)
    name: str = Field(min_length=1, max_length=60)
