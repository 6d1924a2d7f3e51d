"""How the puppets of a troupe stand on frames: values sampled, bones laid, limbs solved, bearings kept."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.bearing import Anchor, anchor_of, borne
from gaitwire.core.evaluate.carrying import Air, Carrier, carried
from gaitwire.core.evaluate.island import Island
from gaitwire.core.evaluate.limbs import (
    MIX,
    ROLL,
    TIP_X,
    TIP_Y,
    TURN,
    LimbPlan,
    Release,
    Spots,
    blended,
    fading,
    is_planted,
    nearest,
    smooth,
    solve,
    tip_held,
)
from gaitwire.core.evaluate.skeleton import Laying, world_matrices
from gaitwire.core.evaluate.troupe import Stretch, Troupe
from gaitwire.core.evaluate.values import Overrides, limb_values, node_values, shown_times
from gaitwire.core.geometry import affine
from gaitwire.core.timing.sample import sample
from gaitwire.core.tolerances import LENGTH, TIME

Anchors = Sequence[Sequence[Anchor]]
"""Of each member of a troupe, of its first bearings."""


@dataclass(frozen=True)
class Posed:
    """One member on the frames (F,)."""

    times: FloatArray  # (F,) whose picture it shows
    sampled: FloatArray  # (C, F) its channels
    values: FloatArray  # (N, properties, F), limbs as they were solved
    world: FloatArray  # (6, N, F)


def pose(
    troupe: Troupe, frames: FloatArray, overrides: Overrides | None = None, blocking: bool = False,
    anchors: Anchors | None = None,
) -> list[Posed]:  # fmt: skip
    """The members at the frames (F,); with only the first bearings of each, if anchors say of which."""
    if not troupe.stretches:
        return [_alone(member, frames, overrides, blocking) for member in troupe.members]
    known = anchors_of(troupe) if anchors is None else anchors
    staging = _Staging(troupe, frames, overrides, blocking, known)
    for stretch in troupe.stretches:
        staging.lay(stretch)
    return [staging.posed(n) for n in range(len(troupe.members))]


def _alone(island: Island, frames: FloatArray, overrides: Overrides | None, blocking: bool) -> Posed:
    times = shown_times(island, frames, blocking)
    sampled = sample(island.keys, times)
    values = node_values(island, times, sampled, overrides)
    return Posed(times, sampled, values, world_matrices(island.skeleton, values))


def anchors_of(troupe: Troupe) -> Anchors:
    """How each bearing's bone stood when it became one; worked out once for a troupe, in order of time."""
    known = troupe.__dict__.get("_anchors")
    if known is not None:
        return known  # type: ignore[no-any-return]
    found: list[list[Anchor]] = [[] for _ in troupe.members]
    every = sorted((p.bearing.time, n, k) for n, plans in enumerate(troupe.bearings) for k, p in enumerate(plans))
    for time, member, k in every:
        staging = _Staging(troupe, np.array([time]), None, False, found)
        for stretch in troupe.stretches:
            staging.lay(stretch)
        plans = troupe.bearings[member]
        bones = {plans[k].bone} | ({plans[k - 1].bone} if k else set())
        nodes = [n for i in staging.limbs_of(member) if bones & set(i.nodes.tolist()) for n in i.nodes.tolist()]
        found[member].append(anchor_of(staging.layings[member], plans[k], 0, nodes))
    troupe.__dict__["_anchors"] = found
    return found


class _Staging:
    """One evaluation of a troupe: the frames asked for and, behind them, those on which something changes hands."""

    def __init__(
        self, troupe: Troupe, frames: FloatArray, overrides: Overrides | None, blocking: bool, anchors: Anchors
    ) -> None:
        self.troupe = troupe
        self.anchors = anchors
        self.count = len(frames)
        shown = [shown_times(m, frames, blocking) for m in troupe.members]
        extra = _changes(troupe, np.concatenate([frames, *shown]))
        self.raw = np.concatenate([frames, extra])
        self.times = [np.concatenate([s, extra]) for s in shown]
        self.columns = {float(t): len(frames) + n for n, t in enumerate(extra)}
        self.sampled = [sample(m.keys, t) for m, t in zip(troupe.members, self.times, strict=True)]
        rows = list(zip(troupe.members, self.times, self.sampled, strict=True))
        self.layings = [Laying(m.skeleton, node_values(m, t, s, overrides)) for m, t, s in rows]
        self.limbs = [limb_values(m, t, s, overrides) for m, t, s in rows]
        self.air = Air(troupe.ground, troupe.rate)
        self._borne_by = [self._own_turns(n) for n in range(len(troupe.members))]

    def limbs_of(self, member: int) -> list[LimbPlan]:
        """The limbs of a member that are solved on some frame."""
        return [plan for s in self.troupe.stretches if s.member == member for plan in s.limbs]

    def posed(self, member: int) -> Posed:
        """A member on the frames that were asked for."""
        at, laying = slice(self.count), self.layings[member]
        return Posed(self.times[member][at], self.sampled[member][:, at], laying.values[..., at], laying.world[..., at])

    def lay(self, stretch: Stretch) -> None:
        """Lay one stretch; all that it needs has been laid."""
        laying = self.layings[stretch.member]
        above = laying.above(stretch.root)
        if stretch.hitches:
            carriers = [(h, self._carrier(h.id)) for h in stretch.hitches]
            above = carried(above, laying.pivot(stretch.root), carriers, self.raw, self.columns, self.air)
        plans = self.troupe.bearings[stretch.member]
        if stretch.root == 0 and plans:
            above = borne(laying, above, plans, self.anchors[stretch.member], self.raw, self.columns)
        for plan in stretch.limbs:
            self._bend(stretch.member, plan, above)
        laying.lay(stretch.root, stretch.levels, above)

    def _carrier(self, link_id: str) -> Carrier | None:
        ref = self.troupe.carriers.get(link_id)
        if ref is None:
            return None
        member, node = ref
        island = self.troupe.members[member]
        bone = island.source.puppet.bone(island.node_keys[node][1])
        hold = 0j if bone is None else bone.length / 2 * np.exp(1j * np.radians(bone.angle))
        return Carrier(self.layings[member].world[:, node], complex(hold))

    def _own_turns(self, member: int) -> list[tuple[LimbPlan, np.ndarray, list[Release]]]:
        """Limbs that carry the body, with the frames on which they do; and what they give way to there and after.

        They turn by their own keys meanwhile: those are set right here, before the body is laid.
        """
        plans, anchors = self.troupe.bearings[member], self.anchors[member]
        values, raw = self.layings[member].values, self.raw
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
                    turns = np.array([anchor.turns[int(n)] for n in nodes])
                    release = Release(plan.bearing.time, column, plan.bearing.soft, turns)
                    if mine:
                        values[nodes, TURN] = np.where(
                            span, _released(values[nodes, TURN], raw, release), values[nodes, TURN]
                        )
                        borne_by |= span
                    else:
                        after.append(release)
                last = mine
            found.append((limb, borne_by, after))
        return found

    def _bend(self, member: int, plan: LimbPlan, above: FloatArray) -> None:
        """Turn a limb's bones as its plants and its mix ask."""
        laying, times, loop = self.layings[member], self.times[member], self.troupe.loop
        own, after = next(((b, a) for limb, b, a in self._borne_by[member] if limb is plan), (None, []))
        free = np.ones(len(times), bool) if own is None else ~own
        controls = self.limbs[member][plan.row]
        holds = [is_planted(p, times, loop) & free for p in plan.plants]
        base = _rows(laying.values, plan, np.ones(len(times)))
        mix = controls[MIX] * free
        if mix.any():
            target = plan.stands + controls[TIP_X] + 1j * controls[TIP_Y]
            solved = solve(plan, laying.skeleton, laying.values, above, target, None)
            there = np.concatenate([solved.turns, solved.stretch[None]])
            base = base + nearest(there - base) * mix
        planted = base
        if any(h.any() for h in holds):
            spots = self._spots(plan, holds, controls)
            end, held = tip_held(plan, laying, above, spots, controls[ROLL])
            solved = solve(plan, laying.skeleton, laying.values, above, end, held)
            planted = np.concatenate([solved.turns, solved.stretch[None]])
        releases = [r for r in after if (self.raw >= r.time).any()]
        rows = blended(plan, base, planted, holds, times, loop, self.columns, releases)
        laying.bend(plan.nodes, rows[:-1], plan.chain, rows[-1])

    def _spots(self, plan: LimbPlan, holds: Sequence[np.ndarray], controls: FloatArray) -> Spots:
        """Where a limb's plants hold its tip, from frame to frame; where none does, the place means nothing."""
        count = len(self.raw)
        place = np.tile(np.array([[plan.stands.real], [plan.stands.imag]]), count)
        carrier_x = np.ones(count, complex)
        angle, pitch = np.zeros(count), np.zeros(count)
        for plant, held in zip(plan.plants, holds, strict=True):
            x, y = plant.x + controls[TIP_X, held], plant.y + controls[TIP_Y, held]
            ref = self.troupe.carriers.get(plant.id)
            if ref is not None:
                matrix = self.layings[ref[0]].world[:, ref[1]][:, held]
                x, y = affine.apply(matrix, x, y)
                along = matrix[0] + 1j * matrix[1]
                carrier_x[held] = along / np.maximum(np.abs(along), LENGTH)
            place[:, held] = x, y
            angle[held], pitch[held] = plant.angle, plant.pitch
        return Spots(place[0], place[1], carrier_x, angle, pitch)


def _rows(values: FloatArray, plan: LimbPlan, factor: FloatArray) -> FloatArray:
    """Turns of a limb's nodes and, last, the factor on its length."""
    return np.concatenate([values[plan.nodes, TURN], factor[None]])


def _released(turns: FloatArray, times: FloatArray, release: Release) -> FloatArray:
    """Turns (m, F) that go over from how a limb stood on a frame to what its keys say."""
    share = 1 - smooth((times - release.time) / max(release.soft, TIME))
    return turns + nearest(release.turns[:, None] - turns[:, [release.column]]) * share


def _changes(troupe: Troupe, times: FloatArray) -> FloatArray:
    """Frames on which something changes hands, as far as the pictures of the times (T,) depend on them."""
    last = float(times.max(initial=0.0))
    found: set[float] = set()
    for member, plans in zip(troupe.members, troupe.bearings, strict=True):
        found |= {p.bearing.time for p in plans if p.bearing.time <= last + TIME}
        thrown = False
        for hitch in member.source.hitches:
            if hitch.time <= last + TIME or thrown:
                found.add(hitch.time)
                found |= {hitch.time - 1.0} if hitch.arc else set()
            thrown = hitch.arc and hitch.time <= last + TIME
    asked = np.concatenate([times, sorted(found)])
    for stretch in troupe.stretches:
        for plan in stretch.limbs:
            for plant in plan.plants:
                for end, share in zip((plant.start, plant.stop), fading(plant, asked, troupe.loop), strict=True):
                    if share is not None:
                        found.add(end)
    return np.array(sorted(found))


class Standing(NamedTuple):
    """One puppet on one frame, with the troupe it is a member of."""

    troupe: Troupe
    member: int
    posed: Posed

    @property
    def island(self) -> Island:
        return self.troupe.members[self.member]


def stand(troupes: Sequence[Troupe], instance_id: str, frame: float, blocking: bool = False) -> dict[str, Standing]:
    """How the puppets of an instance's troupe stand on a frame, by instance; none if it is not there."""
    for troupe in troupes:
        ids = [m.source.instance.id for m in troupe.members]
        if instance_id in ids:
            poses = pose(troupe, np.array([frame]), None, blocking)
            return {i: Standing(troupe, n, p) for n, (i, p) in enumerate(zip(ids, poses, strict=True))}
    return {}
