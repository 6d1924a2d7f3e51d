"""The skeleton: rest tables of nodes, and their world matrices level by level."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from gaitwire.core.conventions import FloatArray, IntArray
from gaitwire.core.geometry import affine
from gaitwire.core.timing.channel import NODE_PROPERTIES, PROPERTIES


@dataclass(frozen=True)
class SkeletonNode:
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
    in_limb: np.ndarray  # (N,) whether a node is one of those
    levels: tuple[tuple[IntArray, IntArray], ...]  # (nodes, their parents), the roots left out
    roots: IntArray

    @property
    def count(self) -> int:
        return len(self.parent)


def build_skeleton(nodes: Sequence[SkeletonNode]) -> Skeleton:
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
        in_limb=np.array([n.limb for n in nodes], bool),
        levels=tuple(levels),
        roots=np.flatnonzero(parent < 0),
    )


_KEEP = NODE_PROPERTIES.index("keep")


def _rest(nodes: Sequence[SkeletonNode]) -> FloatArray:
    """Values (N, properties) at rest."""
    rest = np.tile([PROPERTIES["bone"][name].rest for name in NODE_PROPERTIES], (len(nodes), 1))
    rest[:, _KEEP] = [n.keep_volume for n in nodes]
    return rest


def local_matrices(skeleton: Skeleton, values: FloatArray, members: IntArray | None = None) -> FloatArray:
    """Local matrices (6, N, F) from values (N, properties, F), offsets from rest; of some members alone, if asked.

    A bone that keeps its area is as much less wide as it is longer: width / stretch ** keep.
    """
    at = slice(None) if members is None else members
    turn, shift_x, shift_y, stretch, widen, skew, keep, axis = np.moveaxis(values[at], 1, 0)
    local = affine.bone_matrix(
        skeleton.x[at, None] + shift_x,
        skeleton.y[at, None] + shift_y,
        turn,
        skew,
        stretch,
        widen * stretch**-keep,
        skeleton.angle[at, None] + axis,
    )
    # A seat may show its puppet larger or mirrored; for bones both factors are 1.
    local[0:2] *= skeleton.scale[at, None] * skeleton.mirror[at, None]
    local[2:4] *= skeleton.scale[at, None]
    return local


Flips = Mapping[int, FloatArray]
"""Matrices (6, F), without a place, by which nodes are turned about their joints, in their puppet's own pixels."""


def world_matrices(skeleton: Skeleton, values: FloatArray, flips: Flips | None = None) -> FloatArray:
    """World matrices (6, N, F) from values: one composition for each level of the tree, whatever its breadth."""
    composition = Composition(skeleton, values, flips)
    composition.compose(skeleton.roots, skeleton.levels, affine.identity(len(skeleton.roots), values.shape[-1]))
    return composition.world


_TURN, _STRETCH, _WIDEN, _SKEW = (NODE_PROPERTIES.index(n) for n in ("turn", "stretch", "widen", "skew"))


def at_rest(values: FloatArray) -> bool:
    """Whether nodes are neither stretched nor skewed: what is most often so, and saves the most."""
    return bool((values[..., _SKEW, :] == 0).all() and (values[..., _STRETCH : _WIDEN + 1, :] == 1).all())


Levels = tuple[tuple[IntArray, IntArray], ...]
"""(nodes, their parents), level by level."""


class Composition:
    """World matrices of a skeleton as they come about, one stretch of the tree after the other.

    What hangs from a limb's bone takes its place from it and its turn, but not its stretch and skew:
    else a stretched forearm would make a long hand, and a skewed one could not be solved.
    """

    def __init__(self, skeleton: Skeleton, values: FloatArray, flips: Flips | None = None) -> None:
        self.skeleton = skeleton
        self.flips = flips or {}
        self.values = values
        self.local = local_matrices(skeleton, values)
        self.world = np.empty_like(self.local)
        self.passed = self.world  # what each node hands on
        if len(skeleton.limb) and not at_rest(values[skeleton.limb]):
            self.passed = np.empty_like(self.world)

    def begin(self) -> None:
        """Make ready for nodes to be bent and laid again and again; until they are laid they lie at the origin."""
        self.keyed = self.values.copy()
        self.passed[:] = self.world[:] = affine.identity(*self.world.shape[1:])

    def straighten(self, nodes: IntArray) -> None:
        """Have the values of nodes (m,) as they were before they were bent."""
        self.values[nodes] = self.keyed[nodes]

    def bend(self, nodes: IntArray, turns: FloatArray, chain: IntArray, factor: FloatArray) -> None:
        """Turn nodes (m,) to degrees (m, F), and stretch those of chains (n,) by factors (n, F), before all is laid."""
        self.values[nodes, _TURN] = turns
        stretched = bool((factor != 1).any())
        if stretched:
            self.values[chain, _STRETCH] *= factor
            if self.passed is self.world:
                self.passed = self.world.copy()
        if not stretched and at_rest(self.values[nodes]):
            self.local[:4, nodes] = _turn_alone(turns)
        else:
            self.local[:, nodes] = local_matrices(self.skeleton, self.values, nodes)

    def parent_matrix(self, node: int) -> FloatArray:
        """What a node hangs from by birth, as a matrix (6, F) that puts it where it belongs."""
        parent = int(self.skeleton.parent[node])
        if parent < 0:
            return affine.identity(self.world.shape[-1])
        out: FloatArray = self.passed[:, parent].copy()
        x, y = self.pivot(node)
        if self.passed is not self.world:
            px, py = affine.apply(self.world[:, parent], x, y)
            lx, ly = affine.apply_linear(out, x, y)
            out[4], out[5] = px - lx, py - ly
        if node in self.flips:
            px, py = affine.apply(out, x, y)
            out[:4] = affine.compose(self._flip(node), out)[:4]
            lx, ly = affine.apply_linear(out, x, y)
            out[4], out[5] = px - lx, py - ly
        return out

    def pivot(self, node: int) -> tuple[FloatArray, FloatArray]:
        """A node's own place in what it hangs from, shift included; (F,) each."""
        return self.local[4, node], self.local[5, node]

    def compose(self, roots: IntArray, levels: Levels, parent_matrix: FloatArray) -> None:
        """Lay nodes (R,) and, level by level, what hangs from them; `above` (6, R, F) is what they hang from."""
        world, passed, local = self.world, self.passed, self.local
        world[:, roots] = affine.compose(parent_matrix, local[:, roots])
        if passed is world:
            for nodes, parents in levels:
                world[:, nodes] = affine.compose(world[:, parents], local[:, nodes])
                self._turn_about(nodes)
            return
        self._pass_on(roots, parent_matrix)
        for nodes, parents in levels:
            world[:, nodes] = affine.compose(passed[:, parents], local[:, nodes])
            world[4:, nodes] = affine.apply(world[:, parents], local[4, nodes], local[5, nodes])
            self._pass_on(nodes, passed[:, parents])
            self._turn_about(nodes)

    def _turn_about(self, nodes: IntArray) -> None:
        """Turn those of the nodes that have a flip about their own joints, and what they pass on."""
        for node in self.flips:
            if node in nodes:
                flip = self._flip(node)
                for table in (self.world,) if self.passed is self.world else (self.world, self.passed):
                    table[:4, node] = affine.compose(flip, table[:, node])[:4]

    def _flip(self, node: int) -> FloatArray:
        """A node's flip as it is seen on the stage (6, F), without a place."""
        seat = self.world[:, 0].copy()
        seat[4:] = 0.0
        return affine.compose(affine.compose(seat, self.flips[node]), affine.invert(seat))

    def _pass_on(self, nodes: IntArray, parent_matrix: FloatArray) -> None:
        turned = self.local[:, nodes]
        limbs = self.skeleton.in_limb[nodes]
        if limbs.any():
            turned[:4, limbs] = _turn_alone(self.values[nodes[limbs], _TURN])
        self.passed[:, nodes] = affine.compose(parent_matrix, turned)
        self.passed[4:, nodes] = self.world[4:, nodes]


def _turn_alone(turn: FloatArray) -> FloatArray:
    """The linear part of a turn in degrees, (4, ...)."""
    angle = np.deg2rad(turn)
    return np.stack([np.cos(angle), np.sin(angle), -np.sin(angle), np.cos(angle)])
