"""A stride on a puppet: what its bones turn and shift by."""

from __future__ import annotations

import cmath
import math

import numpy as np

from gaitwire.core.addresses import OwnAddress
from gaitwire.core.conventions import FloatArray
from gaitwire.core.puppet.model import Bone
from gaitwire.core.walk.four import Girdles
from gaitwire.core.walk.stride import Stride, StridePose
from gaitwire.core.walk.walker import Leg, Walker, place_of

_NECK = 0.6
"""Share of what the head needs to look where it should that the neck does."""
_HANGS = 0.75
"""Share of what turns its bone that cloth and hair take back, so that they hang down."""
_SHOULDERS = 0.12
"""Leg lengths from the spine to a shoulder, in depth: what a twist moves it along by."""


def pose_on(
    walker: Walker, stride: Stride, pose: StridePose, girdles: Girdles | None = None
) -> dict[OwnAddress, FloatArray]:
    """Turns in degrees and shifts in the puppet's pixels (P,), by bone, of a pose of a stride.

    In place: the floor goes by, as far as the pose has gone. With the `girdles` of one that goes on all
    fours its trunk lies between them.
    """
    values: dict[OwnAddress, FloatArray] = {}
    trunk = _Trunk(walker, stride, pose, girdles)
    values[walker.pelvis.id, "shift_x"], values[walker.pelvis.id, "shift_y"] = trunk.shift.real, trunk.shift.imag
    if girdles is not None:
        values[walker.pelvis.id, "turn"] = trunk.turn
    for side, leg in enumerate(walker.legs):
        beside = pose.hips.hip_along[side] - pose.hips.along + 1j * (pose.hips.hip_up[side] - pose.hips.up)
        angles = (np.degrees(a[side]) for a in (pose.leg.thigh, pose.leg.shank, pose.pitch))
        trunk.put_leg(values, leg, walker.length * beside, *angles)
    for side, leg in enumerate(walker.fore.legs if walker.fore and girdles else ()):
        found = girdles.foreleg(side)  # type: ignore[union-attr]
        angles = (np.degrees(a) for a in (found.leg.thigh, found.leg.shank, found.pitch))
        trunk.put_leg(values, leg, found.hip, *angles)
    _upper(walker, pose, values, trunk.turn, girdles is not None)
    return values


class _Trunk:
    """Where the hips are on screen, and how the trunk is turned."""

    def __init__(self, walker: Walker, stride: Stride, pose: StridePose, girdles: Girdles | None) -> None:
        self.walker, self.slope, self.upright = walker, stride.slope, stride.upright
        m, size = walker.facing, walker.length
        self.middle = sum(place_of(leg.thigh) for leg in walker.legs) / 2
        # In place the hips go to and fro about where they are at rest.
        hips = size * (pose.hips.along - pose.gone + 1j * pose.hips.up) / stride.upright
        # The floor goes through the point on which the puppet stands.
        floor = walker.floor - m * (self.middle.real - walker.stands) * math.tan(math.radians(stride.slope))
        pitch = np.zeros_like(pose.phase) if girdles is None else np.degrees(girdles.pitch) + stride.slope
        self.turn: FloatArray = np.asarray(-m * pitch)
        self.round = np.exp(1j * np.radians(self.turn))
        moved = m * hips.real + 1j * (floor - hips.imag - self.middle.imag)
        self.shift = moved + (self.round - 1) * (place_of(walker.pelvis) - self.middle)

    def put_leg(
        self, values: dict[OwnAddress, FloatArray], leg: Leg, hip: np.ndarray, thigh: FloatArray, shank: FloatArray,
        pitch: FloatArray,
    ) -> None:  # fmt: skip
        """Turn a leg's bones to angles in degrees against the floor; its hip lies `hip`, in pixels, from the middle."""
        m, level = self.walker.facing, hip / self.upright
        wanted = m * level.real - 1j * level.imag
        apart = wanted / self.round - (place_of(leg.thigh) - self.middle)
        for prop, row in (("shift_x", apart.real), ("shift_y", apart.imag)):
            values[leg.thigh.id, prop] = np.asarray(row, float)
        turned = 90 - m * (thigh + self.slope) - direction(leg.thigh, leg.shin)
        bent = 90 - m * (shank + self.slope) - direction(leg.shin, leg.foot)
        values[leg.thigh.id, "turn"] = _near(turned - self.turn)
        values[leg.shin.id, "turn"] = _near(bent - turned)
        values[leg.foot.id, "turn"] = _near(-m * (pitch + self.slope) - bent)


def direction(bone: Bone, child: Bone) -> float:
    """Of the line from a joint to the next, degrees on screen at rest."""
    return math.degrees(cmath.phase(place_of(child) - place_of(bone)))


def _near(angle: FloatArray) -> FloatArray:
    """Degrees without a jump along the times, nearest to 0 at the first."""
    course = np.unwrap(angle, period=360.0)
    return np.asarray(course - 360.0 * np.round(course[0] / 360.0))


def _upper(
    walker: Walker, pose: StridePose, values: dict[OwnAddress, FloatArray], carried: FloatArray, four: bool
) -> None:
    """What is above the hips; `carried` is the turn of what the next bone hangs from. On all fours a trunk is stiff."""
    m, upper = walker.facing, pose.upper
    turned_by = {}
    if walker.trunk and not four:
        each = m * upper.chest / len(walker.trunk)
        for n, bone in enumerate(walker.trunk):
            turn = each + (m * upper.trunk if n == 0 else 0.0)
            values[bone.id, "turn"] = turn
            carried = carried + turn
            turned_by[bone.id] = carried
    wanted = -m * upper.head - carried
    if walker.neck is not None and walker.head is not None:
        values[walker.neck.id, "turn"] = _NECK * wanted
        values[walker.head.id, "turn"] = (1 - _NECK) * wanted
    elif walker.head is not None:
        values[walker.head.id, "turn"] = wanted
    if walker.head is not None:
        turned_by[walker.head.id] = carried + wanted
    for bone in walker.hanging:
        values[bone.id, "turn"] = -_HANGS * turned_by.get(bone.parent_id or "", np.zeros_like(carried))
    ahead = m * walker.length * _SHOULDERS * np.sin(np.radians(upper.twist))
    for side, arm in enumerate(walker.arms):
        if arm is None:
            continue
        upper_arm, forearm = arm
        values[upper_arm.id, "shift_x"] = ahead if side == 0 else -ahead
        turned = 90 - m * upper.shoulder[side] - direction(upper_arm, forearm) - carried
        values[upper_arm.id, "turn"] = _near(turned)
        straight = direction(upper_arm, forearm) - forearm.angle if forearm.length else 0.0
        values[forearm.id, "turn"] = _near(straight - m * upper.elbow[side])
