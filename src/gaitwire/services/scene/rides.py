"""Rides: what is moved by hand while the scene plays, recorded to keys."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import NamedTuple

import numpy as np

from gaitwire.core.addresses import Address, Node
from gaitwire.core.conventions import FloatArray, Point
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate.handles import Wanted, drag, take_all, tops, unwrapped
from gaitwire.core.ids import new_id
from gaitwire.core.timing.channel import PROPERTIES
from gaitwire.core.timing.course import fewest_keys
from gaitwire.core.tolerances import TIME
from gaitwire.core.walk.settings import SETTINGS
from gaitwire.core.walk.span import GaitSpan
from gaitwire.services.scene.gestures import Draft, SceneState, gesture
from gaitwire.services.scene.posing import layers_of
from gaitwire.services.scene.walk_keys import cleared

LONGEST = 5000
"""Frames of a ride."""
_GESTURES = ("turn", "shift", "stretch", "widen", "skew", "squash", "zoom")


class PointerPlace(NamedTuple):
    """Where the pointer was on a frame."""

    frame: float
    x: float
    y: float


class RideResult(NamedTuple):
    """What a ride came to: keys, and by how much they miss the hand's movement at most, in what unit."""

    keys: int
    error: float
    unit: str


@gesture("ride")
def record_ride(
    draft: Draft,
    kind: str,
    nodes: Sequence[Node],
    start: Point,
    places: Sequence[PointerPlace],
    allowed: float = 1.0,
) -> RideResult:
    """Key what a hand did to nodes from frame to frame, on top of how they move there; the keys there give way.

    It took hold of them at `start`; between the frames on which it was seen it went evenly. Keys are
    thinned out as far as the movement stays within `allowed` degrees, pixels or percent. Another
    ride over it goes on top of this one.
    """
    if kind not in _GESTURES:
        raise InvalidInputError(f"There is no ride “{kind[:20]}”.", f"Known: {', '.join(_GESTURES)}.")
    frames, xs, ys = _frames(draft, places)
    rows = _rows(draft, kind, nodes, start, frames, xs, ys)
    count, worst, unit = 0, 0.0, ""
    draft.refuse_locked((i, o) for i, o, _ in rows)
    for address, row in rows.items():
        channel = cleared(draft, address, frames, before=True)
        prop = PROPERTIES[channel.owner_kind][channel.property]
        held = np.clip(row, prop.low, prop.high)
        keys, error = fewest_keys(channel.id, frames, held, allowed / prop.display, new_id)
        draft.put(keys)
        count += len(keys)
        if error * prop.display >= worst:
            worst, unit = error * prop.display, prop.unit
    return RideResult(count, worst, unit)


@gesture()
def record_setting(
    draft: Draft, gait: GaitSpan, name: str, places: Sequence[tuple[float, float]], allowed: float = 0.5
) -> RideResult:
    """Key a walk's setting as a hand turned it, (frame, value as it is shown) in turn; the keys there give way.

    Thinned out as far as it stays within `allowed` in what is shown. Raises InvalidInputError for a
    setting whose change would make feet slide.
    """
    if name not in PROPERTIES["walk"]:
        label = SETTINGS[name].label if name in SETTINGS else name
        raise InvalidInputError(f"“{label[:20]}” cannot be ridden: feet would slide.", "Ride one of the body's.")
    setting, address = SETTINGS[name], (gait.instance_id, gait.id, name)
    rows = [PointerPlace(frame, setting.read(value) - getattr(gait.card, name), 0.0) for frame, value in places]
    frames, values, _ = _frames(draft, rows)
    draft.labelled(f"ride {setting.label}")
    draft.refuse_locked([(gait.instance_id, gait.instance_id)])
    channel = cleared(draft, address, frames, before=True)
    keys, error = fewest_keys(channel.id, frames, values, allowed / setting.factor, new_id)
    draft.put(keys)
    return RideResult(len(keys), error * setting.factor, setting.unit)


@gesture("ride")
def record_control(
    draft: Draft, instance_id: str, control_id: str, places: Sequence[PointerPlace], allowed: float = 1.0
) -> RideResult:
    """Key where a hand had the point of a pad or gauge from frame to frame; the keys there give way."""
    frames, *rows = _frames(draft, places)
    names = PROPERTIES[draft.owner_kind(instance_id, control_id)]
    count, worst = 0, 0.0
    draft.refuse_locked([(instance_id, instance_id)])
    for (name, prop), row in zip(names.items(), rows, strict=False):
        channel = cleared(draft, (instance_id, control_id, name), frames, before=True)
        keys, error = fewest_keys(channel.id, frames, np.clip(row, prop.low, prop.high), allowed, new_id)
        draft.put(keys)
        count, worst = count + len(keys), max(worst, error)
    return RideResult(count, worst, names["x"].unit)


def _frames(floor: SceneState, places: Sequence[PointerPlace]) -> tuple[FloatArray, FloatArray, FloatArray]:
    """The whole frames of a ride, and where the pointer was on them."""
    seen = sorted({p.frame: p for p in places}.values())
    last = floor.scene.frames - 1
    if len(seen) < 2 or seen[0].frame < -TIME or seen[-1].frame > last + TIME or len(seen) > LONGEST:
        raise InvalidInputError("This ride is too short.", "Hold and move while the scene plays some frames.")
    frames = np.arange(np.ceil(seen[0].frame - TIME), np.floor(seen[-1].frame + TIME) + 1)
    times = np.array([p.frame for p in seen])
    xs, ys = (_smoothed(np.interp(frames, times, row)) for row in ([p.x for p in seen], [p.y for p in seen]))
    return frames, xs, ys


def _rows(
    floor: SceneState,
    kind: str,
    nodes: Sequence[Node],
    start: Point,
    frames: FloatArray,
    xs: FloatArray,
    ys: FloatArray,
) -> dict[Address, FloatArray]:
    """Keys' values (F,) that a hand asks for, without what other layers add."""
    compiled, layers = floor.compiled, layers_of(floor)
    wanted: list[Wanted] = []
    for frame, x, y in zip(frames.tolist(), xs.tolist(), ys.tolist(), strict=True):
        moved = tops(compiled, nodes) if kind == "shift" else list(nodes)
        grips = take_all(compiled, moved, frame, gesture=kind)
        if not grips:
            raise InvalidInputError("Nothing is chosen to ride.", "Choose some bones first.")
        found = drag(kind, grips[0], grips[1:], start, (x, y))
        before: Mapping[Address, float] = wanted[-1] if wanted else {}
        wanted.append({k: unwrapped(before.get(k, v), v) if k[2] == "turn" else v for k, v in found.items()})
    return {
        address: np.array(
            [
                layers.key_value(address, values[address], frame)
                for frame, values in zip(frames.tolist(), wanted, strict=True)
            ]
        )
        for address in wanted[0]
    }


def _smoothed(row: FloatArray) -> FloatArray:
    """A course without the tremble of a hand; its ends stay."""
    if len(row) < 3:
        return row
    return np.concatenate([row[:1], (row[:-2] + 2 * row[1:-1] + row[2:]) / 4, row[-1:]])
