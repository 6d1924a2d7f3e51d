"""What every export takes: evaluated frames, the scene behind them, the art, and a few settings."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from fractions import Fraction

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, model_validator

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.compiled_scene import CompiledScene
from gaitwire.core.evaluate.frames import Frames
from gaitwire.core.puppet.art import Art
from gaitwire.core.scene import Scene


class ExportSettings(BaseModel):
    """What is chosen before a send-off. `loops` 0 plays without end; `last` is the last frame drawn."""

    model_config = ConfigDict(frozen=True)

    scale: float = Field(default=1.0, ge=0.05, le=4.0)
    background: bool = True
    loops: int = Field(default=0, ge=0, le=1000)
    first: int = Field(default=0, ge=0)
    last: int | None = None
    back: bool = False
    """Played there and back: the first and the last frame come once a round."""
    blocking: bool = False
    """Without in-betweens: every pose stands until the next, as the blocking view shows it."""
    sampled: bool = False
    """Animated SVG only: write every frame instead of keys and splines."""

    def pixels(self, scene: Scene) -> tuple[int, int]:
        """Width and height of a scene's picture as it is written."""
        return max(1, round(scene.width * self.scale)), max(1, round(scene.height * self.scale))

    @model_validator(mode="after")
    def _in_order(self) -> ExportSettings:
        if self.last is not None and self.last < self.first:
            raise ValueError("the last frame comes before the first")
        return self


def played(first: int, last: int, back: bool) -> FloatArray:
    """The frames of one round, in order; there and back, the last of them comes before the first again."""
    there = np.arange(first, last + 1, dtype=float)
    return np.concatenate([there, there[-2:0:-1]]) if back else there


@dataclass(frozen=True)
class Production:
    """One scene, evaluated and ready to be written; nothing in it needs the store."""

    name: str
    compiled: CompiledScene
    frames: Frames
    arts: Mapping[tuple[str, str], Sequence[Art]]
    settings: ExportSettings
    pictures: Mapping[str, tuple[str, bytes]] = field(default_factory=dict)

    @property
    def rate(self) -> Fraction:
        return self.compiled.scene.rate

    @property
    def size(self) -> tuple[int, int]:
        """Width and height of the written picture, in pixels."""
        return self.settings.pixels(self.compiled.scene)

    @property
    def all_sampled(self) -> Production:
        """The same, with every frame written instead of keys and splines."""
        return replace(self, settings=self.settings.model_copy(update={"sampled": True}))

    @property
    def background(self) -> str | None:
        return self.compiled.scene.background if self.settings.background else None

    @property
    def whole(self) -> bool:
        """Whether all frames of the scene are written, so that its loop closes."""
        scene = self.compiled.scene
        last = self.settings.last
        return self.settings.first == 0 and (last is None or last >= scene.frames - 1)
