"""The demo's climb: up a ladder, over to a branch by the hands, and down again from a knee hooked over it."""

from __future__ import annotations

import math

from gaitwire.demo.leaning import LeaningPerformer
from gaitwire.demo.scenes import Performer, dress, set_stage, track
from gaitwire.services.scene.floor import update_scene
from gaitwire.services.scene.links import change_bearing, hitch_nodes
from gaitwire.services.session.workspace import Workspace

LENGTH = 228
SIZE = 0.56
_LADDER, _TREE = (440.0, 648.0), (1000.0, 648.0)
_LEDGE = 198.0
"""Height of the branch's upper side in the scene."""

_GRIP = 16.5 * SIZE
"""From the wrist to the middle of the hand."""

_CLIMB = (
    # (limb, rung, from, until): each foot and each hand goes up by two rungs at a time.
    ("near arm", 5, 8, 28), ("far arm", 6, 19, 42), ("far leg", 1, 19, 36), ("near leg", 2, 31, 50),
    ("near arm", 7, 39, 56), ("far leg", 3, 45, 64), ("far arm", 8, 53, 75), ("near leg", 4, 59, 86),
    ("near arm", 9, 71, 88), ("far leg", 5, 73, 91),
)  # fmt: skip

_RISE = (
    # (frame, x, y) of the pelvis.
    (0, 423, 516), (14, 428, 520), (20, 434, 512), (26, 436, 504), (34, 442, 470), (40, 444, 464), (48, 452, 434),
    (54, 455, 424), (62, 463, 392), (68, 466, 384), (76, 474, 356), (84, 490, 338), (91, 520, 330),
    # hanging by the hands: under the branch, swinging through, and up
    (98, 600, 352), (104, 652, 344), (111, 622, 356), (117, 606, 350), (125, 654, 262), (132, 664, 236),
)  # fmt: skip


def make_climb_scene(workspace: Workspace, tamsin_id: str, ladder_id: str, tree_id: str, orchard_id: str) -> str:
    """Tamsin climbs a ladder, swings over to a branch, hooks a knee over it and hangs."""
    floor = set_stage(workspace, "Tamsin climbs", LENGTH, orchard_id)
    update_scene(floor, loop=False)
    tree = Performer(workspace, floor, tree_id, x=_TREE[0], y=_TREE[1], scale=1.0)
    ladder = Performer(workspace, floor, ladder_id, x=_LADDER[0], y=_LADDER[1], scale=1.0)
    tamsin = LeaningPerformer(workspace, floor, tamsin_id, x=410.0, y=648.0, scale=SIZE)
    ladder.key(
        "near rail",
        {"turn": track("0 0, 22 -0.3, 33 0.25, 48 -0.3, 62 0.25, 76 -0.3, 92 0.6, 97 -0.3, 102 0.1, 108 0")},
    )
    tree.key("crown", {"turn": track("90 0, 99 1.2, 108 -0.8, 128 1.0, 146 -1.4, 164 1.0, 184 -0.5, 210 0")})
    for frame, x, y in _RISE:
        tamsin.stand(frame, x, y)
    _holds(tamsin, ladder)
    _leans(tamsin)
    dress(tamsin)
    tamsin.loosen("apron", limit=25.0)  # its strings hold it when she hangs head down
    change_bearing(floor, tamsin.instance, 134.0, tamsin.bones["near shin"])
    # What lies in the basket does not stay there upside down.
    hitch_nodes(floor, [(tamsin.instance, tamsin.bones["apples"])], 143.0, None, arc=True)
    tamsin.show("near hand", {0: "", 28: "open", 36: "", 56: "open", 64: "", 80: "open", 88: "", 140: "open"})
    tamsin.show("eye", {0: "", 118: "shut", 126: "", 150: "glad", 196: ""})
    tamsin.show("mouth", {0: "", 94: "open", 112: "", 146: "wide", 196: ""})
    tamsin.poses(
        {
            0: "looks up",
            26: "steps on",
            54: "climbs",
            91: "reaches over",
            104: "swings",
            132: "hooks a knee",
            150: "hangs",
            206: "rests",
        }
    )
    return floor.scene_id


def _holds(tamsin: LeaningPerformer, ladder: Performer) -> None:
    """Every hold: feet and hands on their rungs, hands on the branch."""
    tamsin.hold("near leg", 0, 18, (428.5, 623.4))
    tamsin.hold("far leg", 0, 12, (422.9, 623.4))
    for limb, rung, start, stop in _CLIMB:
        carrier = (ladder.instance, ladder.bones[f"rung {rung}"])
        if limb.endswith("arm"):
            dx, dy = _hand(-52.0)
            tamsin.hold(limb, start, stop, (-dx + 4, -dy), -52.0 - 79.0, carrier)
        else:
            tamsin.hold(limb, start, stop, (-14.0, -30.0), 4.0, carrier)
    for limb, x, start, stop in (("far arm", 596.0, 91, 137), ("near arm", 632.0, 98, 140)):
        dx, dy = _hand(-78.0)
        tamsin.hold(limb, start, stop, (x - dx, _LEDGE + 10 - dy), -78.0 - 79.0)


def _hand(direction: float) -> tuple[float, float]:
    """From the wrist to the middle of a hand that points in a direction."""
    angle = math.radians(direction)
    return _GRIP * math.cos(angle), _GRIP * math.sin(angle)


_BODY = """
    0: 0 1 -6 -20; 8: 2 2 -10 -26; 22: 9 7 -6 -18; 34: 6 10 -4 -16; 48: 9 7 -8 -20; 62: 6 10 -6 -20
    76: 9 8 -12 -28; 84: 12 16 -8 -26; 91: 18 20 -2 -18; 98: -4 8 2 -4; 104: -26 -10 -4 2; 111: 6 2 0 -6
    117: 12 6 8 6; 125: -48 -38 -22 -8; 132: -74 -64 -46 -30
"""
"""How pelvis, chest, neck and face lean, by frame."""

_LEGS = """
    0: 0 0 0 0 0 0; 91: -20 30 20 -30 26 20; 98: 26 62 60 14 48 50; 104: -46 -12 16 -28 14 30
    111: 10 34 40 20 50 52; 117: -30 56 50 -12 52 56; 125: -118 -36 -10 -84 4 24; 132: -136 -61 -20 -92 6 30
"""
"""How thigh, shin and foot lean, near and then far, where nothing holds them."""


def _leans(tamsin: LeaningPerformer) -> None:
    """The body's line, and what the limbs do where nothing holds them."""
    tamsin.lean_by(_BODY, ("pelvis", "chest", "neck", "face"))
    tamsin.lean_by(_LEGS, ("near thigh", "near shin", "near foot", "far thigh", "far shin", "far foot"))
    _hang(tamsin)


def _hang(tamsin: LeaningPerformer) -> None:
    """From here on the knee carries: the thigh falls, the body swings out and comes to rest, each part later.

    Keys are of joints now: how far the knee and the hip are open.
    """
    tamsin.key(
        "near shin",
        {"turn": track("134 75, 150 132, 162 108, 175 126, 188 115, 202 121, 216 119")},
        "sine-in-out",
    )
    tamsin.key(
        "near thigh",
        {"turn": track("134 -62, 153 14, 165 -12, 178 12, 191 0, 205 7, 219 5")},
        "sine-in-out",
    )
    tamsin.key("chest", {"turn": track("134 10, 155 -10, 168 9, 181 -6, 194 4, 208 -1")}, "sine-in-out")
    tamsin.key("neck", {"turn": track("134 18, 158 -8, 171 10, 184 -5, 197 4, 211 0")}, "sine-in-out")
    tamsin.key("face", {"turn": track("134 16, 160 -4, 173 10, 186 0, 199 5, 213 3")}, "sine-in-out")
    tamsin.key(
        "far thigh",
        {"turn": track("134 -20, 148 -70, 158 -112, 172 -92, 186 -104, 200 -98, 214 -100")},
        "sine-in-out",
    )
    tamsin.key(
        "far shin",
        {"turn": track("134 98, 150 70, 162 22, 175 40, 189 26, 203 32, 217 30")},
        "sine-in-out",
    )
    for side, lag in (("near", 0), ("far", 2)):
        tamsin.key(
            f"{side} upper arm",
            {"turn": track("136 -96, 158 -196, 171 -158, 184 -186, 197 -168, 211 -177, 222 -174")},
            "sine-in-out",
            by=lag,
        )
        tamsin.key(
            f"{side} forearm",
            {"turn": track("136 -30, 160 -4, 173 -34, 186 -8, 199 -24, 213 -14")},
            "sine-in-out",
            by=lag,
        )
        tamsin.key(
            f"{side} hand",
            {"turn": track("138 0, 162 14, 175 -16, 188 10, 201 -6, 215 0")},
            "sine-in-out",
            by=lag,
        )
