"""Puppet, bone, part, replacement, pin and limb: frozen models, defined once and used by every layer."""

from __future__ import annotations

from typing import Literal, get_args

from pydantic import BaseModel, ConfigDict, Field, model_validator

from gaitwire.core.bounds import Degrees, Extent, Id, Label, Name, Number, Place, Rank
from gaitwire.core.conventions import UP
from gaitwire.core.puppet.controls import Control, Entry
from gaitwire.core.puppet.roles import Region, Side
from gaitwire.core.puppet.views import View

Tag = Literal["", "rust", "ochre", "moss", "slate", "mauve"]
"""A colour to tell bones apart by, as the user likes."""

TAGS: tuple[Tag, ...] = get_args(Tag)

PinKind = Literal["lead", "anchor"]
PIN_KINDS: tuple[PinKind, ...] = get_args(PinKind)

LONGEST_LIMB = 8
"""Bones."""


class Bone(BaseModel):
    """Anything that moves. Without length it is a group.

    x and y are the pivot in the puppet's pixels at rest; angle is the direction towards the tip.
    """

    model_config = ConfigDict(frozen=True)

    id: Id
    puppet_id: Id
    name: Name
    parent_id: Id | None = None
    rank: Rank = 0
    x: Place = 0.0
    y: Place = 0.0
    angle: Degrees = UP
    length: Extent = 0.0
    region: Region = "body"
    side: Side = "centre"
    role: Label = ""
    hidden: bool = False
    locked: bool = False
    keep_volume: bool = False
    tag: Tag = ""
    low: float | None = Field(default=None, ge=-720, le=720, allow_inf_nan=False)
    """Least turn from rest in degrees, or None. Hands are held to it; keys may go beyond."""
    high: float | None = Field(default=None, ge=-720, le=720, allow_inf_nan=False)
    reach: float = Field(default=1.0, ge=0.05, le=20, allow_inf_nan=False)
    """How wide its change-over to the next bone is in soft parts, against what their thickness asks for."""

    @model_validator(mode="after")
    def _limits_in_order(self) -> Bone:
        if self.low is not None and self.high is not None and self.low > self.high:
            raise ValueError("the lower limit lies above the upper one")
        return self


class Part(BaseModel):
    """One piece of artwork, hanging from one bone; a soft one bends with others too. Rank 0 lies at the back."""

    model_config = ConfigDict(frozen=True)

    id: Id
    puppet_id: Id
    bone_id: Id
    name: Name
    rank: Rank = 0
    art_hash: Id
    opacity: float = Field(default=1.0, ge=0, le=1)
    hidden: bool = False
    locked: bool = False
    shows: Number = 0
    """Number of the drawing it shows at rest: 0 is its own, others are replacements."""
    soft: bool = False
    grain: float = Field(default=0.0, ge=0, le=1000, allow_inf_nan=False)
    """Pixels between the points of a soft part's mesh; 0: as fits the art."""
    bends_with: tuple[Id, ...] = ()
    """Ids of the bones that bend it besides its own."""
    came_as: Label = ""
    """Name of the layer it came from, by which the artist's next version of it is known."""
    weights_hash: Id = ""
    """Blob of weights that were brushed by hand, or '' for those that the bones' places give."""
    distance: float = Field(default=1.0, ge=0, le=4, allow_inf_nan=False)
    """How much of a camera's way it takes part in: 1 as the stage, less what is far, 0 stays put."""
    shadow: float = Field(default=0.0, ge=0, le=10_000, allow_inf_nan=False)
    """A shadow lies on the ground; risen by so many pixels it has half its size. 0: it is none."""


class Replacement(BaseModel):
    """Another drawing that a part can show. Its number is its own for good; keys name it by that."""

    model_config = ConfigDict(frozen=True)

    id: Id
    puppet_id: Id
    part_id: Id
    number: int = Field(ge=1, le=1_000_000)
    name: Name
    rank: Rank = 0
    art_hash: Id
    smear: bool = False
    """Made for one frame, as it stands there: it does not bend with a soft part, nor count for its mesh."""


class Pin(BaseModel):
    """A point of a soft part that can be moved (lead) or that holds it still (anchor)."""

    model_config = ConfigDict(frozen=True)

    id: Id
    puppet_id: Id
    part_id: Id
    name: Name
    kind: PinKind = "lead"
    bone_id: Id | None = None
    """The bone that carries it, or None: it goes with the art, wherever the bones bend that to."""
    rank: Rank = 0
    x: Place = 0.0
    y: Place = 0.0
    holds_turn: bool = False
    """The art round it turns as the pin does, and not as it likes."""
    stiffness: float = Field(default=0.0, ge=0, le=1, allow_inf_nan=False)
    hidden: bool = False


class Limb(BaseModel):
    """A chain of bones that can be solved from its tip.

    It ends at the joint of its tip bone (a hand: the wrist), whose turn stays its own; or, `whole`,
    at that bone's own tip.
    """

    model_config = ConfigDict(frozen=True)

    id: Id
    puppet_id: Id
    name: Name
    tip_id: Id
    whole: bool = False
    count: int = Field(default=2, ge=2, le=LONGEST_LIMB)
    """Bones in the chain."""
    bend: Literal[-1, 1] = 1
    """Side its joints bend to: 1 clockwise, -1 the other way."""
    stretch: float = Field(default=0.0, ge=0, le=1, allow_inf_nan=False)
    """Share of its length by which it may be stretched to reach."""
    softness: float = Field(default=0.0, ge=0, le=0.5, allow_inf_nan=False)
    """Share of its length over which it slows down before it is straight."""
    steady: bool = False
    """Its tip bone keeps its angle against the ground where the limb is pulled, or solved from its tip."""


class Puppet(BaseModel):
    """A puppet: its page, the point it stands on, its bones, its parts (back to front) and what they can do."""

    model_config = ConfigDict(frozen=True)

    id: Id
    name: Name
    width: float = Field(gt=0, le=1e5, allow_inf_nan=False)
    height: float = Field(gt=0, le=1e5, allow_inf_nan=False)
    base_x: Place = 0.0
    base_y: Place = 0.0
    view: View = "side"
    """From where it is drawn: walks are projected so."""
    revision: int = 0
    bones: tuple[Bone, ...] = ()
    parts: tuple[Part, ...] = ()
    replacements: tuple[Replacement, ...] = ()
    pins: tuple[Pin, ...] = ()
    limbs: tuple[Limb, ...] = ()
    controls: tuple[Control, ...] = ()
    entries: tuple[Entry, ...] = ()

    def bone(self, bone_id: str) -> Bone | None:
        """The bone of that id, if it is there."""
        return next((b for b in self.bones if b.id == bone_id), None)

    def part(self, part_id: str) -> Part | None:
        """The part of that id, if it is there."""
        return next((p for p in self.parts if p.id == part_id), None)

    def control(self, control_id: str) -> Control | None:
        """The bend fix, pad or gauge of that id, if it is there."""
        return next((c for c in self.controls if c.id == control_id), None)

    def entry(self, entry_id: str) -> Entry | None:
        """The entry of that id, if it is there."""
        return next((e for e in self.entries if e.id == entry_id), None)

    def entries_of(self, control_id: str) -> tuple[Entry, ...]:
        """The entries of a control, from left to right."""
        own = (e for e in self.entries if e.control_id == control_id)
        return tuple(sorted(own, key=lambda e: (e.x, e.y, e.id)))

    def drawings(self, part: Part) -> tuple[Replacement, ...]:
        """All drawings of a part, its own first (number 0), then its replacements in their order."""
        own = Replacement.model_construct(
            id=part.id, puppet_id=part.puppet_id, part_id=part.id, number=0, name=part.name, rank=-1,
            art_hash=part.art_hash,
        )  # fmt: skip
        others = sorted((r for r in self.replacements if r.part_id == part.id), key=lambda r: (r.rank, r.number))
        return (own, *others)

    def pins_of(self, part_id: str) -> tuple[Pin, ...]:
        """The pins of a part, in their order."""
        return tuple(sorted((p for p in self.pins if p.part_id == part_id), key=lambda p: (p.rank, p.id)))
