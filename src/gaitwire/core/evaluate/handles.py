"""From where the pointer is to the values it asks for: turn, shift, stretch and skew of nodes.

A drag starts at one point and is now at another; both are on the stage. The answer is in the
channels' own terms, offsets from rest, so that writing it as keys shows what was dragged.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate.compiled import CompiledScene
from gaitwire.core.evaluate.island import Island
from gaitwire.core.evaluate.skeleton import world_matrices
from gaitwire.core.evaluate.values import sample_values, shown_times
from gaitwire.core.geometry import affine
from gaitwire.core.timing.channel import NODE_PROPERTIES, PROPERTIES

Point = tuple[float, float]
Wanted = dict[tuple[str, str, str], float]
"""Values by (instance id, owner id, property)."""


@dataclass(frozen=True)
class Grip:
    """One node as a drag found it at its frame."""

    instance_id: str
    owner_id: str
    values: Mapping[str, float]
    parent: FloatArray  # (6,) world matrix of the parent
    pivot: Point  # the node's pivot, in the parent's space, shift included
    axis: float  # the bone's direction in the parent's space, degrees, turn included
    limits: Point = (-math.inf, math.inf)  # what hands may turn it to, degrees

    def in_parent(self, point: Point) -> Point:
        """A stage point in the parent's space."""
        x, y = affine.apply(affine.invert(self.parent), point[0], point[1])
        return float(x), float(y)

    def along_bone(self, point: Point) -> Point:
        """A stage point as (along, across) from the pivot, in the bone's own turned axes."""
        x, y = self.in_parent(point)
        dx, dy = x - self.pivot[0], y - self.pivot[1]
        a = math.radians(self.axis)
        return dx * math.cos(a) + dy * math.sin(a), -dx * math.sin(a) + dy * math.cos(a)


def take(compiled: CompiledScene, instance_id: str, owner_id: str, frame: float, blocking: bool = False) -> Grip:
    """Take hold of a node as a frame shows it, with or without in-betweens.

    Raises InvalidInputError if it is not in the scene.
    """
    for island in compiled.islands:
        if (instance_id, owner_id) in island.node_keys:
            return _grip(island, island.node_keys.index((instance_id, owner_id)), frame, blocking)
    raise InvalidInputError("This bone is not in the scene.", "Choose another.")


def tops(compiled: CompiledScene, nodes: Sequence[tuple[str, str]]) -> list[tuple[str, str]]:
    """Those of the nodes that hang from none of the others: what to shift, since the rest goes along."""
    wanted = set(nodes)
    carried: set[tuple[str, str]] = set()
    for island in compiled.islands:
        for index, node in enumerate(island.node_keys):
            parent = int(island.skeleton.parent[index])
            if parent >= 0 and (island.node_keys[parent] in wanted or island.node_keys[parent] in carried):
                carried.add(node)
    return [node for node in nodes if node not in carried]


def _grip(island: Island, node: int, frame: float, blocking: bool) -> Grip:
    values = sample_values(island, shown_times(island, np.array([frame]), blocking))
    world = world_matrices(island.skeleton, values)
    parent = int(island.skeleton.parent[node])
    named = {name: float(v) for name, v in zip(NODE_PROPERTIES, values[node, :, 0], strict=True)}
    instance_id, owner_id = island.node_keys[node]
    return Grip(
        instance_id=instance_id,
        owner_id=owner_id,
        values=named,
        parent=world[:, parent, 0] if parent >= 0 else affine.identity(),
        pivot=(
            float(island.skeleton.x[node]) + named["shift_x"],
            float(island.skeleton.y[node]) + named["shift_y"],
        ),
        axis=float(island.skeleton.angle[node]) + named["turn"],
        limits=(float(island.skeleton.low[node]), float(island.skeleton.high[node])),
    )


def turn_swept(grip: Grip, start: Point, now: Point) -> float:
    """Degrees by which the pointer went round a node's pivot."""
    ax, ay = (v - p for v, p in zip(grip.in_parent(start), grip.pivot, strict=True))
    bx, by = (v - p for v, p in zip(grip.in_parent(now), grip.pivot, strict=True))
    return math.degrees(math.atan2(ax * by - ay * bx, ax * bx + ay * by))


def _turn(grip: Grip, start: Point, now: Point) -> dict[str, float]:
    return {"turn": grip.values["turn"] + turn_swept(grip, start, now)}


def _shift(grip: Grip, start: Point, now: Point) -> dict[str, float]:
    (ax, ay), (bx, by) = grip.in_parent(start), grip.in_parent(now)
    return {"shift_x": grip.values["shift_x"] + bx - ax, "shift_y": grip.values["shift_y"] + by - ay}


def _stretch(grip: Grip, start: Point, now: Point) -> dict[str, float]:
    begun, here = grip.along_bone(start)[0], grip.along_bone(now)[0]
    return {"stretch": grip.values["stretch"] * _ratio(here, begun)}


def _widen(grip: Grip, start: Point, now: Point) -> dict[str, float]:
    begun, here = grip.along_bone(start)[1], grip.along_bone(now)[1]
    return {"widen": grip.values["widen"] * _ratio(here, begun)}


def _ratio(here: float, begun: float) -> float:
    """How far along the pointer is now against where it began; begun near the pivot, 100 px double."""
    if abs(begun) < 4.0:
        return math.exp2((here - begun) / 100.0)
    return max(here / begun, 0.01)


def _skew(grip: Grip, start: Point, now: Point) -> dict[str, float]:
    (along, across), (_, across_now) = grip.along_bone(start), grip.along_bone(now)
    reach = along if abs(along) > 20.0 else math.copysign(20.0, along or 1.0)
    slope = math.tan(math.radians(grip.values["skew"])) + (across_now - across) / reach
    return {"skew": math.degrees(math.atan(slope))}


GESTURES: dict[str, Callable[[Grip, Point, Point], dict[str, float]]] = {
    "turn": _turn,
    "shift": _shift,
    "stretch": _stretch,
    "widen": _widen,
    "skew": _skew,
}
"""Every way to drag a node."""


def drag(gesture: str, lead: Grip, others: list[Grip], start: Point, now: Point, step: float = 0.0) -> Wanted:
    """What a drag asks of the lead node and of the others chosen with it.

    Others change by as much as the lead does in its own terms (a shift: by the same way on the
    stage). `step` rounds the lead's own value to its multiples (0: not at all).

    Raises InvalidInputError for an unknown gesture or where a parent is stretched flat.
    """
    try:
        work = GESTURES[gesture]
    except KeyError:
        raise InvalidInputError(f"There is no gesture “{gesture}”.") from None
    wanted: Wanted = {}
    led = {k: _rounded(v, step) for k, v in work(lead, start, now).items()}
    keep_within(wanted, lead, led)
    for grip in others:
        if gesture == "shift":
            keep_within(wanted, grip, work(grip, start, now))
            continue
        for name, value in led.items():
            rest, was = PROPERTIES["bone"][name].rest, lead.values[name]
            ratio = rest == 1.0
            keep_within(
                wanted, grip, {name: grip.values[name] * value / was if ratio else grip.values[name] + value - was}
            )
    return wanted


def _rounded(value: float, step: float) -> float:
    return round(value / step) * step if step > 0 else value


def keep_within(wanted: Wanted, grip: Grip, values: Mapping[str, float]) -> None:
    """Add what a grip is asked for, held to its limits and to what its properties can be."""
    for name, value in values.items():
        prop = PROPERTIES["bone"][name]
        if name == "turn":
            value = _within(grip, value)
        wanted[grip.instance_id, grip.owner_id, name] = min(prop.high, max(prop.low, value))


def _within(grip: Grip, turn: float) -> float:
    """A turn held to the bone's limits; one that keys hold beyond them is not pulled in before it is moved back."""
    low, high = min(grip.limits[0], grip.values["turn"]), max(grip.limits[1], grip.values["turn"])
    return min(high, max(low, turn))


def onto_grid(grip: Grip, start: Point, now: Point, grid: float) -> Point:
    """Where the pointer would have to be so that a shift puts the node's pivot on the nearest crossing of a grid."""
    x, y = affine.apply(grip.parent, grip.pivot[0], grip.pivot[1])
    moved = (float(x) + now[0] - start[0], float(y) + now[1] - start[1])
    return tuple(n + round(m / grid) * grid - m for n, m in zip(now, moved, strict=True))  # type: ignore[return-value]


def unwrapped(previous: float, value: float) -> float:
    """The angle that shows as `value` and lies nearest to `previous`: a drag may go round and round."""
    return value + 360.0 * round((previous - value) / 360.0)
