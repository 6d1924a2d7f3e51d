"""Guides: pictures laid under or over the stage to draw from; one, or a run of them that goes with the frames."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict, Field

from gaitwire.core.bounds import Frame, Id, Name, Place, Share


class Guide(BaseModel):
    """Where a guide's pictures lie: the middle of the first, in scene pixels; `start` is the frame of the first.

    Before and after its run a guide shows its first and its last picture, or goes round if it `loops`.
    """

    model_config = ConfigDict(frozen=True)

    id: Id
    scene_id: Id
    name: Name
    pictures: tuple[Id, ...] = Field(min_length=1, max_length=2000)
    width: float = Field(gt=0, le=20_000)
    height: float = Field(gt=0, le=20_000)
    x: Place = 0.0
    y: Place = 0.0
    scale: float = Field(default=1.0, allow_inf_nan=False, gt=0, le=100)
    opacity: Share = 0.5
    over: bool = False
    turned: bool = False
    start: Frame = 0.0
    loops: bool = False
    hidden: bool = False
