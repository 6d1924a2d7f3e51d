"""Phrases of an arm: pointing, waving, urging on."""

from __future__ import annotations

from gaitwire.core.motion.ready.making import Param, Ready, Score, Values, row, score

_SETTLE = 6.0


def _point(v: Values) -> Score:
    out, hold, high = v["out"], v["hold"], v["high"]
    before, there = 0.6 * out, 1.6 * out
    done = there + _SETTLE + hold
    # The arm goes back first, passes its mark, and drifts while it is held.
    arm = [
        (0.0, 0.0), (before, 0.16 * high), (there, -1.07 * high), (there + _SETTLE, -high), (done, -high - 1.5),
        (done + 1.8 * out, 0.06 * high), (done + 1.8 * out + _SETTLE, 0.0),
    ]  # fmt: skip
    fold = [
        (0.0, 0.0),
        (before + 1, -0.45 * high),
        (there + 1, 3.0),
        (done, 2.0),
        (done + 0.9 * out, -14.0),
        (done + 2 * out, 0.0),
    ]
    hand = [(0.0, 0.0), (before + 2, 12.0), (0.75 * there + 2, 20.0), (there + 3, -6.0), (there + 3 + _SETTLE, 0.0)]
    trunk = [
        (0.0, 0.0),
        (before, -0.6 * v["lean"]),
        (there, 1.1 * v["lean"]),
        (done, v["lean"]),
        (done + 1.6 * out, 0.0),
    ]
    return score(
        row("chest", "turn", trunk),
        row("head", "turn", trunk, late=1.0, share=-0.6),
        row("upper arm", "turn", arm, "near"),
        row("forearm", "turn", fold, "near"),
        row("hand", "turn", hand, "near"),
        row("upper arm", "turn", trunk, "far", late=2.0, share=1.2),
    )


POINT = Ready(
    "point", "Point", ("arm", "show", "there"), "side",
    (
        Param("high", "height", "°", 84, 10, 170, "How far the arm is raised from hanging; 90 is level."),
        Param("out", "frames out", "f", 7, 3, 60, "How long the arm takes to go out. Few are sharp, many are vague."),
        Param("hold", "stays for", "f", 16, 0, 500, "How long it points."),
        Param("lean", "lean", "°", 5, -20, 30, "How far the trunk goes with it."),
    ),
    _point, still=1.0,
)  # fmt: skip


def _wave(v: Values) -> Score:
    rise, each, sweep, high = v["rise"], v["frames"], v["sweep"], v["high"]
    count = round(v["times"])
    ways, up = range(1, 2 * count), -0.35 * high  # a forearm that stands up beside the face, not before it
    swings = [(0.0, 0.0), (rise, up - 0.5 * sweep), *((rise + each * n, up + (n % 2 - 0.5) * sweep) for n in ways)]
    done = swings[-1][0]
    arm = [
        (0.0, 0.0), (0.35 * rise, 0.06 * high), (rise, -1.03 * high), (rise + 0.5 * each, -high), (done, -high),
        (done + 1.2 * rise, 0.05 * high), (done + 1.2 * rise + _SETTLE, 0.0),
    ]  # fmt: skip
    swings += [(done + 0.5 * rise, up - 0.5 * sweep), (done + 1.4 * rise, 0.0)]
    return score(
        row("upper arm", "turn", arm, "near"),
        row("forearm", "turn", swings, "near"),
        row("hand", "turn", swings, "near", late=3.0, share=0.35),
        row("chest", "turn", [(0.0, 0.0), (rise, -2.0), (done, -2.0), (done + rise, 0.0)]),
        row("head", "turn", [(0.0, 0.0), (rise + 2, -3.0), (done, -2.0), (done + rise, 0.0)]),
    )


WAVE = Ready(
    "wave", "Wave", ("arm", "greet", "farewell"), "side",
    (
        Param("high", "height", "°", 108, 30, 175, "How far the arm is raised from hanging."),
        Param("sweep", "sweep", "°", 46, 5, 120, "How far the forearm goes to and fro."),
        Param("times", "times", "", 2, 1, 12, "How often it goes to and fro.", 0),
        Param("frames", "frames a way", "f", 10, 3, 60, "How long one way takes. Few are eager, twenty are slow."),
        Param("rise", "frames up", "f", 12, 4, 60, "How long the arm takes to go up."),
    ),
    _wave, still=1.0,
)  # fmt: skip


def _urge(v: Values) -> Score:
    each, sweep, lean = v["frames"], v["sweep"], v["lean"]
    count = round(v["times"])
    arm, fold, trunk = [(0.0, 0.0)], [(0.0, 0.0)], [(0.0, 0.0)]
    for n in range(count):
        at = each * n
        arm += [(at + 0.35 * each, -0.25 * sweep), (at + 0.75 * each, -sweep)]
        fold += [(at + 0.35 * each, -1.1 * sweep), (at + 0.75 * each, -0.15 * sweep)]
        trunk += [(at + 0.3 * each, -0.5 * lean), (at + 0.75 * each, lean)]
    done = each * count
    arm += [(done + 0.6 * each, 0.05 * sweep), (done + 0.6 * each + _SETTLE, 0.0)]
    fold += [(done + 0.8 * each, 0.0)]
    trunk += [(done + 0.8 * each, 0.0)]
    return score(
        row("chest", "turn", trunk),
        row("head", "turn", trunk, late=2.0, share=0.5),
        row("upper arm", "turn", arm, "near"),
        row("forearm", "turn", fold, "near", late=1.0),
        row("hand", "turn", fold, "near", late=3.0, share=-0.35),
        row("upper arm", "turn", trunk, "far", late=2.0, share=-1.5),
    )


URGE = Ready(
    "urge", "Urge on", ("arm", "body", "come", "hurry"), "side",
    (
        Param("sweep", "sweep", "°", 70, 10, 150, "How far the arm sweeps out in front."),
        Param("times", "times", "", 3, 1, 12, "How often.", 0),
        Param("frames", "frames each", "f", 14, 5, 60, "How long one sweep takes. Few are impatient."),
        Param("lean", "lean", "°", 6, 0, 30, "How far the trunk is thrown into it."),
    ),
    _urge, still=1.0,
)  # fmt: skip
