"""Bones that follow what they hang from, damped: the plainest thing that remembers, solved as loose ends will be."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.evaluate.coupled_groups import CoupledGroup
from gaitwire.core.evaluate.limbs import TURN
from gaitwire.core.evaluate.segments import Segment
from gaitwire.core.evaluate.solvers.stepped import Driven, SteppedSolver
from gaitwire.core.evaluate.stage import Stage
from gaitwire.core.motion.track import Stepper

STIFF, DAMPED, STEPS = 0.12, 0.25, 4
"""Pull back to where it would hang, and drag, each frame; steps in a frame."""


@dataclass(frozen=True)
class Follower(Stepper):
    """State: direction in degrees, and its speed a frame. Drive: the direction of what it hangs from."""

    def settled(self, drive: FloatArray) -> FloatArray:
        return np.array([drive[0], 0.0])

    def step(self, state: FloatArray, before: FloatArray, after: FloatArray) -> FloatArray:
        angle, speed = state
        for n in range(1, STEPS + 1):
            towards = before[0] + (after[0] - before[0]) * n / STEPS
            speed += (STIFF * (towards - angle) - DAMPED * speed) / STEPS
            angle += speed / STEPS
        return np.array([angle, speed])

    def values(self, states: FloatArray, drive: FloatArray) -> FloatArray:
        return np.asarray(states[:1] - drive)


class Followers(SteppedSolver):
    """Bones of some names, in any puppet."""

    name = "followers"

    def __init__(self, *names: str) -> None:
        self.names = names

    def joins(self, puppet: CompiledPuppet) -> bool:
        return any(b.name in self.names for b in puppet.source.puppet.bones)

    def plans(self, puppet: CompiledPuppet, unresolved: set[str], loop: float | None) -> Iterable[tuple[int, int]]:
        for bone in puppet.source.puppet.bones:
            node = puppet.node(bone.id) if bone.name in self.names else None
            if node is not None:
                yield node, node

    def ready(self, segments: Sequence[Segment], members: Sequence[CompiledPuppet]) -> tuple[Driven, ...]:
        rows = ((segment, plan) for segment in segments for plan in segment.plans.get(self.name, ()))
        return tuple(Driven(segment.member, (plan,), Follower(), ((segment, plan),)) for segment, plan in rows)

    def drive(self, things: Driven, stage: Stage, hung: Sequence[FloatArray]) -> FloatArray:
        return np.degrees(np.unwrap(np.arctan2(hung[0][1], hung[0][0])))[None]

    def put(self, things: Driven, stage: Stage, values: FloatArray) -> None:
        composition, plan = stage.compositions[things.member], things.rows[0][1]
        turns = composition.values[[plan], TURN] + values
        composition.bend(np.array([plan]), turns, np.zeros(0, np.int64), np.zeros((0, turns.shape[1])))

    def placed(self, group: CoupledGroup, member: int) -> set[int]:
        return {plan for s in group.segments if s.member == member for plan in s.plans.get(self.name, ())}
