"""Loose ends swing from what carries them."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import TYPE_CHECKING

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.layers.layer import Sampling, led
from gaitwire.core.evaluate.limbs import TURN
from gaitwire.core.evaluate.loose_plans import LoosePlan, loose_plans
from gaitwire.core.evaluate.solvers.stepped import Driven, SteppedSolver
from gaitwire.core.geometry import affine
from gaitwire.core.motion.loose.settings import Loose
from gaitwire.core.motion.loose.states import Drive
from gaitwire.core.motion.loose.swing import joined
from gaitwire.core.tolerances import LENGTH

if TYPE_CHECKING:
    from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
    from gaitwire.core.evaluate.coupled_groups import CoupledGroup
    from gaitwire.core.evaluate.segments import Segment
    from gaitwire.core.evaluate.stage import Stage


class LooseEnds(SteppedSolver):
    name = "loose"

    def joins(self, puppet: CompiledPuppet) -> bool:
        return any(isinstance(d.settings, Loose) for d in puppet.source.drivers)

    def plans(
        self, puppet: CompiledPuppet, unresolved: set[str], loop: float | None
    ) -> Iterable[tuple[int, LoosePlan]]:
        return ((int(plan.nodes[0]), plan) for plan in loose_plans(puppet, unresolved, loop))

    def ready(self, segments: Sequence[Segment], members: Sequence[CompiledPuppet]) -> tuple[Driven, ...]:
        """Ends that need as many steps are stepped as one, which costs little more than one alone."""
        alike: dict[tuple[int, int], list[tuple[Segment, LoosePlan]]] = {}
        for segment in segments:
            for plan in segment.plans.get(self.name, ()):
                alike.setdefault((segment.member, plan.swing.steps), []).append((segment, plan))
        found = []
        for (member, _), rows in alike.items():
            nodes = tuple(int(node) for _, plan in rows for node in plan.nodes)
            found.append(Driven(member, nodes, joined(*(plan.swing for _, plan in rows)), tuple(rows)))
        return tuple(found)

    def drive(self, things: Driven, stage: Stage, hung: Sequence[FloatArray]) -> FloatArray:
        drives = [_drive(stage, segment, plan, m) for (segment, plan), m in zip(things.rows, hung, strict=True)]
        return Drive(*(np.concatenate(rows) for rows in zip(*drives, strict=True))).rows

    def put(self, things: Driven, stage: Stage, values: FloatArray) -> None:
        first = 0
        for segment, plan in things.rows:
            composition = stage.compositions[segment.member]
            turns = composition.values[plan.nodes, TURN] + values[first : first + len(plan.nodes)]
            composition.bend(plan.nodes, turns, plan.nodes[:0], np.zeros((0, turns.shape[1])))
            first += len(plan.nodes)

    def placed(self, group: CoupledGroup, member: int) -> set[int]:
        own = (plan for s in group.segments if s.member == member for plan in s.plans.get(self.name, ()))
        return {int(node) for plan in own for node in plan.nodes}


def _drive(stage: Stage, segment: Segment, plan: LoosePlan, hung: FloatArray) -> Drive:
    """Where keys have a loose end, on the frames of a stage on which all before it is composed."""
    composition, puppet = stage.compositions[segment.member], stage.group.members[segment.member]
    composition.compose(plan.nodes[:1], plan.levels, hung[:, None])
    world = composition.world[:, plan.nodes]
    x, y = affine.apply(world, plan.tips.real[:, None], plan.tips.imag[:, None])
    shape = world.shape[1:]
    air = puppet.source.weather.air(stage.times.raw, puppet.source.rate, stage.group.loop)
    sense = np.where(affine.determinant(world[:, 0]) < 0, -1.0, 1.0)
    # What stands still as it is drawn is pulled by how far its carrier leans from upright.
    down = hung[2] + 1j * hung[3]
    fall = plan.fall * (1.0 - (not plan.hangs) * down / (1j * np.maximum(np.abs(down), LENGTH)))
    at = Sampling(puppet, stage.times.shown[segment.member], stage.sampled[segment.member])
    share = led(puppet.nodes.owners[plan.nodes[0]][1], at)
    return Drive(
        world[4] + 1j * world[5], x + 1j * y,
        *(np.broadcast_to(row, shape) for row in (air, fall, sense, share)),
    )  # fmt: skip
