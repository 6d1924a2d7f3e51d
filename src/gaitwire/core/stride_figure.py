"""One stride of a wire figure, to draw from: two legs, two arms, a back and a head, walking in place.

A rule of thumb, not a measured walk (*common practice*: a leg swings through some 25 degrees to
either side, its knee bends most as it passes, arms swing against legs).
"""

from __future__ import annotations

import math
from typing import NamedTuple

Point = tuple[float, float]


class StrideFrame(NamedTuple):
    """The figure's lines on one frame, each as points, in pixels; the ground is at height 0, up is negative."""

    far: tuple[tuple[Point, ...], ...]
    near: tuple[tuple[Point, ...], ...]
    spine: tuple[Point, ...]
    head: Point
    hip: Point


THIGH, SHIN, FOOT, BACK, ARM, HEAD = 100.0, 96.0, 36.0, 120.0, 66.0, 30.0
"""Lengths in pixels; the head's is its radius."""


def stride_frame(share: float) -> StrideFrame:
    """The figure at a share of its stride, facing right; at 0 the near foot has just come down in front."""
    phases = {"near": 2 * math.pi * share, "far": 2 * math.pi * (share + 0.5)}
    legs = {side: _leg(phase) for side, phase in phases.items()}
    lowest = max(y for leg in legs.values() for _, y in leg)
    hip = (0.0, -lowest)

    def placed(points: tuple[Point, ...], at: Point) -> tuple[Point, ...]:
        return tuple((at[0] + x, at[1] + y) for x, y in points)

    lean = math.radians(4.0)
    neck = (hip[0] + BACK * math.sin(lean), hip[1] - BACK * math.cos(lean))
    arms = {side: placed(_arm(phase + math.pi), neck) for side, phase in phases.items()}
    head = (neck[0] + 0.2 * HEAD, neck[1] - 1.25 * HEAD)
    return StrideFrame(
        (placed(legs["far"], hip), arms["far"]), (placed(legs["near"], hip), arms["near"]), (hip, neck), head, hip
    )


def _leg(phase: float) -> tuple[Point, ...]:
    """Hip, knee, ankle and toe; the thigh is furthest forward at phase 0."""
    thigh = math.radians(25.0 * math.cos(phase) + 2.0)
    swing = max(0.0, math.sin(phase + math.pi + 0.08))  # while the leg comes forward
    knee = math.radians(6.0 + 58.0 * swing**1.5)
    shin = thigh - knee
    pitch = shin + math.radians(14.0 * math.cos(phase) - 26.0 * max(0.0, -math.cos(phase + 0.5)))
    kx, ky = THIGH * math.sin(thigh), THIGH * math.cos(thigh)
    ax, ay = kx + SHIN * math.sin(shin), ky + SHIN * math.cos(shin)
    return (0.0, 0.0), (kx, ky), (ax, ay), (ax + FOOT * math.cos(pitch), ay - FOOT * math.sin(pitch))


def _arm(phase: float) -> tuple[Point, ...]:
    upper = math.radians(24.0 * math.cos(phase))
    lower = upper + math.radians(18.0 + 12.0 * math.cos(phase))
    ex, ey = ARM * math.sin(upper), ARM * math.cos(upper)
    return (0.0, 8.0), (ex, 8.0 + ey), (ex + ARM * math.sin(lower), 8.0 + ey + ARM * math.cos(lower))
