"""What every export takes: evaluated frames, the scene behind them, the art, and a few settings."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from functools import cached_property
from typing import Generic, TypeVar

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, model_validator

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.camera import filmed
from gaitwire.core.evaluate.compiled_scene import CompiledScene
from gaitwire.core.evaluate.evaluate import evaluate
from gaitwire.core.evaluate.frames import Frames
from gaitwire.core.puppet.art import Art
from gaitwire.core.scene import Scene


class ExportSettings(BaseModel):
    """What is chosen before any send-off. `last` is the last frame drawn."""

    model_config = ConfigDict(frozen=True)

    scale: float = Field(default=1.0, ge=0.05, le=4.0)
    background: bool = True
    first: int = Field(default=0, ge=0)
    last: int | None = None
    back: bool = False
    """Played there and back: the first and the last frame come once a round."""
    blocking: bool = False
    """Without in-betweens: every pose stands until the next, as the blocking view shows it."""

    def pixels(self, scene: Scene) -> tuple[int, int]:
        """Width and height of a scene's picture as it is written."""
        return max(1, round(scene.width * self.scale)), max(1, round(scene.height * self.scale))

    @model_validator(mode="after")
    def _in_order(self) -> ExportSettings:
        if self.last is not None and self.last < self.first:
            raise ValueError("the last frame comes before the first")
        return self


class PlayedSettings(ExportSettings):
    """Of a file that plays by itself."""

    loops: int = Field(default=0, ge=0, le=1000)
    """How often; 0 is without end."""


class SvgSettings(PlayedSettings):
    """Of an animated SVG."""

    sampled: bool = False
    """Every frame is written out, instead of keys and splines."""


Chosen_co = TypeVar("Chosen_co", bound=ExportSettings, covariant=True)
"""The settings of one kind of file."""


def played(first: int, last: int, back: bool) -> FloatArray:
    """The frames of one round, in order; there and back, the last of them comes before the first again."""
    there = np.arange(first, last + 1, dtype=float)
    return np.concatenate([there, there[-2:0:-1]]) if back else there


@dataclass(frozen=True)
class Production(Generic[Chosen_co]):
    """One scene, ready to be sent off; nothing in it needs the store. It is evaluated by whoever makes the file."""

    name: str
    compiled: CompiledScene
    times: FloatArray
    """(F,) the frames of one round, in order."""
    arts: Mapping[tuple[str, str], Sequence[Art]]
    settings: Chosen_co
    pictures: Mapping[str, tuple[str, bytes]] = field(default_factory=dict)

    def __len__(self) -> int:
        return len(self.times)

    @cached_property
    def frames(self) -> Frames:
        """The frames as they are filmed."""
        return filmed(evaluate(self.compiled, self.times, blocking=self.settings.blocking))

    @property
    def clock(self) -> FloatArray:
        """(F + 1,) the frames and, as the last, the one at the end of the file's time."""
        first = self.settings.first
        return np.append(self.times, first if self.settings.back else self.times[-1] + 1)

    @property
    def course(self) -> Frames:
        """Everything at those, as the stage shows it; evaluated anew each time."""
        return evaluate(self.compiled, self.clock, blocking=self.settings.blocking)

    @property
    def rate(self) -> Fraction:
        return self.compiled.scene.rate

    @property
    def size(self) -> tuple[int, int]:
        """Width and height of the written picture, in pixels."""
        return self.settings.pixels(self.compiled.scene)

    @property
    def background(self) -> str | None:
        return self.compiled.scene.background if self.settings.background else None
