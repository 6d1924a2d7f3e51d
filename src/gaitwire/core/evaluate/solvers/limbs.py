"""Limbs are bent from their tips: as their plants hold them, as their mix asks, and softly from one to the other."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.limb_plans import limb_plans
from gaitwire.core.evaluate.limbs import (
    FLIP,
    MIX,
    ROLL,
    STEADY,
    SWITCH,
    TIP_X,
    TIP_Y,
    TURN,
    LimbPlan,
    Release,
    blended,
    fading,
    is_planted,
    nearest,
    released,
)
from gaitwire.core.evaluate.solvers.solver import SegmentSolver
from gaitwire.core.evaluate.solving import ChainSolver, LimbGroup, Spots, make_group
from gaitwire.core.evaluate.turned import RISE
from gaitwire.core.evaluate.values import walked
from gaitwire.core.geometry import affine
from gaitwire.core.tolerances import LENGTH, TIME

if TYPE_CHECKING:
    from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
    from gaitwire.core.evaluate.coupled_groups import CoupledGroup
    from gaitwire.core.evaluate.ordering import Batch
    from gaitwire.core.evaluate.segments import Segment
    from gaitwire.core.evaluate.stage import Stage

AlikeLimbs = tuple[tuple[LimbGroup, tuple[int, ...]], ...]
"""Limbs that are solved at one time, each group with the segments of the batch in which its limbs begin."""


class Limbs(SegmentSolver):
    name = "limbs"

    def joins(self, puppet: CompiledPuppet) -> bool:
        mixed = any(c.owner_kind == "limb" and c.property == "mix" for c, _ in puppet.source.channels)
        return bool(puppet.source.plants or mixed)

    def plans(self, puppet: CompiledPuppet, unresolved: set[str], loop: float | None) -> Iterable[tuple[int, LimbPlan]]:
        return ((int(plan.chain[0]), plan) for plan in limb_plans(puppet, unresolved, loop))

    def ready(self, segments: Sequence[Segment], members: Sequence[CompiledPuppet]) -> AlikeLimbs:
        kinds: dict[tuple[int, bool], list[tuple[int, LimbPlan]]] = {}
        for n, segment in enumerate(segments):
            for plan in segment.limbs:
                kinds.setdefault((len(plan.chain), plan.tip >= 0), []).append((n, plan))
        found = []
        for limbs in kinds.values():
            whose = [(segments[n].member, plan) for n, plan in limbs]
            group = make_group([(m, plan, members[m].skeleton) for m, plan in whose])
            found.append((group, tuple(n for n, _ in limbs)))
        return tuple(found)

    def times(self, group: CoupledGroup, asked: FloatArray) -> set[float]:
        found: set[float] = set()
        for plan in (plan for segment in group.segments for plan in segment.limbs):
            found |= {t for t in plan.switches if ((asked > t - TIME) & (asked < t + SWITCH)).any()}
            for plant in plan.plants:
                for end, share in zip((plant.start, plant.stop), fading(plant, asked, group.loop), strict=True):
                    if share is not None:
                        found.add(end)
        return found

    def bend(self, stage: Stage, batch: Batch, hung: Sequence[FloatArray]) -> None:
        alike: AlikeLimbs = batch.ready[self.name]
        for group, places in alike:
            _bend(stage, group, [hung[n] for n in places])

    def placed(self, group: CoupledGroup, member: int) -> set[int]:
        return {int(n) for s in group.segments if s.member == member for plan in s.limbs for n in plan.nodes}


@dataclass(frozen=True)
class _Holding:
    """What holds a limb on the frames (F,): its plants, its mix, and what it gives way to after carrying the body."""

    plan: LimbPlan
    controls: FloatArray
    holds: list[np.ndarray]
    mix: FloatArray
    tip: np.ndarray  # complex: where the mix has it
    steady: FloatArray  # how much its tip keeps its angle
    releases: list[Release]


def _side_by_side(spots: Sequence[Spots]) -> Spots:
    """Spots of several limbs, one after the other."""
    if len(spots) == 1:
        return spots[0]
    rows = zip(*((s.place, s.carried, s.angle, s.rolled) for s in spots), strict=True)
    return Spots(*(np.concatenate(row) for row in rows))


def _bend(stage: Stage, group: LimbGroup, parent_matrix: Sequence[FloatArray]) -> None:
    """Turn the bones of limbs as their plants and their mixes ask."""
    if stage.group.again:
        for member, plan in zip(group.members, group.plans, strict=True):
            stage.compositions[member].straighten(plan.nodes)
    values = [stage.compositions[m].values[p.nodes] for m, p in zip(group.members, group.plans, strict=True)]
    holding = [_holding(stage, m, p) for m, p in zip(group.members, group.plans, strict=True)]
    flipped = np.concatenate([h.controls[FLIP] for h in holding])
    senses = np.concatenate([_sense(stage, m, p) for m, p in zip(group.members, group.plans, strict=True)])
    solver = ChainSolver(
        group, np.concatenate(values, axis=-1), np.concatenate(parent_matrix, axis=-1), flipped, senses
    )
    base = np.concatenate([solver.values[:, TURN], np.ones((1, solver.values.shape[-1]))])
    mix = np.concatenate([h.mix for h in holding])
    if mix.any():
        steady = np.concatenate([h.steady for h in holding])
        there = solver.kept(np.concatenate([h.tip for h in holding]), steady)
        base = _switched(stage, group, holding, base, base + nearest(there - base) * mix)
    planted = base
    if any(held.any() for h in holding for held in h.holds):
        planted = solver.solve(*solver.held_at(_side_by_side([_spots(stage, h) for h in holding])))
    _put_rows(stage, group, holding, base, planted)


def _switched(
    stage: Stage, group: LimbGroup, holding: Sequence[_Holding], turned: FloatArray, mixed: FloatArray
) -> FloatArray:
    """Limbs by their mixes, where one goes up at once coming from how the limb was turned until then."""
    count = len(stage.times.raw)
    for n, (member, own) in enumerate(zip(group.members, holding, strict=True)):
        at = slice(n * count, (n + 1) * count)
        for time in own.plan.switches:
            column = stage.times.columns.get(time)
            if column is not None and own.mix[column]:
                stood = turned[:, at][:, column]
                if own.plan.steady:  # its tip's turn means another angle from here on: it is keyed as it stood
                    stood = np.where(np.arange(len(stood)) == len(own.plan.chain), mixed[:, at][:, column], stood)
                release = Release(time, column, SWITCH, stood)
                mixed[:, at] = released(mixed[:, at], stage.times.shown[member], release)
    return mixed


def _put_rows(
    stage: Stage, group: LimbGroup, holding: Sequence[_Holding], base: FloatArray, planted: FloatArray
) -> None:
    """Bring the limbs of a group, from what their keys and their plants ask, into the members' values."""
    count = len(stage.times.raw)
    for member in set(group.members):
        nodes, turns, chains, factors = [], [], [], []
        for n, (whose, plan, own) in enumerate(zip(group.members, group.plans, holding, strict=True)):
            if whose != member:
                continue
            at = slice(n * count, (n + 1) * count)
            when = (stage.times.shown[member], stage.group.loop, stage.times.columns)
            rows = blended(plan, base[:, at], planted[:, at], own.holds, *when, own.releases)
            nodes.append(plan.nodes)
            turns.append(rows[:-1])
            chains.append(plan.chain)
            factors.append(np.broadcast_to(rows[-1], (len(plan.chain), count)))
        stage.compositions[member].bend(*(np.concatenate(x) for x in (nodes, turns, chains, factors)))


def _holding(stage: Stage, member: int, plan: LimbPlan) -> _Holding:
    borne, after = next(((b, a) for limb, b, a in stage.bearing_limbs[member] if limb is plan), (None, []))
    times, controls = stage.times.shown[member], stage.limbs[member][plan.row]
    free = np.ones(len(times), bool) if borne is None else ~borne
    holds = [is_planted(p, times, stage.group.loop) & free for p in plan.plants]
    tip = _stands(stage, member, plan) + controls[TIP_X] + 1j * controls[TIP_Y]
    steady = controls[STEADY] * ~walked(stage.group.members[member], times) if plan.steady else np.zeros(len(times))
    return _Holding(plan, controls, holds, controls[MIX] * free, tip, steady, after)


def _sense(stage: Stage, member: int, plan: LimbPlan) -> FloatArray:
    return stage.group.members[member].senses(stage.times.shown[member], int(plan.chain[0]))


def _stands(stage: Stage, member: int, plan: LimbPlan) -> np.ndarray:
    """Where a limb's tip is at rest (F,), complex; in a turn it is carried round, and lifted on its step."""
    puppet, times = stage.group.members[member], stage.times.shown[member]
    if puppet.turning is None:
        return np.full(len(times), plan.stands)
    own, root = puppet.source.instance, int(plan.chain[0])
    high = RISE * puppet.source.puppet.height * own.scale
    x = own.x + puppet.turning.across(times, root) * (plan.stands.real - own.x)
    return np.asarray(x + 1j * (plan.stands.imag - high * puppet.turning.raised(times, root)))


def _spots(stage: Stage, own: _Holding) -> Spots:
    """Where a limb's plants hold its tip, from frame to frame; where none does, the place means nothing."""
    count = len(stage.times.raw)
    place = np.full(count, own.plan.stands)
    carrier_x = np.ones(count, complex)
    angle, rolled = np.zeros(count), np.zeros(count)
    for plant, held in zip(own.plan.plants, own.holds, strict=True):
        if not held.any():
            continue
        x, y = plant.x + own.controls[TIP_X, held], plant.y + own.controls[TIP_Y, held]
        ref = stage.group.carriers.get(plant.id)
        if ref is not None:
            matrix = stage.compositions[ref[0]].world[:, ref[1]][:, held]
            x, y = affine.apply(matrix, x, y)
            along = matrix[0] + 1j * matrix[1]
            carrier_x[held] = along / np.maximum(np.abs(along), LENGTH)
        place[held] = x + 1j * y
        angle[held], rolled[held] = plant.angle, plant.pitch + own.controls[ROLL, held]
    return Spots(place, carrier_x, angle, rolled)
