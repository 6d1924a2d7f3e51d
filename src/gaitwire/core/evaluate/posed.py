"""How the puppets of a coupled group stand on frames: values sampled, bones laid, limbs solved, bearings kept."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate.bearing import Anchor, anchor_of
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.evaluate.coupled_groups import CoupledGroup
from gaitwire.core.evaluate.skeleton import world_matrices
from gaitwire.core.evaluate.stage import Anchors, Stage
from gaitwire.core.evaluate.values import Overrides, node_values, sampling, shown_times


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
    stage = Stage.at(group, frames, known, overrides, blocking)
    for batch in group.batches:
        stage.compose(batch)
    return [_posed(stage, n) for n in range(len(group.members))]


def _posed(stage: Stage, member: int) -> Posed:
    """A member on the frames that were asked for."""
    at, composition = slice(stage.times.count), stage.compositions[member]
    return Posed(
        stage.times.shown[member][at], stage.sampled[member][:, at], composition.values[..., at],
        composition.world[..., at], stage.controls[member][..., at],
    )  # fmt: skip


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
        stage = Stage.at(group, np.array([time]), found)
        for batch in group.batches:
            stage.compose(batch)
        plans = group.bearings[member]
        bones = {plans[k].bone} | ({plans[k - 1].bone} if k else set())
        nodes = [n for i in stage.limbs_of(member) if bones & set(i.nodes.tolist()) for n in i.nodes.tolist()]
        found[member].append(anchor_of(stage.compositions[member], plans[k], 0, nodes))
    group.known_anchors.extend(found)
    return group.known_anchors


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
