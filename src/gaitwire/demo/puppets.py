"""The demo's puppets: their rigs, as tables."""

from __future__ import annotations

from gaitwire.demo.joints import hold_together
from gaitwire.demo.rigging import JointRow, bones_named, bring_in, parts_named, rig, take_drawings
from gaitwire.services.rig.bench import Bench
from gaitwire.services.rig.limbs import Limbs
from gaitwire.services.rig.shadows import Shadowing
from gaitwire.services.rig.soft_parts import Softening
from gaitwire.services.session.workspace import Workspace

_TAMSIN = (
    JointRow("pelvis", None, (196, 372), (196, 340), "pelvis"),
    JointRow("chest", "pelvis", (196, 344), (200, 236), "chest"),
    JointRow("apron", "chest", (212, 262), (208, 420), "cloth"),
    JointRow("apron pocket", "apron", (216, 374)),
    JointRow("basket", "chest", (150, 262), (120, 380), "load"),
    JointRow("apples", "basket", (118, 246)),
    JointRow("neck", "chest", (200, 226), (202, 194), "neck"),
    JointRow("face", "neck", (203, 192), (212, 66), "head"),
    JointRow("ear", "face", (172, 142)),
    JointRow("eye", "face", (228, 134)),
    JointRow("brow", "face", (228, 114)),
    JointRow("mouth", "face", (236, 178)),
    JointRow("bandana", "face", (204, 90)),
    JointRow("plait", "face", (148, 146), (138, 204), "hair"),
    JointRow("scarf", "chest", (200, 216)),
    JointRow("scarf tail", "scarf", (176, 220), (112, 236), "cloth"),
    JointRow("near upper arm", "chest", (194, 252), (202, 330), "upper arm"),
    JointRow("near forearm", "near upper arm", (202, 330), (214, 390), "forearm"),
    JointRow("near hand", "near forearm", (214, 392), (220, 424), "hand"),
    JointRow("far upper arm", "chest", (206, 252), (216, 330), "upper arm"),
    JointRow("far forearm", "far upper arm", (218, 330), (242, 386), "forearm"),
    JointRow("far hand", "far forearm", (242, 388), (252, 416), "hand"),
    JointRow("near thigh", "pelvis", (200, 398), (208, 480), "thigh"),
    JointRow("near shin", "near thigh", (208, 482), (206, 560), "shin"),
    JointRow("near foot", "near shin", (206, 564), (262, 596), "foot"),
    JointRow("far thigh", "pelvis", (192, 394), (198, 476), "thigh"),
    JointRow("far shin", "far thigh", (198, 480), (196, 560), "shin"),
    JointRow("far foot", "far shin", (196, 564), (246, 596), "foot"),
)

_TAMSIN_DRAWINGS = {
    "near hand": ("open", "fist", "pointing"),
    "mouth": ("open", "round", "wide", "wry"),
    "eye": ("shut", "glad"),
}
"""Parts with several drawings: each lies in the art as a hidden layer of its own."""

_TAMSIN_LIMITS = {
    "near forearm": (-150.0, 5.0), "far forearm": (-150.0, 5.0), "near shin": (-5.0, 140.0), "far shin": (-5.0, 140.0),
}  # fmt: skip
"""Elbows and knees bend one way."""

_TAMSIN_PLAIN_GROUPS = ("far arm", "far leg", "body", "near leg", "head", "near arm")
"""Folders of the drawing that the rig has no use for: bones hang from bones instead."""

_PIP = (
    JointRow("apple", None, (110, 222), (110, 80)),
    JointRow("stem", "apple", (110, 78), (98, 34)),
    JointRow("leaf", "stem", (112, 60), (186, 38)),
    JointRow("eyes", "apple", (127, 138)),
    JointRow("mouth", "apple", (129, 172)),
)

AXLE = (318.0, 456.0)

_HANDCART = (
    JointRow("cart", None, AXLE, None, "axle"),
    JointRow("far wheel", None, AXLE, None, "wheel"),
    JointRow("near wheel", None, AXLE, None, "wheel"),
    JointRow("bed", "cart", (318, 376), (552, 376)),
    JointRow("handle", "bed", (552, 374), (670, 344)),
    JointRow("rope end", "bed", (112, 398), (94, 512), "rope"),
    # The load leans on the bed: its joint lies on the planks, so that a skew leaves its foot there.
    JointRow("load", "cart", (318, 362), None, "load"),
    JointRow("crates", "load", (318, 362)),
    JointRow("tarpaulin", "crates", (194, 274)),
    JointRow("tarpaulin corner", "tarpaulin", (132, 296), (60, 312), "cloth"),
    JointRow("Stook", "load", (200, 280), None, "torso"),
    JointRow("Stook coat", "Stook", (196, 272), (196, 168)),
    JointRow("Stook head", "Stook coat", (198, 166), (198, 66), "head"),
    JointRow("Stook arm", "Stook coat", (186, 192), (214, 256), "upper arm"),
    JointRow("Stook far leg", "Stook", (208, 264), (244, 264), "thigh"),
    JointRow("Stook near leg", "Stook", (192, 270), (230, 270), "thigh"),
    JointRow("Tamsin", "load", (326, 280), None, "torso"),
    JointRow("Tamsin body", "Tamsin", (322, 274), (326, 186)),
    JointRow("Tamsin head", "Tamsin body", (328, 180), (332, 74), "head"),
    JointRow("Tamsin plait", "Tamsin head", (294, 134), (286, 186), "hair"),
    JointRow("Tamsin arm", "Tamsin body", (320, 210), (346, 262), "upper arm"),
    JointRow("Tamsin far leg", "Tamsin", (338, 264), (372, 264), "thigh"),
    JointRow("Tamsin near leg", "Tamsin", (322, 268), (360, 268), "thigh"),
)


_CROWNS = {
    # The crown's joint lies where its trunk forks, so that wind bends it there.
    "row tree 1 crown": (470, 488),
    "row tree 2 crown": (900, 488),
    "row tree 3 crown": (1230, 462),
    "left tree crown": (190, 455),
    "right tree crown": (1440, 447),
}


_DISTANCES = {
    0.0: ("sun",), 0.1: ("clouds",), 0.25: ("far hill", "far rows"), 0.5: ("near hill",),
    0.6: tuple(f"row tree {n} {piece}" for n in (1, 2, 3) for piece in ("trunk", "crown")), 0.8: ("meadow",),
}  # fmt: skip
"""How much of a camera's way the layers take part in; all others go with the stage."""


def make_orchard(workspace: Workspace) -> str:
    """The orchard itself: hills, rows of trees, a ladder; the puppet's id."""
    bench = bring_in(workspace, "orchard.svg", "Orchard rows")
    trunks = {name: name.replace("crown", "trunk") for name in _CROWNS}
    rig(bench, [JointRow(trunk, None, _CROWNS[crown]) for crown, trunk in trunks.items()])
    rig(bench, [JointRow(crown, trunks[crown], pivot) for crown, pivot in _CROWNS.items()])
    bench.set_base(800, 640)
    for distance, names in _DISTANCES.items():
        bench.update_parts([p.id for p in bench.puppet.parts if p.name in names], {"distance": distance})
    return bench.puppet_id


def make_tamsin(workspace: Workspace, *, mended: bool = True) -> str:
    """Tamsin, a picker, with her joints put right or as they came; the puppet's id."""
    bench = bring_in(workspace, "tamsin.svg", "Tamsin")
    for side in ("near", "far"):
        bench.update_bones([bones_named(bench)[f"{side} sleeve"]], {"name": f"{side} upper arm"})
    ids = rig(bench, _TAMSIN)
    bench.remove_bones([ids[name] for name in _TAMSIN_PLAIN_GROUPS])
    _keep_volume(bench, ids["chest"])
    for part, drawings in _TAMSIN_DRAWINGS.items():
        take_drawings(bench, part, {f"{part} {name}": name for name in drawings})
    _soften_tamsin(bench, ids)
    for name, (low, high) in _TAMSIN_LIMITS.items():
        bench.update_bones([ids[name]], {"low": low, "high": high})
    if mended:
        hold_together(workspace, bench.puppet_id)
    return bench.puppet_id


def _soften_tamsin(bench: Bench, ids: dict[str, str]) -> None:
    """Sleeves that bend at the elbow, a scarf tail and a plait that curl; limbs for hands and feet."""
    for name, pieces in (("scarf tail", 3), ("plait", 2)):
        bench.split(ids[name], pieces)
    parts, bones = parts_named(bench), bones_named(bench)
    soft = Softening(bench.workspace, bench.puppet_id)
    soft.soften([parts[name] for name in ("near sleeve", "far sleeve", "scarf tail", "plait")])
    for side in ("near", "far"):
        soft.bend_with(parts[f"{side} sleeve"], [bones[f"{side} forearm"]])
    soft.bend_with(parts["scarf tail"], [bones["scarf tail 2"], bones["scarf tail 3"]])
    soft.bend_with(parts["plait"], [bones["plait 2"]])
    limbs = Limbs(bench.workspace, bench.puppet_id)
    limbs.add_all()
    for limb in bench.puppet.limbs:
        # A little give before a limb is straight, so that no knee snaps.
        limbs.update(limb.id, {"softness": 0.02, "stretch": 0.03})


def make_pip(workspace: Workspace) -> str:
    """Pip, a windfall that hops; the puppet's id."""
    bench = bring_in(workspace, "pip.svg", "Pip")
    ids = rig(bench, _PIP)
    _keep_volume(bench, ids["apple"])
    bench.set_base(110, 222)
    Shadowing(workspace, bench.puppet_id).add_shadow()
    return bench.puppet_id


def make_handcart(workspace: Workspace) -> str:
    """The handcart with its load; the puppet's id."""
    bench = bring_in(workspace, "handcart.svg", "Handcart")
    rig(bench, _HANDCART)
    bench.set_base(AXLE[0], 548)
    return bench.puppet_id


def _keep_volume(bench: Bench, bone_id: str) -> None:
    bench.update_bones([bone_id], {"keep_volume": True})


_TAMSIN_FRONT = (
    JointRow("pelvis", None, (180, 372), (180, 340), "pelvis"),
    JointRow("chest", "pelvis", (180, 344), (180, 236), "chest"),
    JointRow("basket", "chest", (180, 250), (180, 372), "load"),
    JointRow("apples", "basket", (180, 236)),
    JointRow("apron", "chest", (180, 340), (180, 424), "cloth"),
    JointRow("apron pocket", "apron", (180, 372)),
    JointRow("neck", "chest", (180, 226), (180, 194), "neck"),
    JointRow("face", "neck", (180, 196), (180, 70), "head"),
    *(JointRow(name, "face", (180, y)) for name, y in (("ears", 140), ("eyes", 134), ("brows", 116), ("mouth", 178))),
    JointRow("bandana", "face", (180, 100)),
    JointRow("plait", "face", (222, 146), (226, 206), "hair"),
    JointRow("scarf", "chest", (180, 222)),
    JointRow("scarf tail", "scarf", (196, 240), (200, 288), "cloth"),
    JointRow("near sleeve upper", "chest", (132, 252), (126, 324), "upper arm"),
    JointRow("near sleeve lower", "near sleeve upper", (126, 326), (118, 388), "forearm"),
    JointRow("near hand", "near sleeve lower", (118, 392), (114, 420), "hand"),
    JointRow("far sleeve upper", "chest", (228, 252), (234, 324), "upper arm"),
    JointRow("far sleeve lower", "far sleeve upper", (234, 326), (242, 388), "forearm"),
    JointRow("far hand", "far sleeve lower", (242, 392), (246, 420), "hand"),
    JointRow("near thigh", "pelvis", (157, 394), (157, 480), "thigh"),
    JointRow("near shin", "near thigh", (157, 482), (157, 556), "shin"),
    JointRow("near foot", "near shin", (157, 562), (153, 600), "foot"),
    JointRow("far thigh", "pelvis", (203, 394), (203, 480), "thigh"),
    JointRow("far shin", "far thigh", (203, 482), (203, 556), "shin"),
    JointRow("far foot", "far shin", (203, 562), (207, 600), "foot"),
)


def make_tamsin_front(workspace: Workspace) -> str:
    """Tamsin drawn from the front; the puppet's id."""
    bench = bring_in(workspace, "tamsin_front.svg", "Tamsin, front")
    ids = rig(bench, _TAMSIN_FRONT)
    bench.remove_bones([i for name, i in ids.items() if name in ("near leg", "far leg", "near arm", "far arm")])
    Limbs(workspace, bench.puppet_id).add_all()
    bench.set_base(180, 604)
    bench.set_view("front")
    return bench.puppet_id
