"""A puppet whose rest has changed: what its bones' values must be for the same picture, and how far it has moved."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

import numpy as np

from gaitwire.core.conventions import FloatArray, IntArray
from gaitwire.core.evaluate import CompiledScene
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.evaluate.frames import Frames
from gaitwire.core.evaluate.posed import Posed, posed_at
from gaitwire.core.evaluate.skeleton import Composition
from gaitwire.core.evaluate.values import node_values, sampling
from gaitwire.core.geometry import affine
from gaitwire.core.geometry.mesh import Mesh, Meshes
from gaitwire.core.puppet.model import Bone
from gaitwire.core.timing.channel import NODE_PROPERTIES

KEPT = ("turn", "shift_x", "shift_y", "stretch", "widen", "skew")
"""What is written to keep a picture: the first columns of a node's values."""

_TURN, _KEEP, _AXIS = (NODE_PROPERTIES.index(name) for name in ("turn", "keep", "axis"))
_SAME = 1e-6
"""Pixels or units by which a local matrix may miss and still count as the same."""


class KeptValues(NamedTuple):
    """The values `KEPT` (6, T) of a bone: as they should be, and as they are by its keys.

    `free` (T,) says where keys decide: not where a limb is solved from its tip.
    """

    wanted: FloatArray
    now: FloatArray
    free: np.ndarray


def kept_values(
    before: CompiledScene, after: CompiledScene, instance_id: str, times: FloatArray
) -> dict[str, KeptValues]:
    """For every bone that would lie otherwise at the times (T,): the values with which its art stays where it was.

    By bone's id, all layers together.
    """
    old, old_posed = posed_at(before.groups, instance_id, times)
    new, new_posed = posed_at(after.groups, instance_id, times)
    bones, were = ({b.id: b for b in i.source.puppet.bones} for i in (new, old))
    known = {key[1]: n for n, key in enumerate(old.nodes.owners)}
    keyed = node_values(sampling(new, new_posed.times, new_posed.sampled))
    composition = Composition(new.skeleton, new_posed.values)
    tree = _Tree(composition, old_posed.world[:, 0])
    midway = np.zeros(len(times), bool)  # in the middle of a turn its parts are mirrored apart: keys do not tell that
    for flip in (*old.flips(old_posed.times).values(), *new.flips(new_posed.times).values()):
        midway |= np.abs(flip - affine.identity(len(times))).max(axis=0) > _SAME
    found: dict[str, KeptValues] = {}
    for n in range(1, len(new.nodes.owners)):
        owner = new.nodes.owners[n][1]
        if owner not in bones:
            break  # pins come last
        if owner not in known:
            tree.put(n, composition.local[:, n])
            continue
        wanted = tree.local_of(n, _carried(old_posed.world[:, known[owner]], were[owner], bones[owner]))
        wanted = np.where(midway, composition.local[:, n], wanted)
        tree.put(n, wanted)
        if np.abs(wanted - composition.local[:, n]).max() > _SAME:
            free = np.abs(new_posed.values[n] - keyed[n]).max(axis=0) < _SAME
            found[owner] = KeptValues(*_values(new, new_posed, n, wanted), free)
    return found


class _Tree:
    """World matrices as they should be, and what each node hands on: bones of limbs keep stretch and skew."""

    def __init__(self, composition: Composition, seat: FloatArray) -> None:
        self.composition = composition
        self.world: dict[int, FloatArray] = {0: seat}
        self.passed: dict[int, FloatArray] = {0: seat}

    def local_of(self, node: int, world: FloatArray) -> FloatArray:
        """The local matrix (6, T) with which a node has a world matrix."""
        parent = int(self.composition.skeleton.parent[node])
        out = affine.compose(affine.invert(self.passed[parent]), world)
        out[4], out[5] = affine.apply(affine.invert(self.world[parent]), world[4], world[5])
        return out

    def put(self, node: int, local: FloatArray) -> None:
        """Lay a node by its local matrix."""
        skeleton = self.composition.skeleton
        parent = int(skeleton.parent[node])
        world = affine.compose(self.passed[parent], local)
        world[4], world[5] = affine.apply(self.world[parent], local[4], local[5])
        self.world[node] = self.passed[node] = world
        if skeleton.in_limb[node]:
            turn = np.arctan2(local[1] - local[2], local[0] + local[3])
            turned = affine.identity(local.shape[1])
            turned[0], turned[1], turned[2], turned[3] = np.cos(turn), np.sin(turn), -np.sin(turn), np.cos(turn)
            handed = affine.compose(self.passed[parent], turned)
            handed[4:] = world[4:]
            self.passed[node] = handed


def _carried(world: FloatArray, was: Bone, now: Bone) -> FloatArray:
    """The world matrix (6, T) that a bone has to have for its art to lie as it did."""
    out = world.copy()
    dx, dy = affine.apply_linear(world, now.x - was.x, now.y - was.y)
    out[4] += dx
    out[5] += dy
    return out


def _values(puppet: CompiledPuppet, posed: Posed, node: int, wanted: FloatArray) -> tuple[FloatArray, FloatArray]:
    """The values with which a node has a local matrix (6, T), and those that it has."""
    before = posed.values[node]
    angle = np.radians(puppet.skeleton.angle[node] + before[_AXIS])
    c, s = np.cos(angle), np.sin(angle)
    a, b, d, e, x, y = wanted
    # wanted . R(angle) = R(turn + angle) . [[along, 0], [slide, across]]: see `affine.bone_matrix`.
    first, second = (a * c + d * s, b * c + e * s), (d * c - a * s, e * c - b * s)
    across, aim = np.hypot(*second), np.arctan2(-second[0], second[1])
    along = np.cos(aim) * first[0] + np.sin(aim) * first[1]
    slide = np.cos(aim) * first[1] - np.sin(aim) * first[0]
    turn = np.degrees(aim - angle)
    turn = before[_TURN] + (turn - before[_TURN] + 180.0) % 360.0 - 180.0
    rows = [turn, x - puppet.skeleton.x[node], y - puppet.skeleton.y[node], along, across * along ** before[_KEEP]]
    return np.stack([*rows, np.degrees(np.arctan(slide / along))]), before[: len(KEPT)]


def moved_by(
    before: Frames, after: Frames, outlines: Mapping[str, FloatArray], meshes: tuple[Meshes, Meshes]
) -> tuple[FloatArray, IntArray]:
    """How far the art has moved at most on each of the same frames (F,), in stage pixels, and which part that is.

    What is compared is where points of the art are seen, `outlines` (n, 2) at rest by part id, whatever a part is
    made of: rigid, or bent by one of the `meshes` before and after. Parts that are not in both are left out.
    """
    there = {key: n for n, key in enumerate(after.part_keys)}
    far = np.zeros((len(before.part_keys), len(before)))
    for index, key in enumerate(before.part_keys):
        other = there.get(key)
        if other is None or key[1] not in outlines:
            continue
        seen = (before.opacity[:, index] > 0) | (after.opacity[:, other] > 0)
        points = outlines[key[1]]
        was = _places(before, index, points, meshes[0].get(key[1]))
        now = _places(after, other, points, meshes[1].get(key[1]))
        far[index] = np.where(seen, np.hypot(*(was - now)).max(axis=-1), 0.0)
    if not len(far):
        return np.zeros(len(before)), np.zeros(len(before), np.int64)
    return far.max(axis=0), np.asarray(far.argmax(axis=0))


def _places(frames: Frames, index: int, points: FloatArray, mesh: Mesh | None) -> FloatArray:
    """Where points of a part's art (n, 2) at rest are on the stage (2, F, n)."""
    matrices = frames.matrices[:, index].T[:, :, None]
    soft = frames.soft.get(index)
    if soft is None or mesh is None or not len(mesh.triangles):  # a line has no mesh: it counts as rigid
        return np.stack(affine.apply(matrices, points[:, 0], points[:, 1]))
    corners, shares = _within(mesh, points)
    vertices = frames.points[:, soft.mesh].astype(float)
    bent = (vertices[:, corners] * shares[..., None]).sum(axis=2)
    return np.stack(affine.apply(matrices, bent[..., 0], bent[..., 1]))


def _within(mesh: Mesh, points: FloatArray) -> tuple[IntArray, FloatArray]:
    """Of the triangle in which each point (n, 2) lies, or of the nearest: its corners (n, 3), and their shares."""
    a, b, c = (mesh.vertices[mesh.triangles[:, n]] for n in range(3))
    v0, v1, v2 = b - a, c - a, points[:, None] - a
    det = v0[:, 0] * v1[:, 1] - v0[:, 1] * v1[:, 0]
    second = (v2[..., 0] * v1[:, 1] - v2[..., 1] * v1[:, 0]) / det
    third = (v0[:, 0] * v2[..., 1] - v0[:, 1] * v2[..., 0]) / det
    shares = np.stack([1 - second - third, second, third], axis=-1)  # (n, T, 3)
    inside = shares.min(axis=-1).argmax(axis=1)
    rows = np.arange(len(points))
    return np.asarray(mesh.triangles[inside]), np.asarray(shares[rows, inside])
