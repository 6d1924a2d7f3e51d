"""A walk seen from the front, the back or three-quarter: the strides of the side view, projected.

Every joint is a point ahead, up and across; an eye at some distance and height sees it, so that what
comes towards it grows, and feet rise and fall on the floor with how far away they are. Bones are turned
and foreshortened to lie between the joints: planted feet stay on their spots of the floor. How the body
sways over its feet and how shoulders tilt against hips is common practice.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from gaitwire.core.addresses import OwnAddress
from gaitwire.core.conventions import FloatArray
from gaitwire.core.puppet.model import Bone
from gaitwire.core.puppet.views import VIEWS
from gaitwire.core.walk.stride import Stride, StridePose
from gaitwire.core.walk.walker import Leg, Walker, place_of

TAU = 2 * np.pi
DISTANCE, EYE = 12.0, 1.7
"""Leg lengths from the eye to where a walk begins, and from the floor to the eye."""
NEAREST = 0.8
"""Share of the way to the eye from which on nothing grows any more."""
_SWAY = 0.022
"""Leg lengths by which the hips come over the foot that stands, for a sway of 1."""
_SPLAY = np.radians(8.0)
"""Of arms that hang, to either side."""
_SHOULDERS = 1.5
"""Leg lengths from the floor to the shoulders."""
_COUNTER = 1.5
"""Of the tilt of the hips, what the chest is turned back by."""
_LOOKS = 0.0035
"""Leg lengths that a head goes up or down for each degree that it looks up or down."""
_LEAST, _MOST = 0.15, 3.0
"""Shares of its length to which a bone is foreshortened or drawn out."""


@dataclass(frozen=True)
class Projection:
    """How a walker's points are seen, in the puppet's pixels; `gone` (P,) is how far it has come by itself."""

    walker: Walker
    gone: FloatArray

    @cached_property
    def _view(self) -> tuple[float, float]:
        view = VIEWS[self.walker.view]
        return view.ahead * self.walker.facing, view.toward

    def size(self, along: FloatArray | float) -> FloatArray:
        """How large what is `along` from it, in pixels, is seen (P,)."""
        far = DISTANCE * self.walker.length
        depth = np.minimum(self._view[1] * (along + self.gone), NEAREST * far)
        return np.asarray(far / (far - depth))

    def _stage(self, along: FloatArray | float, up: FloatArray | float, across: FloatArray | float) -> np.ndarray:
        size, eye = self.size(along), EYE * self.walker.length
        return np.asarray((across + self._view[0] * (along + self.gone)) * size + 1j * ((eye - up) * size - eye))

    @cached_property
    def seat(self) -> tuple[np.ndarray, FloatArray]:
        """Where the point on which it stands has come to (P,), complex from where it began, and its size."""
        return self._stage(0.0, 0.0, 0.0), self.size(0.0)

    def at(self, along: FloatArray | float, up: FloatArray | float, across: FloatArray | float) -> np.ndarray:
        """Points (P,) as they lie in the puppet, complex from the point on which it stands."""
        place, size = self.seat
        return np.asarray((self._stage(along, up, across) - place) / size)

    def width(self, along: FloatArray | float) -> FloatArray:
        """How wide something is (P,), against where it stands."""
        return np.asarray(self.size(along) / self.seat[1])


def foreshortened(
    walker: Walker, stride: Stride, pose: StridePose, gone: FloatArray, pixels: float
) -> dict[OwnAddress, FloatArray]:
    """Turns, shifts and stretches (P,) by bone, as `pose_on`.

    Where it has `gone` some leg lengths (P,), with the seat's under the owner '', in scene pixels, of which
    `pixels` are one of the puppet's.
    """
    return _Seen(walker, stride, pose, Projection(walker, gone * walker.length), pixels).values()


class _Seen:
    """One pose of a walk as it is seen."""

    def __init__(self, walker: Walker, stride: Stride, pose: StridePose, view: Projection, pixels: float) -> None:
        self.walker, self.stride, self.pose, self.view, self.pixels = walker, stride, pose, view, pixels
        self.found: dict[OwnAddress, FloatArray] = {}
        self.base = complex(walker.stands, walker.floor)
        self.middle = sum(place_of(leg.thigh) for leg in walker.legs) / 2
        self.sides = [self._sign(n) for n in range(2)]

    def _sign(self, side: int) -> float:
        """To which side of the stage a leg is drawn; legs on one line are drawn near to the left."""
        off = self.walker.legs[side].thigh.x - self.middle.real
        return float(np.sign(off)) or (-1.0, 1.0)[side]

    def values(self) -> dict[OwnAddress, FloatArray]:
        self._seat()
        tilt = self._hips()
        for side, leg in enumerate(self.walker.legs):
            self._leg(side, leg, tilt)
        self._upper(tilt)
        return self.found

    def _seat(self) -> None:
        if not self.view.gone.any():
            return
        place, size = self.view.seat
        pixels = self.pixels
        self.found |= {("", "shift_x"): pixels * place.real, ("", "shift_y"): abs(pixels) * place.imag}
        self.found |= {("", "stretch"): size, ("", "widen"): size}

    def _across(self) -> FloatArray:
        """Where the middle of the hips is across (P,): over the foot that stands."""
        over = np.cos(TAU * (self.pose.phase - self.stride.steps[0].stance / 2))
        sway = self.stride.broad.sway * _SWAY * self.walker.length * self.sides[0]
        return np.asarray(self.middle.real - self.base.real + sway * over)

    def _hip(self, side: int) -> np.ndarray:
        size, hips, leg = self.walker.length, self.pose.hips, self.walker.legs[side]
        along, up = hips.hip_along[side] - self.pose.gone, hips.hip_up[side]
        return self.view.at(size * along, size * up, self._across() + leg.thigh.x - self.middle.real)

    def _hips(self) -> FloatArray:
        """Place the pelvis; radians (P,) by which it is tilted."""
        size, hips, pelvis = self.walker.length, self.pose.hips, self.walker.pelvis
        middle = self.view.at(size * (hips.along - self.pose.gone), size * hips.up, self._across())
        near, far = self._hip(0), self._hip(1)
        rest = place_of(self.walker.legs[1].thigh) - place_of(self.walker.legs[0].thigh)
        wide = abs(rest) > 0.05 * size
        tilt = np.angle((far - near) / rest) if wide else np.zeros_like(self.pose.phase)
        shift = middle + self.base - self.middle + (np.exp(1j * tilt) - 1) * (place_of(pelvis) - self.middle)
        self._put(pelvis, shift_x=shift.real, shift_y=shift.imag, turn=np.degrees(tilt))
        return np.asarray(tilt)

    def _leg(self, side: int, leg: Leg, tilt: FloatArray) -> None:
        size, build, pose = self.walker.length, self.stride.sides[side], self.pose
        hip = self._hip(side)
        hip_across = self._across() + leg.thigh.x - self.middle.real
        foot_across = self.middle.real - self.base.real + self.sides[side] * self.stride.broad.stance_width / 2 * size
        along = size * (pose.hips.hip_along[side] - pose.gone + build.thigh * np.sin(pose.leg.thigh[side]))
        up = size * (pose.hips.hip_up[side] - build.thigh * np.cos(pose.leg.thigh[side]))
        share = build.thigh / build.length
        knee = self.view.at(along, up, hip_across + share * (foot_across - hip_across))
        ankle_along, ankle_up = size * (pose.ankle_along[side] - pose.gone), size * pose.ankle_up[side]
        ankle = self.view.at(ankle_along, ankle_up, foot_across)
        # Where the hip lies by itself: what turns the pelvis has taken it along.
        pelvis = self.found[self.walker.pelvis.id, "shift_x"] + 1j * self.found[self.walker.pelvis.id, "shift_y"]
        round_, pivot = np.exp(1j * tilt), place_of(self.walker.pelvis)
        lies = pelvis + pivot + round_ * (place_of(leg.thigh) - pivot)
        apart = (hip + self.base - lies) / round_
        self._put(leg.thigh, shift_x=apart.real, shift_y=apart.imag)
        turned = self._bone(leg.thigh, place_of(leg.shin) - place_of(leg.thigh), knee - hip, tilt, along)
        turned = self._bone(leg.shin, place_of(leg.foot) - place_of(leg.shin), ankle - knee, turned, ankle_along)
        self._foot(side, leg.foot, turned, ankle, foot_across)

    def _foot(self, side: int, foot: Bone, turned: FloatArray, ankle: np.ndarray, across: float) -> None:
        """The foot by where its ball is seen, against where that is as it stands flat where the walk begins."""
        size, build, pose = self.walker.length, self.stride.sides[side], self.pose
        reach = (build.ball - 1j * build.ankle) * np.exp(1j * pose.pitch[side])
        along, up = pose.ankle_along[side] - pose.gone + reach.real, pose.ankle_up[side] + reach.imag
        ball = self.view.at(size * along, size * up, across) - ankle
        still = Projection(self.walker, np.zeros(1))
        flat = still.at(size * build.ball, 0.0, across) - still.at(0.0, size * build.ankle, across)
        ratio = ball / flat
        self._put(
            foot, turn=np.degrees(np.angle(ratio) - turned), stretch=_held(np.abs(ratio)),
            widen=self.view.width(size * along),
        )  # fmt: skip

    def _bone(
        self, bone: Bone, reach: complex, seen: np.ndarray, above: FloatArray, along: FloatArray | float
    ) -> FloatArray:
        """Let a bone, whose next joint lies at `reach` at rest, be seen as `seen` (P,); its turn then, radians."""
        wide = self.view.width(along)
        axis = np.exp(1j * np.radians(bone.angle))
        own = reach / axis
        if bone.id in self.walker.limbed and abs(own.real) > 0:
            left = np.maximum(np.abs(seen) ** 2 - (wide * own.imag) ** 2, 0.0)
            stretch = _held(np.sqrt(left) / abs(own.real))
            self._put(bone, stretch=stretch, widen=wide)
            lies = axis * (stretch * own.real + 1j * wide * own.imag)
        else:
            lies = np.full(len(seen), reach)
        turned = np.unwrap(np.angle(seen / lies))
        self._put(bone, turn=np.degrees(turned - above))
        return np.asarray(turned)

    def _upper(self, tilt: FloatArray) -> None:
        walker, upper = self.walker, self.pose.upper
        carried, turned_by = tilt, {}
        if walker.trunk:
            back = -_COUNTER * tilt
            self._put(walker.trunk[0], turn=np.degrees(back))
            carried = tilt + back
            turned_by = {bone.id: carried for bone in walker.trunk}
        if walker.head is not None:
            up = walker.length * _LOOKS * upper.head
            self._put(walker.head, turn=-np.degrees(carried), shift_y=-up)
            turned_by[walker.head.id] = 0.0 * carried
        for bone in walker.hanging:
            self._put(bone, turn=-np.degrees(turned_by.get(bone.parent_id or "", 0.0 * carried)))
        for side, arm in enumerate(walker.arms):
            if arm is not None:
                self._arm(side, arm, carried)

    def _arm(self, side: int, arm: tuple[Bone, Bone], carried: FloatArray) -> None:
        upper, fore = arm
        size, angles = self.walker.length, self.pose.upper
        swing = np.radians(angles.shoulder[side])
        bent = swing + np.radians(angles.elbow[side])
        long, rest = abs(place_of(fore) - place_of(upper)), np.exp(1j * np.radians(fore.angle)) * fore.length
        out = self.sides[side] * np.sin(_SPLAY)
        top = self.view.at(0.0, _SHOULDERS * size, 0.0)
        along, up = long * np.sin(swing), _SHOULDERS * size - long * np.cos(swing)
        elbow = self.view.at(along, up, out * long)
        end = along + fore.length * np.sin(bent), up - fore.length * np.cos(bent)
        wrist = self.view.at(*end, out * (long + 0.4 * fore.length))
        turned = self._bone(upper, place_of(fore) - place_of(upper), elbow - top, carried, along)
        self._bone(fore, complex(rest), wrist - elbow, turned, end[0])

    def _put(self, bone: Bone, **rows: FloatArray) -> None:
        for prop, row in rows.items():
            self.found[bone.id, prop] = np.asarray(row, float)
        if "stretch" in rows and bone.keep_volume:  # what is foreshortened does not grow wider by that
            self.found[bone.id, "keep"] = np.full(len(self.pose.phase), -1.0)


def _held(ratio: FloatArray) -> FloatArray:
    return np.clip(ratio, _LEAST, _MOST)
