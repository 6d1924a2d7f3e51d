"""A soft part ready to bend: its mesh, the points of its drawings, the weights of bones, its pins."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from gaitwire.core.conventions import FloatArray, IntArray
from gaitwire.core.deform.blend import blend, to_complex
from gaitwire.core.deform.pinned import Pinned, PinSet
from gaitwire.core.deform.weights import bone_weights, settled
from gaitwire.core.geometry.mesh import Binding, Mesh, bind, fitting_spacing, make_mesh, thickness
from gaitwire.core.puppet.art import Art
from gaitwire.core.puppet.joints import tip_of
from gaitwire.core.puppet.model import Bone, Part, Pin, Puppet
from gaitwire.core.puppet.outline import Masks, art_region
from gaitwire.core.puppet.soften import art_points, has_pictures
from gaitwire.core.puppet.tree import walk

_PIN_RADIUS = 1.6
"""Mesh spacings within which a turning pin holds the turn."""

_STIFF_RADIUS = 5.0
"""Further mesh spacings that a fully stiff pin reaches."""


@dataclass(frozen=True)
class Body:
    """A soft part's mesh and where the points of its drawings lie in it. Bones do not come into it."""

    mesh: Mesh
    points: FloatArray  # (K, 2) of all drawings in turn
    binding: Binding
    starts: tuple[int, ...]  # where each drawing's points begin
    textured: tuple[bool, ...]  # whether each drawing holds a picture
    stiff: IntArray  # indices of points that do not bend
    grain: float
    thickness: float


@dataclass(frozen=True)
class Brushed:
    """Weights set by hand, on the mesh they were brushed on."""

    bones: tuple[str, ...]
    vertices: FloatArray  # (V, 2)
    triangles: IntArray
    weights: FloatArray  # (V, B)


@dataclass(frozen=True)
class Skin:
    """What evaluation takes. Point 0 to V-1 are the mesh's vertices, the drawings' points follow."""

    part_id: str
    body: Body
    bones: tuple[str, ...]  # the part's own first
    before: IntArray  # (B,) index of the bone each is turned against, or -1
    rest: np.ndarray  # (V + K,) complex
    weights: FloatArray  # (V + K, B)
    pivots: np.ndarray  # (B,) complex
    pins: tuple[Pin, ...]
    pinned: Pinned | None

    @property
    def count(self) -> int:
        return len(self.rest)

    @property
    def bends(self) -> bool:
        """Whether bones or pins move it: a rigid part that is only reshaped has no mesh."""
        return self.vertices > 0

    @property
    def vertices(self) -> int:
        return len(self.body.mesh.vertices)

    def bend(self, matrices: FloatArray, pin_places: np.ndarray, pin_turns: np.ndarray) -> np.ndarray:
        """All points (V + K, F), complex, in the part's own pixels.

        `matrices` (6, B, F) of the bones from rest to now; `pin_places` (n, F) and `pin_turns`
        (n, F, radians) of the pins as their bones and keys carry them; all in the own bone's space.
        """
        points, spin = blend(self.rest, self.weights, self.pivots, matrices, self.before)
        if self.pinned is None:
            return points
        size, count = self.vertices, len(self.pins)
        loose = np.array([pin.bone_id is None for pin in self.pins])[:, None]
        shift = pin_places - self.rest[:count, None]
        targets = np.where(loose, points[:count] + shift, pin_places)
        turns = np.where(loose, np.exp(1j * pin_turns), np.exp(1j * pin_turns) / spin[:count])
        moved = self.pinned.deform(points[:size], targets, turns) - points[:size]
        points[size:] += self.body.binding.carry(moved)
        points[:size] += moved
        return points


def part_body(puppet: Puppet, part: Part, arts: Sequence[Art], masks: Masks, grain: float) -> Body:
    """Mesh and points of a soft part; `arts` are its drawings, softened, its own first.

    Raises InvalidInputError for art that cannot bend and for a pin outside it.
    """
    smears = [d.smear for d in puppet.drawings(part)]
    region = art_region([art for art, smear in zip(arts, smears, strict=True) if not smear], masks)
    pins = np.array([(p.x, p.y) for p in puppet.pins_of(part.id)], float).reshape(-1, 2)
    mesh = make_mesh(region, grain, pins)
    each = [art_points(art) for art in arts]
    starts = np.cumsum([0, *map(len, each)])[:-1]
    points = np.concatenate(each)
    stiff = np.flatnonzero(np.repeat(smears, [len(e) for e in each]))
    binding = bind(mesh, points)
    binding.shares[stiff] = 0.0
    return Body(
        mesh, points, binding, tuple(int(s) for s in starts),
        tuple(has_pictures(art.nodes) for art in arts), stiff, grain, thickness(region),
    )  # fmt: skip


def reshaped_skin(part: Part, arts: Sequence[Art], bone: Bone) -> Skin:
    """The skin of a rigid part whose points lie elsewhere at times: its points, without a mesh."""
    each = [art_points(art) for art in arts]
    points = np.concatenate(each)
    starts = np.cumsum([0, *map(len, each)])[:-1]
    mesh = Mesh(np.zeros((0, 2)), np.zeros((0, 3), np.int64))
    binding = Binding(np.zeros((len(points), 3), np.int64), np.zeros((len(points), 3)))
    body = Body(
        mesh, points, binding, tuple(int(s) for s in starts), (False,) * len(each), np.zeros(0, np.int64), 0.0, 0.0
    )
    return Skin(
        part.id, body, (bone.id,), np.array([-1]), to_complex(points), np.ones((len(points), 1)),
        np.array([complex(bone.x, bone.y)]), (), None,
    )  # fmt: skip


def fitting_grain(arts: Sequence[Art], masks: Masks) -> float:
    """A mesh spacing that suits the art, in pixels; raises InvalidInputError for art that shows nothing."""
    region = art_region(arts, masks)
    make_mesh(region, max(4.0, np.sqrt(max(region.area, 1.0)) / 4))  # refuses what cannot bend at all
    return fitting_spacing(region)


def bending_bones(puppet: Puppet, part: Part) -> list[Bone]:
    """The bones that bend a part: its own first, the others parents first."""
    wanted = set(part.bends_with) - {part.bone_id}
    ordered = [row.bone for row in walk(puppet.bones)]
    own = [b for b in ordered if b.id == part.bone_id]
    return own + [b for b in ordered if b.id in wanted]


def _before(puppet: Puppet, bones: Sequence[Bone]) -> IntArray:
    """For each bone the nearest bone above it among them, else the part's own."""
    parents = {b.id: b.parent_id for b in puppet.bones}
    place = {b.id: i for i, b in enumerate(bones)}
    out = []
    for i, bone in enumerate(bones):
        at = parents[bone.id]
        while at is not None and (at not in place or place[at] >= i):
            at = parents.get(at)
        out.append(-1 if i == 0 else place[at] if at is not None else 0)
    return np.array(out, np.int64)


def part_weights(bones: Sequence[Bone], body: Body, points: FloatArray) -> FloatArray:
    """Weights (n, B) that the places of the bones give at points (n, 2)."""
    pivots = np.array([(b.x, b.y) for b in bones])
    tips = np.array([tip_of(b) if b.length > 0 else (b.x, b.y) for b in bones])
    return bone_weights(points, pivots, tips, [b.reach for b in bones], body.thickness)


def make_skin(puppet: Puppet, part: Part, body: Body, brushed: Brushed | None = None) -> Skin:
    """A soft part's skin as its bones and pins now lie. Brushed weights are carried over from their own mesh."""
    bones = bending_bones(puppet, part)
    points = np.concatenate([body.mesh.vertices, body.points])
    weights = part_weights(bones, body, points)
    if brushed is not None:
        weights = _by_hand(brushed, [b.id for b in bones], points, weights)
    weights[len(body.mesh.vertices) + body.stiff] = np.eye(1, len(bones))  # as their own bone goes
    pins = puppet.pins_of(part.id)
    pinned = None
    if pins:
        turning = np.array([i for i, p in enumerate(pins) if p.holds_turn], np.int64)
        stiffness = np.array([p.stiffness for p in pins])
        radius = body.grain * (_PIN_RADIUS + _STIFF_RADIUS * stiffness)
        pinned = Pinned(body.mesh, PinSet(len(pins), turning, radius, stiffness))
    return Skin(
        part.id, body, tuple(b.id for b in bones), _before(puppet, bones), to_complex(points), weights,
        np.array([complex(b.x, b.y) for b in bones]), pins, pinned,
    )  # fmt: skip


def _by_hand(brushed: Brushed, bones: Sequence[str], points: FloatArray, weights: FloatArray) -> FloatArray:
    """Brushed weights at other points; a bone that was not there when they were brushed takes no part."""
    known = {bone: i for i, bone in enumerate(brushed.bones)}
    if not set(known) & set(bones):
        return weights
    carried = bind(Mesh(brushed.vertices, brushed.triangles), points).carry(brushed.weights)
    table = np.stack([carried[:, known[b]] if b in known else np.zeros(len(points)) for b in bones], axis=1)
    return settled(np.clip(table, 0, 1))
