"""Phrases of the body: shrugs, breaths, shifts of weight."""

from __future__ import annotations

import math
from itertools import pairwise

from gaitwire.core.motion.ready.making import Param, Ready, Score, Values, row, score


def _shrug(v: Values) -> Score:
    up, hold, lift, hands = v["frames"], v["hold"], v["lift"] / 100, v["hands"]
    done = up + hold
    shoulders = [
        (0.0, 0.0), (0.35 * up, 0.18 * lift), (up, -1.05 * lift), (up + 3, -lift), (done, -0.94 * lift),
        (done + 0.8 * up, 0.14 * lift), (done + 0.8 * up + 5, 0.0),
    ]  # fmt: skip
    open_ = [(0.0, 0.0), (up + 1, -hands), (done, -hands * 0.95), (done + 1.3 * up, 0.0)]
    tilt = [(0.0, 0.0), (up + 2, v["tilt"]), (done, v["tilt"] * 0.9), (done + 1.2 * up, 0.0)]
    arms = [
        made
        for side in ("near", "far")
        for made in (
            row("upper arm", "shift_y", shoulders, side),
            row("upper arm", "turn", open_, side, share=0.22),
            row("forearm", "turn", open_, side, late=1.0),
            row("hand", "turn", open_, side, late=3.0, share=-0.4),
        )
    ]
    return score(
        *arms,
        row("head", "shift_y", shoulders, late=1.0, share=-0.4),
        row("head", "turn", tilt),
        row("chest", "turn", tilt, share=-0.25),
    )


SHRUG = Ready(
    "shrug", "Shrug", ("body", "arm", "unsure", "whatever"), "any",
    (
        Param("lift", "lift", "%", 5, 0.5, 20, "How far the shoulders go up, in percent of a leg."),
        Param("hands", "hands open", "°", 48, 0, 120, "How far the forearms come up."),
        Param("tilt", "tilt", "°", -7, -40, 40, "How far the head goes over; below nothing, chin up."),
        Param("frames", "frames up", "f", 7, 3, 60, "How long it takes to go up."),
        Param("hold", "stays for", "f", 10, 0, 500, "How long the shoulders stay up."),
    ),
    _shrug,
)  # fmt: skip


def _breathe(v: Values) -> Score:
    each, depth = v["frames"], v["depth"]
    chest = [(0.0, 0.0)]
    for n in range(round(v["times"])):
        # In is quicker than out, and out ends in a rest.
        chest += [(each * (n + 0.4), -depth), (each * (n + 0.9), 0.04 * depth), (each * (n + 1), 0.0)]
    lifts = [(t, value * v["shoulders"] / 100 / max(depth, 1e-6)) for t, value in chest]
    return score(
        row("chest", "turn", chest),
        row("neck", "turn", chest, late=2.0, share=-0.55),
        row("head", "turn", chest, late=3.0, share=-0.35),
        row("upper arm", "shift_y", lifts, "near", late=1.0),
        row("upper arm", "shift_y", lifts, "far", late=1.0),
        row("upper arm", "turn", chest, "near", late=3.0, share=-0.8),
        row("upper arm", "turn", chest, "far", late=3.0, share=-0.8),
    )


BREATHE = Ready(
    "breathe", "Breathe", ("body", "idle", "alive", "tired"), "any",
    (
        Param("depth", "depth", "°", 2, 0.2, 20, "How far the chest opens. Much of it is out of breath."),
        Param("shoulders", "shoulders", "%", 1, 0, 10, "How far they are lifted, in percent of a leg."),
        Param("frames", "frames a breath", "f", 64, 8, 400, "Sixty and more at rest, twenty out of breath."),
        Param("times", "breaths", "", 1, 1, 50, "How many.", 0),
    ),
    _breathe,
)  # fmt: skip


def _shift(v: Values) -> Score:
    over, hold, goes = v["frames"], v["hold"], v["sway"] / 100
    stands = [(0.0, 0.0), (over, goes), (over + hold, 0.96 * goes), (2 * over + hold, 0.0)]
    way = _fine(stands)
    leans = [(t, math.degrees(math.asin(x))) for t, x in way]
    sinks = [(t, 1 - math.sqrt(1 - x * x)) for t, x in way]
    trunk = [(t, -v["lean"] * math.copysign(1, goes) * x / max(abs(goes), 1e-6)) for t, x in stands]
    legs = [
        made
        for side in ("near", "far")
        for made in (
            row("thigh", "turn", leans, side, ease="linear"),
            row("foot", "turn", leans, side, share=-1.0, ease="linear"),
        )
    ]
    return score(
        row("pelvis", "shift_x", way, ease="linear"),
        row("pelvis", "shift_y", sinks, ease="linear"),
        *legs,
        row("chest", "turn", trunk, late=2.0),
        row("head", "turn", trunk, late=4.0, share=-0.8),
        row("upper arm", "turn", trunk, "near", late=5.0, share=-0.7),
        row("upper arm", "turn", trunk, "far", late=5.0, share=-0.7),
    )


def _fine(points: list[tuple[float, float]]) -> list[tuple[float, float]]:
    """Points on every frame, eased from each to the next: legs turn on circles, and feet are to stay."""
    found = [points[0]]
    for (t0, x0), (t1, x1) in pairwise(points):
        steps = max(1, math.ceil(t1 - t0))
        for n in range(1, steps + 1):
            share = n / steps
            found.append((t0 + share * (t1 - t0), x0 + (x1 - x0) * (1 - math.cos(math.pi * share)) / 2))
    return found


SHIFT = Ready(
    "shift-weight", "Shift weight", ("body", "idle", "weight"), "side",
    (
        Param("sway", "sway", "%", 9, -25, 25, "How far the hips go forward, in percent of a leg; or back."),
        Param("lean", "counter-lean", "°", 3, 0, 20, "How far the trunk goes the other way."),
        Param("frames", "frames", "f", 16, 4, 120, "How long it takes."),
        Param("hold", "stays for", "f", 24, 0, 500, "How long the weight stays there."),
    ),
    _shift,
)  # fmt: skip
