"""What leads a bone, a pin, a limb's tip, a pad, a gauge or a whole puppet, as a row of a scene."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from gaitwire.core.bounds import Id
from gaitwire.core.motion.drivers.drift import Drift
from gaitwire.core.motion.loose.settings import Loose
from gaitwire.core.timing.channel import OwnerKind

Settings = Annotated[Drift | Loose, Field(discriminator="kind")]
"""What can lead; a new kind is a model with a `kind` of its own and its place here."""


class Driver(BaseModel):
    """One owner is led; `settings` say by what."""

    model_config = ConfigDict(frozen=True)

    id: Id
    scene_id: Id
    instance_id: Id
    owner_kind: OwnerKind
    owner_id: Id
    settings: Settings
