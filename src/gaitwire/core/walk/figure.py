"""A wire figure that walks in place: two legs, two arms, a back and a head, of an adult's proportions."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from gaitwire.core.conventions import Point
from gaitwire.core.walk.stride import Stride

Polyline = tuple[Point, ...]

BACK, ARM, FOREARM, HEAD = 0.62, 0.34, 0.34, 0.15
"""Leg lengths: from hips to shoulders, and of the arms; the head's is its radius."""
_BOW = 0.35
"""Share of the back's length, from below, that leans without curling."""


class WalkFigure(NamedTuple):
    """Its lines, each as points, in leg lengths: facing right, its hips above x = 0, the ground at 0, up negative."""

    far: tuple[Polyline, ...]
    near: tuple[Polyline, ...]
    spine: Polyline
    head: Point
    radius: float = HEAD


def walk_figure(stride: Stride, time: float) -> WalkFigure:
    """The figure at a time in strides; at 0 the near foot comes down in front."""
    pose = stride.at(np.array([time]))
    sole = stride.soles(pose)
    upper, hips = pose.upper, pose.hips
    middle = hips.along[0]

    def at(along: float, up: float) -> Point:
        return float(along - middle), float(-up)

    legs = []
    for side, build in enumerate(stride.sides):
        hip = hips.hip_along[side, 0], hips.hip_up[side, 0]
        thigh, length = pose.leg.thigh[side, 0], build.thigh * pose.leg.stretch[side, 0]
        knee = hip[0] + length * np.sin(thigh), hip[1] - length * np.cos(thigh)
        ends = [(p[side, 0].real, p[side, 0].imag) for p in (sole.ball, sole.toe)]
        ankle = pose.ankle_along[side, 0], pose.ankle_up[side, 0]
        legs.append(tuple(at(*p) for p in (hip, knee, ankle, *ends)))
    lean, curl = np.radians(upper.trunk[0]), np.radians(upper.trunk[0] + upper.chest[0])
    waist = middle + _BOW * BACK * np.sin(lean), hips.up[0] + _BOW * BACK * np.cos(lean)
    neck = waist[0] + (1 - _BOW) * BACK * np.sin(curl), waist[1] + (1 - _BOW) * BACK * np.cos(curl)
    look = np.radians(upper.head[0])
    head = neck[0] + 0.09 * np.cos(look) + 0.12 * np.sin(curl), neck[1] + 0.16 + 0.05 * np.sin(look)
    arms = []
    for side in range(2):
        shoulder, fold = np.radians(upper.shoulder[side, 0]), np.radians(upper.elbow[side, 0])
        top = neck[0] - 0.06 * np.sin(curl), neck[1] - 0.06 * np.cos(curl)
        elbow = top[0] + ARM * np.sin(shoulder), top[1] - ARM * np.cos(shoulder)
        hand = elbow[0] + FOREARM * np.sin(shoulder + fold), elbow[1] - FOREARM * np.cos(shoulder + fold)
        arms.append(tuple(at(*p) for p in (top, elbow, hand)))
    spine = (at(middle, hips.up[0]), at(*waist), at(*neck))
    return WalkFigure((legs[1], arms[1]), (legs[0], arms[0]), spine, at(*head))
