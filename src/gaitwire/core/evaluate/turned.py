"""How a puppet that turns round in stages stands: what leads is mirrored before what follows.

Sections are mirrored about the upright through their own joints, as the puppet's own pixels have it, and lean
there; so a head keeps its gaze whatever its trunk does, and a foot its place. After a turn all of it is the
puppet mirrored as a whole.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.motion.turning import HALF, STAGES, Turn, across, nods, senses, toward, widths
from gaitwire.core.puppet.model import Part, Puppet
from gaitwire.core.puppet.tree import descendants
from gaitwire.core.puppet.turnable import FRONT, Hinge, front_drawings, front_of, hinges_of
from gaitwire.core.tolerances import SHARE, TIME
from gaitwire.core.walk.span import GaitSpan
from gaitwire.core.walk.walker import facing_of

SEEN = 0.85
"""Share of its width that is left to what has a drawing or a pad for its front: it turns by that."""
_LIFT = {"thigh": -36.0, "shin": 64.0, "foot": -10.0}
"""Degrees by which a leg is folded half way round its step, as it faces right."""
RISE = 0.05
"""Share of a puppet's height by which a tip is lifted that is solved."""
_VIEWS = (("three-quarter", 0.42), ("front", 0.85))
"""From which looks towards the eye on a drawing shows."""


@dataclass(frozen=True)
class TurningPiece:
    """A node that is turned in a stage of its own."""

    node: int
    hinge: Hinge
    narrowest: float


@dataclass(frozen=True)
class Turning:
    """The turns of a compiled puppet."""

    turns: tuple[Turn, ...]
    striding: frozenset[str]  # ids of those under which a walk goes on: its legs step by themselves
    loop: float | None
    segments: tuple[TurningPiece, ...]
    stages: tuple[str, ...]  # of each node
    narrowest: float  # of the trunk
    facing: float
    lifts: tuple[tuple[str, str, float], ...]  # (bone id, its stage, degrees)
    fronts: tuple[tuple[int, str, float], ...]  # (row of a pad, its stage, where its front is)
    drawings: tuple[tuple[int, str, Mapping[str, int]], ...]  # (part, its stage, drawings by view)

    def within(self, frames: FloatArray) -> FloatArray:
        return np.asarray(frames, float) if self.loop is None else np.mod(frames, self.loop)

    def widths(self, frames: FloatArray, stage: str = "trunk", narrowest: float | None = None) -> FloatArray:
        """How wide what turns in a stage is seen on frames (F,), less than 0 once it faces the other way."""
        least = self.narrowest if narrowest is None else narrowest
        within, (own, striding) = self.within(frames), self._split(stage)
        return widths(own, within, stage, least) * widths(striding, within, "trunk", least)

    def senses(self, frames: FloatArray, node: int = 0) -> FloatArray:
        """1 on frames (F,) on which a node faces as its instance says, -1 where it has turned round."""
        within, (own, striding) = self.within(frames), self._split(self.stages[node])
        return senses(own, within, self.stages[node]) * senses(striding, within)

    def across(self, frames: FloatArray, node: int) -> FloatArray:
        """How much of its way to the side is left to the tip of a limb that begins with a node (F,)."""
        within, (own, striding) = self.within(frames), self._split(self.stages[node])
        return across(own, within, self.stages[node]) * senses(striding, within)

    def midway(self, frames: FloatArray, node: int) -> np.ndarray:
        """On which frames (F,) a node faces neither the one way nor the other."""
        return np.asarray(np.abs(self.widths(frames, self.stages[node])) < 1 - SHARE)

    def raised(self, frames: FloatArray, node: int) -> FloatArray:
        """How far a leg that begins with a node is on its step (F,): 0, and 1 half way."""
        if "leg" not in self.stages[node]:
            return np.zeros(len(frames))
        return toward(self._split(self.stages[node])[0], self.within(frames), self.stages[node]) ** 2

    def flips(self, frames: FloatArray) -> dict[int, FloatArray]:
        """Matrices (6, F), without a place, by which nodes are turned about their joints, in the puppet's own pixels.

        None where all of it is turned alike, which is so but in the middle of turns.
        """
        within = self.within(frames)
        busy = any(((within > t.time) & (within < t.time + t.frames)).any() for t in self.turns if t.manner == "stages")
        found: dict[int, FloatArray] = {}
        for node, hinge, narrowest in ((s.node, s.hinge, s.narrowest) for s in self.segments if busy):
            wide = self.widths(frames, hinge.stage, narrowest) / self.widths(frames, hinge.above)
            lean = np.radians(nods(self.turns, within, hinge.stage)) * self.facing
            zero = np.zeros(len(frames))
            found[node] = np.stack([wide * np.cos(lean), np.sin(lean), -wide * np.sin(lean), np.cos(lean), zero, zero])
        return found

    def leaning(self, frames: FloatArray) -> FloatArray | None:
        """Degrees (F,) that a puppet leans ahead of what is all of one piece; None for one that is not."""
        return None if self.segments else nods(self.turns, self.within(frames), "trunk")

    def lifted(self, frames: FloatArray) -> Iterator[tuple[str, FloatArray]]:
        """Degrees (F,) that legs are folded by on their steps, by bone's id."""
        for bone_id, stage, degrees in self.lifts:
            step = toward(self._split(stage)[0], self.within(frames), stage) ** 2
            if step.any():
                yield bone_id, degrees * self.facing * step

    def look(self, frames: FloatArray, stage: str) -> FloatArray:
        """How far what turns in a stage looks towards the eye (F,)."""
        return toward(self.turns, self.within(frames), stage)

    def compose_pads(self, rows: FloatArray, frames: FloatArray) -> None:
        """Pads on their way to the front and back, in place: rows (C, 2, F) of where points of controls lie."""
        for row, stage, front in self.fronts:
            look = self.look(frames, stage)
            rows[row, 0] += (front - rows[row, 0]) * look

    def shown(self, frames: FloatArray) -> Iterator[tuple[int, FloatArray]]:
        """Numbers (F,) of the drawings that turning shows, NaN where it says nothing, by part."""
        for part, stage, drawings in self.drawings:
            look, numbers = self.look(frames, stage), np.full(len(frames), np.nan)
            for view, least in _VIEWS:
                if view in drawings:
                    numbers[look >= least] = drawings[view]
            yield part, numbers

    def _split(self, stage: str) -> tuple[Sequence[Turn], Sequence[Turn]]:
        """Turns in which a stage has its own time, and those in which a leg goes with the trunk, under its walk."""
        if "leg" not in stage or not self.striding:
            return self.turns, ()
        return [t for t in self.turns if t.id not in self.striding], [t for t in self.turns if t.id in self.striding]


def turning_of(
    puppet: Puppet, turns: tuple[Turn, ...], gaits: Sequence[GaitSpan], loop: float | None,
    nodes: Mapping[str, int], pads: Mapping[str, int], parts: Sequence[Part], joined: Sequence[Collection[str]],
) -> Turning:  # fmt: skip
    """The turns of a puppet: `nodes` and `pads` are places in the puppet's tables by id, `joined` as for hinges."""
    hinges = hinges_of(puppet, joined) if any(t.manner == "stages" for t in turns) else []
    stages = _stages(puppet, hinges)
    drawings = front_drawings(puppet)
    fronts = []
    for control in puppet.controls:
        front = front_of(puppet, control)
        moved = {r.owner_id for e in puppet.entries_of(control.id) for r in e.rows}
        if front is not None and control.id in pads:
            led = {stages.get(owner, "trunk") for owner in moved}
            fronts.append((pads[control.id], "head" if led == {"head"} or not led else "trunk", front))
    shown = [(n, stages.get(p.id, "trunk"), drawings[p.id]) for n, p in enumerate(parts) if p.id in drawings]
    seen = {stage for _, stage, _ in (*fronts, *shown)} if puppet.view in FRONT else set(STAGES)
    lifts = [
        (b.id, stages[b.id], _LIFT[b.role]) for b in puppet.bones if "leg" in stages.get(b.id, "") and b.role in _LIFT
    ]
    return Turning(
        turns, frozenset(t.id for t in turns if any(_meet(t, g) for g in gaits)), loop,
        tuple(TurningPiece(nodes[h.bone_id], h, SEEN if h.stage in seen else HALF) for h in hinges),
        tuple(stages.get(owner, "trunk") for owner in nodes), SEEN if "trunk" in seen else HALF, facing_of(puppet),
        tuple(lifts), tuple(fronts), tuple(shown),
    )  # fmt: skip


def _stages(puppet: Puppet, hinges: Sequence[Hinge]) -> dict[str, str]:
    """In which stage each bone and pin is turned; what is in none is turned with the trunk."""
    found: dict[str, str] = {}
    for hinge in hinges:
        found |= dict.fromkeys({hinge.bone_id} | descendants(puppet.bones, hinge.bone_id), hinge.stage)
    return found | {owner: found[bone] for owner, bone in _homes(puppet).items() if bone in found}


def _homes(puppet: Puppet) -> dict[str, str]:
    """The bones that carry parts and pins, by their ids."""
    parts = {p.id: p.bone_id for p in puppet.parts}
    return parts | {p.id: p.bone_id or parts[p.part_id] for p in puppet.pins}


def _meet(turn: Turn, gait: GaitSpan) -> bool:
    return gait.start < turn.time + max(turn.frames, TIME) and turn.time < gait.stop
