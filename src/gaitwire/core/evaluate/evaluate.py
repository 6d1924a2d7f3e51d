"""evaluate(scene, frames) -> Frames: the same code for one frame of a drag and for a whole bake."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import partial

import numpy as np

from gaitwire.core.conventions import FloatArray, IntArray
from gaitwire.core.evaluate.cache import BlockCache
from gaitwire.core.evaluate.compiled import CompiledScene, Island, rest_table
from gaitwire.core.evaluate.frames import Frames, SoftSlot
from gaitwire.core.evaluate.skeleton import world_matrices
from gaitwire.core.evaluate.softly import soft_points
from gaitwire.core.geometry import affine
from gaitwire.core.timing.channel import NODE_PROPERTIES, PART_PROPERTIES, PROPERTIES
from gaitwire.core.timing.offset import Offset, window
from gaitwire.core.timing.sample import sample
from gaitwire.core.tolerances import TIME

Overrides = Mapping[tuple[str, str, str], float]
"""Values that a drag wants, by (instance id, owner id, property); they stand in for the keys."""

IslandFrames = tuple[FloatArray, FloatArray, FloatArray, IntArray, IntArray, np.ndarray]
"""Part matrices (6, P, F), opacity (P, F), node matrices (6, N, F), drawing and order (P, F), points (2, K, F)."""


def sample_values(island: Island, frames: FloatArray, overrides: Overrides | None = None) -> FloatArray:
    """Values (N, properties, F) of the nodes at the frames (F,)."""
    return _nodes_of(island, frames, sample(island.keys, frames), overrides)


def _nodes_of(island: Island, frames: FloatArray, sampled: FloatArray, overrides: Overrides | None) -> FloatArray:
    count = island.skeleton.count
    table = rest_table(island.skeleton, len(frames))
    table[island.node_slots] = sampled[island.node_rows]
    _lay_on(table, island.node_offsets, frames, island.keys.loop)
    for (instance_id, owner_id, prop), value in (overrides or {}).items():
        slot = island.slot(owner_id, prop, instance_id)
        if slot is not None:
            table[slot] = value
    return table.reshape(count, len(NODE_PROPERTIES), len(frames))


def _lay_on(table: FloatArray, offsets: Sequence[tuple[int, Offset]], frames: FloatArray, loop: float | None) -> None:
    """Offsets over spans, in place: added, or for ratios multiplied."""
    for slot, offset in offsets:
        share = window(offset, frames, loop)
        if PROPERTIES[offset.owner_kind][offset.property].rest == 1.0:
            table[slot] *= 1 + (offset.amount - 1) * share
        else:
            table[slot] += offset.amount * share


def shown_times(island: Island, frames: FloatArray, blocking: bool = False) -> FloatArray:
    """The times (F,) whose picture an island shows at the frames (F,): its exposure's, or the last pose's.

    Before the first pose a loop shows the last one, and any other scene the first.
    """
    frames = np.asarray(frames, float)
    if blocking and len(island.pose_times):
        at = np.searchsorted(island.pose_times, frames + TIME, side="right") - 1
        return island.pose_times[at if island.keys.loop is not None else np.maximum(at, 0)]
    return frames if island.exposure == 1 else np.floor(frames / island.exposure) * island.exposure


def sample_parts(island: Island, frames: FloatArray) -> FloatArray:
    """Values (P, properties, F) of the parts: opacity, number of the drawing, places forward, shown or not."""
    return _parts_of(island, frames, sample(island.keys, frames))


def _parts_of(island: Island, frames: FloatArray, sampled: FloatArray) -> FloatArray:
    count = len(island.part_keys)
    rest = np.stack([np.ones(count), island.part_shows, np.zeros(count), np.ones(count)], axis=1)
    table = np.repeat(rest.reshape(-1, 1), len(frames), axis=1)
    table[island.part_slots] = sampled[island.part_rows]
    _lay_on(table, island.part_offsets, frames, island.keys.loop)
    return table.reshape(count, len(PART_PROPERTIES), len(frames))


def _drawings(island: Island, numbers: FloatArray) -> IntArray:
    """Index (P, F) of each part's drawing; one that was taken away shows the part's own."""
    out = np.zeros(numbers.shape, np.int64)
    wanted = np.rint(numbers).astype(np.int64)
    for part, known in enumerate(island.drawing_numbers):
        if len(known) > 1:
            out[part] = (wanted[part][None, :] == known[:, None]).argmax(axis=0)
    return out


def _order(places: FloatArray) -> IntArray:
    """Parts back to front (P, F): each as many places further to the front as its value says."""
    count = len(places)
    base = np.broadcast_to(np.arange(count)[:, None], places.shape)
    if not places.any():
        return np.ascontiguousarray(base)
    steps = np.rint(places)
    # Half a place more: it lands beyond the part that it reaches, not on it.
    return np.asarray(np.argsort(base + steps + 0.5 * np.sign(steps), axis=0, kind="stable"))


def evaluate_island(
    island: Island, frames: FloatArray, overrides: Overrides | None = None, blocking: bool = False
) -> IslandFrames:
    """One island at the frames (F,)."""
    frames = shown_times(island, frames, blocking)
    sampled = sample(island.keys, frames)
    world = world_matrices(island.skeleton, _nodes_of(island, frames, sampled, overrides))
    carried = world[:, island.part_node]
    pivot_x, pivot_y = island.part_pivot
    matrices = carried.copy()
    x, y = affine.apply_linear(carried, -pivot_x[:, None], -pivot_y[:, None])
    matrices[4] += x
    matrices[5] += y
    parts = _parts_of(island, frames, sampled)
    opacity = np.clip(island.part_opacity[:, None] * parts[:, 0], 0.0, 1.0) * (parts[:, 3] >= 0.5)
    points = soft_points(island, world) if island.softs else np.empty((2, 0, len(frames)), np.float32)
    return matrices, opacity, world, _drawings(island, parts[:, 1]), _order(parts[:, 2]), points


def evaluate(
    compiled: CompiledScene,
    frames: FloatArray,
    overrides: Overrides | None = None,
    cache: BlockCache[IslandFrames] | None = None,
    blocking: bool = False,
) -> Frames:
    """Every part and node at the frames (F,), which may be fractional and in any order.

    `blocking` leaves out in-betweens: every puppet stands in its last pose until the next one.
    With `overrides` nothing is read from or written to the cache: a drag is not a state.
    """
    frames = np.asarray(frames, float)
    found = []
    for island in compiled.islands:
        if cache is None or overrides:
            found.append(evaluate_island(island, frames, overrides, blocking))
        else:
            known = f"{island.signature}{' blocking' if blocking else ''}"
            found.append(cache.fetch(known, frames, partial(evaluate_island, island, blocking=blocking)))
    return _joined(compiled.islands, frames, found)


def _joined(islands: Sequence[Island], frames: FloatArray, found: Sequence[IslandFrames]) -> Frames:
    """Islands one after the other, time first."""
    count = len(frames)
    soft: dict[int, SoftSlot] = {}
    parts, points = 0, 0
    order = []
    for island, (_, _, _, _, places, _) in zip(islands, found, strict=True):
        order.append(places + parts)
        for part in island.softs:
            slot = part.slot
            soft[parts + part.part] = SoftSlot(points + slot.start, slot.vertices, slot.count, slot.starts)
        parts, points = parts + len(island.part_keys), points + island.points

    def whole(index: int, empty: tuple[int, ...], axis: int) -> np.ndarray:
        arrays = [f[index] for f in found]
        joined = np.concatenate(arrays, axis=axis) if arrays else np.zeros((*empty, count))
        return np.ascontiguousarray(joined.transpose(*range(joined.ndim - 1, -1, -1)))

    return Frames(
        frames=frames,
        matrices=whole(0, (6, 0), 1),
        opacity=whole(1, (0,), 0),
        order=np.ascontiguousarray(np.concatenate(order).T) if order else np.zeros((count, 0), np.int64),
        nodes=whole(2, (6, 0), 1),
        part_keys=tuple(k for i in islands for k in i.part_keys),
        node_keys=tuple(k for i in islands for k in i.node_keys),
        drawing=whole(3, (0,), 0),
        points=whole(5, (2, 0), 1),
        soft=soft,
    )
