"""Puppet, bone and part: frozen models, defined once and used by every layer."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict, Field

from gaitwire.core.conventions import UP
from gaitwire.core.puppet.roles import Region, Side


class Bone(BaseModel):
    """Anything that moves. Without length it is a group.

    x and y are the pivot in the puppet's pixels at rest; angle is the direction towards the tip.
    """

    model_config = ConfigDict(frozen=True)

    id: str
    puppet_id: str
    name: str = Field(min_length=1, max_length=80)
    parent_id: str | None = None
    rank: int = 0
    x: float = Field(default=0.0, allow_inf_nan=False)
    y: float = Field(default=0.0, allow_inf_nan=False)
    angle: float = Field(default=UP, allow_inf_nan=False)
    length: float = Field(default=0.0, ge=0, allow_inf_nan=False)
    region: Region = "body"
    side: Side = "centre"
    role: str = ""
    hidden: bool = False
    locked: bool = False
    keep_volume: bool = False


class Part(BaseModel):
    """One piece of artwork, hanging rigidly from one bone. Rank 0 lies at the back."""

    model_config = ConfigDict(frozen=True)

    id: str
    puppet_id: str
    bone_id: str
    name: str = Field(min_length=1, max_length=80)
    rank: int = 0
    art_hash: str
    opacity: float = Field(default=1.0, ge=0, le=1)
    hidden: bool = False
    locked: bool = False


class Puppet(BaseModel):
    """A puppet: its page, the point it stands on, its bones and its parts (back to front)."""

    model_config = ConfigDict(frozen=True)

    id: str
    name: str = Field(min_length=1, max_length=80)
    width: float = Field(gt=0, le=1e5)
    height: float = Field(gt=0, le=1e5)
    base_x: float = 0.0
    base_y: float = 0.0
    revision: int = 0
    bones: tuple[Bone, ...] = ()
    parts: tuple[Part, ...] = ()

    def bone(self, bone_id: str) -> Bone | None:
        """The bone of that id, if it is there."""
        return next((b for b in self.bones if b.id == bone_id), None)

    def part(self, part_id: str) -> Part | None:
        """The part of that id, if it is there."""
        return next((p for p in self.parts if p.id == part_id), None)
