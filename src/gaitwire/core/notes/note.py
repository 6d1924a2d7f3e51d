"""A note: one measured fault or fact of a scene, with the frame and the bone it is about."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate import CompiledScene, Frames
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.evaluate.limb_plans import plan_of
from gaitwire.core.evaluate.limbs import LimbPlan
from gaitwire.core.puppet.limb_chains import chain_of


class Remedy(NamedTuple):
    """What can be done about a note: what the gesture is on, by its id, and what its button says."""

    act: str
    target_id: str
    label: str


@dataclass(frozen=True)
class Note:
    """What was measured: `value` in `unit`, at its worst on `frame`, from `first` to `last`."""

    kind: str
    instance_id: str
    owner_id: str
    name: str
    """What the bone, limb or puppet is called."""
    frame: float
    first: float
    last: float
    value: float
    unit: str
    said: str
    fault: bool = True
    """Whether something is to be mended; else it is a fact to go by."""
    remedy: Remedy | None = None


@dataclass(frozen=True)
class NoteScene:
    """A scene evaluated on all its frames."""

    compiled: CompiledScene
    frames: Frames

    @cached_property
    def places(self) -> dict[tuple[str, str], int]:
        """Where each node lies among the frames' nodes."""
        return {key: n for n, key in enumerate(self.frames.node_keys)}

    def matrices(self, instance_id: str, owner_id: str) -> FloatArray:
        """A node's matrices (6, F)."""
        found: FloatArray = self.frames.nodes[:, self.places[instance_id, owner_id]].T
        return found

    def point(self, instance_id: str, owner_id: str, at: complex) -> np.ndarray:
        """A point of a node's own space on every frame (F,), complex, in scene pixels."""
        a, b, c, d, e, f = self.matrices(instance_id, owner_id)
        return np.asarray(a * at.real + c * at.imag + e + 1j * (b * at.real + d * at.imag + f))

    @property
    def compiled_puppets(self) -> Iterator[CompiledPuppet]:
        """The puppets that are seen and worked on."""
        for puppet in self.compiled.compiled_puppets:
            instance = puppet.source.instance
            if not (instance.hidden or instance.aside):
                yield puppet

    def limbs(self, compiled_puppet: CompiledPuppet) -> Iterator[LimbPlan]:
        """A puppet's limbs."""
        puppet = compiled_puppet.source.puppet
        for row, limb in enumerate(puppet.limbs):
            if len(chain_of(puppet, limb)) > 1:
                yield plan_of(compiled_puppet, row, limb)


Measure = Callable[[NoteScene], Iterator[Note]]


@dataclass(frozen=True)
class Measured:
    """One kind of note."""

    name: str
    label: str
    about: str
    measure: Measure


def runs(bad: Sequence[bool] | np.ndarray) -> Iterator[slice]:
    """Stretches of frames that are all bad."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], np.asarray(bad, bool), [False]]).astype(int)))
    for start, stop in zip(edges[::2], edges[1::2], strict=True):
        yield slice(int(start), int(stop))
