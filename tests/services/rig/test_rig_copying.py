"""A rig copied onto other art: where its joints lie there, what goes along, what finds no match."""

import numpy as np
import pytest

from builders.rigs import ARMS, Rig
from gaitwire.core.errors import InvalidInputError
from gaitwire.services.library.art_in import import_art
from gaitwire.services.rig.corrective_shapes import Drag
from gaitwire.services.rig.limbs import Limbs
from gaitwire.services.rig.rig_copying import RigCopying
from gaitwire.services.rig.soft_parts import Softening
from gaitwire.store.history import take_step


def onto(workspace, art, name="Other"):
    return RigCopying(workspace, import_art(workspace, art, "other.svg", name).puppet_id)


def twice(art):
    """The same drawing, twice as large and further down."""
    whole = art.replace(
        b'width="300" height="300">', b'width="600" height="700"><g transform="translate(0 50) scale(2)">'
    )
    return whole.replace(b"</svg>", b"</g></svg>")


@pytest.fixture
def rig(workspace):
    made = Rig(workspace)
    limbs = Limbs(workspace, made.puppet_id)
    limbs.update(limbs.add(made.ids["near lower"]), {"whole": True, "stretch": 0.1})
    soft = Softening(workspace, made.puppet_id)
    soft.soften([made.parts["far upper"]])
    soft.bend_with(made.parts["far upper"], [made.ids["far lower"]])
    (pin,) = soft.place_pin(made.parts["far upper"], "lead", 200, 100)
    soft.brush(made.parts["far upper"], made.ids["far lower"], [(240.0, 100.0)], 20, 0.4)
    entry = made.add_fix(made.ids["near lower"], -80.0)
    made.say(entry, ("part", made.parts["near lower"], "shift_x", 3.0), ("pin", pin, "shift_y", 5.0))
    corner = made.anchors(entry, made.parts["near lower"])[0]
    move = Drag("points", (("part", made.parts["near lower"]),), (0.0, 0.0), (4.0, 0.0), (corner[0],))
    made.put_rows(entry, (), made.dragged(made.puppet.entry(entry), made.compiled(entry), move).reshapes)
    gauge = made.add_control("gauge", "sniff")
    made.say(
        made.add_entry(gauge, 100.0, 0.0),
        ("bone", made.ids["nose"], "turn", 12.0),
        ("part", made.parts["nose"], "drawing", 1.0),
    )
    return made


def test_a_whole_rig_lies_on_art_of_another_size(rig, workspace):
    other = onto(workspace, twice(ARMS).replace(b'id="far lower"', b'id="Far Lower"'))
    found = other.copy_rig(rig.puppet_id)
    assert (len(found.pairs) == 6 and found.left == [] and found.lost == ["drawing “nose 2” of nose"]) or found.lost
    here, there = rig.puppet, other.puppet
    by_name = {b.name: b for b in there.bones}
    assert {b.name.lower() for b in there.bones} == {b.name.lower() for b in here.bones}
    names = [{b.id: b.name for b in p.bones} for p in (here, there)]
    for bone in here.bones:
        twin = by_name[bone.name]
        assert (twin.x, twin.y) == pytest.approx((2 * bone.x, 50 + 2 * bone.y), abs=0.6)
        assert (twin.role, twin.side, twin.region) == (bone.role, bone.side, bone.region)
        assert names[1].get(twin.parent_id) == names[0].get(bone.parent_id)
        if bone.length:
            assert twin.length == pytest.approx(2 * bone.length, abs=1) and twin.angle == pytest.approx(
                bone.angle, abs=1
            )
    (limb,) = there.limbs
    assert limb.whole and limb.stretch == 0.1 and limb.tip_id == by_name["near lower"].id
    soft = next(p for p in there.parts if p.soft)
    (pin,) = there.pins
    assert soft.name.lower() == "far upper" and soft.bends_with == (by_name["far lower"].id,)
    assert pin.part_id == soft.id and (pin.x, pin.y) == pytest.approx((400, 250), abs=0.6)
    skins = [workspace.skins.skin(p, next(q for q in p.parts if q.soft)) for p in (here, there)]
    mine, theirs = (s.weights[: s.vertices, 1].max() for s in skins)
    assert soft.weights_hash and theirs == pytest.approx(mine, abs=0.1)


def test_fixes_and_gauges_go_along_in_the_size_of_the_art(rig, workspace):
    other = onto(workspace, twice(ARMS))
    other.copy_rig(rig.puppet_id)
    there = other.puppet
    fix, gauge = there.controls
    assert there.bone(fix.bone_id).name == "near lower" and gauge.name == "sniff"
    (entry,), (sniff,) = there.entries_of(fix.id), there.entries_of(gauge.id)
    assert entry.x == -80 and {r.property: r.value for r in entry.rows} == pytest.approx(
        {"shift_x": 6.0, "shift_y": 10.0}
    )
    (was,) = rig.puppet.entries_of(rig.puppet.controls[0].id)
    moved = np.array([p[1:] for p in entry.reshapes[0].points])
    assert moved == pytest.approx(2 * np.array([p[1:] for p in was.reshapes[0].points]))
    assert {(r.property, r.value) for r in sniff.rows} == {("turn", 12.0), ("drawing", -1.0)}


def test_parts_are_found_by_their_roles(rig, workspace):
    art = ARMS
    for old, new in ((b"near upper", b"near bicep"), (b"near lower", b"near elbow piece"), (b"nose", b"snout")):
        art = art.replace(b'id="' + old, b'id="' + new)
    for name, role in (("near upper", "upper arm"), ("near lower", "forearm")):
        rig_bench = Softening(workspace, rig.puppet_id)
        bone = rig_bench.puppet.bone(rig.ids[name]).model_copy(update={"role": role, "region": "arm"})
        with workspace.edit("role", [rig.puppet_id]) as edit:
            edit.put("bones", [bone])
    other = onto(workspace, art)
    found = other.compared(rig.puppet_id)
    assert ("near upper", "near bicep") in found.pairs and ("near lower", "near elbow piece") in found.pairs
    assert "part “nose”" in found.lost and "bone “nose”" in found.lost and found.left == ["snout"]
    before = other.puppet
    other.copy_rig(rig.puppet_id)
    snout = next(p for p in other.puppet.parts if p.name == "snout")
    assert other.puppet.bone(snout.bone_id).parent_id == next(b.id for b in other.puppet.bones if b.name == "body")
    take_step(workspace.store, other.puppet_id, "undo")
    assert other.puppet.bones == before.bones and other.puppet.controls == ()


def test_an_arm_that_is_drawn_hanging_has_its_joint_where_the_pieces_meet(rig, workspace):
    art = ARMS.replace(b"M50 90 H140 V110 H50 Z", b"M125 90 H145 V180 H125 Z").replace(
        b"M10 92 H60 V108 H10 Z", b"M127 170 H143 V220 H127 Z"
    )
    other = onto(workspace, art)
    other.copy_rig(rig.puppet_id)
    bones = {b.name: b for b in other.puppet.bones}
    joint = bones["near lower"]
    assert (joint.x, joint.y) == pytest.approx((135, 175), abs=1)
    assert joint.angle == pytest.approx(90, abs=3) and bones["near upper"].angle == pytest.approx(90, abs=5)
    assert np.hypot(joint.x - bones["near upper"].x, joint.y - bones["near upper"].y) > 60


def test_a_rig_that_fits_nothing_is_refused(rig, workspace):
    other = onto(
        workspace,
        b'<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><g id="kite"><path d="M1 1H8V8Z"/></g></svg>',
    )
    before = other.puppet
    for source, said in ((rig.puppet_id, "Nothing of"), (other.puppet_id, "the same puppet")):
        with pytest.raises(InvalidInputError, match=said):
            other.copy_rig(source)
    assert other.puppet == before
