"""A scene: its length, rate and loop, the puppets in it, and their channels with keys."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Mapping
from fractions import Fraction
from threading import Lock

from pydantic import BaseModel, ConfigDict, Field

from gaitwire.core.conventions import DEFAULT_RATE
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.timing.channel import Channel
from gaitwire.core.timing.key import Key

MAX_FRAMES = 20_000

Grouped = dict[str, list[Key]]
"""Keys by the id of their channel, in order of time."""


class Instance(BaseModel):
    """One puppet in one scene: where its base point stands, and its depth (0 at the back)."""

    model_config = ConfigDict(frozen=True)

    id: str
    scene_id: str
    puppet_id: str
    name: str = Field(min_length=1, max_length=80)
    depth: int = 0
    x: float = Field(default=0.0, allow_inf_nan=False)
    y: float = Field(default=0.0, allow_inf_nan=False)
    scale: float = Field(default=1.0, gt=0, le=1000)
    turned: bool = False
    """Shown mirrored, facing the other way."""
    hidden: bool = False
    locked: bool = False
    backdrop: bool = False
    """Belongs to the background: never caught by a pointer, left out of files without one."""


class Scene(BaseModel):
    """One stage and one stretch of time. The rate is a fraction; changing it keeps the frames."""

    model_config = ConfigDict(frozen=True)

    id: str
    name: str = Field(min_length=1, max_length=80)
    width: int = Field(default=1280, ge=16, le=8192)
    height: int = Field(default=720, ge=16, le=8192)
    frames: int = Field(default=48, ge=1, le=MAX_FRAMES)
    rate_num: int = Field(default=DEFAULT_RATE[0], ge=1, le=240_000)
    rate_den: int = Field(default=DEFAULT_RATE[1], ge=1, le=10_000)
    loop: bool = True
    first_number: int = Field(default=0, ge=0, le=1)
    background: str = Field(default="#f0ddbb", pattern=r"^#[0-9a-f]{6}$")
    ground: float | None = Field(default=None, allow_inf_nan=False)
    """Height of a level floor line in scene pixels, or None."""
    revision: int = 0
    instances: tuple[Instance, ...] = ()
    channels: tuple[Channel, ...] = ()
    keys: tuple[Key, ...] = ()

    @property
    def rate(self) -> Fraction:
        """Frames a second."""
        return Fraction(self.rate_num, self.rate_den)

    @property
    def loop_length(self) -> float | None:
        """Frames of the loop, or None when the scene does not loop."""
        return float(self.frames) if self.loop else None

    def keys_by_channel(self) -> Grouped:
        """Keys of each channel, in order of time; not to be written to."""
        return _by_channel(self.keys)


_RECENT = 8
_grouped: OrderedDict[int, tuple[tuple[Key, ...], Grouped]] = OrderedDict()
_lock = Lock()


def _by_channel(keys: tuple[Key, ...]) -> Grouped:
    """Grouped once for each tuple of keys: one edit asks several times, and there may be tens of thousands.

    The last few are known by identity; the tuple is kept with its groups, so that no other can take its id.
    """
    with _lock:
        if id(keys) in _grouped:
            _grouped.move_to_end(id(keys))
            return _grouped[id(keys)][1]
    found: Grouped = {}
    for key in keys:
        found.setdefault(key.channel_id, []).append(key)
    for row in found.values():
        row.sort(key=lambda k: k.time)
    with _lock:
        _grouped[id(keys)] = (keys, found)
        while len(_grouped) > _RECENT:
            _grouped.popitem(last=False)
    return found


def stamp_of(scene: Scene, puppets: Mapping[str, Puppet]) -> int:
    """A number that grows with every change of the scene or of a puppet in it."""
    return scene.revision + sum(p.revision for p in puppets.values())
