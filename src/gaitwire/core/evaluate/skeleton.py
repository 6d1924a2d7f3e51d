"""The skeleton: rest tables of nodes, and their world matrices level by level."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from gaitwire.core.conventions import FloatArray, IntArray
from gaitwire.core.geometry import affine
from gaitwire.core.timing.channel import NODE_PROPERTIES, PROPERTIES


@dataclass(frozen=True)
class Node:
    """One thing that moves: a seat, a bone or a pin. `parent` is an index, or -1 for the stage itself."""

    kind: str
    owner_id: str
    parent: int
    x: float
    y: float
    angle: float
    keep_volume: bool = False
    scale: float = 1.0
    turned: bool = False
    limb: bool = False
    """One of a limb's bones: it keeps its stretch and skew to itself."""
    low: float = -math.inf
    high: float = math.inf


@dataclass(frozen=True)
class Skeleton:
    """N nodes, parents before children, as arrays; x and y are in the parent's space."""

    parent: IntArray
    x: FloatArray
    y: FloatArray
    angle: FloatArray
    rest: FloatArray  # (N, properties)
    scale: FloatArray
    mirror: FloatArray
    low: FloatArray
    high: FloatArray
    limb: IntArray  # nodes that keep their stretch and skew to themselves
    levels: tuple[tuple[IntArray, IntArray], ...]  # (nodes, their parents), the roots left out
    roots: IntArray

    @property
    def count(self) -> int:
        return len(self.parent)


def build_skeleton(nodes: Sequence[Node]) -> Skeleton:
    """Tables of the nodes; every parent must stand before its children."""
    parent = np.array([n.parent for n in nodes], np.int64)
    depth = np.zeros(len(nodes), np.int64)
    for i, p in enumerate(parent):
        if p >= i:
            raise ValueError("a node stands before its parent")
        depth[i] = depth[p] + 1 if p >= 0 else 0
    levels = []
    for d in range(1, int(depth.max(initial=0)) + 1):
        members = np.flatnonzero(depth == d)
        levels.append((members, parent[members]))
    return Skeleton(
        parent=parent,
        x=np.array([n.x for n in nodes], float),
        y=np.array([n.y for n in nodes], float),
        angle=np.array([n.angle for n in nodes], float),
        rest=_rest(nodes),
        scale=np.array([n.scale for n in nodes], float),
        mirror=np.array([-1.0 if n.turned else 1.0 for n in nodes]),
        low=np.array([n.low for n in nodes]),
        high=np.array([n.high for n in nodes]),
        limb=np.flatnonzero([n.limb for n in nodes]),
        levels=tuple(levels),
        roots=np.flatnonzero(parent < 0),
    )


_KEEP = NODE_PROPERTIES.index("keep")


def _rest(nodes: Sequence[Node]) -> FloatArray:
    """Values (N, properties) at rest."""
    rest = np.tile([PROPERTIES["bone"][name].rest for name in NODE_PROPERTIES], (len(nodes), 1))
    rest[:, _KEEP] = [n.keep_volume for n in nodes]
    return rest


def local_matrices(skeleton: Skeleton, values: FloatArray) -> FloatArray:
    """Local matrices (6, N, F) from values (N, properties, F), offsets from rest.

    A bone that keeps its area is as much less wide as it is longer: width / stretch ** keep.
    """
    turn, shift_x, shift_y, stretch, widen, skew, keep = np.moveaxis(values, 1, 0)
    across = widen * stretch**-keep
    local = affine.bone_matrix(
        skeleton.x[:, None] + shift_x,
        skeleton.y[:, None] + shift_y,
        turn,
        skew,
        stretch,
        across,
        skeleton.angle[:, None],
    )
    # A seat may show its puppet larger or mirrored; for bones both factors are 1.
    local[0:2] *= skeleton.scale[:, None] * skeleton.mirror[:, None]
    local[2:4] *= skeleton.scale[:, None]
    return local


def world_matrices(skeleton: Skeleton, values: FloatArray) -> FloatArray:
    """World matrices (6, N, F) from values: one composition for each level of the tree, whatever its breadth.

    What hangs from a limb's bone takes its place from it and its turn, but not its stretch and skew:
    else a stretched forearm would make a long hand, and a skewed one could not be solved.
    """
    local = local_matrices(skeleton, values)
    world = np.empty_like(local)
    world[:, skeleton.roots] = local[:, skeleton.roots]
    limb = skeleton.limb
    if not len(limb):
        for members, parents in skeleton.levels:
            world[:, members] = affine.compose(world[:, parents], local[:, members])
        return world
    passed = world.copy()  # what each node hands on
    turned = local.copy()
    turned[:4, limb] = _turn_alone(values[limb, 0])
    passed[:, skeleton.roots] = turned[:, skeleton.roots]
    for members, parents in skeleton.levels:
        world[:, members] = affine.compose(passed[:, parents], local[:, members])
        world[4:, members] = affine.apply(world[:, parents], local[4, members], local[5, members])
        passed[:, members] = affine.compose(passed[:, parents], turned[:, members])
        passed[4:, members] = world[4:, members]
    return world


def _turn_alone(turn: FloatArray) -> FloatArray:
    """The linear part of a turn in degrees, (4, ...)."""
    angle = np.deg2rad(turn)
    return np.stack([np.cos(angle), np.sin(angle), -np.sin(angle), np.cos(angle)])
