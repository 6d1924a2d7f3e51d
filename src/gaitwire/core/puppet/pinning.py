"""Pins of a part: placed, moved, given back."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any

from gaitwire.core.errors import InvalidInputError, NotFoundError
from gaitwire.core.puppet.change import PuppetChange
from gaitwire.core.puppet.edit import find_bone, find_part, refuse_locked
from gaitwire.core.puppet.mirroring import Mirror
from gaitwire.core.puppet.model import Pin, PinKind, Puppet

MOST_PINS = 60

_ON_AXIS = 2.0
"""Pixels. A pin nearer to the line than that has no twin: it is its own."""


def find_pin(whole: Puppet, which: str) -> Pin:
    """The pin; raises NotFoundError."""
    pin = next((p for p in whole.pins if p.id == which), None)
    if pin is None:
        raise NotFoundError("This pin is not in the puppet any more.", "Choose another.")
    return pin


def place_pin(
    whole: Puppet, part_id: str, kind: PinKind, place: tuple[float, float], names: tuple[str, str],
    new_id: Callable[[], str], axis: float | None = None,
) -> PuppetChange:  # fmt: skip
    """A pin on a part, and its twin beyond the upright line x = axis if one is given; `names` for both.

    An anchor belongs to the part's own bone, a lead goes with the art. Raises InvalidInputError for
    a rigid part.
    """
    part = find_part(whole, part_id)
    refuse_locked([part])
    if not part.soft:
        raise InvalidInputError(f"“{part.name}” is rigid.", "Make it soft first, on its card.")
    rows = whole.pins_of(part_id)
    places = [place]
    if axis is not None and abs(place[0] - axis) >= _ON_AXIS:
        places.append((2 * axis - place[0], place[1]))
    if len(rows) + len(places) > MOST_PINS:
        raise InvalidInputError(f"A part has at most {MOST_PINS} pins.", "Remove some first.")
    made = [
        Pin(
            id=new_id(), puppet_id=whole.id, part_id=part_id, name=name, kind=kind,
            bone_id=part.bone_id if kind == "anchor" else None, rank=len(rows) + n, x=round(x, 3), y=round(y, 3),
        )
        for n, ((x, y), name) in enumerate(zip(places, names, strict=False))
    ]  # fmt: skip
    return PuppetChange(pins=tuple(made))


def twin_of(whole: Puppet, one: Pin, axis: float) -> Pin | None:
    """The pin of the same part and kind that mirrors this one in the line x = axis, if there is one."""
    mirror = Mirror(axis)
    others = [p for p in whole.pins_of(one.part_id) if p.id != one.id and p.kind == one.kind]
    if abs(one.x - axis) < _ON_AXIS:
        return None
    near = [(abs(p.x - mirror.x(one.x)) + abs(p.y - one.y), p) for p in others]
    best = min(near, key=lambda pair: pair[0], default=None)
    return best[1] if best is not None and best[0] < 2 * _ON_AXIS else None


def move_pin(whole: Puppet, which: str, place: tuple[float, float], axis: float | None = None) -> PuppetChange:
    """Put a pin on another point of the art, and its twin likewise if an axis is given."""
    pin = find_pin(whole, which)
    refuse_locked([find_part(whole, pin.part_id)])
    x, y = place
    moved = [pin.model_copy(update={"x": round(x, 3), "y": round(y, 3)})]
    twin = None if axis is None else twin_of(whole, pin, axis)
    if axis is not None and twin is not None:
        moved.append(twin.model_copy(update={"x": Mirror(axis).x(moved[0].x), "y": moved[0].y}))
    return PuppetChange(pins=tuple(moved))


def set_pins(
    whole: Puppet, ids: Sequence[str], values: Mapping[str, Any], revise: Callable[[Pin, Mapping[str, Any]], Pin]
) -> PuppetChange:
    """Set fields of pins; `revise` validates. A bone must be one of the puppet's."""
    pins = [find_pin(whole, i) for i in ids]
    if values.get("bone_id") is not None:
        find_bone(whole, str(values["bone_id"]))
    if set(values) - {"hidden"}:
        refuse_locked(find_part(whole, p.part_id) for p in pins)
    return PuppetChange(pins=tuple(revise(p, values) for p in pins))


def remove_pins(whole: Puppet, ids: Sequence[str]) -> PuppetChange:
    """Remove pins; their keys sleep until they are back."""
    pins = [find_pin(whole, i) for i in ids]
    refuse_locked(find_part(whole, p.part_id) for p in pins)
    return PuppetChange(removed_pins=tuple(p.id for p in pins))
