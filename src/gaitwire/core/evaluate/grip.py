"""Grips: one node of a puppet as a drag finds it."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from gaitwire.core.conventions import FloatArray, Point
from gaitwire.core.evaluate.posed import SolvedPose
from gaitwire.core.evaluate.skeleton import local_matrices
from gaitwire.core.evaluate.values import node_values, sampling
from gaitwire.core.geometry import affine
from gaitwire.core.timing.channel import NODE_PROPERTIES

_TURN, _AXIS = NODE_PROPERTIES.index("turn"), NODE_PROPERTIES.index("axis")


@dataclass(frozen=True)
class Grip:
    """One node as a drag found it at its frame. What it writes may be another's: see `levered`."""

    instance_id: str
    owner_id: str
    values: Mapping[str, float]
    parent: FloatArray  # (6,) world matrix of what it hangs from
    pivot: Point  # the node's pivot, in the parent's space, shift included
    axis: float  # the direction in which it is stretched, in the parent's space, degrees, turn included
    limits: Point = (-math.inf, math.inf)  # what hands may turn it to, degrees
    turns: str = "turn"
    """The property that a turn writes."""
    sense: float = 1.0
    """-1 where the other side of a joint is what turns."""

    def in_parent(self, point: Point) -> Point:
        """A stage point in the parent's space."""
        x, y = affine.apply(affine.invert(self.parent), point[0], point[1])
        return float(x), float(y)

    def along_bone(self, point: Point) -> Point:
        """A stage point as (along, across) from the pivot, in the bone's own turned axes."""
        x, y = self.in_parent(point)
        dx, dy = x - self.pivot[0], y - self.pivot[1]
        a = math.radians(self.axis)
        return dx * math.cos(a) + dy * math.sin(a), -dx * math.sin(a) + dy * math.cos(a)


def grip_of(solved: SolvedPose, node: int) -> Grip:
    """A node as it stands on one frame."""
    puppet, posed = solved.puppet, solved.posed
    keyed = node_values(sampling(puppet, posed.times, posed.sampled))[node, :, 0]
    instance_id, owner_id = puppet.nodes.owners[node]
    local = local_matrices(puppet.skeleton, posed.values, np.array([node]))[:, 0, 0]
    return Grip(
        instance_id=instance_id,
        owner_id=owner_id,
        values={name: float(v) for name, v in zip(NODE_PROPERTIES, keyed, strict=True)},
        parent=affine.compose(posed.world[:, node, 0], affine.invert(local)),
        pivot=(float(local[4]), float(local[5])),
        axis=float(puppet.skeleton.angle[node] + posed.values[node, _TURN, 0] + posed.values[node, _AXIS, 0]),
        limits=(float(puppet.skeleton.low[node]), float(puppet.skeleton.high[node])),
    )
