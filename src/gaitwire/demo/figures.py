"""More of the demo's puppets: Gander, whose layers are pictures, Stook, and the cider barrel."""

from __future__ import annotations

from importlib.resources import files

from gaitwire.core.puppet.art import Matrix
from gaitwire.demo.faces import give_face
from gaitwire.demo.rigging import JointRow, bones_named, bring_in, parts_named, rig, take_drawings
from gaitwire.formats.raster import draw_art, picture_bytes
from gaitwire.formats.svg import read_svg
from gaitwire.services.library.art_in import import_pictures
from gaitwire.services.rig.bench import Bench
from gaitwire.services.rig.limbs import Limbs
from gaitwire.services.rig.soft_parts import Softening
from gaitwire.services.session.workspace import Workspace

_FINE = 2
"""Pixels of Gander's pictures to a pixel of his drawing."""


def _gander(x: float, y: float) -> tuple[float, float]:
    return x * _FINE, y * _FINE


_GANDER = (
    JointRow("body", None, _gander(262, 470), _gander(262, 320), "chest"),
    JointRow("tail", "body", _gander(130, 390), _gander(46, 392), "tail"),
    JointRow("wing", "body", _gander(316, 360), _gander(110, 424), "wing"),
    JointRow("neck", "body", _gander(376, 380), _gander(388, 290), "neck"),
    JointRow("upper neck", "neck", _gander(388, 290), _gander(428, 180), "neck"),
    JointRow("kerchief", "neck", _gander(388, 312)),
    JointRow("head", "upper neck", _gander(434, 122), _gander(470, 96), "head"),
    JointRow("jaw", "head", _gander(464, 120), _gander(514, 124), "jaw"),
    JointRow("eye", "head", _gander(452, 92)),
    JointRow("lid", "head", _gander(452, 94)),
    JointRow("brow", "head", _gander(451, 76)),
    JointRow("near thigh", "body", _gander(240, 424), _gander(252, 482), "thigh"),
    JointRow("near leg", "near thigh", _gander(252, 482), _gander(258, 562), "shin"),
    JointRow("near foot", "near leg", _gander(260, 564), _gander(318, 606), "foot"),
    JointRow("far thigh", "body", _gander(268, 420), _gander(278, 478), "thigh"),
    JointRow("far leg", "far thigh", _gander(278, 478), _gander(282, 558), "shin"),
    JointRow("far foot", "far leg", _gander(284, 558), _gander(340, 600), "foot"),
)

_NECK_PINS = (
    ("foot, near", "anchor", (350, 372)),
    ("foot, far", "anchor", (396, 376)),
    ("crop", "lead", (392, 300)),
    ("middle", "lead", (414, 232)),
    ("throat", "lead", (432, 172)),
    ("nape", "anchor", (434, 128)),
)
"""Six pins of Gander's neck: held at the body and at the head, led in between."""


def make_gander(workspace: Workspace) -> str:
    """Gander, a goose whose layers are pictures, with a soft neck; the puppet's id."""
    reading = read_svg(files("gaitwire.demo").joinpath("art", "gander.svg").read_bytes(), "Gander")
    size = (round(reading.width * _FINE), round(reading.height * _FINE))
    view: Matrix = (_FINE, 0, 0, _FINE, 0, 0)
    layers = {
        f"{place:02d} {part.name}.png": picture_bytes(draw_art([part.art], size, view))
        for place, part in enumerate(reading.parts)
    }
    bench = Bench(workspace, import_pictures(workspace, layers, "Gander").puppet_id)
    ids = rig(bench, _GANDER)
    bench.update_parts([parts_named(bench)["lid"]], {"hidden": False})
    take_drawings(bench, "eye", {"lid": "shut"})
    _soft_neck(bench, ids)
    bench.set_base(*_gander(270, 604))
    return bench.puppet_id


def _soft_neck(bench: Bench, ids: dict[str, str]) -> None:
    neck = parts_named(bench)["neck"]
    soft = Softening(bench.workspace, bench.puppet_id)
    soft.soften([neck])
    soft.bend_with(neck, [ids["upper neck"], ids["head"]])
    carriers = {"foot, near": "neck", "foot, far": "neck", "nape": "head"}
    for name, kind, place in _NECK_PINS:
        (pin,) = soft.place_pin(neck, kind, *_gander(*place))  # type: ignore[arg-type]
        bone = ids.get(carriers.get(name, ""))
        soft.set_pins([pin], {"name": name, "bone_id": bone, "stiffness": 0.15, "holds_turn": name == "nape"})


_STOOK = (
    JointRow("pole", None, (210, 622), (210, 200), "pelvis"),
    JointRow("coat", "pole", (210, 404), (210, 232), "chest"),
    JointRow("buttons", "coat", (196, 320)),
    JointRow("pocket", "coat", (240, 364)),
    JointRow("collar", "coat", (211, 226)),
    JointRow("face", "coat", (210, 216), (210, 110), "head"),
    JointRow("straw hair", "face", (210, 150), None, "hair"),
    JointRow("eyes", "face", (210, 150), None, "eye"),
    JointRow("near eye", "eyes", (185, 151)),
    JointRow("far eye", "eyes", (235, 151)),
    JointRow("nose", "face", (210, 164)),
    JointRow("brow", "face", (210, 132), None, "brow"),
    JointRow("near brow", "brow", (185, 131)),
    JointRow("far brow", "brow", (235, 131)),
    JointRow("mouth", "face", (210, 186), None, "mouth"),
    JointRow("hat", "face", (210, 118), (210, 34), "hat"),
    JointRow("near upper arm", "coat", (172, 258), (116, 272), "upper arm"),
    JointRow("near forearm", "near upper arm", (116, 272), (62, 276), "forearm"),
    JointRow("near hand", "near forearm", (62, 276), (26, 274), "hand"),
    JointRow("far upper arm", "coat", (248, 258), (304, 272), "upper arm"),
    JointRow("far forearm", "far upper arm", (304, 272), (358, 276), "forearm"),
    JointRow("far hand", "far forearm", (358, 276), (394, 274), "hand"),
    JointRow("near thigh", "pole", (186, 412), (182, 490), "thigh"),
    JointRow("near shin", "near thigh", (182, 492), (182, 558), "shin"),
    JointRow("far thigh", "pole", (230, 412), (240, 488), "thigh"),
    JointRow("far shin", "far thigh", (240, 490), (246, 558), "shin"),
)


def make_stook(workspace: Workspace) -> str:
    """Stook, a scarecrow seen from the front; the puppet's id."""
    bench = bring_in(workspace, "stook.svg", "Stook")
    for side in ("near", "far"):
        bench.update_bones([bones_named(bench)[f"{side} sleeve"]], {"name": f"{side} upper arm"})
    ids = rig(bench, _STOOK)
    bench.remove_bones([i for name, i in ids.items() if name in ("near leg", "far leg", "near arm", "far arm", "head")])
    drawings = {"mouth open": "open", "mouth round": "round", "mouth grim": "grim"}
    take_drawings(bench, "mouth", drawings)
    take_drawings(bench, "nose", {"nose side": "side"})
    parts = parts_named(bench)
    Softening(workspace, bench.puppet_id).soften([parts["near sleeve"], parts["far sleeve"]])
    Limbs(workspace, bench.puppet_id).add_all()
    bench.set_base(210, 620)
    bench.set_view("front")
    give_face(workspace, bench.puppet_id)
    return bench.puppet_id


def make_barrel(workspace: Workspace) -> str:
    """The cider barrel, seen from its end; the puppet's id."""
    bench = bring_in(workspace, "barrel.svg", "Cider barrel")
    middle = (120.0, 120.0)
    rig(
        bench,
        [
            JointRow("barrel", None, middle, (120, 8), "wheel"),
            *(JointRow(name, "barrel", middle) for name in ("bar", "bung", "apple brand")),
        ],
    )
    bench.set_base(120, 232)
    return bench.puppet_id


_BRAMBLE = (
    JointRow("barrel", None, (214, 262), (430, 244), "pelvis"),
    JointRow("tail", "barrel", (150, 220), (124, 376), "tail"),
    JointRow("blanket", "barrel", (304, 192)),
    JointRow("pannier", "barrel", (308, 222), (308, 320), "load"),
    JointRow("apples", "pannier", (308, 214)),
    JointRow("neck", "barrel", (424, 244), (484, 122), "neck"),
    JointRow("mane", "neck", (430, 170), None, "hair"),
    JointRow("head", "neck", (486, 128), (596, 206), "head"),
    JointRow("far ear", "head", (496, 98), (496, 22), "ear"),
    JointRow("near ear", "head", (470, 102), (452, 20), "ear"),
    JointRow("forelock", "head", (494, 96)),
    JointRow("eye", "head", (528, 142), None, "eye"),
    JointRow("muzzle", "head", (584, 196), None, "mouth"),
    JointRow("bridle", "head", (540, 190)),
    JointRow("near hind thigh", "barrel", (202, 272), (178, 410), "thigh"),
    JointRow("near hind cannon", "near hind thigh", (179, 410), (193, 494), "shin"),
    JointRow("near hind hoof", "near hind cannon", (193, 496), (214, 528), "foot"),
    JointRow("far hind thigh", "barrel", (220, 276), (196, 410), "thigh"),
    JointRow("far hind cannon", "far hind thigh", (197, 410), (211, 494), "shin"),
    JointRow("far hind hoof", "far hind cannon", (211, 496), (232, 528), "foot"),
    JointRow("near fore thigh", "barrel", (412, 292), (414, 410), "fore thigh"),
    JointRow("near fore cannon", "near fore thigh", (414, 412), (407, 496), "fore shin"),
    JointRow("near fore hoof", "near fore cannon", (407, 498), (427, 528), "fore foot"),
    JointRow("far fore thigh", "barrel", (428, 292), (428, 410), "fore thigh"),
    JointRow("far fore cannon", "far fore thigh", (428, 412), (423, 496), "fore shin"),
    JointRow("far fore hoof", "far fore cannon", (423, 498), (443, 528), "fore foot"),
)


def make_bramble(workspace: Workspace) -> str:
    """Bramble, a donkey with panniers, who goes on all fours; the puppet's id."""
    bench = bring_in(workspace, "bramble.svg", "Bramble")
    ids = rig(bench, _BRAMBLE)
    bench.remove_bones([i for name, i in ids.items() if name.endswith(("hind leg", "fore leg"))])
    Limbs(workspace, bench.puppet_id).add_all()
    bench.set_base(310, 530)
    return bench.puppet_id
