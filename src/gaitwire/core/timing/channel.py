"""Channels: (instance, kind of owner, owner, property) and what each property means."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from pydantic import BaseModel, ConfigDict

from gaitwire.core.bounds import Frame, Id
from gaitwire.core.timing.key import Key
from gaitwire.core.timing.loop import Repeat, RepeatKind
from gaitwire.core.tolerances import TIME
from gaitwire.core.walk.settings import RIDEABLE, SETTINGS

LED = -1e6
"""Said by a key of a drawing or of being shown: others decide, a pad, a gauge or a fix; else it is as at rest."""

OwnerKind = Literal["seat", "bone", "part", "pin", "limb", "pad", "gauge", "walk", "phrase", "camera"]


@dataclass(frozen=True)
class Property:
    """What can be keyed: its unit, the value that means rest, and bounds a value is held to."""

    name: str
    label: str
    unit: str
    rest: float
    low: float
    high: float
    decimals: int
    display: float = 1.0
    """Shown value = stored value times this (a ratio is shown in percent)."""
    stepped: bool = False
    """Has nothing in between: every key holds until the next."""
    posed: bool = True
    """A pose is made of it; else it is keyed with a pose only once it has keys."""
    led: bool = False
    """A key may leave it to what leads it (`LED`), as having no key does."""

    @property
    def unkeyed(self) -> float:
        """What a channel without keys says."""
        return LED if self.led else self.rest

    def held(self, value: float) -> float:
        """A value within the bounds."""
        return value if self.led and value == LED else min(self.high, max(self.low, value))


_BONE = (
    Property("turn", "turn", "°", 0.0, -36000.0, 36000.0, 1),
    Property("shift_x", "shift across", "px", 0.0, -1e5, 1e5, 1),
    Property("shift_y", "shift down", "px", 0.0, -1e5, 1e5, 1),
    Property("stretch", "stretch", "%", 1.0, 0.01, 20.0, 0, 100.0),
    Property("widen", "widen", "%", 1.0, 0.01, 20.0, 0, 100.0),
    Property("skew", "skew", "°", 0.0, -80.0, 80.0, 1),
    Property("keep", "keeps area", "%", 0.0, 0.0, 1.0, 0, 100.0, posed=False),
    Property("axis", "stretch axis", "°", 0.0, -360.0, 360.0, 0, posed=False),
)
"""`keep` is how much of its area a bone keeps when it is stretched; at rest, what its own setting says.

`axis` is how far the direction of stretch, width and skew is turned from the bone's own.
"""

_PART = (
    Property("opacity", "opacity", "%", 1.0, 0.0, 1.0, 0, 100.0),
    Property("drawing", "drawing", "", 0.0, 0.0, 1e6, 0, stepped=True, led=True),
    Property("place", "places forward", "", 0.0, -1000.0, 1000.0, 0, stepped=True),
    Property("shown", "shown", "", 1.0, 0.0, 1.0, 0, stepped=True, led=True),
)
"""`drawing` is a drawing's number; `place` how many places further to the front than at rest; `shown` 1 or 0."""

_WHOLE = (
    Property("opacity", "opacity", "%", 1.0, 0.0, 1.0, 0, 100.0, posed=False),
    Property("shown", "shown", "", 1.0, 0.0, 1.0, 0, stepped=True, posed=False),
)
"""Of a puppet as a whole, besides what it has as a bone: it fades as one picture."""

_LIMB = (
    Property("mix", "solved from its tip", "%", 0.0, 0.0, 1.0, 0, 100.0, posed=False),
    Property("tip_x", "tip across", "px", 0.0, -1e5, 1e5, 1, posed=False),
    Property("tip_y", "tip down", "px", 0.0, -1e5, 1e5, 1, posed=False),
    Property("roll", "roll", "°", 0.0, -360.0, 360.0, 1, posed=False),
    Property("flip", "bent the other way", "", 0.0, 0.0, 1.0, 0, stepped=True, posed=False),
    Property("steady", "tip keeps its angle", "%", 1.0, 0.0, 1.0, 0, 100.0, posed=False),
)
"""Of a limb: how far its bones' turns come from where its tip is to be, and where that is.

The tip's place is counted from its spot while it is planted, else from where it lies as the puppet
stands at rest; `roll` turns a planted tip about the point on which it stands. `flip` 1 lets its joints
bend to the other side than they do at rest; `steady` is how much the tip of a limb that is made so keeps
its angle against the ground, which its own turn then is.
"""

_PAD = (
    Property("x", "faces", "°", 0.0, -3600.0, 3600.0, 1, posed=False),
    Property("y", "looks up", "°", 0.0, -90.0, 90.0, 1, posed=False),
)
_GAUGE = (Property("x", "set to", "%", 0.0, -100.0, 100.0, 0, posed=False),)
"""Where the point of a pad or a gauge lies; at nought, the puppet is as it is at rest."""

_WALK = tuple(
    Property(
        s.name, s.label, s.unit, 0.0, -(s.high - s.low) / s.factor, (s.high - s.low) / s.factor, s.decimals, s.factor
    )
    for s in (SETTINGS[name] for name in RIDEABLE)
)
"""Of a walk beneath keys: how far a setting departs from its card."""

_CAMERA = (
    Property("shift_x", "across", "px", 0.0, -1e5, 1e5, 1),
    Property("shift_y", "down", "px", 0.0, -1e5, 1e5, 1),
    Property("stretch", "zoom", "%", 1.0, 0.01, 20.0, 0, 100.0),
    Property("turn", "turn", "°", 0.0, -36000.0, 36000.0, 1),
)
"""Of a camera: its frame is as much smaller as it enlarges."""

_LEADING = (Property("led", "led by others", "%", 1.0, 0.0, 1.0, 0, 100.0, posed=False),)
"""How far something goes along with what leads it besides its keys: drift, and its own swing."""

PROPERTIES: dict[OwnerKind, dict[str, Property]] = {
    "bone": {p.name: p for p in (*_BONE, *_LEADING)},
    "seat": {p.name: p for p in (*_BONE, *_WHOLE, *_LEADING)},
    "pin": {p.name: p for p in (*_BONE, *_LEADING) if p.name in ("turn", "shift_x", "shift_y", "led")},
    "part": {p.name: p for p in _PART},
    "limb": {p.name: p for p in (*_LIMB, *_LEADING)},
    "pad": {p.name: p for p in (*_PAD, *_LEADING)},
    "gauge": {p.name: p for p in (*_GAUGE, *_LEADING)},
    "walk": {p.name: p for p in _WALK},
    "phrase": {},
    "camera": {p.name: p for p in _CAMERA},
}
"""Every property that can be keyed, by kind of owner; the columns of the evaluation's value table."""

NODE_PROPERTIES = tuple(p.name for p in _BONE)

PART_PROPERTIES = tuple(p.name for p in _PART)

LIMB_PROPERTIES = tuple(p.name for p in _LIMB)

WHOLE_PROPERTIES = tuple(p.name for p in _WHOLE)
"""Of seats, besides those of nodes."""

CONTROL_PROPERTIES = tuple(p.name for p in _PAD)
"""Of pads; a gauge has the first of them."""

LEADING_PROPERTIES = tuple(p.name for p in _LEADING)
"""Of all that can be led."""


class Channel(BaseModel):
    """One animated property of one owner in one scene."""

    model_config = ConfigDict(frozen=True)

    id: Id
    scene_id: Id
    instance_id: Id
    owner_kind: OwnerKind
    owner_id: Id
    property: Id
    repeat: RepeatKind | Literal[""] = ""
    """How it goes on beyond its stretch: not at all, over and over, there and back, or onward."""
    repeat_from: Frame | None = None
    repeat_to: Frame | None = None
    """The stretch that repeats, in frames; None for the first and the last key."""


def repeat_of(channel: Channel, keys: Sequence[Key]) -> tuple[Repeat, bool] | None:
    """The stretch of a channel that repeats, and whether what comes before it is played as it is.

    None when nothing repeats: not asked for, or no two keys to go between.
    """
    if not channel.repeat or not keys:
        return None
    start = keys[0].time if channel.repeat_from is None else channel.repeat_from
    end = keys[-1].time if channel.repeat_to is None else channel.repeat_to
    if end - start < TIME:
        return None
    return Repeat(channel.repeat, start, end), channel.repeat_from is not None
