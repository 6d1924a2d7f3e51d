"""The curve panel: the courses of chosen wires over the frames, their speeds, and what can be pulled in them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal, NamedTuple

import numpy as np

from gaitwire.core.addresses import Node
from gaitwire.core.conventions import FloatArray
from gaitwire.core.owners import owner_name
from gaitwire.core.scene import Scene
from gaitwire.core.timing.channel import PROPERTIES, Channel, Property
from gaitwire.core.timing.key import Key
from gaitwire.core.timing.sample import compile_keys, sample
from gaitwire.core.timing.shape import curve_segments
from gaitwire.services.scene.gestures import Floor

WIDE, TALL, SPEED_TOP, SPEED_TALL = 1000.0, 200.0, 214.0, 46.0
"""Units of the panel: its width, the height of the values, and where below them the speeds are drawn."""

MOST_CURVES = 12
_SAMPLES = 500


class Handle(NamedTuple):
    """One end of a segment that can be pulled: of which key, at which side of it, and where it is drawn."""

    key_id: str
    side: Literal["in", "out"]
    x: float
    y: float


class CurvePoint(NamedTuple):
    """A key in the panel."""

    key: Key
    x: float
    y: float
    value: float
    """As it is shown."""
    handles: tuple[Handle, ...]


class Curve(NamedTuple):
    """One channel in the panel; lines as SVG points."""

    channel: Channel
    prop: Property
    name: str
    number: int
    line: str
    speed: str
    points: tuple[CurvePoint, ...]


class Graph(NamedTuple):
    """The panel: its frames, its values in shown units, and what is drawn."""

    start: float
    stop: float
    low: float
    high: float
    fastest: float
    courses: tuple[Curve, ...]
    left_out: int


def graph(floor: Floor, nodes: Sequence[Node]) -> Graph:
    """The courses of what is chosen over the whole scene."""
    scene = floor.scene
    cast = floor.workspace.cast(scene)
    keys = scene.keys_by_channel()
    moving = [c for c in floor.channels_of(nodes) if not PROPERTIES[c.owner_kind][c.property].stepped]
    shown = [(c, PROPERTIES[c.owner_kind][c.property], _live(scene, keys[c.id])) for c in moving[:MOST_CURVES]]
    shown = [row for row in shown if row[2]]
    times = np.linspace(0, scene.frames, _SAMPLES)
    values = [_values(scene, row, times) * prop.display for _, prop, row in shown]
    speeds = [np.gradient(v, times) for v in values]
    low, high = _range(values)
    fastest = max([float(np.abs(s).max()) for s in speeds], default=1.0) or 1.0
    place = _Place(scene.frames, low, high)
    courses = []
    for number, ((channel, prop, row), v, s) in enumerate(zip(shown, values, speeds, strict=True)):
        name = f"{owner_name(scene, cast, (channel.instance_id, channel.owner_id))}, {prop.label}"
        speed = SPEED_TOP + SPEED_TALL / 2 - s / fastest * SPEED_TALL / 2
        line, slow = _line(place.x(times), place.y(v)), _line(place.x(times), speed)
        courses.append(Curve(channel, prop, name, number, line, slow, _points(scene, row, prop, place)))
    return Graph(0.0, float(scene.frames), low, high, fastest, tuple(courses), max(0, len(moving) - MOST_CURVES))


class _Place:
    """From frames and shown values to the panel's units."""

    def __init__(self, frames: int, low: float, high: float) -> None:
        self.frames, self.low, self.high = frames, low, high

    def x(self, times: FloatArray) -> FloatArray:
        return times / self.frames * WIDE

    def y(self, values: FloatArray) -> FloatArray:
        return TALL - (values - self.low) / (self.high - self.low) * TALL


def _live(scene: Scene, keys: list[Key]) -> list[Key]:
    return [k for k in keys if not scene.loop or k.time < scene.frames]


def _values(scene: Scene, keys: list[Key], times: FloatArray) -> FloatArray:
    held = np.minimum(times, scene.frames - 1e-6) if scene.loop else times
    found: FloatArray = sample(compile_keys([keys], scene.loop_length), held)[0]
    return found


def _range(values: Sequence[FloatArray]) -> tuple[float, float]:
    """Values that the panel shows, with some room above and below."""
    low, high = min([float(v.min()) for v in values], default=0.0), max([float(v.max()) for v in values], default=1.0)
    room = max(0.08 * (high - low), 0.5)
    return low - room, high + room


def _line(x: FloatArray, y: FloatArray) -> str:
    return " ".join(f"{a:.1f},{b:.2f}" for a, b in zip(x.tolist(), y.tolist(), strict=True))


def _points(scene: Scene, keys: list[Key], prop: Property, place: _Place) -> tuple[CurvePoint, ...]:
    handles: dict[str, list[Handle]] = {}
    for segment in curve_segments(keys, scene.loop_length):
        if segment.right.stay or segment.left.ease == "hold":
            continue
        curve, start = segment.curve, segment.left.time
        ends = (
            (segment.left, "out", start + curve.x1 * segment.length, segment.left.value + curve.dy1),
            (segment.right, "in", start + curve.x2 * segment.length, segment.right.value + curve.dy2),
        )
        for key, side, time, value in ends:
            if time <= scene.frames:
                x, y = float(place.x(np.array(time))), float(place.y(np.array(value * prop.display)))
                handles.setdefault(key.id, []).append(Handle(key.id, side, round(x, 1), round(y, 2)))  # type: ignore[arg-type]
    found = []
    for key in keys:
        x, y = float(place.x(np.array(key.time))), float(place.y(np.array(key.value * prop.display)))
        own = tuple(h for h in handles.get(key.id, ()) if abs(h.x - x) < WIDE / 2)
        found.append(CurvePoint(key, round(x, 1), round(y, 2), key.value * prop.display, own))
    return tuple(found)
