"""Rest mended after animating: keys keep the picture, what they cannot keep is told before anything is done."""

import numpy as np
import pytest

from builders.rigs import Rig
from gaitwire.core.evaluate import evaluate
from gaitwire.services.rig.bench import Bench
from gaitwire.services.rig.soft_parts import Softening
from gaitwire.services.session.rest_compensation import NeedsWordError
from gaitwire.store.documents import list_documents, revision_of
from gaitwire.store.history import take_step


@pytest.fixture
def rig(workspace):
    """The two-armed puppet, its near arm keyed."""
    made = Rig(workspace)
    for frame, upper, lower in ((0, 0, 0), (8, 35, -50), (20, -20, -90)):
        made.key(frame, made.ids["near upper"], "turn", upper)
        made.key(frame, made.ids["near lower"], "turn", lower)
    made.key(8, made.ids["near lower"], "stretch", 1.3)
    made.key(20, made.ids["body"], "turn", 12)
    return made


def bench(rig, word="keep", allowed=1.0):
    return Bench(rig.workspace, rig.puppet_id, None, word, allowed)


def pictures(rig, *frames):
    """Matrices of all parts, in the puppet's order."""
    found = evaluate(rig.workspace.compiled(rig.scene), np.array(frames, float))
    return found.matrices[:, [found.part_keys.index((rig.who, p)) for p in rig.parts.values()]]


def keys_of(rig, name, prop):
    scene = rig.floor.scene
    ids = {c.id for c in scene.channels if (c.owner_id, c.property) == (rig.ids[name], prop)}
    return {k.time: k.value for k in scene.keys if k.channel_id in ids}


def test_a_moved_pivot_makes_up_for_its_way_in_shift(rig):
    before = pictures(rig, 0, 8, 20)
    work = bench(rig)
    work.move_joint(rig.ids["near lower"], "pivot", 60, 106, alone=True)
    assert pictures(rig, 0, 8, 20) == pytest.approx(before, abs=1e-4)
    assert "has not moved at any key" in work.said and "keys adjusted" in work.said


def test_a_pivot_of_a_bone_that_is_only_turned_makes_up_for_it_as_it_should(rig):
    bench(rig).move_joint(rig.ids["near upper"], "pivot", 140, 106, alone=True)
    across, down = keys_of(rig, "near upper", "shift_x"), keys_of(rig, "near upper", "shift_y")
    # The pivot moved by d = (5, 6); turned by a it would be off by d - R d.
    for time, turn in ((0.0, 0.0), (8.0, 35.0), (20.0, -20.0)):
        c, s = np.cos(np.radians(turn)), np.sin(np.radians(turn))
        assert (across[time], down[time]) == pytest.approx((c * 5 - s * 6 - 5, s * 5 + c * 6 - 6), abs=1e-4)


def test_it_is_one_step_for_the_puppet_and_its_scenes(rig):
    was = rig.puppet, rig.floor.scene.keys
    bench(rig).move_joint(rig.ids["near upper"], "pivot", 130, 92, alone=True)
    assert rig.floor.scene.keys != was[1]
    take_step(rig.workspace.store, rig.puppet_id, "undo")
    assert rig.puppet.bones == was[0].bones
    assert {(k.id, k.time, k.value) for k in rig.floor.scene.keys} == {(k.id, k.time, k.value) for k in was[1]}


def test_what_hangs_from_another_bone_keeps_its_pictures(rig):
    before = pictures(rig, 0, 8, 20)
    bench(rig).hang([rig.ids["near lower"]], rig.ids["body"])
    assert pictures(rig, 0, 8, 20) == pytest.approx(before, abs=1e-4)
    bench(rig).insert_above(rig.ids["near upper"])
    assert pictures(rig, 0, 8, 20) == pytest.approx(before, abs=1e-4)


def test_a_bone_that_goes_leaves_the_pictures_of_what_hung_from_it(rig):
    far = rig.parts["near lower"]
    before = pictures(rig, 0, 8, 20)[:, list(rig.parts.values()).index(far)]
    bench(rig).remove_bones([rig.ids["near upper"]])
    assert pictures(rig, 0, 8, 20)[:, list(rig.parts.values()).index(far)] == pytest.approx(before, abs=1e-4)


def test_what_cannot_be_kept_is_asked_about_and_nothing_done_until_it_is_answered(rig):
    was, stamps = rig.puppet, [revision_of(rig.workspace.store, d) for d in (rig.puppet_id, rig.scene)]
    with pytest.raises(NeedsWordError) as asked:
        bench(rig, "ask").remove_bones([rig.ids["near upper"]])
    report = asked.value.report
    assert [(m.time, m.part) for m in report.moved] == [(8.0, "near upper"), (20.0, "near upper")]
    # Its far end lies 90 px from the shoulder, its edge 10 px beside it: turned back by 35 degrees.
    assert report.moved[0].pixels == pytest.approx(2 * np.hypot(85, 10) * np.sin(np.radians(17.5)), rel=0.02)
    assert rig.puppet == was
    assert [revision_of(rig.workspace.store, d) for d in (rig.puppet_id, rig.scene)] == stamps
    bench(rig, "ask", allowed=200).remove_bones([rig.ids["near upper"]])
    assert rig.puppet.bone(rig.ids["near upper"]) is None


def test_keys_are_let_be_when_that_is_what_is_wanted(rig):
    keys, before = rig.floor.scene.keys, pictures(rig, 0, 8, 20)
    work = bench(rig, "let")
    work.move_joint(rig.ids["near lower"], "pivot", 60, 106, alone=True)
    assert rig.floor.scene.keys == keys and "moves by" in work.said
    far = []
    for one in (before, pictures(rig, 0, 8, 20)):
        a, b, c, d, e, f = np.moveaxis(one[:, list(rig.parts).index("near lower")], 1, 0)[:, :, None]
        x, y = np.array([10, 60, 60, 10]), np.array([92, 92, 108, 108])
        far.append(np.stack([a * x + c * y + e, b * x + d * y + f]))
    assert f"{np.hypot(*(far[1] - far[0])).max():.2f} px" in work.said


def test_a_pin_placed_elsewhere_is_told_of(rig):
    soft = Softening(rig.workspace, rig.puppet_id)
    soft.soften([rig.parts["near lower"]])
    (pin,) = soft.place_pin(rig.parts["near lower"], "lead", 30, 100)
    rig.key(8, pin, "shift_y", 14)
    alone = Softening(rig.workspace, rig.puppet_id, None, "ask", 0.5)
    alone.move_pin(pin, 32, 100)  # by itself it carries the part as a whole, from wherever it is
    soft.place_pin(rig.parts["near lower"], "anchor", 55, 100)
    with pytest.raises(NeedsWordError) as asked:
        Softening(rig.workspace, rig.puppet_id, None, "ask", 0.5).move_pin(pin, 18, 96)
    assert {m.part for m in asked.value.report.moved} == {"near lower"}


def test_a_part_that_is_made_soft_and_pinned_shows_what_it_showed_and_nothing_is_said(rig):
    """Its points have other numbers then, and are seen where they were."""
    soft = Softening(rig.workspace, rig.puppet_id, None, "ask", 0.5)
    soft.soften([rig.parts["near lower"]])
    for x in (20, 40, 55):
        soft.place_pin(rig.parts["near lower"], "lead", x, 100)
        assert "moves" not in soft.said


def test_puppets_that_stand_in_no_scene_or_have_no_keys_are_just_changed(rig):
    other = Rig(rig.workspace)
    work = Bench(other.workspace, other.puppet_id, None, "ask")
    work.move_joint(other.ids["near upper"], "pivot", 100, 100, alone=True)
    assert work.said == "" and other.puppet.bone(other.ids["near upper"]).x == 100


def test_a_walk_beneath_and_planted_feet_are_told_of_and_not_keyed_over(orchard):
    tamsin = next(p for p in map(orchard.puppet, _puppets(orchard)) if p.name == "Tamsin")
    shin = next(b for b in tamsin.bones if b.name == "near shin")
    with pytest.raises(NeedsWordError) as asked:
        Bench(orchard, tamsin.id, None, "ask").move_joint(shin.id, "pivot", shin.x + 5, shin.y + 6, alone=True)
    report = asked.value.report
    assert report.scenes == 6 and {m.scene for m in report.moved} >= {"Tamsin climbs"}
    assert report.most == report.moved[0].pixels > 1
    face = next(b for b in tamsin.bones if b.name == "face")
    work = Bench(orchard, tamsin.id, None, "ask")
    work.move_joint(face.id, "pivot", face.x + 3, face.y - 10, alone=True)
    assert "in 6 scenes" in work.said.lower()


def _puppets(workspace):
    return [e.id for e in list_documents(workspace.store, "puppet")]
