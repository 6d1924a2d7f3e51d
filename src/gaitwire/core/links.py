"""What joins bones beyond their parents, on spans of frames: plants, hitches and bearings."""

from __future__ import annotations

from typing import Annotated, Self

from pydantic import BaseModel, ConfigDict, Field, model_validator

from gaitwire.core.bounds import Degrees, Frame, Id, Place

FrameCount = Annotated[float, Field(allow_inf_nan=False, ge=0, le=1000)]


class Plant(BaseModel):
    """A span of frames in which a limb's tip stays on its spot; both ends are included.

    The spot is where the tip's joint lies when the tip lies flat on it: in scene pixels, or in the
    space of the bone that carries it. `angle` turns the spot from how the tip lies at rest, `pitch`
    the tip against its spot while the limb's own roll is 0; both in degrees, clockwise on screen for
    a puppet that is not turned round. Over `soft_in` frames before and `soft_out` after it the limb
    comes from, and goes back to, what its keys say.
    """

    model_config = ConfigDict(frozen=True)

    id: Id
    scene_id: Id
    instance_id: Id
    limb_id: Id
    start: Frame
    stop: Frame
    carrier_instance: Id = ""
    carrier_id: Id = ""
    """The bone that the spot goes with, and its puppet in the scene; '' for the ground."""
    x: Place = 0.0
    y: Place = 0.0
    angle: Degrees = 0.0
    pitch: Degrees = 0.0
    soft_in: FrameCount = 4.0
    soft_out: FrameCount = 6.0

    @model_validator(mode="after")
    def _in_order(self) -> Self:
        if self.stop < self.start:
            raise ValueError("a plant ends after it begins")
        return self


class Hitch(BaseModel):
    """From a frame on, a bone with all that hangs from it, or a whole puppet, goes with another bone.

    Where nothing carries it (carrier ''), a bone goes with its own parent again, and a puppet stays
    where it was let go, or flies (`arc`): as a thrown thing does, to the hand that takes it next, or to
    the ground.
    """

    model_config = ConfigDict(frozen=True)

    id: Id
    scene_id: Id
    instance_id: Id
    owner_id: Id
    """The bone; for a whole puppet, its instance."""
    time: Frame
    carrier_instance: Id = ""
    carrier_id: Id = ""
    arc: bool = False
    gravity: float = Field(default=1200.0, allow_inf_nan=False, gt=0, le=1e5)
    """Scene pixels a second, each second."""
    spin: float = Field(default=0.0, allow_inf_nan=False, ge=-1e4, le=1e4)
    """Degrees a second while it flies."""


class Bearing(BaseModel):
    """Which bone carries a puppet's body from a frame on; '' for the one it hangs from at rest.

    The bone stays where it is on that frame, and the body moves about it; what is keyed on the
    puppet's root from then on moves the bearing. `soft` is the number of frames over which a limb that
    becomes a bearing, or is one no longer, goes over to its own keys.
    """

    model_config = ConfigDict(frozen=True)

    id: Id
    scene_id: Id
    instance_id: Id
    time: Frame
    owner_id: Id = ""
    soft: FrameCount = 6.0


Link = Plant | Hitch
"""What lets one thing go with another."""
