"""Limbs in the evaluation: when plants hold them, and how they come from their keys to that and go back.

All is done for every frame at once; where a plant begins and ends, the frames asked for hold those ends
too, so that what the limb's own keys lack there can be given back over the frames beside it.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from gaitwire.core.conventions import FloatArray, IntArray
from gaitwire.core.links import Plant
from gaitwire.core.puppet.model import Limb
from gaitwire.core.timing.channel import LIMB_PROPERTIES, NODE_PROPERTIES
from gaitwire.core.tolerances import TIME

TURN, SHIFT_X, SHIFT_Y, STRETCH, WIDEN, SKEW, KEEP, AXIS = range(len(NODE_PROPERTIES))
MIX, TIP_X, TIP_Y, ROLL, FLIP, STEADY = range(len(LIMB_PROPERTIES))
"""Columns of the tables of nodes and of limbs."""


@dataclass(frozen=True)
class LimbPlan:
    """A limb of a compiled puppet as the evaluation needs it."""

    limb: Limb
    row: int  # in the puppet's table of limbs
    chain: IntArray  # (n,) its nodes, root first
    tip: int  # node of its tip bone, or -1 for a limb that is whole
    end: complex  # the end from the last bone's pivot, at rest
    heel: complex  # where the tip stands, from its joint at rest
    ball: complex
    flat: float  # the tip's direction at rest, degrees
    stands: complex  # the end as the puppet stands at rest, in scene pixels
    mirror: float
    plants: tuple[Plant, ...]
    switches: tuple[float, ...] = ()
    """Frames on which its mix goes up at once, from its bones' turns to its tip."""

    @property
    def steady(self) -> bool:
        """Whether its tip keeps its angle against the ground."""
        return self.limb.steady and self.tip >= 0

    @cached_property
    def nodes(self) -> IntArray:
        """The chain and, after it, the tip if it has one."""
        return self.chain if self.tip < 0 else np.append(self.chain, self.tip)


SWITCH = 6.0
"""Frames over which a limb goes from how its bones turned it to how it is solved from its tip."""


def smooth(share: FloatArray) -> FloatArray:
    """From 0 to 1 with no speed at either end, nor any change of it (the smallest such polynomial)."""
    x = np.clip(share, 0.0, 1.0)
    return np.asarray(x**3 * (10 - 15 * x + 6 * x**2))


def nearest(angle: FloatArray) -> FloatArray:
    """The same turn within half a round, degrees."""
    return np.asarray(np.mod(angle + 180.0, 360.0) - 180.0)


def since_plant(plant: Plant, times: FloatArray, loop: float | None) -> tuple[FloatArray, FloatArray]:
    """Frames from a plant's start, and frames until it, both 0 or more on a loop."""
    since = times - plant.start
    return (since, -since) if loop is None else (np.mod(since, loop), np.mod(-since, loop))


def is_planted(plant: Plant, times: FloatArray, loop: float | None) -> np.ndarray:
    """On which of the frames (F,) a plant holds."""
    since, until = since_plant(plant, times, loop)
    held = (since >= -TIME) & (since <= plant.stop - plant.start + TIME)
    return np.asarray(held | (until < TIME) if loop is not None else held)


def fading(plant: Plant, times: FloatArray, loop: float | None) -> tuple[FloatArray | None, FloatArray | None]:
    """How much of what a limb lacked when a plant began, and when it ended, is still given to it (F,) each.

    None where it is nothing on any of the frames.
    """
    since, until = since_plant(plant, times, loop)
    after = since - (plant.stop - plant.start)
    return _share(until, plant.soft_in), _share(after, plant.soft_out)


def _share(away: FloatArray, soft: float) -> FloatArray | None:
    near = (away > 0) & (away < soft)
    return np.where(near, 1 - smooth(away / soft), 0.0) if near.any() else None


@dataclass(frozen=True)
class Release:
    """From a frame on a limb goes over from how it stood there to what its keys say, over some frames."""

    time: float
    column: int  # that frame, among those evaluated
    soft: float
    rows: FloatArray  # (m + 1,) how it stood there: turns, and the factor on its length


def blended(
    plan: LimbPlan, base: FloatArray, planted: FloatArray, holds: Sequence[np.ndarray], times: FloatArray,
    loop: float | None, columns: Mapping[float, int], releases: Sequence[Release] = (),
) -> FloatArray:  # fmt: skip
    """Rows (m, F) of a limb, its turns and its factor, as its plants ask and else as its keys do, going over softly.

    `columns` says where the ends of plants lie among the frames.
    """
    if not releases and any(held.all() for held in holds):
        return planted
    out = base.copy()
    for plant, held in zip(plan.plants, holds, strict=True):
        for end, share in zip((plant.start, plant.stop), fading(plant, times, loop), strict=True):
            column = columns.get(end)
            if share is not None and column is not None and held[column]:
                out += nearest(planted[:, [column]] - base[:, [column]]) * share
    for held in holds:
        if held.any():
            out = np.where(held, planted, out)
    for release in releases:
        out = released(out, times, release)
    return out


def released(rows: FloatArray, times: FloatArray, release: Release) -> FloatArray:
    """Rows (m + 1, F) that go over from how a limb stood on a frame to themselves."""
    since = times - release.time
    share = np.where(since >= -TIME, 1 - smooth(since / max(release.soft, TIME)), 0.0)
    return rows + nearest(release.rows[:, None] - rows[:, [release.column]]) * share
