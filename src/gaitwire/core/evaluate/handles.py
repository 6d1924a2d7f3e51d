"""From where the pointer is to the values it asks for: turn, shift, stretch and skew of nodes.

A drag starts at one point and is now at another; both are on the stage. The answer is in the
channels' own terms, offsets from rest, so that writing it as keys shows what was dragged.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence

from gaitwire.core.conventions import Point
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate.compiled_scene import CompiledScene
from gaitwire.core.evaluate.grip import Grip, grip_of
from gaitwire.core.evaluate.levers import shifted_by, turned_by
from gaitwire.core.evaluate.posed import SolvedPose, solved_poses
from gaitwire.core.geometry import affine
from gaitwire.core.timing.channel import LIMB_PROPERTIES, PROPERTIES

Wanted = dict[tuple[str, str, str], float]
"""Values by (instance id, owner id, property)."""


def take(
    compiled: CompiledScene, instance_id: str, owner_id: str, frame: float, blocking: bool = False, gesture: str = ""
) -> Grip:
    """Take hold of a node as a frame shows it, with or without in-betweens; see `take_all`."""
    return take_all(compiled, [(instance_id, owner_id)], frame, blocking, gesture)[0]


def take_all(
    compiled: CompiledScene, nodes: Sequence[tuple[str, str]], frame: float, blocking: bool = False, gesture: str = ""
) -> list[Grip]:
    """Take hold of nodes as a frame shows them.

    For a turn, what is taken is the joint that turns them there: of a body that another bone carries,
    that is the joint beyond. Raises InvalidInputError for what is not in the scene, LockedError for
    what a plant holds.
    """
    poses: dict[str, SolvedPose] = {}
    found = []
    taken = {"turn": turned_by, "shift": shifted_by}.get(gesture, grip_of)
    for instance_id, owner_id in nodes:
        if instance_id not in poses:
            poses |= solved_poses(compiled.groups, instance_id, frame, blocking)
        solved = poses.get(instance_id)
        node = solved.puppet.node(owner_id) if solved else None
        if solved is None or node is None:
            raise InvalidInputError("This bone is not in the scene.", "Choose another.")
        found.append(taken(solved, node))
    return found


def tops(compiled: CompiledScene, nodes: Sequence[tuple[str, str]]) -> list[tuple[str, str]]:
    """Those of the nodes that hang from none of the others: what to shift, since the rest goes along."""
    wanted = set(nodes)
    carried: set[tuple[str, str]] = set()
    for puppet in compiled.compiled_puppets:
        for index, node in enumerate(puppet.nodes.owners):
            parent = int(puppet.skeleton.parent[index])
            if parent >= 0 and (puppet.nodes.owners[parent] in wanted or puppet.nodes.owners[parent] in carried):
                carried.add(node)
    return [node for node in nodes if node not in carried]


def turn_swept(grip: Grip, start: Point, now: Point) -> float:
    """Degrees by which the pointer went round a node's pivot."""
    ax, ay = (v - p for v, p in zip(grip.in_parent(start), grip.pivot, strict=True))
    bx, by = (v - p for v, p in zip(grip.in_parent(now), grip.pivot, strict=True))
    return math.degrees(math.atan2(ax * by - ay * bx, ax * bx + ay * by))


def _turn(grip: Grip, start: Point, now: Point) -> dict[str, float]:
    return {grip.turns: grip.values[grip.turns] + grip.sense * turn_swept(grip, start, now)}


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


_STRETCHED = 0.01
"""A stretch that differs from rest by less is none yet: the next one may go any way."""


def _squash(grip: Grip, start: Point, now: Point) -> dict[str, float]:
    """Squashed or stretched towards where it was taken hold of, about its pivot; on along that axis once it is.

    It keeps its area from the first, unless how much it keeps has been said.
    """
    values = grip.values
    axis, keep = values["axis"], values["keep"]
    (ax, ay), (bx, by) = grip.in_parent(start), grip.in_parent(now)
    ax, ay, bx, by = ax - grip.pivot[0], ay - grip.pivot[1], bx - grip.pivot[0], by - grip.pivot[1]
    own = grip.axis - axis
    if abs(values["stretch"] - 1.0) < _STRETCHED and math.hypot(ax, ay) > 4.0:
        axis = math.degrees(math.atan2(ay, ax)) - own
        axis -= 180.0 * round(axis / 180.0)  # a line has no front
        keep = keep or 1.0
    aim = math.radians(own + axis)
    begun, here = (x * math.cos(aim) + y * math.sin(aim) for x, y in ((ax, ay), (bx, by)))
    return {"axis": axis, "stretch": values["stretch"] * _ratio(here, begun), "keep": keep}


def _zoom(grip: Grip, start: Point, now: Point) -> dict[str, float]:
    """A camera's frame made larger sees more, and enlarges less."""
    begun, here = (math.dist(grip.in_parent(p), grip.pivot) for p in (start, now))
    return {"stretch": grip.values["stretch"] * begun / max(here, 1.0)}


GESTURES: dict[str, Callable[[Grip, Point, Point], dict[str, float]]] = {
    "turn": _turn,
    "shift": _shift,
    "stretch": _stretch,
    "widen": _widen,
    "skew": _skew,
    "squash": _squash,
    "zoom": _zoom,
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
        if gesture == "turn":
            by = grip.sense * lead.sense * (led[lead.turns] - lead.values[lead.turns])
            keep_within(wanted, grip, {grip.turns: grip.values[grip.turns] + by})
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
        prop = PROPERTIES["limb" if name in LIMB_PROPERTIES else "bone"][name]
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
