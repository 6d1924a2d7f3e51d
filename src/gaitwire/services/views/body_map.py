"""The body map: a small wire figure of a puppet's bones, by which regions and bones are picked."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from typing import NamedTuple

from gaitwire.core.geometry.bounds import Box, union
from gaitwire.core.puppet.limb_chains import chain_of
from gaitwire.core.puppet.model import Bone, Puppet
from gaitwire.core.puppet.roles import REGIONS, SIDES, Region, Side
from gaitwire.core.puppet.tree import walk

WIDE, TALL, EDGE = 168.0, 172.0, 10.0
"""Pixels: the map, and the room left round the figure in it."""


_APART: dict[Region, float] = {"arm": 32.0, "leg": 20.0}
"""Degrees by which the map turns a near limb forward and a far one back."""


_SIDE_BY_SIDE = 0.25
"""Share of a limb's first bone by which twins stand apart when they are seen from the front."""


_BELOW, _WIDE, _LOW = 5.0, 12.0, 9.0
"""Pixels: how far below a tip its ground strokes lie, and the room that they take."""


class Stick(NamedTuple):
    """A bone in the map, from joint to tip; without length both are one point."""

    bone: Bone
    x0: float
    y0: float
    x1: float
    y1: float


class Area(NamedTuple):
    """A region of one side and the ids of its bones."""

    label: str
    region: Region
    side: Side
    ids: tuple[str, ...]


class Tip(NamedTuple):
    """Where a limb ends on the map, and what of it: a place below, for the strokes that say that it is braced."""

    limb_id: str
    name: str
    x: float
    y: float


class BodyMap(NamedTuple):
    """What the map draws: the far side first."""

    sticks: tuple[Stick, ...]
    areas: tuple[Area, ...]
    tips: tuple[Tip, ...]


def area_label(region: Region, side: Side) -> str:
    """What a region of one side is called; the head and the body have no sides."""
    return region.capitalize() if side == "centre" or region in ("head", "body") else f"{side.capitalize()} {region}"


def body_map(puppet: Puppet) -> BodyMap:
    """The map of a puppet; folders without a role are left out where their bones show.

    Limbs that hang over each other at rest are drawn apart, so that each can be picked.
    """
    bones = [row.bone for row in walk(puppet.bones)]
    parents = {b.parent_id for b in bones}
    drawn = [b for b in bones if b.length > 0 or b.role or b.id not in parents] or bones
    ends = _spread(bones)
    box = union(_box(*ends[b.id]) for b in drawn) or Box(0, 0, 1, 1)
    scale = min((WIDE - 2 * EDGE) / max(box.width, 1), (TALL - 2 * EDGE) / max(box.height, 1))
    mx, my = box.centre

    def placed(bone: Bone) -> Stick:
        x0, y0, x1, y1 = ends[bone.id]
        at = (WIDE / 2 + (x0 - mx) * scale, TALL / 2 + (y0 - my) * scale)
        to = (WIDE / 2 + (x1 - mx) * scale, TALL / 2 + (y1 - my) * scale)
        return Stick(bone, *(round(v, 1) for v in (*at, *to)))

    drawn.sort(key=lambda b: ("far", "centre", "near").index(b.side))
    return BodyMap(tuple(placed(b) for b in drawn), tuple(areas(bones)), tuple(_tips(puppet, placed)))


def _tips(puppet: Puppet, placed: Callable[[Bone], Stick]) -> Iterator[Tip]:
    """Where limbs end; twins that end in one place stand side by side."""
    taken: list[tuple[float, float]] = []
    for limb in puppet.limbs:
        tip = puppet.bone(limb.tip_id)
        if tip is None or len(chain_of(puppet, limb)) < 2:
            continue
        stick = placed(tip)
        x, y = (stick.x0 + stick.x1) / 2, max(stick.y0, stick.y1) + _BELOW
        while any(abs(x - a) < _WIDE and abs(y - b) < _LOW for a, b in taken):
            y += _LOW
        taken.append((x, y))
        yield Tip(limb.id, limb.name, round(min(max(x, EDGE), WIDE - EDGE), 1), round(min(y, TALL - _LOW / 2), 1))


def _box(x0: float, y0: float, x1: float, y1: float) -> Box:
    return Box(min(x0, x1), min(y0, y1), max(x0, x1), max(y0, y1))


def _spread(bones: list[Bone]) -> dict[str, tuple[float, float, float, float]]:
    """Joint and tip of every bone: as at rest, but with near and far limbs apart."""
    roots = _limb_roots(bones)
    pose: dict[str | None, tuple[float, float, float, Bone | None]] = {None: (0.0, 0.0, 0.0, None)}
    found = {}
    for bone in bones:  # parents first
        px, py, turned, above = pose.get(bone.parent_id, pose[None])
        angle = math.radians(turned)
        dx, dy = (bone.x - above.x, bone.y - above.y) if above else (bone.x, bone.y)
        x, y = px + dx * math.cos(angle) - dy * math.sin(angle), py + dx * math.sin(angle) + dy * math.cos(angle)
        turned += roots.get(bone.id, 0.0)
        pose[bone.id] = (x, y, turned, bone)
        way = math.radians(bone.angle + turned)
        found[bone.id] = (x, y, x + bone.length * math.cos(way), y + bone.length * math.sin(way))
    return found


def _limb_roots(bones: list[Bone]) -> dict[str, float]:
    """Turns in degrees for the first bones of limbs that lie over their twins."""
    by_id = {b.id: b for b in bones}
    found: dict[str, float] = {}
    for region, turn in _APART.items():
        firsts = {
            b.side: b
            for b in reversed(bones)
            if b.region == region and b.side != "centre" and b.length > 0
            and getattr(by_id.get(b.parent_id or ""), "region", None) != region
        }  # fmt: skip
        if len(firsts) < 2:
            continue
        near, far = firsts["near"], firsts["far"]
        if abs(near.x - far.x) < near.length:
            outward = 1 if near.x < far.x - _SIDE_BY_SIDE * near.length else -1  # seen from the front, each to its side
            found[near.id], found[far.id] = outward * turn, -outward * turn
    return found


def areas(bones: Sequence[Bone]) -> list[Area]:
    """Regions of each side that have bones, in the order of a body; the head and the body have no sides."""
    found: dict[str, Area] = {}
    for region in REGIONS:
        for side in SIDES:
            ids = tuple(b.id for b in bones if b.region == region and b.side == side)
            label = area_label(region, side)
            if ids:
                known = found.get(label)
                found[label] = Area(label, region, side, (*known.ids, *ids) if known else ids)
    return list(found.values())
