"""evaluate(scene, frames) -> Frames: the same code for one frame of a drag and for a whole bake."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import replace
from functools import partial

import numpy as np

from gaitwire.core.conventions import FloatArray, IntArray
from gaitwire.core.evaluate.cache import BlockCache
from gaitwire.core.evaluate.camera import views_of
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.evaluate.compiled_scene import CompiledScene
from gaitwire.core.evaluate.controls import control_shares_of, fix_pins, place_parts
from gaitwire.core.evaluate.coupled_groups import CoupledGroup
from gaitwire.core.evaluate.frames import Frames, PointRange
from gaitwire.core.evaluate.posed import Posed, pose
from gaitwire.core.evaluate.shadows import compose_shadows
from gaitwire.core.evaluate.softly import soft_points
from gaitwire.core.evaluate.values import Overrides, part_values, sampling, whole_values
from gaitwire.core.geometry import affine
from gaitwire.core.timing.channel import NODE_PROPERTIES

_TURN = NODE_PROPERTIES.index("turn")

PuppetFrames = tuple[FloatArray, FloatArray, FloatArray, IntArray, IntArray, np.ndarray, FloatArray]
"""Part matrices (6, P, F), opacity (P, F), node matrices (6, N, F), drawing and order (P, F), points (2, K, F), how
much is left of the whole (P, F)."""
_ARRAYS = 7

GroupFrames = tuple[np.ndarray, ...]
"""The same of every member of a coupled group, one after the other."""


def _drawings(puppet: CompiledPuppet, numbers: FloatArray) -> IntArray:
    """Index (P, F) of each part's drawing; one that was taken away shows the part's own."""
    out = np.zeros(numbers.shape, np.int64)
    wanted = np.rint(numbers).astype(np.int64)
    for part, known in enumerate(puppet.parts.drawings):
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


def _framed(puppet: CompiledPuppet, posed: Posed, ground: float | None) -> PuppetFrames:
    """One puppet as it stands on the frames, over a ground at a height of the stage."""
    control_shares = control_shares_of(puppet, posed.controls, posed.values[:, _TURN])
    world = fix_pins(puppet, posed.values, posed.world, control_shares)
    carried = world[:, puppet.parts.node]
    pivot_x, pivot_y = puppet.parts.pivot
    matrices = carried.copy()
    x, y = affine.apply_linear(carried, -pivot_x[:, None], -pivot_y[:, None])
    matrices[4] += x
    matrices[5] += y
    place_parts(matrices, carried, puppet, control_shares)
    at = sampling(puppet, posed.times, posed.sampled)
    parts = part_values(at, control_shares)
    fade, there = whole_values(at)
    seen = (parts[:, 3] >= 0.5) & (there >= 0.5) & (fade > 0)
    opacity = np.clip(puppet.parts.opacity[:, None] * parts[:, 0], 0.0, 1.0) * seen
    compose_shadows(matrices, opacity, carried, puppet, ground)
    count = world.shape[-1]
    points = soft_points(puppet, world, control_shares) if puppet.softs else np.empty((2, 0, count), np.float32)
    left = np.broadcast_to(fade, opacity.shape)
    return matrices, opacity, world, _drawings(puppet, parts[:, 1]), _order(parts[:, 2]), points, left


def evaluate_group(
    group: CoupledGroup, frames: FloatArray, overrides: Overrides | None = None, blocking: bool = False
) -> GroupFrames:
    """A coupled group at the frames (F,): the arrays of its members, one after the other."""
    poses = pose(group, frames, overrides, blocking)
    return tuple(a for m, p in zip(group.members, poses, strict=True) for a in _framed(m, p, group.ground))


def evaluate(
    compiled: CompiledScene,
    frames: FloatArray,
    overrides: Overrides | None = None,
    cache: BlockCache[GroupFrames] | None = None,
    blocking: bool = False,
    passing: Collection[str] = (),
) -> Frames:
    """Every part and node at the frames (F,), which may be fractional and in any order.

    `blocking` leaves out in-betweens: every puppet stands in its last pose until the next one.
    Of what `overrides` move, and of `passing` instances, nothing is read from or written to the cache: a drag is
    not a state.
    """
    frames = np.asarray(frames, float)
    moved = {instance_id for instance_id, _, _ in overrides or ()} | set(passing)
    found: list[PuppetFrames | None] = [None] * len(compiled.compiled_puppets)
    for group in compiled.groups:
        if cache is None or any(m.source.instance.id in moved for m in group.members):
            arrays = evaluate_group(group, frames, overrides, blocking)
        else:
            known = f"{group.signature}{' blocking' if blocking else ''}"
            arrays = cache.fetch(known, frames, partial(evaluate_group, group, blocking=blocking))
        for n, place in enumerate(group.places):
            found[place] = arrays[_ARRAYS * n : _ARRAYS * (n + 1)]  # type: ignore[assignment]
    return _seen(compiled, _joined(compiled.compiled_puppets, frames, found))  # type: ignore[arg-type]


def _seen(compiled: CompiledScene, frames: Frames) -> Frames:
    """The frames with what the scene's camera makes of them."""
    scene = compiled.scene
    camera = scene.camera
    if camera is None:
        return frames
    distances, layers = np.unique(
        np.concatenate([[1.0], *(i.parts.distance for i in compiled.compiled_puppets)]), return_inverse=True
    )
    first = layers[0]  # the stage's own layer comes first
    order = np.concatenate([[first], np.delete(np.arange(len(distances)), first)])
    nodes = frames.nodes[:, frames.node_keys.index((camera.id, camera.id))]
    views = views_of(nodes, (scene.width, scene.height), distances[order])
    return replace(frames, views=views, layers=np.argsort(order)[layers[1:]])


_ROWS = 64
"""Rows that are turned at a time: what is read and what is written both stay in the cache."""


def time_first(array: np.ndarray) -> np.ndarray:
    """An array (..., K, F) with its axes turned round, (F, K, ...), in order of memory."""
    out = np.empty(array.shape[::-1], array.dtype)
    planes = [(array, out)] if array.ndim == 2 else [(plane, out[..., n]) for n, plane in enumerate(array)]
    for plane, turned in planes:
        for start in range(0, len(plane), _ROWS):
            turned[:, start : start + _ROWS] = plane[start : start + _ROWS].T
    return out


def _joined(compiled_puppets: Sequence[CompiledPuppet], frames: FloatArray, found: Sequence[PuppetFrames]) -> Frames:
    """Compiled puppets one after the other, time first."""
    count = len(frames)
    soft: dict[int, PointRange] = {}
    parts, points = 0, 0
    order = []
    for puppet, (_, _, _, _, places, _, _) in zip(compiled_puppets, found, strict=True):
        order.append(places + parts)
        for part in puppet.softs:
            own = part.points
            soft[parts + part.part] = PointRange(points + own.start, own.vertices, own.count, own.starts)
        parts, points = parts + len(puppet.parts.owners), points + puppet.points

    def whole(index: int, empty: tuple[int, ...], axis: int) -> np.ndarray:
        arrays = [f[index] for f in found]
        return time_first(np.concatenate(arrays, axis=axis) if arrays else np.zeros((*empty, count)))

    return Frames(
        frames=frames,
        matrices=whole(0, (6, 0), 1),
        opacity=whole(1, (0,), 0),
        order=np.ascontiguousarray(np.concatenate(order).T) if order else np.zeros((count, 0), np.int64),
        nodes=whole(2, (6, 0), 1),
        part_keys=tuple(k for i in compiled_puppets for k in i.parts.owners),
        node_keys=tuple(k for i in compiled_puppets for k in i.nodes.owners),
        drawing=whole(3, (0,), 0),
        points=whole(5, (2, 0), 1),
        fade=whole(6, (0,), 0),
        soft=soft,
    )
