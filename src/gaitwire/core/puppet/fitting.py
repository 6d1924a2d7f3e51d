"""Where the joints of one puppet's rig lie in another one's art."""

from __future__ import annotations

import math
from collections.abc import Iterable, Mapping, Sequence

from shapely.geometry.base import BaseGeometry
from shapely.ops import unary_union

from gaitwire.core.conventions import Point
from gaitwire.core.puppet.joints import tip_of
from gaitwire.core.puppet.likeness import Figure
from gaitwire.core.puppet.model import Bone
from gaitwire.core.puppet.tree import walk

_JOINED = 2.0
"""Pixels between a tip and a pivot that are one joint."""
_LEAST = 4.0
"""Square pixels of overlap from which on two pieces meet in it."""
_ALIKE = 2.5
"""By what the shares of two overlaps may differ: an arm that hangs before the body meets it otherwise."""


class Placing:
    """Places of the source, in the target: `like` are the target's parts by the source's."""

    def __init__(self, source: Figure, target: Figure, like: Mapping[str, str]) -> None:
        self.source, self.target, self.like = source, target, like
        pairs = [(a, b) for a, b in like.items() if a in source.regions and b in target.regions]
        self.whole = _box_map(
            unary_union([source.regions[a] for a, _ in pairs]), unary_union([target.regions[b] for _, b in pairs])
        )
        self._pivots: dict[str, Point] = {}

    @property
    def scale(self) -> Point:
        """By what pixels across and down are multiplied on the whole."""
        return self.whole[0][0], self.whole[1][0]

    def art_of(self, bone_id: str) -> tuple[BaseGeometry, BaseGeometry] | None:
        """The art on a bone, or bent by it, in the source and in the target; None where none of it is in both."""
        parts = self.source.puppet.parts
        own = [p.id for p in parts if p.bone_id == bone_id and p.id in self.like]
        own = own or [p.id for p in parts if bone_id in p.bends_with and p.id in self.like]
        own = [p for p in own if p in self.source.regions and self.like[p] in self.target.regions]
        if not own:
            return None
        return (
            unary_union([self.source.regions[p] for p in own]),
            unary_union([self.target.regions[self.like[p]] for p in own]),
        )

    def at(self, place: Point, art: tuple[BaseGeometry, BaseGeometry] | None) -> Point:
        """A place of the source in the target, as it lies in the box round some art, or round all of it."""
        across, down = self.whole if art is None else _box_map(*art)
        return place[0] * across[0] + across[1], place[1] * down[0] + down[1]

    def in_part(self, part_id: str, place: Point) -> Point:
        """A place on a part of the source, on the part of the target that is like it."""
        pair = (self.source.regions.get(part_id), self.target.regions.get(self.like.get(part_id, "")))
        return self.at(place, None if pair[0] is None or pair[1] is None else (pair[0], pair[1]))

    def pivot(self, bone: Bone) -> Point:
        """A bone's joint: where its art and the art above meet, if it lies there in the source; else by the box."""
        if bone.id not in self._pivots:
            self._pivots[bone.id] = self._found(bone)
        return self._pivots[bone.id]

    def _found(self, bone: Bone) -> Point:
        art, above = self.art_of(bone.id), self._above(bone)
        if art is None:
            return self.at((bone.x, bone.y), None)
        met = _meeting(art, above, (bone.x, bone.y)) if above is not None else None
        if met is not None:
            return met
        for child in self.source.puppet.bones:
            beyond = self.art_of(child.id) if child.parent_id == bone.id else None
            joint = _meeting(beyond, art, (child.x, child.y)) if beyond is not None else None
            if joint is not None:
                turned = _aimed(art, (child.x, child.y), joint, (bone.x, bone.y))
                return turned or self.at((bone.x, bone.y), art)
        return self.at((bone.x, bone.y), art)

    def _above(self, bone: Bone) -> tuple[BaseGeometry, BaseGeometry] | None:
        bones = {b.id: b for b in self.source.puppet.bones}
        at = bones.get(bone.parent_id or "")
        while at is not None:
            art = self.art_of(at.id)
            if art is not None:
                return art
            at = bones.get(at.parent_id or "")
        return None

    def tip(self, bone: Bone, kept: Iterable[Bone]) -> Point:
        """A bone's end: the joint of what hangs there, else as far towards the middle of its art as in the source."""
        tx, ty = tip_of(bone)
        child = next((b for b in kept if b.parent_id == bone.id and math.hypot(b.x - tx, b.y - ty) < _JOINED), None)
        if child is not None:
            return self.pivot(child)
        art, (px, py) = self.art_of(bone.id), self.pivot(bone)
        if art is None:
            return self.at((tx, ty), None)
        return _aimed(art, (bone.x, bone.y), (px, py), (tx, ty)) or self.at((tx, ty), art)


Pair = tuple[BaseGeometry, BaseGeometry]
"""The same art in the source and in the target."""


def _meeting(art: Pair, above: Pair, place: Point) -> Point | None:
    """A joint by where its art and the art above meet; None where it lies elsewhere, or they meet otherwise."""
    here, there = art[0].intersection(above[0]), art[1].intersection(above[1])
    if min(here.area, there.area) < _LEAST:
        return None
    shares = here.area / art[0].area, there.area / art[1].area
    dx, dy = place[0] - here.centroid.x, place[1] - here.centroid.y
    if math.hypot(dx, dy) > math.sqrt(here.area) or max(shares) > _ALIKE * min(shares):
        return None
    size = math.sqrt(there.area / here.area)
    return there.centroid.x + dx * size, there.centroid.y + dy * size


def _aimed(art: Pair, start: Point, begun: Point, place: Point) -> Point | None:
    """A place seen from a joint (`start`, in the target `begun`) as the middle of its art is; None too near to that."""
    (sx, sy), (bx, by) = start, begun
    here = math.hypot(art[0].centroid.x - sx, art[0].centroid.y - sy)
    there = math.hypot(art[1].centroid.x - bx, art[1].centroid.y - by)
    length = math.hypot(place[0] - sx, place[1] - sy)
    if min(here, there) < 0.1 * length:
        return None
    was = math.atan2(art[0].centroid.y - sy, art[0].centroid.x - sx)
    now = math.atan2(art[1].centroid.y - by, art[1].centroid.x - bx)
    aim = math.atan2(place[1] - sy, place[0] - sx) - was + now
    return bx + length * there / here * math.cos(aim), by + length * there / here * math.sin(aim)


Line = tuple[float, float]
"""(factor, offset)."""


def _box_map(source: BaseGeometry, target: BaseGeometry) -> tuple[Line, Line]:
    """How the box round one region is laid on the box round another, across and down."""
    if source.is_empty or target.is_empty:
        return (1.0, 0.0), (1.0, 0.0)
    x0, y0, x1, y1 = source.bounds
    u0, v0, u1, v1 = target.bounds
    return _line(x0, x1, u0, u1), _line(y0, y1, v0, v1)


def _line(a: float, b: float, u: float, v: float) -> Line:
    factor = (v - u) / (b - a) if b - a > 1.0 else 1.0
    return factor, u - a * factor


def kept_bones(figure: Figure, like: Mapping[str, str]) -> list[Bone]:
    """The source's bones that the target has something for: art, or a bone with some below; those without art of
    their own besides, where they hang from one of these."""
    puppet = figure.puppet
    parents = {b.id: b.parent_id for b in puppet.bones}
    wanted = {b for p in puppet.parts if p.id in like for b in (p.bone_id, *p.bends_with)}
    for bone_id in list(wanted):
        at = parents.get(bone_id)
        while at is not None:
            wanted.add(at)
            at = parents.get(at)
    laden = {p.bone_id for p in puppet.parts}
    ordered: Sequence[Bone] = [row.bone for row in walk(puppet.bones)]
    for bone in ordered:
        if bone.id not in laden and bone.parent_id in wanted:
            wanted.add(bone.id)
    return [b for b in ordered if b.id in wanted]
