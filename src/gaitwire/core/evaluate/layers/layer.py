"""What a layer of values is, and what it is asked with."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np

from gaitwire.core.addresses import OwnAddress
from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.evaluate.controls import ControlShares, control_shares_of
from gaitwire.core.evaluate.value_tables import ValueTable
from gaitwire.core.scene import Scene
from gaitwire.core.timing.sample import sample

Overrides = Mapping[tuple[str, str, str], float]
"""Values that a drag wants, by (instance id, owner id, property); they stand in for the keys."""

EVERY = frozenset({"node", "part", "limb", "control"})
"""The tables of values of a puppet's things; `whole` is that of the puppet as one."""


@dataclass(frozen=True)
class Sampling:
    """A puppet on frames: what its channels say there, and what is asked of the layers besides."""

    puppet: CompiledPuppet
    frames: FloatArray  # (F,)
    sampled: FloatArray  # (C, F) its channels
    wanted: Overrides = field(default_factory=dict)
    asked: int | None = None
    """On how many of the frames, from the first, what a drag wants holds; None: on all."""
    solved: ControlShares | None = None
    """How the controls stand, if the joints are solved."""
    compose: Callable[[str, Sampling], FloatArray] | None = None
    """Values of a table as they are composed, (columns, F): for a layer that reads others."""

    @classmethod
    def of(cls, puppet: CompiledPuppet, frames: FloatArray, wanted: Overrides | None = None) -> Sampling:
        """With the channels sampled at the frames (F,)."""
        return cls(puppet, frames, sample(puppet.keys, frames), wanted or {})

    @cached_property
    def controls(self) -> FloatArray:
        """Where the points of pads and gauges lie (C, 2, F)."""
        if self.compose is None:
            raise ValueError("values are composed by whoever knows all layers")
        own = self.puppet.controls
        return self.compose("control", self).reshape(len(own.owners), len(own.properties), len(self.frames))

    @cached_property
    def control_shares(self) -> ControlShares:
        """How the controls stand; fixes only once their joints are solved."""
        return control_shares_of(self.puppet, self.controls) if self.solved is None else self.solved

    def at(self, frames: FloatArray, puppet: CompiledPuppet | None = None) -> Sampling:
        """The same puppet, or a barer one, on other frames, with nothing wanted."""
        other = Sampling.of(puppet or self.puppet, frames)
        return replace(other, compose=self.compose)


class Layer(ABC):
    """Something that lies on the values below it, in some of the tables."""

    tables: frozenset[str]
    affine: frozenset[str] = frozenset()
    """Tables in which all it does is to multiply what lies below and to add to it."""
    gives_way: frozenset[str] = frozenset()
    """Properties that it moves only until they have a key."""

    @abstractmethod
    def compose(self, name: str, table: FloatArray, at: Sampling) -> None:
        """Lay it on a table (columns, F), in place."""

    def is_in(self, scene: Scene) -> bool:
        """Whether a scene may have any of it; told without compiling it."""
        return True

    def is_on(self, puppet: CompiledPuppet) -> bool:
        """Whether a puppet has any of it."""
        return True

    def reads(self, puppet: CompiledPuppet) -> set[OwnAddress]:
        """Properties whose keys it reads on other frames than its own."""
        return set()

    def moves(self, puppet: CompiledPuppet, times: FloatArray) -> set[OwnAddress]:
        """What it moves at some times (T,), by (owner id, property)."""
        return set()

    def by(self, puppet: CompiledPuppet, name: str) -> Mapping[int, str]:
        """What people call it, by the columns of a table on which that is worth telling."""
        return {}


class OnTop(Layer):
    """A layer that only adds, and reads what it needs from the values below it."""

    @abstractmethod
    def added(self, name: str, table: FloatArray, at: Sampling) -> Iterator[tuple[int, FloatArray]]:
        """What it adds to which columns (F,), from a table (columns, F) without it."""

    def compose(self, name: str, table: FloatArray, at: Sampling) -> None:
        own = table_named(at.puppet, name)
        for column, row in list(self.added(name, table, at)):
            owner, prop = own.address(column)
            if (at.puppet.source.instance.id, owner, prop) not in at.wanted:  # else a drag wants it elsewhere
                table[column] += row


def table_named(puppet: CompiledPuppet, name: str) -> ValueTable:
    """One of a puppet's tables, by its name."""
    tables: dict[str, ValueTable] = {
        "node": puppet.nodes, "part": puppet.parts, "limb": puppet.limbs, "control": puppet.controls,
        "whole": puppet.whole, "led": puppet.led,
    }  # fmt: skip
    return tables[name]


def led(owner_id: str, at: Sampling) -> FloatArray | float:
    """How far something is led on the frames (F,), by its keys: 0 to 1."""
    table = at.puppet.led
    column = table.column((at.puppet.source.instance.id, owner_id), "led")
    row = next((r for r, c in zip(table.rows, table.columns, strict=True) if c == column), None)
    return 1.0 if row is None else np.clip(at.sampled[row], 0.0, 1.0)


def within(puppet: CompiledPuppet, frames: FloatArray) -> FloatArray:
    """Frames (F,), round a loop."""
    loop = puppet.keys.loop
    return np.asarray(frames, float) if loop is None else np.mod(frames, loop)
