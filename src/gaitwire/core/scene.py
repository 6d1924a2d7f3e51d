"""A scene: its length, rate and loop, the puppets in it, and their channels with keys."""

from __future__ import annotations

import hashlib
from collections import OrderedDict
from collections.abc import Mapping
from fractions import Fraction
from operator import attrgetter
from threading import Lock

from pydantic import BaseModel, ConfigDict, Field

from gaitwire.core.bounds import Id, Name, Place, Rank, Share
from gaitwire.core.conventions import DEFAULT_RATE
from gaitwire.core.guide import Guide
from gaitwire.core.links import Bearing, Hitch, Plant
from gaitwire.core.motion.drivers.driver import Driver
from gaitwire.core.motion.loose.settings import Weather
from gaitwire.core.motion.phrase import Phrases, PhraseUse
from gaitwire.core.motion.ready import READY
from gaitwire.core.motion.roll import Roll
from gaitwire.core.motion.turning import Turn
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.sound import Sound
from gaitwire.core.timing.channel import Channel
from gaitwire.core.timing.key import Key
from gaitwire.core.timing.mark import Marker, Pose
from gaitwire.core.timing.offset import Offset
from gaitwire.core.timing.stay import valued
from gaitwire.core.walk.span import GaitSpan

MAX_FRAMES = 20_000

CAMERA_ID = "camera"
"""Id of the puppet without parts that every camera is."""

Grouped = dict[str, list[Key]]
"""Keys by the id of their channel, in order of time."""


class Instance(BaseModel):
    """One puppet in one scene: where its base point stands, and its depth (0 at the back)."""

    model_config = ConfigDict(frozen=True)

    id: Id
    scene_id: Id
    puppet_id: Id
    name: Name
    depth: Rank = 0
    x: Place = 0.0
    y: Place = 0.0
    scale: float = Field(default=1.0, gt=0, le=1000, allow_inf_nan=False)
    turned: bool = False
    """Shown mirrored, facing the other way."""
    hidden: bool = False
    locked: bool = False
    backdrop: bool = False
    """Belongs to the background: never caught by a pointer, left out of files without one."""
    guide: bool = False
    """Only to draw from: shown faintly, never caught by a pointer, in no file."""
    faint: Share = 0.5
    """How strongly it shows as a guide."""
    distance: float = Field(default=1.0, ge=0, le=4, allow_inf_nan=False)
    """How much of a camera's way it takes part in, with what its parts say: 1 as the stage, 0 stays put."""
    exposure: int = Field(default=1, ge=1, le=24)
    """Frames for which each of its pictures stays: 1 on ones, 2 on twos..."""
    holds: bool = False
    """New poses hold: what is keyed stands still until the next key, until it is timed."""

    @property
    def pixels(self) -> float:
        """Scene pixels along the stage for one of the puppet's own; less than 0 when it is turned."""
        return -self.scale if self.turned else self.scale

    @property
    def is_camera(self) -> bool:
        """Whether it is the camera, and no puppet."""
        return self.puppet_id == CAMERA_ID

    @property
    def aside(self) -> bool:
        """Not worked on: of the background, only to draw from, or the camera."""
        return self.backdrop or self.guide or self.is_camera

    def exposed(self, frame: float) -> float:
        """The frame whose picture shows at a frame."""
        return frame // self.exposure * self.exposure if self.exposure > 1 else frame


class Scene(BaseModel):
    """One stage and one stretch of time. The rate is a fraction; changing it keeps the frames."""

    model_config = ConfigDict(frozen=True)

    id: Id
    name: Name
    width: int = Field(default=1280, ge=16, le=8192)
    height: int = Field(default=720, ge=16, le=8192)
    frames: int = Field(default=48, ge=1, le=MAX_FRAMES)
    rate_num: int = Field(default=DEFAULT_RATE[0], ge=1, le=240_000)
    rate_den: int = Field(default=DEFAULT_RATE[1], ge=1, le=10_000)
    loop: bool = True
    bounce: bool = False
    """A scene that does not loop is played there and back."""
    move_length: int = Field(default=0, ge=0, le=1000)
    """Frames before a new key in which its bone starts to move; 0: from the key before it."""
    creep: int = Field(default=12, ge=1, le=10_000)
    """Frames from which on a segment that nobody meant to move is marked."""
    first_number: int = Field(default=0, ge=0, le=1)
    background: str = Field(default="#f0ddbb", pattern=r"^#[0-9a-f]{6}$")
    ground: Place | None = None
    """Height of a level floor line in scene pixels, or None."""
    grid: float = Field(default=0.0, ge=0, le=1000, allow_inf_nan=False)
    """Pixels between the lines of the grid; 0 for none."""
    snaps: bool = False
    """Whether what is shifted by hand catches on the grid."""
    fall: float | None = Field(default=None, ge=0, le=1e5, allow_inf_nan=False)
    """What is loose falls by that many pixels a second, each second; None: as the height of its figure tells."""
    wind: float = Field(default=0.0, ge=0, le=1e4, allow_inf_nan=False)
    """Pixels a second."""
    wind_turn: float = Field(default=0.0, ge=-180, le=180, allow_inf_nan=False)
    """Degrees from rightwards."""
    gusts: float = Field(default=0.4, ge=0, le=2, allow_inf_nan=False)
    """How much the wind's strength changes, a share of it."""
    revision: int = 0
    instances: tuple[Instance, ...] = ()
    channels: tuple[Channel, ...] = ()
    keys: tuple[Key, ...] = ()
    poses: tuple[Pose, ...] = ()
    markers: tuple[Marker, ...] = ()
    offsets: tuple[Offset, ...] = ()
    guides: tuple[Guide, ...] = ()
    sounds: tuple[Sound, ...] = ()
    plants: tuple[Plant, ...] = ()
    hitches: tuple[Hitch, ...] = ()
    bearings: tuple[Bearing, ...] = ()
    gaits: tuple[GaitSpan, ...] = ()
    rolls: tuple[Roll, ...] = ()
    phrase_uses: tuple[PhraseUse, ...] = ()
    turns: tuple[Turn, ...] = ()
    drivers: tuple[Driver, ...] = ()

    @property
    def rate(self) -> Fraction:
        """Frames a second."""
        return Fraction(self.rate_num, self.rate_den)

    @property
    def camera(self) -> Instance | None:
        """Its camera, if it has one."""
        return next((i for i in self.instances if i.is_camera), None)

    @property
    def weather(self) -> Weather:
        """What pulls and blows."""
        return Weather(self.fall, self.wind, self.wind_turn, self.gusts)

    @property
    def loop_length(self) -> float | None:
        """Frames of the loop, or None when the scene does not loop."""
        return float(self.frames) if self.loop else None

    @property
    def tied_to(self) -> set[str]:
        """Ids of the phrases that uses in it are tied to, without those that ship."""
        return {u.source for u in self.phrase_uses if u.source and u.source not in READY}

    @property
    def filmed(self) -> Scene:
        """The scene without what is only there to draw from; itself where all of it is meant."""
        if not any(i.guide for i in self.instances):
            return self
        return self.model_copy(update={"instances": tuple(i for i in self.instances if not i.guide)})

    def floor_under(self, instance: Instance) -> float | None:
        """The height of the floor under a puppet: the floor line, or below it, where it was put nearer to the eye."""
        return None if self.ground is None else max(self.ground, instance.y)

    def keys_by_channel(self, asleep: bool = False) -> Grouped:
        """Keys of each channel, in order of time, stays with the value they repeat; not to be written to.

        What lies beyond the end of a loop sleeps until that is made longer, and is left out unless asked for.
        """
        every = _by_channel(self.keys, self.loop, None)
        if asleep or not self.loop or all(row[0].time >= 0 and row[-1].time < self.frames for row in every.values()):
            return every
        return _by_channel(self.keys, self.loop, self.frames)


_RECENT = 8
_grouped: OrderedDict[tuple[int, bool, int | None], tuple[tuple[Key, ...], Grouped]] = OrderedDict()
_lock = Lock()


def _by_channel(keys: tuple[Key, ...], loop: bool, end: int | None) -> Grouped:
    """Those before `end`, grouped once for each tuple of keys: one edit asks several times, for tens of thousands.

    The last few are known by identity; the tuple is kept with its groups, so that no other can take its id.
    """
    known = (id(keys), loop, end)
    with _lock:
        if known in _grouped:
            _grouped.move_to_end(known)
            return _grouped[known][1]
    found: Grouped = {}
    for key in keys:
        if end is None or 0 <= key.time < end:
            found.setdefault(key.channel_id, []).append(key)
    for channel_id, row in found.items():
        row.sort(key=attrgetter("time"))
        found[channel_id] = valued(row, loop)
    with _lock:
        _grouped[known] = (keys, found)
        while len(_grouped) > _RECENT:
            _grouped.popitem(last=False)
    return found


def stamp_of(scene: Scene, puppets: Mapping[str, Puppet], phrases: Phrases) -> int:
    """A number of 32 bits that says which state of the scene, its puppets and the phrases it is tied to is meant.

    A hash of them by their ids: revisions that were only added up would be the same again where a puppet goes.
    """
    documents = [(scene.id, scene.revision), *((p.id, p.revision) for p in puppets.values())]
    known = sorted([*documents, *((p.id, p.revision) for p in phrases.values())])
    return int.from_bytes(hashlib.blake2b(repr(known).encode(), digest_size=4).digest(), "little")
