"""How the puppets of a coupled group stand on frames: values sampled, bones laid, limbs solved, bearings kept."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate.bearing import Anchor, anchor_of, borne
from gaitwire.core.evaluate.carrying import Air, Carrier, carried
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.evaluate.coupled_groups import CoupledGroup
from gaitwire.core.evaluate.limbs import (
    FLIP,
    MIX,
    ROLL,
    STEADY,
    STRETCH,
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
from gaitwire.core.evaluate.ordering import Batch
from gaitwire.core.evaluate.segments import Segment
from gaitwire.core.evaluate.skeleton import Composition, world_matrices
from gaitwire.core.evaluate.solving import LimbGroup, Solver, Spots
from gaitwire.core.evaluate.turned import RISE
from gaitwire.core.evaluate.values import Overrides, limb_values, node_values, sampling, shown_times, walked
from gaitwire.core.geometry import affine
from gaitwire.core.tolerances import LENGTH, TIME

Anchors = Sequence[Sequence[Anchor]]
"""Of each member of a coupled group, of its first bearings."""


@dataclass(frozen=True)
class Posed:
    """One member on the frames (F,)."""

    times: FloatArray  # (F,) whose picture it shows
    sampled: FloatArray  # (C, F) its channels
    values: FloatArray  # (N, properties, F), limbs as they were solved
    world: FloatArray  # (6, N, F)
    controls: FloatArray  # (C, 2, F) where the points of its pads and gauges lie


def pose(
    group: CoupledGroup, frames: FloatArray, overrides: Overrides | None = None, blocking: bool = False,
    anchors: Anchors | None = None,
) -> list[Posed]:  # fmt: skip
    """The members at the frames (F,); with only the first bearings of each, if anchors say of which."""
    if not group.batches:
        return [_alone(member, frames, overrides, blocking) for member in group.members]
    known = anchors_of(group) if anchors is None else anchors
    staging = _Staging(group, frames, overrides, blocking, known)
    for batch in group.batches:
        staging.compose(batch)
    return [staging.posed(n) for n in range(len(group.members))]


def _alone(puppet: CompiledPuppet, frames: FloatArray, overrides: Overrides | None, blocking: bool) -> Posed:
    times = shown_times(puppet, frames, blocking)
    at = sampling(puppet, times, wanted=overrides)
    values = node_values(at)
    world = world_matrices(puppet.skeleton, values, puppet.flips(times))
    return Posed(times, at.sampled, values, world, at.controls)


def anchors_of(group: CoupledGroup) -> Anchors:
    """How each bearing's bone stood when it became one; worked out once for a group, in order of time."""
    if group.known_anchors:
        return group.known_anchors
    found: list[list[Anchor]] = [[] for _ in group.members]
    every = sorted((p.bearing.time, n, k) for n, plans in enumerate(group.bearings) for k, p in enumerate(plans))
    for time, member, k in every:
        staging = _Staging(group, np.array([time]), None, False, found)
        for batch in group.batches:
            staging.compose(batch)
        plans = group.bearings[member]
        bones = {plans[k].bone} | ({plans[k - 1].bone} if k else set())
        nodes = [n for i in staging.limbs_of(member) if bones & set(i.nodes.tolist()) for n in i.nodes.tolist()]
        found[member].append(anchor_of(staging.compositions[member], plans[k], 0, nodes))
    group.known_anchors.extend(found)
    return group.known_anchors


class _Staging:
    """One evaluation of a group: the frames asked for and, behind them, those on which something changes hands."""

    def __init__(
        self, group: CoupledGroup, frames: FloatArray, overrides: Overrides | None, blocking: bool, anchors: Anchors
    ) -> None:
        self.group = group
        self.anchors = anchors
        self.count = len(frames)
        shown = [shown_times(m, frames, blocking) for m in group.members]
        extra = _changes(group, np.concatenate([frames, *shown]))
        self.raw = np.concatenate([frames, extra])
        self.times = [np.concatenate([s, extra]) for s in shown]
        self.columns = {float(t): len(frames) + n for n, t in enumerate(extra)}
        # A drag changes the frames that are asked for, not those on which something changed hands.
        rows = zip(group.members, self.times, strict=True)
        every = [sampling(m, t, wanted=overrides, asked=self.count) for m, t in rows]
        self.sampled = [at.sampled for at in every]
        self.compositions = [
            Composition(at.puppet.skeleton, node_values(at), at.puppet.flips(at.frames)) for at in every
        ]
        self.limbs = [limb_values(at) for at in every]
        self.controls = [at.controls for at in every]
        self.air = Air(group.ground, group.rate)
        self._borne_by = [self._own_turns(n) for n in range(len(group.members))]
        if group.again:
            for composition in self.compositions:
                composition.begin()

    def limbs_of(self, member: int) -> list[LimbPlan]:
        """The limbs of a member that are solved on some frame."""
        return [plan for s in self.group.segments if s.member == member for plan in s.limbs]

    def posed(self, member: int) -> Posed:
        """A member on the frames that were asked for."""
        at, composition = slice(self.count), self.compositions[member]
        return Posed(
            self.times[member][at], self.sampled[member][:, at], composition.values[..., at],
            composition.world[..., at], self.controls[member][..., at],
        )  # fmt: skip

    def compose(self, batch: Batch) -> None:
        """Compose the segments of one batch; all that they need is composed already."""
        parent_matrix = [self._parent_matrix(segment) for segment in batch.segments]
        for group, places in zip(batch.groups, batch.places, strict=True):
            self._bend(group, [parent_matrix[n] for n in places])
        for member, own, roots, levels in batch.levels:
            self.compositions[member].compose(roots, levels, np.stack([parent_matrix[n] for n in own], axis=1))

    def _parent_matrix(self, segment: Segment) -> FloatArray:
        """What a segment's root hangs from (6, F): by birth, by its hitches, as the body is borne."""
        composition = self.compositions[segment.member]
        parent_matrix = composition.parent_matrix(segment.root)
        if segment.hitches:
            carriers = [(h, self._carrier(h.id)) for h in segment.hitches]
            parent_matrix = carried(
                parent_matrix, composition.pivot(segment.root), carriers, self.raw, self.columns, self.air
            )
        plans = self.group.bearings[segment.member]
        if segment.root == 0 and plans:
            parent_matrix = borne(
                composition, parent_matrix, plans, self.anchors[segment.member], self.raw, self.columns
            )
        return parent_matrix

    def _carrier(self, link_id: str) -> Carrier | None:
        ref = self.group.carriers.get(link_id)
        if ref is None:
            return None
        member, node = ref
        puppet = self.group.members[member]
        bone = puppet.source.puppet.bone(puppet.nodes.owners[node][1])
        hold = 0j if bone is None else bone.length / 2 * np.exp(1j * np.radians(bone.angle))
        return Carrier(self.compositions[member].world[:, node], complex(hold))

    def _own_turns(self, member: int) -> list[tuple[LimbPlan, np.ndarray, list[Release]]]:
        """Limbs that carry the body, with the frames on which they do; and what they give way to there and after.

        They turn by their own keys meanwhile: those are set right here, before the body is laid.
        """
        plans, anchors = self.group.bearings[member], self.anchors[member]
        composition, raw = self.compositions[member], self.raw
        found = []
        for limb in self.limbs_of(member) if anchors else ():
            nodes = limb.nodes
            borne_by = np.zeros(len(raw), bool)
            after: list[Release] = []
            last = False
            for k, (plan, anchor) in enumerate(zip(plans, anchors, strict=False)):
                column = self.columns.get(plan.bearing.time)
                if column is None:
                    break
                mine = plan.bone in nodes
                until = plans[k + 1].bearing.time if k + 1 < len(anchors) else np.inf
                span = (raw >= plan.bearing.time - TIME) & (raw < until - TIME)
                if mine or last:
                    own = np.concatenate([composition.values[nodes, TURN], np.ones((1, len(raw)))])
                    release = Release(
                        plan.bearing.time, column, plan.bearing.soft, self._stood(composition, limb, anchor, column)
                    )
                    if mine:
                        rows = np.where(span, released(own, raw, release), own)
                        composition.bend(
                            nodes, rows[:-1], limb.chain, np.broadcast_to(rows[-1], (len(limb.chain), len(raw)))
                        )
                        borne_by |= span
                    else:
                        after.append(release)
                last = mine
            found.append((limb, borne_by, after))
        return found

    @staticmethod
    def _stood(composition: Composition, limb: LimbPlan, anchor: Anchor, column: int) -> FloatArray:
        """How a limb stood when a bearing changed: turns, and its length against what its keys say there."""
        first = int(limb.chain[0])
        factor = anchor.stretches[first] / composition.values[first, STRETCH, column]
        return np.array([*(anchor.turns[int(n)] for n in limb.nodes), factor])

    def _bend(self, group: LimbGroup, parent_matrix: Sequence[FloatArray]) -> None:
        """Turn the bones of limbs as their plants and their mixes ask."""
        if self.group.again:
            for member, plan in zip(group.members, group.plans, strict=True):
                self.compositions[member].straighten(plan.nodes)
        values = [self.compositions[m].values[p.nodes] for m, p in zip(group.members, group.plans, strict=True)]
        holding = [self._holding(m, p) for m, p in zip(group.members, group.plans, strict=True)]
        flipped = np.concatenate([h.controls[FLIP] for h in holding])
        senses = np.concatenate([self._sense(m, p) for m, p in zip(group.members, group.plans, strict=True)])
        solver = Solver(group, np.concatenate(values, axis=-1), np.concatenate(parent_matrix, axis=-1), flipped, senses)
        base = np.concatenate([solver.values[:, TURN], np.ones((1, solver.values.shape[-1]))])
        mix = np.concatenate([h.mix for h in holding])
        if mix.any():
            steady = np.concatenate([h.steady for h in holding])
            there = solver.kept(np.concatenate([h.tip for h in holding]), steady)
            base = self._switched(group, holding, base, base + nearest(there - base) * mix)
        planted = base
        if any(held.any() for h in holding for held in h.holds):
            planted = solver.solve(*solver.held_at(_side_by_side([self._spots(h) for h in holding])))
        self._put_rows(group, holding, base, planted)

    def _switched(
        self, group: LimbGroup, holding: Sequence[_Holding], turned: FloatArray, mixed: FloatArray
    ) -> FloatArray:
        """Limbs by their mixes, where one goes up at once coming from how the limb was turned until then."""
        count = len(self.raw)
        for n, (member, own) in enumerate(zip(group.members, holding, strict=True)):
            at = slice(n * count, (n + 1) * count)
            for time in own.plan.switches:
                column = self.columns.get(time)
                if column is not None and own.mix[column]:
                    stood = turned[:, at][:, column]
                    if own.plan.steady:  # its tip's turn means another angle from here on: it is keyed as it stood
                        stood = np.where(np.arange(len(stood)) == len(own.plan.chain), mixed[:, at][:, column], stood)
                    release = Release(time, column, SWITCH, stood)
                    mixed[:, at] = released(mixed[:, at], self.times[member], release)
        return mixed

    def _put_rows(self, group: LimbGroup, holding: Sequence[_Holding], base: FloatArray, planted: FloatArray) -> None:
        """Bring the limbs of a group, from what their keys and their plants ask, into the members' values."""
        count = len(self.raw)
        for member in set(group.members):
            nodes, turns, chains, factors = [], [], [], []
            for n, (whose, plan, own) in enumerate(zip(group.members, group.plans, holding, strict=True)):
                if whose != member:
                    continue
                at = slice(n * count, (n + 1) * count)
                when = (self.times[member], self.group.loop, self.columns)
                rows = blended(plan, base[:, at], planted[:, at], own.holds, *when, own.releases)
                nodes.append(plan.nodes)
                turns.append(rows[:-1])
                chains.append(plan.chain)
                factors.append(np.broadcast_to(rows[-1], (len(plan.chain), count)))
            self.compositions[member].bend(*(np.concatenate(x) for x in (nodes, turns, chains, factors)))

    def _holding(self, member: int, plan: LimbPlan) -> _Holding:
        borne, after = next(((b, a) for limb, b, a in self._borne_by[member] if limb is plan), (None, []))
        times, controls = self.times[member], self.limbs[member][plan.row]
        free = np.ones(len(times), bool) if borne is None else ~borne
        holds = [is_planted(p, times, self.group.loop) & free for p in plan.plants]
        tip = self._stands(member, plan) + controls[TIP_X] + 1j * controls[TIP_Y]
        steady = controls[STEADY] * ~walked(self.group.members[member], times) if plan.steady else np.zeros(len(times))
        return _Holding(plan, controls, holds, controls[MIX] * free, tip, steady, after)

    def _sense(self, member: int, plan: LimbPlan) -> FloatArray:
        return self.group.members[member].senses(self.times[member], int(plan.chain[0]))

    def _stands(self, member: int, plan: LimbPlan) -> np.ndarray:
        """Where a limb's tip is at rest (F,), complex; in a turn it is carried round, and lifted on its step."""
        puppet, times = self.group.members[member], self.times[member]
        if puppet.turning is None:
            return np.full(len(times), plan.stands)
        own, root = puppet.source.instance, int(plan.chain[0])
        high = RISE * puppet.source.puppet.height * own.scale
        x = own.x + puppet.turning.across(times, root) * (plan.stands.real - own.x)
        return np.asarray(x + 1j * (plan.stands.imag - high * puppet.turning.raised(times, root)))

    def _spots(self, own: _Holding) -> Spots:
        """Where a limb's plants hold its tip, from frame to frame; where none does, the place means nothing."""
        count = len(self.raw)
        place = np.full(count, own.plan.stands)
        carrier_x = np.ones(count, complex)
        angle, rolled = np.zeros(count), np.zeros(count)
        for plant, held in zip(own.plan.plants, own.holds, strict=True):
            if not held.any():
                continue
            x, y = plant.x + own.controls[TIP_X, held], plant.y + own.controls[TIP_Y, held]
            ref = self.group.carriers.get(plant.id)
            if ref is not None:
                matrix = self.compositions[ref[0]].world[:, ref[1]][:, held]
                x, y = affine.apply(matrix, x, y)
                along = matrix[0] + 1j * matrix[1]
                carrier_x[held] = along / np.maximum(np.abs(along), LENGTH)
            place[held] = x + 1j * y
            angle[held], rolled[held] = plant.angle, plant.pitch + own.controls[ROLL, held]
        return Spots(place, carrier_x, angle, rolled)


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


def _changes(group: CoupledGroup, times: FloatArray) -> FloatArray:
    """Frames on which something changes hands, as far as the pictures of the times (T,) depend on them."""
    last = float(times.max(initial=0.0))
    found: set[float] = set()
    for member, plans in zip(group.members, group.bearings, strict=True):
        found |= {p.bearing.time for p in plans if p.bearing.time <= last + TIME}
        thrown = False
        for hitch in member.source.hitches:
            if hitch.time <= last + TIME or thrown:
                found.add(hitch.time)
                found |= {hitch.time - 1.0} if hitch.arc else set()
            thrown = hitch.arc and hitch.time <= last + TIME
    asked = np.concatenate([times, sorted(found)])
    for segment in group.segments:
        for plan in segment.limbs:
            found |= {t for t in plan.switches if ((asked > t - TIME) & (asked < t + SWITCH)).any()}
            for plant in plan.plants:
                for end, share in zip((plant.start, plant.stop), fading(plant, asked, group.loop), strict=True):
                    if share is not None:
                        found.add(end)
    return np.array(sorted(found))


class SolvedPose(NamedTuple):
    """One puppet on one frame, with the coupled group it is a member of."""

    group: CoupledGroup
    member: int
    posed: Posed

    @property
    def puppet(self) -> CompiledPuppet:
        return self.group.members[self.member]


def solved_poses(
    groups: Sequence[CoupledGroup], instance_id: str, frame: float, blocking: bool = False,
    overrides: Overrides | None = None,
) -> dict[str, SolvedPose]:  # fmt: skip
    """How the puppets of an instance's coupled group stand on a frame, by instance; none if it is not there."""
    for group in groups:
        ids = [m.source.instance.id for m in group.members]
        if instance_id in ids:
            poses = pose(group, np.array([frame]), overrides, blocking)
            return {i: SolvedPose(group, n, p) for n, (i, p) in enumerate(zip(ids, poses, strict=True))}
    return {}


def posed_at(groups: Sequence[CoupledGroup], instance_id: str, times: FloatArray) -> tuple[CompiledPuppet, Posed]:
    """A puppet of a scene at the times (T,); raises InvalidInputError where it is not there."""
    for group in groups:
        for n, member in enumerate(group.members):
            if member.source.instance.id == instance_id:
                return member, pose(group, times)[n]
    raise InvalidInputError("This puppet is not in the scene.", "Choose another.")
