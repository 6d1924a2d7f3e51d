"""Phrases of the head: nods, looks, listening, doubting."""

from __future__ import annotations

from gaitwire.core.motion.ready.making import Param, Ready, Score, Values, row, score

_SETTLE = 5.0
"""Frames in which what has arrived comes to rest."""


def _nod(v: Values) -> Score:
    each, depth = v["frames"], v["depth"]
    points = [(0.0, 0.0), (0.25 * each, -v["lift"])]
    for n in range(round(v["times"])):
        # Each nod is a little smaller than the one before it, and rises less than all the way.
        goes = depth * 0.78**n
        points += [(each * (n + 0.6), goes), (each * (n + 1.05), goes * 0.12)]
    last = points[-1][0]
    points = [*points[:-1], (last, -0.12 * depth), (last + _SETTLE, 0.0)]
    return score(
        row("neck", "turn", points, share=0.35),
        row("head", "turn", points, late=1.0, share=0.65),
        row("chest", "turn", points, share=0.08),
        *(row(role, "turn", points, late=3.0, share=-0.3) for role in ("hair", "hat")),
    )


NOD = Ready(
    "nod", "Nod", ("head", "yes", "agree", "greet"), "side",
    (
        Param("depth", "depth", "°", 16, 1, 60, "How far the chin goes down. A little is a hint, much is eager."),
        Param("times", "nods", "", 2, 1, 12, "How many, each a little smaller than the one before it.", 0),
        Param("frames", "frames a nod", "f", 11, 4, 60, "Few are eager, many are grave."),
        Param("lift", "lift before", "°", 4, 0, 30, "How far the chin goes up first."),
    ),
    _nod,
)  # fmt: skip


def _look(v: Values) -> Score:
    goes, over, hold = -v["up"], v["frames"], v["hold"]
    dips = [(0.0, 0.0), (0.45 * over, v["dip"]), (over, 0.0)]
    turn = [
        (0.0, 0.0), (0.25 * over, -0.12 * goes), (over, 1.08 * goes), (over + _SETTLE, goes),
        (over + _SETTLE + hold, goes), (2.2 * over + _SETTLE + hold, 0.0),
    ]  # fmt: skip
    squeeze = 1 - v["squeeze"] / 100
    return score(
        row("neck", "turn", turn, share=0.4),
        row("head", "turn", turn, late=2.0, share=0.6),
        row("chest", "turn", turn, late=3.0, share=0.12),
        row("head", "shift_y", dips, share=0.01),
        row("head", "widen", [(0.0, 1.0), (0.5 * over, squeeze), (over + 1, 1.0)]),
    )


LOOK = Ready(
    "look", "Look up or down", ("head", "turn", "notice"), "side",
    (
        Param("up", "up", "°", 18, -60, 60, "How far it looks up; below nothing, down."),
        Param("frames", "frames", "f", 9, 3, 60, "How long the turn takes. A quick one is under half a second."),
        Param("hold", "stays for", "f", 18, 0, 500, "How long it goes on looking."),
        Param("dip", "dip", "%", 2.5, 0, 15, "How far the head sinks on its way, in percent of a leg."),
        Param("squeeze", "squeeze", "%", 5, 0, 40, "How much narrower the head is in the middle of the turn."),
    ),
    _look,
)  # fmt: skip


def _listen(v: Values) -> Score:
    over, hold, lean = v["frames"], v["hold"], v["lean"]
    done = over + hold
    trunk = [(0.0, 0.0), (over, lean), (over + 0.5 * hold, lean * 1.08), (done, lean), (done + 1.3 * over, 0.0)]
    tilt = v["tilt"]
    # A head that listens is never quite still.
    head = [
        (0.0, 0.0), (0.3 * over, -0.1 * tilt), (over + 2, 1.05 * tilt), (over + 0.35 * hold, 0.94 * tilt),
        (over + 0.7 * hold, tilt), (done + 2, tilt), (done + 1.3 * over + 2, 0.0),
    ]  # fmt: skip
    return score(
        row("chest", "turn", trunk),
        row("neck", "turn", trunk, late=2.0, share=0.5),
        row("head", "turn", head, share=-1.0),
        row("upper arm", "turn", trunk, "near", late=3.0, share=-0.9),
        row("upper arm", "turn", trunk, "far", late=3.0, share=-0.9),
    )


LISTEN = Ready(
    "listen", "Listen", ("head", "body", "attend", "curious"), "side",
    (
        Param("lean", "lean", "°", 9, -20, 40, "How far it leans to what it hears; below nothing, away from it."),
        Param("tilt", "tilt", "°", 13, -40, 40, "How far the head is cocked, chin up; below nothing, down."),
        Param("frames", "frames", "f", 14, 4, 80, "How long it takes to lean in."),
        Param("hold", "listens for", "f", 40, 4, 500, "How long it goes on listening."),
    ),
    _listen,
)  # fmt: skip


def _doubt(v: Values) -> Score:
    over, hold, back, each = v["frames"], v["hold"], -v["back"], v["shake"]
    done = over + hold
    trunk = [(0.0, 0.0), (over, back), (done, back * 0.95), (done + 1.4 * over, 0.0)]
    shakes = [(0.0, 0.0), (over, v["tilt"])]
    count = max(2, round(hold / 5))
    for n in range(1, count):
        dies = each * (1 - n / count) * (1 if n % 2 else -1)
        shakes.append((over + hold * n / count, v["tilt"] + dies))
    shakes += [(done, v["tilt"]), (done + 1.4 * over, 0.0)]
    brow = [(0.0, 0.0), (0.6 * over, -0.012), (done, -0.010), (done + over, 0.0)]
    return score(
        row("chest", "turn", trunk),
        row("neck", "turn", trunk, late=1.0, share=0.8),
        row("head", "turn", shakes, late=2.0),
        row("brow", "shift_y", brow, "near"),
        row("brow", "shift_y", brow),
        row("upper arm", "turn", trunk, "near", late=3.0, share=-0.8),
        row("upper arm", "turn", trunk, "far", late=3.0, share=-0.8),
    )


DOUBT = Ready(
    "doubt", "Doubt", ("head", "body", "no", "wary"), "side",
    (
        Param("back", "draws back", "°", 9, 0, 30, "How far the trunk goes back."),
        Param("tilt", "tilt", "°", 12, -30, 30, "How far the chin comes down towards the neck."),
        Param("shake", "shake", "°", 3, 0, 20, "How much the head moves while it weighs the matter; it dies away."),
        Param("frames", "frames", "f", 10, 3, 60, "How long it takes to draw back."),
        Param("hold", "stays for", "f", 26, 6, 500, "How long it goes on doubting."),
    ),
    _doubt,
)  # fmt: skip
