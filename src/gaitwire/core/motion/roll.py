"""Rolling: a wheel or a barrel is turned by the distance its puppet goes."""

from __future__ import annotations

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from gaitwire.core.bounds import Id
from gaitwire.core.conventions import FloatArray


class Roll(BaseModel):
    """A bone that rolls on the floor as its puppet is moved; `radius` in the puppet's pixels."""

    model_config = ConfigDict(frozen=True)

    id: Id
    scene_id: Id
    instance_id: Id
    owner_id: Id
    radius: float = Field(gt=0.01, le=1e5, allow_inf_nan=False)

    def turn(self, across: FloatArray, down: FloatArray, pixels: float) -> FloatArray:
        """Degrees (F,) that it has turned when its puppet has gone some scene pixels (F,), straight on.

        `pixels` are scene pixels for one of the puppet's own, less than 0 if it is turned round: then a
        way to the right turns it the other way in its own space, and the same way on the stage.
        """
        way = np.copysign(np.hypot(across, down), across)
        return np.asarray(np.degrees(way / (self.radius * pixels)))
