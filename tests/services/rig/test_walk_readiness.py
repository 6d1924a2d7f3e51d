"""Ready to walk? What a puppet lacks, and the buttons that mend it."""

import pytest

from builders.named import id_of
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.walk.walker import walker_of
from gaitwire.services.rig.bench import Bench
from gaitwire.services.rig.limbs import Limbs
from gaitwire.services.rig.walk_readiness import mend_for_walk, ready_list


@pytest.fixture
def tamsin(orchard):
    return id_of(orchard, "puppet", "Tamsin")


def said(workspace, puppet_id):
    return [w.said for w in ready_list(workspace, puppet_id)]


def test_a_puppet_that_walks_well_has_nothing_on_its_list(orchard, tamsin):
    assert said(orchard, tamsin) == []


def test_feet_without_length_are_told_and_made_as_long_as_their_drawings(orchard, tamsin):
    bench = Bench(orchard, tamsin)
    feet = [b for b in bench.puppet.bones if b.role == "foot"]
    long = {b.id: b.length for b in feet}
    bench.update_bones([b.id for b in feet], {"length": 0.0})
    (weak,) = ready_list(orchard, tamsin)
    assert "far foot and near foot have no length" in weak.said or "near foot and far foot" in weak.said
    ball = walker_of(orchard.puppet(tamsin)).builds[0].ball
    mend_for_walk(orchard, tamsin, weak.remedy)
    assert said(orchard, tamsin) == []
    for bone in orchard.puppet(tamsin).bones:
        if bone.id in long:
            assert bone.length == pytest.approx(long[bone.id], rel=0.4) and bone.angle in (0.0, 180.0)
    assert walker_of(orchard.puppet(tamsin)).builds[0].ball > ball + 0.05


def test_feet_without_limbs_and_roles_are_told_and_mended(orchard, tamsin):
    limbs = Limbs(orchard, tamsin)
    for limb in orchard.puppet(tamsin).limbs:
        limbs.remove(limb.id)
    assert any("no limb" in one for one in said(orchard, tamsin))
    mend_for_walk(orchard, tamsin, "limbs")
    assert said(orchard, tamsin) == []
    bench = Bench(orchard, tamsin)
    thigh = next(b.id for b in bench.puppet.bones if b.role == "thigh" and b.side == "near")
    bench.update_bones([thigh], {"role": ""})
    assert any("no near thigh" in one for one in said(orchard, tamsin))
    mend_for_walk(orchard, tamsin, "roles")
    assert said(orchard, tamsin) == []
    with pytest.raises(InvalidInputError, match="no remedy"):
        mend_for_walk(orchard, tamsin, "hope")


def test_a_joint_beside_its_drawing_is_told(orchard, tamsin):
    bench = Bench(orchard, tamsin)
    shin = next(b for b in bench.puppet.bones if b.role == "shin" and b.side == "near")
    bench.move_joint(shin.id, "pivot", shin.x + 150, shin.y, alone=True)
    assert any("near shin lies outside its drawing" in one for one in said(orchard, tamsin))
