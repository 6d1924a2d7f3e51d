"""The Bench's use cases on real art: soft parts, pins, brushes, limbs, replacements, mirrored art; undone in one step."""

import numpy as np
import pytest

from gaitwire.core.errors import InvalidInputError, LockedError, NotFoundError, UnreadableArtError
from gaitwire.core.evaluate import evaluate
from gaitwire.services.library.art_in import import_art
from gaitwire.services.rig.bench import Bench
from gaitwire.services.rig.drawings import Drawings
from gaitwire.services.rig.limbs import Limbs
from gaitwire.services.rig.soft_parts import Softening
from gaitwire.services.scene.floor import add_puppet, make_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.store.history import take_step

ART = b"""<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 300 300">
<rect id="near sleeve" x="20" y="90" width="160" height="30" fill="#c93"/>
<circle id="near hand" cx="190" cy="105" r="16" fill="#a63"/>
<rect id="shirt" x="0" y="80" width="40" height="120" fill="#363"/></svg>"""


@pytest.fixture
def rig(workspace):
    """A sleeve over two bones, a hand below it."""
    made = import_art(workspace, ART, "picker.svg").puppet_id
    bench = Bench(workspace, made)
    by_name = {b.name: b.id for b in bench.puppet.bones}
    sleeve = by_name["near sleeve"]
    bench.move_joint(sleeve, "pivot", 25, 105, alone=True)
    bench.move_joint(sleeve, "tip", 100, 105, alone=True)
    fore = bench.add_bone(100, 105, (180, 105), sleeve, "near forearm")
    bench.hang([by_name["near hand"]], fore)
    bench.move_joint(by_name["near hand"], "pivot", 180, 105, alone=True)
    return bench


def part(bench, name):
    return next(p for p in bench.puppet.parts if p.name == name)


def bone(bench, name):
    return next(b for b in bench.puppet.bones if b.name == name)


def soft(bench):
    return Softening(bench.workspace, bench.puppet_id)


def test_a_softened_part_bends_with_the_bones_that_run_in_it(rig):
    sleeve = part(rig, "near sleeve")
    soft(rig).soften([sleeve.id])
    assert part(rig, "near sleeve").bends_with == (bone(rig, "near forearm").id,)
    compiled = rig.workspace.compiled_puppet(rig.puppet_id)
    frames = evaluate(compiled, np.zeros(1), {(rig.puppet_id, bone(rig, "near forearm").id, "turn"): 90.0})
    (slot,) = frames.soft.values()
    assert frames.points[0, slot.drawing(0), 1].max() == pytest.approx(185, abs=1)
    take_step(rig.workspace.store, rig.puppet_id, "undo")
    assert not part(rig, "near sleeve").soft


def test_brushed_weights_stay_with_the_part_and_can_be_given_back(rig):
    sleeve, bench = part(rig, "near sleeve"), soft(rig)
    bench.soften([sleeve.id])
    fore = bone(rig, "near forearm").id
    before = bench.heat(sleeve.id, fore)
    bench.brush(sleeve.id, fore, [(40.0, 105.0), (45.0, 105.0)], 20.0, 0.6)
    after = bench.heat(sleeve.id, fore)
    near = np.hypot(*(np.array(after.points) - (42, 105)).T) < 6
    assert np.array(after.shares)[near].min() > 0.5 > np.array(before.shares)[near].max()
    bench.unbrush([sleeve.id])
    assert bench.heat(sleeve.id, fore) == before
    with pytest.raises(InvalidInputError, match="does not bend"):
        bench.brush(sleeve.id, bone(rig, "shirt").id, [(40.0, 105.0)], 20.0, 0.6)


def test_pins_are_placed_in_pairs_and_keep_within_the_art(rig):
    sleeve, bench = part(rig, "near sleeve"), soft(rig)
    with pytest.raises(InvalidInputError, match="rigid"):
        bench.place_pin(sleeve.id, "lead", 60, 105)
    bench.soften([sleeve.id])
    rig.set_base(100, 250)
    made = bench.place_pin(sleeve.id, "lead", 60, 100, axis=100.0)
    assert sorted((p.x, p.y) for p in rig.puppet.pins) == [(60, 100), (140, 100)]
    bench.move_pin(made[0], 70, 110, axis=100.0)
    assert sorted((p.x, p.y) for p in rig.puppet.pins) == [(70, 110), (130, 110)]
    revision = rig.puppet.revision
    with pytest.raises(InvalidInputError, match="outside"):
        bench.move_pin(made[0], 70, 290)
    with pytest.raises(InvalidInputError, match="stiffness"):
        bench.set_pins(made, {"stiffness": 3})
    with pytest.raises(NotFoundError):
        bench.set_pins(made, {"bone_id": "nobody"})
    assert rig.puppet.revision == revision
    bench.set_pins(made, {"bone_id": bone(rig, "near forearm").id, "holds_turn": True, "stiffness": 0.5})
    assert all(p.holds_turn for p in rig.puppet.pins)
    with pytest.raises(InvalidInputError, match="has pins"):
        bench.harden([sleeve.id])
    bench.remove_pins(made)
    bench.harden([sleeve.id])


def test_a_mesh_that_would_be_too_fine_is_refused_and_nothing_stored(rig):
    sleeve, bench = part(rig, "near sleeve"), soft(rig)
    bench.soften([sleeve.id])
    revision = rig.puppet.revision
    with pytest.raises(InvalidInputError, match="too fine"):
        rig.update_parts([sleeve.id], {"grain": 1.0})
    with pytest.raises(InvalidInputError, match="grain"):
        rig.update_parts([sleeve.id], {"grain": -3})
    assert rig.puppet.revision == revision
    rig.update_parts([sleeve.id], {"grain": 12.0})
    assert bench.skin(sleeve.id).body.grain == 12.0


def test_a_limb_is_made_for_every_hand_that_hangs_from_two_bones(rig):
    limbs = Limbs(rig.workspace, rig.puppet_id)
    assert limbs.add_all() == 1
    (limb,) = rig.puppet.limbs
    assert limb.tip_id == bone(rig, "near hand").id
    with pytest.raises(InvalidInputError, match="without a limb"):
        limbs.add_all()
    with pytest.raises(InvalidInputError, match="lie above"):
        limbs.update(limb.id, {"count": 6})
    limbs.update(limb.id, {"stretch": 0.05, "softness": 0.1, "bend": -1, "name": "reach"})
    assert rig.puppet.limbs[0].name == "reach"
    limbs.remove(limb.id)
    assert rig.puppet.limbs == ()


def test_replacements_come_from_copies_other_parts_and_files(rig):
    hand, shirt = part(rig, "near hand"), part(rig, "shirt")
    drawings = Drawings(rig.workspace, rig.puppet_id)
    assert drawings.copy(hand.id) == 1
    assert drawings.take(hand.id, shirt.id, keep=False) == 2
    assert [p.name for p in rig.puppet.parts] == ["near sleeve", "near hand"]
    fist = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 900 900"><path d="M800 800h40v30z"/></svg>'
    assert drawings.add_file(hand.id, fist, "closed_fist.svg") == 3
    found = {d.number: d for d in rig.puppet.drawings(part(rig, "near hand"))}
    assert [found[n].name for n in range(4)] == ["near hand", "near hand copy", "shirt", "closed fist"]
    assert rig.workspace.art(found[3].art_hash).bounds.centre == pytest.approx((190, 105), abs=0.01)
    drawings.step(hand.id, 3, -9)
    assert [d.number for d in rig.puppet.drawings(part(rig, "near hand"))] == [0, 3, 1, 2]
    drawings.show(hand.id, 1)
    drawings.remove(hand.id, [1])
    assert part(rig, "near hand").shows == 0
    assert drawings.copy(hand.id) == 4  # a number is never used again while a later one is there
    with pytest.raises(InvalidInputError, match="own drawing"):
        drawings.remove(hand.id, [0])
    revision = rig.puppet.revision
    with pytest.raises(UnreadableArtError):
        drawings.add_file(hand.id, b"<svg", "broken.svg")
    assert rig.puppet.revision == revision


def test_an_arm_mirrored_across_shows_its_reflection(rig):
    rig.set_base(100, 250)
    soft(rig).soften([part(rig, "near sleeve").id])
    made = rig.mirror([bone(rig, "near sleeve").id], axis=40.0)
    assert len(made) == 3
    far = part(rig, "far sleeve")
    assert far.soft
    box = rig.workspace.art(far.art_hash).bounds
    assert (box.x0, box.x1, box.y0) == pytest.approx((-100, 60, 90))
    assert rig.workspace.art(part(rig, "far hand").art_hash).bounds.centre == pytest.approx((-110, 105))


def test_a_locked_part_is_left_alone(rig):
    sleeve = part(rig, "near sleeve")
    rig.update_parts([sleeve.id], {"locked": True})
    for gesture in (
        lambda: soft(rig).soften([sleeve.id]),
        lambda: Drawings(rig.workspace, rig.puppet_id).copy(sleeve.id),
        lambda: rig.remove_parts([sleeve.id]),
    ):
        with pytest.raises(LockedError):
            gesture()


def test_a_soft_part_is_not_taken_apart_or_joined_away(rig):
    sleeve = part(rig, "near sleeve")
    soft(rig).soften([sleeve.id])
    with pytest.raises(InvalidInputError, match="soft"):
        rig.join([sleeve.id, part(rig, "shirt").id])


def test_roles_are_guessed_anew_from_names(rig):
    rig.update_bones([bone(rig, "near forearm").id], {"role": "", "region": "prop", "side": "far"})
    assert rig.guess_roles([b.id for b in rig.puppet.bones]) == 1
    fore = bone(rig, "near forearm")
    assert (fore.region, fore.side, fore.role) == ("arm", "near", "forearm")


def test_a_change_on_the_bench_reaches_every_scene(rig):
    scenes = [make_scene(rig.workspace, name, frames=4) for name in ("One", "Two")]
    for scene in scenes:
        add_puppet(Floor(rig.workspace, scene), rig.puppet_id)
        assert not rig.workspace.frames(scene, np.zeros(1)).soft
    soft(rig).soften([part(rig, "near sleeve").id])
    for scene in scenes:
        assert len(rig.workspace.frames(scene, np.zeros(1)).soft) == 1
