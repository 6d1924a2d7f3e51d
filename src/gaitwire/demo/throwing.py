"""The demo's basket and apple: picked up, carried, set down; thrown and caught."""

from __future__ import annotations

from gaitwire.demo.leaning import LeaningPerformer
from gaitwire.demo.scenes import Performer, dress, set_stage, track
from gaitwire.services.scene.floor import update_scene
from gaitwire.services.scene.links import hitch_nodes
from gaitwire.services.scene.smears import Smear, smear_parts
from gaitwire.services.session.workspace import Workspace

LENGTH = 132
SIZE = 0.7
_ANKLE = 648.0 - 44.0 * SIZE
"""Height of an ankle whose foot stands on the ground."""

_STEPS = (
    # (limb, x of the ankle, from, until)
    ("near leg", 404.0, 0, 33), ("far leg", 392.0, 0, 43), ("near leg", 512.0, 42, 55), ("far leg", 588.0, 53, 131),
    ("near leg", 566.0, 64, 84), ("near leg", 606.0, 92, 131),
)  # fmt: skip

_LIFTS = (("near", 37, 33, 42), ("far", 48, 43, 53), ("near", 59, 55, 64), ("near", 88, 84, 92))
"""Which foot swings through, when it is highest, and from when until when it is off the ground."""

_BASKET, _CARRIED = 468.0, 166.0
"""Where the basket stands, and how far it is carried."""

_GRIPS = (
    # The near wrist at the basket's handle, there and where it is set down; and at the apple in it.
    (_BASKET - 4, 543.0, -9.0, 15, 19), (_BASKET + _CARRIED - 4, 543.0, -9.0, 70, 74),
    (_BASKET + _CARRIED - 12, 566.0, 6.0, 79, 81),
)  # fmt: skip

_BODY = (
    # frame, then the pelvis' place, then how pelvis, chest, neck and face lean
    (0, (396, 484), (0, 0, 0, 0)), (8, (388, 483), (-3, -6, -4, 4)), (16, (372, 512), (36, 66, 50, 40)),
    (22, (370, 510), (35, 64, 48, 38)), (32, (398, 490), (2, -4, -2, -4)), (42, (446, 500), (5, 2, 0, -2)),
    (48, (488, 487), (5, 3, 0, -2)), (54, (526, 503), (7, 4, 0, 0)), (64, (566, 486), (4, 0, 0, 0)),
    (72, (552, 512), (34, 62, 46, 38)), (80, (552, 516), (38, 70, 50, 38)), (90, (558, 493), (-8, -18, -6, -2)),
    (97, (590, 492), (8, 16, 8, 2)), (104, (606, 488), (14, 26, 14, -2)), (116, (584, 485), (0, -2, 0, -6)),
    (126, (584, 483), (-2, -4, 2, -2)),
)  # fmt: skip

_NEAR_ARM = """
    0: 4 -6 -4; 8: 22 14 10; 16: -8 -20 -9; 22: -4 -14 -9; 27: 2 -12 -10; 32: 6 -12 -12; 42: 14 -2 -5
    48: 0 -12 -12; 54: -8 -20 -15; 64: 2 -12 -7; 72: -10 -22 -9; 79: -12 -26 -10; 86: 70 6 -10
    91: 106 -2 -40; 95: -60 -96 -80; 98: -96 -88 -70; 104: -40 -34 -20; 116: -4 -20 -12; 126: 2 -10 -6
"""
"""How upper arm, forearm and hand lean, by frame."""

_FAR_ARM = """
    0: 2 -8 -4; 16: 30 10 10; 32: -14 -34 -20; 42: -24 -44 -28; 54: 14 -10 -6; 64: -6 -26 -14; 72: 28 8 8
    91: -50 -78 -60; 99: 24 6 10; 116: -6 -24 -14; 126: 0 -12 -8
"""


def make_throw_scene(workspace: Workspace, ids: dict[str, str], orchard_id: str) -> str:
    """Tamsin carries a basket over and throws an apple to Stook; `ids` are those of the puppets, by name."""
    floor = set_stage(workspace, "An apple for Stook", LENGTH, orchard_id)
    update_scene(floor, loop=False)
    stook = Performer(workspace, floor, ids["Stook"], x=1010.0, y=648.0, scale=0.62)
    tamsin = LeaningPerformer(workspace, floor, ids["Tamsin"], x=380.0, y=648.0, scale=SIZE)
    basket = Performer(workspace, floor, ids["Basket"], x=_BASKET, y=648.0, scale=0.62)
    apple = Performer(workspace, floor, ids["Apple"], x=_BASKET + 2, y=588.0, scale=0.5)
    for limb, x, start, stop in _STEPS:
        tamsin.hold(limb, start, stop, (x, _ANKLE))
    for limb, middle, start, stop in _LIFTS:
        table = f"{start}: 8 16; {middle}: -26 30; {stop - 3}: -32 2; {stop}: -18 -6"
        tamsin.lean_by(table, (f"{limb} thigh", f"{limb} shin"))
    for x, y, angle, start, stop in _GRIPS:
        tamsin.hold("near arm", start, stop, (x, y), angle, soft=(9.0, 6.0))
    for frame, place, body in _BODY:
        tamsin.stand(frame, *place)
        tamsin.lean(frame, dict(zip(("pelvis", "chest", "neck", "face"), body, strict=True)))
    for side, arm in (("near", _NEAR_ARM), ("far", _FAR_ARM)):
        tamsin.lean_by(arm, (f"{side} upper arm", f"{side} forearm", f"{side} hand"))
    dress(tamsin)
    basket.loosen("handle back", stiffness=0.0, damping=0.35)
    _hand_over(tamsin, basket, apple, stook)
    _catch(stook)
    tamsin.show("near hand", {0: "open", 18: "", 73: "open", 79: "", 96: "open", 118: ""})
    tamsin.show("mouth", {0: "", 92: "open", 99: "", 113: "wide"})
    tamsin.show("eye", {0: "", 30: "shut", 32: "", 114: "glad"})
    tamsin.poses({0: "sees it", 19: "takes hold", 32: "lifts", 54: "steps", 72: "sets down"})
    smear_parts(floor, [(tamsin.instance, tamsin.bones["near upper arm"])], 93.0, Smear())
    tamsin.poses({90: "winds up", 97: "throws", 116: "glad"})
    return floor.scene_id


def _hand_over(tamsin: LeaningPerformer, basket: Performer, apple: Performer, stook: Performer) -> None:
    """Who carries the basket and the apple, from when on."""
    floor = tamsin.floor
    hand = (tamsin.instance, tamsin.bones["near hand"])
    hitch_nodes(floor, [(basket.instance, basket.instance)], 19.0, hand)
    hitch_nodes(floor, [(basket.instance, basket.instance)], 74.0, None)
    hitch_nodes(floor, [(apple.instance, apple.instance)], 0.0, (basket.instance, basket.bones["fruit"]))
    hitch_nodes(floor, [(apple.instance, apple.instance)], 80.0, hand)
    hitch_nodes(floor, [(apple.instance, apple.instance)], 96.0, None, arc=True)
    hitch_nodes(floor, [(apple.instance, apple.instance)], 112.0, (stook.instance, stook.bones["near hand"]))


def _catch(stook: Performer) -> None:
    """Stook holds out an arm, and is knocked a little by what comes."""
    stook.key(
        "near upper arm",
        {"turn": track("0 0, 100 0, 108 14, 112 10, 116 -14, 121 8, 127 2")},
        "sine-in-out",
    )
    stook.key("near forearm", {"turn": track("100 0, 109 16, 112 12, 117 -20, 122 10, 128 4")}, "sine-in-out")
    stook.key("pole", {"turn": track("110 0, 117 2.4, 122 -1.4, 127 0.6")}, "sine-in-out")
    stook.key("coat", {"turn": track("0 0, 50 1.0, 110 0, 118 2.6, 124 -1.6, 129 0.4")}, "sine-in-out")
    stook.key("face", {"turn": track("0 -2, 60 3, 104 -6, 112 -5, 119 9, 125 -3, 130 0")}, "sine-in-out")
    stook.key(
        "hat",
        {"turn": track("110 0, 120 -12, 126 6, 131 0"), "shift_y": track("112 0, 117 -16, 122 2, 126 0")},
        "sine-in-out",
    )
    stook.show("mouth", {0: "", 104: "round", 116: "open"})
