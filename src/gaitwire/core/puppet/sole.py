"""Where a limb's tip touches: a foot's heel and ball, a hand's middle."""

from __future__ import annotations

import math
from typing import NamedTuple

from gaitwire.core.puppet.model import Bone, Limb, Puppet

_BEHIND, _BALL, _DROP = 0.25, 0.7, 0.3
"""Shares of a foot's length: its heel behind the ankle, its ball before it, its sole below where the ground is far."""


class Sole(NamedTuple):
    """Points of a tip at rest, in the puppet's pixels, from the tip's joint: both the same where it is no foot."""

    heel: complex
    ball: complex


def sole_of(puppet: Puppet, limb: Limb) -> Sole:
    """The points on which a limb's tip stands.

    A foot stands on the puppet's base line, by its heel and its ball (its toe's joint, if it has a toe
    bone); any other tip holds on by the middle of its bone.
    """
    tip = puppet.bone(limb.tip_id)
    if tip is None or limb.whole:
        return Sole(0j, 0j)
    angle = math.radians(tip.angle)
    along = complex(math.cos(angle), math.sin(angle)) * tip.length
    if tip.role != "foot":
        return Sole(along / 2, along / 2)
    below = puppet.base_y - tip.y
    if not 0 <= below <= 2 * max(tip.length, 1.0):
        below = _DROP * tip.length
    ahead = math.copysign(tip.length, along.real)
    toe = _toe(puppet, tip)
    ball = toe.x - tip.x if toe is not None else _BALL * ahead
    return Sole(complex(-_BEHIND * ahead, below), complex(ball, below))


def _toe(puppet: Puppet, foot: Bone) -> Bone | None:
    return next((b for b in puppet.bones if b.parent_id == foot.id and b.role == "toe"), None)
