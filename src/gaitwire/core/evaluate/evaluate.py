"""evaluate(scene, frames) -> Frames: the same code for one frame of a drag and for a whole bake."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.cache import BlockCache
from gaitwire.core.evaluate.compiled import CompiledScene, Island, rest_table
from gaitwire.core.evaluate.frames import Frames
from gaitwire.core.evaluate.skeleton import local_matrices, world_matrices
from gaitwire.core.geometry import affine
from gaitwire.core.timing.channel import NODE_PROPERTIES
from gaitwire.core.timing.sample import sample

Overrides = Mapping[tuple[str, str, str], float]
"""Values that a drag wants, by (instance id, owner id, property); they stand in for the keys."""

IslandFrames = tuple[FloatArray, FloatArray, FloatArray]
"""Part matrices (6, P, F), opacity (P, F), node matrices (6, N, F)."""


def sample_values(
    island: Island, frames: FloatArray, overrides: Overrides | None = None
) -> tuple[FloatArray, FloatArray]:
    """Values (N, properties, F) of the nodes and opacity (P, F) of the parts at the frames (F,)."""
    sampled = sample(island.keys, frames)
    table = rest_table(island.skeleton.count, len(frames))
    table[island.node_slots] = sampled[island.node_rows]
    opacity = np.repeat(island.part_opacity[:, None], len(frames), axis=1)
    opacity[island.part_slots] *= sampled[island.part_rows]
    for (instance_id, owner_id, prop), value in (overrides or {}).items():
        slot = island.slot(owner_id, prop, instance_id)
        if slot is not None:
            table[slot] = value
    return table.reshape(island.skeleton.count, len(NODE_PROPERTIES), len(frames)), np.clip(opacity, 0.0, 1.0)


def evaluate_island(island: Island, frames: FloatArray, overrides: Overrides | None = None) -> IslandFrames:
    """One island at the frames (F,)."""
    values, opacity = sample_values(island, frames, overrides)
    world = world_matrices(island.skeleton, local_matrices(island.skeleton, values))
    carried = world[:, island.part_node]
    pivot_x, pivot_y = island.part_pivot
    matrices = carried.copy()
    x, y = affine.apply_linear(carried, -pivot_x[:, None], -pivot_y[:, None])
    matrices[4] += x
    matrices[5] += y
    return matrices, opacity, world


def evaluate(
    compiled: CompiledScene,
    frames: FloatArray,
    overrides: Overrides | None = None,
    cache: BlockCache[IslandFrames] | None = None,
) -> Frames:
    """Every part and node at the frames (F,), which may be fractional and in any order.

    With `overrides` nothing is read from or written to the cache: a drag is not a state.
    """
    frames = np.asarray(frames, float)
    found = []
    for island in compiled.islands:
        if cache is None or overrides:
            found.append(evaluate_island(island, frames, overrides))
        else:
            found.append(cache.fetch(island.signature, frames, partial(evaluate_island, island)))
    count = len(frames)
    matrices = np.concatenate([m for m, _, _ in found], axis=1) if found else np.zeros((6, 0, count))
    opacity = np.concatenate([o for _, o, _ in found]) if found else np.zeros((0, count))
    nodes = np.concatenate([n for _, _, n in found], axis=1) if found else np.zeros((6, 0, count))
    return Frames(
        frames=frames,
        matrices=np.ascontiguousarray(matrices.transpose(2, 1, 0)),
        opacity=np.ascontiguousarray(opacity.T),
        order=np.repeat(compiled.order[None, :], count, axis=0),
        nodes=np.ascontiguousarray(nodes.transpose(2, 1, 0)),
        part_keys=tuple(k for i in compiled.islands for k in i.part_keys),
        node_keys=tuple(k for i in compiled.islands for k in i.node_keys),
    )
