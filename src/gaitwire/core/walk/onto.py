"""A stride on a puppet: its legs' build read off its bones, and what its bones turn and shift by.

The puppet's own pixels have y down; `facing` is 1 where its feet point to greater x, else -1. Bones
that the puppet does not have are left out; without hips, thighs, shins and feet it cannot walk.
"""

from __future__ import annotations

import cmath
import math
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.puppet.model import Bone, Puppet
from gaitwire.core.walk.build import Build
from gaitwire.core.walk.stride import SIDES, Pose, Stride

_HEEL = 0.25
"""Share of a foot's length that its heel lies behind the ankle, where no bone says it."""
_NECK = 0.6
"""Share of what the head needs to look where it should that the neck does."""
_HANGS = 0.75
"""Share of what turns its bone that cloth and hair take back, so that they hang down."""
_SHOULDERS = 0.12
"""Leg lengths from the spine to a shoulder, in depth: what a twist moves it along by."""

Slot = tuple[str, str]
"""(bone id, property)."""


class Leg(NamedTuple):
    """A leg's bones."""

    thigh: Bone
    shin: Bone
    foot: Bone


@dataclass(frozen=True)
class Walker:
    """A puppet's bones as a walk needs them."""

    pelvis: Bone
    legs: tuple[Leg, Leg]  # near, far
    trunk: tuple[Bone, ...]  # from the pelvis up
    neck: Bone | None
    head: Bone | None
    arms: tuple[tuple[Bone, Bone] | None, tuple[Bone, Bone] | None]  # upper arm and forearm
    hanging: tuple[Bone, ...]  # cloth and hair that hang from trunk or head
    length: float  # of a leg, in pixels
    floor: float  # the line on which it stands, in the puppet's pixels
    stands: float  # where on it
    facing: float
    builds: tuple[Build, Build]

    @property
    def owners(self) -> frozenset[str]:
        """Ids of the bones that a walk moves."""
        arms = (b for arm in self.arms if arm for b in arm)
        tops = (b for b in (self.neck, self.head) if b)
        legs = (b for leg in self.legs for b in leg)
        return frozenset(b.id for b in (self.pelvis, *legs, *self.trunk, *tops, *arms, *self.hanging))


def walker_of(puppet: Puppet) -> Walker:
    """The walker in a puppet; raises InvalidInputError that names the roles it lacks."""
    found: dict[tuple[str, str], Bone] = {
        (b.role, b.side): b for b in sorted(puppet.bones, key=lambda b: b.length) if b.role
    }
    legs, lacking = [], []
    for side in SIDES:
        bones = [found.get((role, side)) for role in ("thigh", "shin", "foot")]
        lacking += [f"{side} {role}" for role, b in zip(("thigh", "shin", "foot"), bones, strict=True) if b is None]
        if all(bones):
            legs.append(Leg(*bones))  # type: ignore[arg-type]
    pelvis = found.get(("pelvis", "centre")) or (puppet.bone(legs[0].thigh.parent_id or "") if legs else None)
    if pelvis is None:
        lacking.append("pelvis")
    if lacking or pelvis is None:
        raise InvalidInputError(
            f"“{puppet.name}” cannot walk yet: it has no {', no '.join(lacking)}.",
            "Give its bones their roles and sides on the Bench.",
        )
    length = sum(_reach(leg) for leg in legs) / 2
    if length <= 0:
        raise InvalidInputError("The joints of its legs lie on one spot.", "Put them apart on the Bench.")
    facing = math.copysign(1.0, sum(_along(leg.foot).real for leg in legs))
    middle = sum(_place(leg.thigh) for leg in legs) / 2
    builds = tuple(_build(puppet, leg, middle, length, facing) for leg in legs)
    trunk, head = _trunk(pelvis, found), found.get(("head", "centre"))
    carriers = {b.id for b in (*trunk, *((head,) if head else ()))}
    hanging = (b for b in puppet.bones if b.role in ("cloth", "hair") and b.length > 0 and b.parent_id in carriers)
    return Walker(
        pelvis, (legs[0], legs[1]), trunk, found.get(("neck", "centre")), head,
        (_arm(found, "near"), _arm(found, "far")), tuple(hanging), length, puppet.base_y, puppet.base_x, facing,
        (builds[0], builds[1]),
    )  # fmt: skip


def _place(bone: Bone) -> complex:
    return complex(bone.x, bone.y)


def _along(bone: Bone) -> complex:
    return cmath.rect(bone.length, math.radians(bone.angle))


def _reach(leg: Leg) -> float:
    return abs(_place(leg.shin) - _place(leg.thigh)) + abs(_place(leg.foot) - _place(leg.shin))


def _build(puppet: Puppet, leg: Leg, middle: complex, length: float, facing: float) -> Build:
    """A leg's build in leg lengths, its foot in one piece on the puppet's base line."""
    hip = (_place(leg.thigh) - middle) / length
    ahead = max(abs(_along(leg.foot).real), 0.2 * leg.foot.length)
    return Build(
        thigh=abs(_place(leg.shin) - _place(leg.thigh)) / length,
        shank=abs(_place(leg.foot) - _place(leg.shin)) / length,
        hip=complex(facing * hip.real, -hip.imag),
        ankle=max(puppet.base_y - leg.foot.y, 0.0) / length,
        heel=_HEEL * leg.foot.length / length,
        ball=ahead / length, hinge=0.0, toe=0.0, rigid=True,
    )  # fmt: skip


def _trunk(pelvis: Bone, found: dict[tuple[str, str], Bone]) -> tuple[Bone, ...]:
    """The bones of the trunk above the pelvis, lowest first."""
    own = [b for role in ("waist", "torso", "chest") if (b := found.get((role, "centre"))) and b.id != pelvis.id]
    return tuple(sorted(own, key=lambda b: -b.y))


def _arm(found: dict[tuple[str, str], Bone], side: str) -> tuple[Bone, Bone] | None:
    upper, fore = found.get(("upper arm", side)), found.get(("forearm", side))
    return (upper, fore) if upper and fore else None


def pose_on(walker: Walker, stride: Stride, pose: Pose) -> dict[Slot, FloatArray]:
    """Turns in degrees and shifts in the puppet's pixels (P,), by bone, of a pose of a stride.

    In place: the floor goes by, as far as the pose has gone.
    """
    values: dict[Slot, FloatArray] = {}
    _lower(walker, stride, pose, values)
    _upper(walker, pose, values)
    return values


def _lower(walker: Walker, stride: Stride, pose: Pose, values: dict[Slot, FloatArray]) -> None:
    size, m = walker.length, walker.facing
    middle = sum(_place(leg.thigh) for leg in walker.legs) / 2
    # In place the hips go to and fro about where they are at rest.
    hips = (pose.hips.along - pose.gone + 1j * pose.hips.up) / stride.upright
    values[walker.pelvis.id, "shift_x"] = m * size * hips.real
    # The floor goes through the point on which the puppet stands.
    floor = walker.floor - m * (middle.real - walker.stands) * math.tan(math.radians(stride.slope))
    values[walker.pelvis.id, "shift_y"] = floor - size * hips.imag - middle.imag
    for side, leg in enumerate(walker.legs):
        beside = pose.hips.hip_along[side] - pose.hips.along + 1j * (pose.hips.hip_up[side] - pose.hips.up)
        apart = beside / stride.upright - walker.builds[side].hip
        values[leg.thigh.id, "shift_x"], values[leg.thigh.id, "shift_y"] = m * size * apart.real, -size * apart.imag
        thigh, shank = (np.degrees(a[side]) + stride.slope for a in (pose.leg.thigh, pose.leg.shank))
        turned = 90 - m * thigh - _direction(leg.thigh, leg.shin)
        bent = 90 - m * shank - _direction(leg.shin, leg.foot)
        rolled = -m * (np.degrees(pose.pitch[side]) + stride.slope)
        values[leg.thigh.id, "turn"] = _near(turned)
        values[leg.shin.id, "turn"] = _near(bent - turned)
        values[leg.foot.id, "turn"] = _near(rolled - bent)


def _direction(bone: Bone, child: Bone) -> float:
    """Of the line from a joint to the next, degrees on screen at rest."""
    return math.degrees(cmath.phase(_place(child) - _place(bone)))


def _near(angle: FloatArray) -> FloatArray:
    """Degrees without a jump along the times, nearest to 0 at the first."""
    course = np.unwrap(angle, period=360.0)
    return np.asarray(course - 360.0 * np.round(course[0] / 360.0))


def _upper(walker: Walker, pose: Pose, values: dict[Slot, FloatArray]) -> None:
    m, upper = walker.facing, pose.upper
    carried = np.zeros_like(pose.phase)  # the turn of what the next bone hangs from
    turned_by = {}
    if walker.trunk:
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
        turned = 90 - m * upper.shoulder[side] - _direction(upper_arm, forearm) - carried
        values[upper_arm.id, "turn"] = _near(turned)
        straight = _direction(upper_arm, forearm) - forearm.angle if forearm.length else 0.0
        values[forearm.id, "turn"] = _near(straight - m * upper.elbow[side])
