"""Clips: keys taken out of a scene, to be put in elsewhere, as they are, in part, or on the other side."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Literal

from pydantic import BaseModel, ConfigDict, Field

from gaitwire.core.bounds import Id, Name
from gaitwire.core.puppet.counterpart import OwnerMark
from gaitwire.core.timing.channel import OwnerKind
from gaitwire.core.timing.edit import KeyChange, MakeId
from gaitwire.core.timing.key import Key, steeper
from gaitwire.core.timing.loop import wrap
from gaitwire.core.tolerances import TIME

Way = Literal["", "sides", "across"]
"""As it is; near and far trading places, as in side view; or reflected left to right, as from the front."""


class ClipRow(BaseModel):
    """Keys of one property of one owner; their times count from the clip's start."""

    model_config = ConfigDict(frozen=True)

    owner: OwnerMark
    property: Id
    keys: tuple[Key, ...] = Field(max_length=20_000)


class Clip(BaseModel):
    """A pose (every key at 0) or a stretch of keys."""

    model_config = ConfigDict(frozen=True)

    puppet_id: Id = ""
    pose: bool = True
    rows: tuple[ClipRow, ...] = Field(max_length=5000)

    @property
    def owners(self) -> list[OwnerMark]:
        """Each owner once, in order."""
        return list(dict.fromkeys(row.owner for row in self.rows))


class SavedPose(BaseModel):
    """A pose on the pose shelf: a clip under a name, as JSON."""

    model_config = ConfigDict(frozen=True)

    id: Id
    puppet_id: Id
    name: Name
    clip: str = Field(max_length=20_000_000)
    starting: bool = False
    """Keyed by itself when the puppet is brought into a scene."""


def gain_there(prop: str, way: Way, kind: OwnerKind, share: float) -> float:
    """How many times as much a pasted property moves as it did where it was copied; below 0, the other way."""
    over = way == "across" and (prop == "turn" or _turns_over(prop, kind))
    return -share if over else share


def _turns_over(prop: str, kind: OwnerKind) -> bool:
    return prop in _TURNED_OVER or (kind, prop) == ("pad", "x")


_TURNED_OVER = {"shift_x", "skew", "tip_x", "roll", "axis"}


def value_there(prop: str, value: float, angle: float, angle_there: float, way: Way, kind: OwnerKind = "bone") -> float:
    """A value as it is on the other owner, whose bone points elsewhere at rest (degrees).

    Turns keep the direction in which the bone ends up, or its reflection; the nearest of the
    angles that show the same is taken.
    """
    if not way:
        return value
    if prop == "turn":
        if way == "across":
            return _near(180.0 - angle - value - angle_there, -value)
        return _near(angle + value - angle_there, value)
    return -value if way == "across" and _turns_over(prop, kind) else value


def _near(angle: float, to: float) -> float:
    return angle + 360.0 * round((to - angle) / 360.0)


def mixed(prop_rest: float, now: float, wanted: float, share: float) -> float:
    """A share of the way from one value to another; of ratios too, which never come to nothing or less."""
    value = now + share * (wanted - now)
    return max(value, 0.01) if prop_rest == 1.0 else value


def paste_keys(
    keys: Sequence[Key], channel_id: str, pasted: Sequence[Key], start: float, loop: float | None, make_id: MakeId,
    values: Mapping[str, float], gain: float = 1.0,
) -> KeyChange:  # fmt: skip
    """Put a clip's keys into a channel from a time on, with new values by key id; those they land on give way.

    What is between them bends by `gain` times as much as in the clip.
    """
    put: dict[int, Key] = {}
    for key in pasted:
        time = start + key.time
        if loop is not None:
            time = wrap(time, loop)
        update = {"id": make_id(), "channel_id": channel_id, "time": time, "value": values[key.id]}
        put[round(time / TIME)] = steeper(key.model_copy(update=update), gain)
    gone = tuple(k.id for k in keys if round(k.time / TIME) in put)
    return KeyChange(tuple(put.values()), gone)
