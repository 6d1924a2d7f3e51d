"""The walker in a puppet: the bones that a walk moves, and the build of its legs, read off them.

The puppet's own pixels have y down; `facing` is 1 where its feet point to greater x, else -1. Bones
that the puppet does not have are left out; without hips, thighs, shins and feet it cannot walk. One
that has forelegs too goes on all fours.
"""

from __future__ import annotations

import cmath
import math
from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import NamedTuple

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.puppet.limb_chains import limb_bones
from gaitwire.core.puppet.model import Bone, Puppet
from gaitwire.core.puppet.views import VIEWS, View
from gaitwire.core.walk.build import ADULT, Build
from gaitwire.core.walk.stride import SIDES

_HEEL = 0.25
"""Share of a foot's length that its heel lies behind the ankle, where no bone says it."""
_BENT_BACK = 0.03
"""Share of a leg by which a four-legged one's joint lies behind the line from hip to ankle where it bends backward."""


class Leg(NamedTuple):
    """A leg's bones."""

    thigh: Bone
    shin: Bone
    foot: Bone


class Fore(NamedTuple):
    """The forelegs of one that goes on all fours."""

    legs: tuple[Leg, Leg]
    builds: tuple[Build, Build]  # in lengths of a foreleg
    length: float  # of one, in pixels
    ahead: complex  # from the middle of the hips to that of the shoulders at rest, pixels: forward, and up


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
    fore: Fore | None = None
    """The forelegs of one that goes on all fours."""
    view: View = "side"
    limbed: frozenset[str] = frozenset()
    """Ids of bones of limbs: what hangs from them does not take after their stretch."""

    @property
    def owners(self) -> frozenset[str]:
        """Ids of the bones that a walk moves."""
        arms = (b for arm in self.arms if arm for b in arm)
        tops = (b for b in (self.neck, self.head) if b)
        trunk = () if self.fore else self.trunk
        return self.lower | frozenset(b.id for b in (*trunk, *tops, *arms, *self.hanging))

    @property
    def lower(self) -> frozenset[str]:
        """Ids of the bones that carry the feet: the hips and the legs."""
        legs = (b for leg in (*self.legs, *(self.fore.legs if self.fore else ())) for b in leg)
        return frozenset(b.id for b in (self.pelvis, *legs))


def walker_of(puppet: Puppet) -> Walker:
    """The walker in a puppet; raises InvalidInputError that names the roles it lacks."""
    found: dict[tuple[str, str], Bone] = {
        (b.role, b.side): b for b in sorted(puppet.bones, key=lambda b: b.length) if b.role
    }
    legs, lacking = _legs(found, _LEG)
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
    ahead = sum(_along(leg.foot).real for leg in legs)
    facing = 1.0 if VIEWS[puppet.view].ahead == 0 else math.copysign(1.0, ahead)
    middle = sum(place_of(leg.thigh) for leg in legs) / 2
    fore = _fore(puppet, found, middle, facing)
    builds = tuple(_build(puppet, leg, middle, length, facing, fore is not None) for leg in legs)
    limbed = limb_bones(puppet)
    if puppet.view != "side":
        builds = tuple(_seen_build(build) for build in builds)
        if missing := [b.name for leg in legs for b in leg[:2] if b.id not in limbed]:
            raise InvalidInputError(
                f"Drawn {VIEWS[puppet.view].label}, “{puppet.name}” walks on limbs, and has none of {missing[0]}.",
                "Make limbs for its feet on the Bench.",
            )
    trunk, head = _trunk(pelvis, found), found.get(("head", "centre"))
    carriers = {b.id for b in (*trunk, *((head,) if head else ()))}
    hanging = (b for b in puppet.bones if b.role in ("cloth", "hair") and b.length > 0 and b.parent_id in carriers)
    return Walker(
        pelvis, (legs[0], legs[1]), trunk, found.get(("neck", "centre")), head,
        (_arm(found, "near"), _arm(found, "far")), tuple(hanging), length, puppet.base_y, puppet.base_x, facing,
        (builds[0], builds[1]), fore if puppet.view == "side" else None, puppet.view, frozenset(limbed),
    )  # fmt: skip


def facing_of(puppet: Puppet) -> float:
    """1 for a puppet that looks to greater x, else -1; what cannot walk is taken to look there."""
    try:
        return walker_of(puppet).facing
    except InvalidInputError:
        return 1.0


_LEG = ("thigh", "shin", "foot")
_FORELEG = ("fore thigh", "fore shin", "fore foot")


def _legs(found: Mapping[tuple[str, str], Bone], roles: tuple[str, str, str]) -> tuple[list[Leg], list[str]]:
    """The legs, near and far, whose bones are there, and the names of the bones that are not."""
    legs, lacking = [], []
    for side in SIDES:
        bones = [found.get((role, side)) for role in roles]
        lacking += [f"{side} {role}" for role, b in zip(roles, bones, strict=True) if b is None]
        if all(bones):
            legs.append(Leg(*bones))  # type: ignore[arg-type]
    return legs, lacking


def _fore(puppet: Puppet, found: Mapping[tuple[str, str], Bone], hips: complex, facing: float) -> Fore | None:
    """The forelegs, where both are whole."""
    legs, lacking = _legs(found, _FORELEG)
    if lacking:
        return None
    length = sum(_reach(leg) for leg in legs) / 2
    middle = sum(place_of(leg.thigh) for leg in legs) / 2
    if length <= 0 or abs(middle - hips) <= 0:
        return None
    builds = tuple(_build(puppet, leg, middle, length, facing, four=True) for leg in legs)
    ahead = middle - hips
    return Fore((legs[0], legs[1]), (builds[0], builds[1]), length, complex(facing * ahead.real, -ahead.imag))


def place_of(bone: Bone) -> complex:
    """A joint at rest, in the puppet's pixels."""
    return complex(bone.x, bone.y)


def _along(bone: Bone) -> complex:
    return cmath.rect(bone.length, math.radians(bone.angle))


def _reach(leg: Leg) -> float:
    return abs(place_of(leg.shin) - place_of(leg.thigh)) + abs(place_of(leg.foot) - place_of(leg.shin))


def _build(puppet: Puppet, leg: Leg, middle: complex, length: float, facing: float, four: bool) -> Build:
    """A leg's build in leg lengths, its foot in one piece on the puppet's base line."""
    hip = (place_of(leg.thigh) - middle) / length
    line, joint = place_of(leg.foot) - place_of(leg.thigh), place_of(leg.shin) - place_of(leg.thigh)
    before = -facing * (line.conjugate() * joint).imag / max(abs(line), 1e-9) / length
    ahead = max(abs(_along(leg.foot).real), 0.2 * leg.foot.length)
    return Build(
        thigh=abs(place_of(leg.shin) - place_of(leg.thigh)) / length,
        shank=abs(place_of(leg.foot) - place_of(leg.shin)) / length,
        hip=complex(facing * hip.real, -hip.imag),
        ankle=max(puppet.base_y - leg.foot.y, 0.0) / length,
        heel=_HEEL * leg.foot.length / length,
        ball=ahead / length, hinge=0.0, toe=0.0, rigid=True, bend=-1 if four and before < -_BENT_BACK else 1,
    )  # fmt: skip


def _seen_build(build: Build) -> Build:
    """A build whose foot and hips are not seen along the way: these are an adult's."""
    return replace(build, hip=0j, heel=ADULT.heel, ball=ADULT.ball, bend=1)


def _trunk(pelvis: Bone, found: dict[tuple[str, str], Bone]) -> tuple[Bone, ...]:
    """The bones of the trunk above the pelvis, lowest first."""
    own = [b for role in ("waist", "torso", "chest") if (b := found.get((role, "centre"))) and b.id != pelvis.id]
    return tuple(sorted(own, key=lambda b: -b.y))


def _arm(found: dict[tuple[str, str], Bone], side: str) -> tuple[Bone, Bone] | None:
    upper, fore = found.get(("upper arm", side)), found.get(("forearm", side))
    return (upper, fore) if upper and fore else None
