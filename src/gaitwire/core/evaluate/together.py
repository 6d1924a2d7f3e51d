"""Several nodes moved as one thing: turned or scaled about a chosen point, or a turn spread along a chain."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

import numpy as np

from gaitwire.core.conventions import Point
from gaitwire.core.evaluate.compiled_scene import CompiledScene
from gaitwire.core.evaluate.grip import Grip
from gaitwire.core.evaluate.handles import Wanted, drag, keep_within, take_all, tops, turn_swept
from gaitwire.core.geometry import affine
from gaitwire.core.tolerances import LENGTH


def turned_together(upper: Sequence[Grip], _: Sequence[Grip], about: Point, start: Point, now: Point) -> Wanted:
    """Turn nodes rigidly about a point of the stage by the angle from `start` to `now` round it.

    Exact where what they hang from is not skewed or unevenly stretched.
    """
    (ax, ay), (bx, by) = _from(about, start), _from(about, now)
    angle = math.atan2(ax * by - ay * bx, ax * bx + ay * by)
    c, s = math.cos(angle), math.sin(angle)
    wanted: Wanted = {}
    for grip in upper:
        mirrored = affine.determinant(grip.parent) < 0
        values = {"turn": grip.values["turn"] + math.degrees(-angle if mirrored else angle)}
        keep_within(wanted, grip, values | _carried(grip, about, lambda x, y: (c * x - s * y, s * x + c * y)))
    return wanted


def scaled_together(upper: Sequence[Grip], others: Sequence[Grip], about: Point, start: Point, now: Point) -> Wanted:
    """Scale nodes evenly about a point of the stage, by how much further from it `now` is than `start`.

    `others` are those that take no size from what they hang from, as the bones of a limb.
    """
    begun = math.hypot(*_from(about, start))
    factor = max(0.01, math.hypot(*_from(about, now)) / begun) if begun > LENGTH else 1.0
    wanted: Wanted = {}
    for grip in upper:
        keep_within(
            wanted, grip, _sized(grip, factor, factor) | _carried(grip, about, lambda x, y: (factor * x, factor * y))
        )
    for grip in others:
        keep_within(wanted, grip, _sized(grip, factor, factor))
    return wanted


def stretched_sides(upper: Sequence[Grip], _: Sequence[Grip], about: Point, start: Point, now: Point) -> Wanted:
    """Scale upright nodes, as a puppet's seat is one, across and down each by its own factor about a point."""
    (ax, ay), (bx, by) = _from(about, start), _from(about, now)
    across = max(0.01, bx / ax) if abs(ax) > 1.0 else 1.0
    down = max(0.01, by / ay) if abs(ay) > 1.0 else 1.0
    wanted: Wanted = {}
    for grip in upper:
        keep_within(
            wanted, grip, _sized(grip, down, across) | _carried(grip, about, lambda x, y: (across * x, down * y))
        )
    return wanted


def _from(about: Point, point: Point) -> Point:
    return point[0] - about[0], point[1] - about[1]


def _carried(grip: Grip, about: Point, move: Callable[[float, float], Point]) -> dict[str, float]:
    """The shift that takes a node's pivot where the move takes it, seen from the point."""
    x, y = affine.apply(grip.parent, grip.pivot[0], grip.pivot[1])
    mx, my = move(float(x) - about[0], float(y) - about[1])
    px, py = grip.in_parent((about[0] + mx, about[1] + my))
    return {
        "shift_x": grip.values["shift_x"] + px - grip.pivot[0],
        "shift_y": grip.values["shift_y"] + py - grip.pivot[1],
    }


def _sized(grip: Grip, along: float, across: float) -> dict[str, float]:
    """Stretch and width after a scaling; with kept volume the width is divided by the stretch once more."""
    widen = grip.values["widen"] * across * along ** grip.values["keep"]
    return {"stretch": grip.values["stretch"] * along, "widen": widen}


WAYS: dict[str, Callable[[Sequence[Grip], Sequence[Grip], Point, Point, Point], Wanted]] = {
    "turn": turned_together,
    "scale": scaled_together,
    "sides": stretched_sides,
    "shift": lambda grips, _, __, start, now: drag("shift", grips[0], list(grips[1:]), start, now),
}
"""Every way to move nodes as one thing; all but the last about a point."""


def take_together(
    compiled: CompiledScene, nodes: Sequence[tuple[str, str]], frame: float, blocking: bool = False
) -> tuple[list[Grip], list[Grip]]:
    """Grips of those nodes that hang from none of the others, and of those that take no size from their parents."""
    upper = tops(compiled, nodes)
    sizeless: set[tuple[str, str]] = set()
    for puppet in compiled.compiled_puppets:  # parents stand before their children
        limb = set(puppet.skeleton.limb.tolist())
        for index, key in enumerate(puppet.nodes.owners):
            parent = int(puppet.skeleton.parent[index])
            if parent in limb and (puppet.nodes.owners[parent] in upper or puppet.nodes.owners[parent] in sizeless):
                sizeless.add(key)
    others = [node for node in nodes if node not in upper and node in sizeless]
    return tuple(take_all(compiled, row, frame, blocking) for row in (upper, others))  # type: ignore[return-value]


def chain_of_nodes(compiled: CompiledScene, nodes: Sequence[tuple[str, str]]) -> list[tuple[str, str]]:
    """Nodes in the order in which they hang; a single one with all beyond it, as far as nothing branches off."""
    for puppet in compiled.compiled_puppets:
        order = {key: i for i, key in enumerate(puppet.nodes.owners)}
        wanted = [n for n in nodes if n in order]
        if len(wanted) > 1:
            return sorted(wanted, key=order.__getitem__)
        if not wanted:
            continue
        found = list(wanted)
        while True:
            below = np.flatnonzero(puppet.skeleton.parent == order[found[-1]])
            if len(below) != 1:
                return found
            found.append(puppet.nodes.owners[int(below[0])])
    return list(nodes)


def curl(grips: Sequence[Grip], start: Point, now: Point) -> Wanted:
    """Spread a turn along a chain: each joint takes the same share, so that the whole curls.

    Shares are such that the chain's end, if its links are alike, goes round the first joint as the
    pointer does.
    """
    share = 2.0 * turn_swept(grips[0], start, now) / (len(grips) + 1)
    wanted: Wanted = {}
    for grip in grips:
        keep_within(wanted, grip, {"turn": grip.values["turn"] + share})
    return wanted
