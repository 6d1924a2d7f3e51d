"""Loose ends in scenes: as drawn at rest, late when carried, the same however they are asked for, made into keys."""

import numpy as np
import pytest

from builders.acting import Alone
from gaitwire.core.errors import InvalidInputError, LockedError
from gaitwire.core.evaluate import evaluate
from gaitwire.core.evaluate.posed import posed_at
from gaitwire.core.motion.loose.settings import Loose
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.services.rig.bench import Bench
from gaitwire.services.scene.drifting import put_drift
from gaitwire.services.scene.floor import update_instance, update_scene
from gaitwire.services.scene.hops import plan_hop, usual_hop
from gaitwire.services.scene.led import remove_drivers, settings_of
from gaitwire.services.scene.links import hitch_nodes
from gaitwire.services.scene.loose_ends import drop_turns, make_loose_own, put_loose, swinging, turned_by_hand
from gaitwire.services.scene.posing import set_values
from gaitwire.services.scene.walk_keys import put_walk
from gaitwire.services.scene.walks import put_gait
from gaitwire.services.scene.weight import weigh_down
from gaitwire.services.session.workspace import Workspace
from gaitwire.services.views.led_said import led_row
from gaitwire.services.views.loose_card import loose_card
from gaitwire.services.views.wires import build_timeline

FRAMES = np.arange(48.0)


class Swung(Alone):
    """Tamsin with a bowing body, and what swings on her."""

    def bow(self):
        for frame, value in ((0, 0), (10, 0), (16, 30), (30, 30), (36, -5)):
            self.key(frame, "chest", value)

    def seen_on_stage(self, bone, frame):
        """Degrees in which a bone points; 90 is straight down."""
        found = self.at(frame)
        a, b = found.nodes[0, found.node_keys.index(self.node(bone)), :2]
        return (np.degrees(np.arctan2(b, a)) + self.bones[bone].angle) % 360

    def played(self, bone, frames=FRAMES):
        """Turns of a bone as it is seen, degrees (F,)."""
        puppet, posed = posed_at(self.floor.compiled.groups, self.who, np.asarray(frames, float))
        return posed.values[puppet.node(self.ids[bone]), 0]


@pytest.fixture
def stage(orchard):
    return Swung(orchard, place={"x": 500.0, "y": 640.0}, ground=640.0)


LOOSE = ("plait", "scarf tail", "apron", "basket")


def test_on_one_press_nothing_changes_while_nothing_moves(stage):
    put_loose(stage.floor, [stage.node(name) for name in LOOSE])
    for name in (*LOOSE, "plait 2", "scarf tail 3"):
        assert stage.played(name) == pytest.approx(0, abs=0.01), name


def test_it_lies_on_the_floor_it_is_lowered_to_and_never_higher_than_it_is_drawn(stage):
    set_values(stage.floor, 0.0, {stage.slot(stage.who, "shift_y"): 0.0})
    put_loose(stage.floor, [stage.node("plait")], stiffness=0.0, as_drawn=False, off_floor=True)
    names = ("plait", "plait 2")

    def lowest(frame):
        found = stage.at(frame)
        tips = []
        for name in names:
            bone = stage.bones[name]
            a, b, _, _, _, f = found.nodes[0, found.node_keys.index(stage.node(name))]
            tips.append(f + bone.length * (b * np.cos(np.radians(bone.angle)) + a * np.sin(np.radians(bone.angle))))
        return max(tips)

    pivot = stage.at(0.0).nodes[0, stage.at(0.0).node_keys.index(stage.node("plait")), 5]
    set_values(stage.floor, 40.0, {stage.slot(stage.who, "shift_y"): 640.0 - pivot - 15.0})
    assert lowest(44.0) < 640 + 1
    put_loose(stage.floor, [stage.node("plait")], off_floor=False)
    assert lowest(44.0) > 640 + 15
    update_scene(stage.floor, ground=None)
    put_loose(stage.floor, [stage.node("plait")], off_floor=True)
    assert lowest(44.0) > 640 + 15  # there is no floor


def test_it_swings_late_after_the_body_and_comes_to_rest(stage):
    stage.bow()
    put_loose(stage.floor, [stage.node("plait")])
    turns, end = stage.played("plait"), stage.played("plait 2")
    assert turns[:11] == pytest.approx(0, abs=0.01)  # never before what moves it
    assert np.abs(turns[11:30]).max() > 10 and np.abs(end).max() > 5
    assert np.ptp(stage.played("plait", np.arange(130.0, 140.0))) < 0.1
    assert swinging(stage.floor, stage.node("plait")) == [stage.ids["plait"], stage.ids["plait 2"]]
    put_loose(stage.floor, [stage.node("plait")], bends=False)
    assert swinging(stage.floor, stage.node("plait")) == [stage.ids["plait"]]
    assert stage.played("plait 2") == pytest.approx(0) and np.abs(stage.played("plait")).max() > 5


def test_it_falls_as_far_as_its_carrier_leans_and_a_string_hangs_straight_down(stage):
    """Drawn down the back of a head that bends forward by 80 degrees."""
    stage.key(0, "face", 80)
    before = stage.seen_on_stage("plait", 80.0)
    put_loose(stage.floor, [stage.node("plait")])
    leaned = stage.seen_on_stage("plait", 80.0)
    put_loose(stage.floor, [stage.node("plait")], stiffness=0.0)
    hangs = stage.seen_on_stage("plait", 80.0)
    assert abs(before) > 90 and abs(hangs - 90) < 1 and abs(hangs) < abs(leaned) < abs(before) - 15
    put_loose(stage.floor, [stage.node("plait")], stiffness=1.2, as_drawn=False)
    assert abs(stage.seen_on_stage("plait", 80.0) - leaned) > 5 and abs(stage.seen_on_stage("plait", 80.0) - 90) > 5


def test_keys_on_it_are_the_shape_that_it_goes_back_to(stage):
    put_loose(stage.floor, [stage.node("plait")])
    stage.key(0, "plait", -15)
    assert stage.played("plait")[[0, 40]] == pytest.approx(-15, abs=0.01)


@pytest.mark.parametrize(("loop", "exposure"), [(False, 1), (True, 1), (False, 2)])
def test_every_way_of_asking_shows_the_same(stage, loop, exposure):
    update_scene(stage.floor, loop=loop)
    put_gait(stage.floor, stage.who, CHARACTERS["plain"], travels=not loop)
    put_loose(stage.floor, [stage.node(name) for name in LOOSE])
    update_instance(stage.floor, stage.who, exposure=exposure)
    whole = evaluate(stage.floor.compiled, FRAMES)
    assert np.ptp(whole.nodes[:, :, 0], axis=0).max() > 0.01
    anew = Workspace(stage.workspace.store).compiled(stage.floor.scene_id)
    for block in (np.arange(24.0, 48.0), np.array([7.0]), np.arange(23.0, -1.0, -1.0)):
        found = evaluate(anew, block)
        assert np.abs(found.nodes - whole.nodes[block.astype(int)]).max() < 1e-3
        assert np.abs(found.matrices - whole.matrices[block.astype(int)]).max() < 1e-3
    if loop:
        seam = evaluate(anew, np.array([0.0, 47.0, 48.0, 49.0]))
        assert np.abs(seam.nodes[2] - seam.nodes[0]).max() < 1e-6
        assert np.abs(seam.nodes[0] - seam.nodes[1]).max() < 2 * np.abs(np.diff(whole.nodes, axis=0)).max()


def test_the_blocking_view_shows_it_as_it_is_keyed(stage):
    stage.bow()
    put_loose(stage.floor, [stage.node("plait")])
    found = evaluate(stage.floor.compiled, np.array([18.0]), blocking=True)
    remove_drivers(stage.floor, [stage.node("plait")], Loose)
    assert np.allclose(found.nodes, evaluate(stage.floor.compiled, np.array([18.0]), blocking=True).nodes)


def test_a_hitched_basket_swings_from_the_hand_that_carries_it(stage):
    basket = stage.node("basket")
    for frame, value in ((12, 0), (18, -70), (30, 10)):
        stage.key(frame, "near upper arm", value)
    hitch_nodes(stage.floor, [basket], 4.0, stage.node("near hand"))
    stiff = stage.at(*FRAMES)
    put_loose(stage.floor, [basket])
    loose = stage.at(*FRAMES)
    n = loose.node_keys.index(basket)
    assert np.abs(loose.nodes[:, n, 4:] - stiff.nodes[:, n, 4:]).max() < 1e-6  # it hangs on where it was taken
    turned = np.degrees(np.unwrap([np.arctan2(f.nodes[:, n, 1], f.nodes[:, n, 0]) for f in (stiff, loose)]))
    assert np.ptp(turned[0]) > 60 and np.abs(turned[1] - turned[0])[12:].max() > 15
    assert np.abs(turned[1] - turned[0])[:12] == pytest.approx(0, abs=0.1)


@pytest.mark.parametrize("loop", [False, True])
def test_it_becomes_keys_that_show_what_it_showed(stage, loop):
    update_scene(stage.floor, loop=loop)
    stage.bow()
    stage.key(20, "plait", 12)
    nodes = [stage.node("plait"), stage.node("apron")]
    put_loose(stage.floor, nodes)
    before = {name: stage.played(name) for name in ("plait", "plait 2", "apron")}
    made = make_loose_own(stage.floor, nodes)
    assert stage.floor.scene.drivers == () and made.error <= 0.1 and 10 < made.keys < 3 * 40
    for name, turns in before.items():
        assert np.abs(stage.played(name) - turns).max() < 0.11, name
    stage.undo()
    assert stage.played("plait 2") == pytest.approx(before["plait 2"], abs=1e-6)
    with pytest.raises(InvalidInputError, match="Nothing that is chosen swings"):
        make_loose_own(stage.floor, [stage.node("face")])


def test_what_was_turned_by_hand_can_be_left_to_it(stage):
    stage.bow()
    for name in ("plait", "plait 2"):
        stage.key(16, name, -20)
        stage.key(24, name, 15)
    nodes = [stage.node("plait")]
    with pytest.raises(InvalidInputError, match="No bead turns"):
        drop_turns(stage.floor, nodes)
    put_loose(stage.floor, nodes)
    by_hand = len(turned_by_hand(stage.floor, nodes))
    assert by_hand >= 4 and loose_card(stage.floor, nodes).beads == by_hand
    assert drop_turns(stage.floor, nodes) == by_hand and not stage.keys("plait") and not stage.keys("plait 2")
    assert len(stage.keys("chest")) >= 5  # nobody else's
    stage.undo()
    assert len(turned_by_hand(stage.floor, nodes)) == by_hand


def test_what_cannot_swing_says_so_and_nothing_is_stored(stage):
    leg, nodes = stage.puppet.limbs[0], [stage.node("plait")]
    for wrong in ([(stage.who, leg.id)], [(stage.who, stage.who)]):
        with pytest.raises(InvalidInputError, match="Only bones swing"):
            put_loose(stage.floor, wrong)
    with pytest.raises(InvalidInputError, match="has no length"):
        put_loose(stage.floor, [stage.node("eye")])
    with pytest.raises(InvalidInputError, match="no length of its own"):
        put_loose(stage.floor, [stage.node("scarf")], bends=False)
    for values in ({"stiffness": -1}, {"damping": float("nan")}, {"limit": 999}):
        with pytest.raises(InvalidInputError):
            put_loose(stage.floor, nodes, **values)
    update_instance(stage.floor, stage.who, locked=True)
    with pytest.raises(LockedError):
        put_loose(stage.floor, nodes)
    assert stage.floor.scene.drivers == ()


def test_the_card_and_the_wires_say_how_it_swings(stage):
    plait, basket = stage.node("plait"), stage.node("basket")
    assert loose_card(stage.floor, [(stage.who, stage.who)]) is None
    assert loose_card(stage.floor, [plait]).led == 0
    put_loose(stage.floor, [plait, basket], damping=0.5)
    put_loose(stage.floor, [basket], limit=20.0)
    card = loose_card(stage.floor, [plait, basket])
    shown = {f.name: (f.value, f.differ) for f in card.fields}
    assert (card.led, card.bones, shown["damping"], shown["limit"]) == (2, 3, (50.0, False), (None, True))
    timeline = build_timeline(stage.floor.scene, stage.workspace.cast(stage.floor.scene), {})
    wires = {w.name: w for member in timeline.cast for group in member.groups for w in group.wires}
    assert wires["plait"].led == "swings 1.2 a second, damped by 50 %" and not wires["face"].led
    assert card.below and not loose_card(stage.floor, [stage.node("scarf tail 3")]).below
    put_loose(stage.floor, [stage.node("scarf tail 3")])
    assert not loose_card(stage.floor, [stage.node("scarf tail 3")]).below  # nothing hangs from it
    assert wires["plait 2"].led == "swings with plait"


def test_how_far_it_is_led_is_keyed_on_its_wire(stage):
    """Held hair, let go: before it is, it goes as it is keyed; and a drift comes and goes likewise."""
    stage.bow()
    put_loose(stage.floor, [stage.node("plait")])
    put_drift(stage.floor, [stage.node("face")], {"turn": 5.0}, changes=4.0)
    free, drifts = stage.played("plait"), stage.seen("face", FRAMES)
    for name in ("plait", "face"):
        stage.key(0, name, 0, "led")
        stage.key(24, name, 0, "led")
        stage.key(26, name, 1, "led")
    held = stage.played("plait")
    assert held[:24] == pytest.approx(0, abs=1e-3) and np.abs(free[:24]).max() > 5
    assert np.abs(held[28:]).max() > 3
    seen = stage.seen("face", FRAMES)
    assert seen[:25] == pytest.approx(0) and seen[26:] == pytest.approx(drifts[26:]) and np.abs(drifts[:24]).max() > 1
    row = led_row(stage.floor, [stage.node("plait")], 24.0)
    assert (row.value, row.keyed) == (0, True) and led_row(stage.floor, [stage.node("chest")], 24.0) is None
    assert [k.time for k in stage.keys("plait", "led")] == [0, 24, 26]
    made = make_loose_own(stage.floor, [stage.node("plait")])
    assert made.error <= 0.1 and np.abs(stage.played("plait") - held).max() < 0.11


def test_wind_and_fall_of_the_scene_move_what_is_loose(stage):
    put_loose(stage.floor, [stage.node("plait")])
    assert stage.played("plait") == pytest.approx(0, abs=0.01)
    update_scene(stage.floor, wind=900.0, wind_turn=180.0, gusts=0.5)
    blown = stage.played("plait")
    assert blown.min() > 3 and np.ptp(blown) > 1
    update_scene(stage.floor, wind=0.0, fall=100.0)
    assert settings_of(stage.floor, stage.node("plait"), Loose).weight == 1
    with pytest.raises(InvalidInputError):
        update_scene(stage.floor, wind=-3.0)


def test_walks_hops_and_weight_leave_what_swings_to_itself(stage):
    put_loose(stage.floor, [stage.node("plait")])
    put_walk(stage.floor, stage.who, CHARACTERS["plain"], 0.0, 24.0)
    weigh_down(stage.floor, stage.who, 3.0)
    update_scene(stage.floor, frames=90)
    stage.floor.word = "back"
    plan_hop(stage.floor, stage.who, 26.0, usual_hop(stage.floor, stage.who))
    assert not stage.keys("plait") and not stage.keys("plait 2") and stage.keys("apron")
    assert np.abs(stage.played("plait")).max() > 5


def test_a_joint_moved_on_the_bench_keeps_what_is_keyed_whatever_swings(stage):
    stage.bow()
    stage.key(12, "plait", 20)
    put_loose(stage.floor, [stage.node("plait"), stage.node("apron")], stiffness=0.6)
    face = stage.bones["face"]
    Bench(stage.workspace, stage.puppet.id).move_joint(face.id, "pivot", face.x + 6, face.y - 4, alone=True)
    assert [round(k.value, 3) for k in stage.keys("plait")] == [0, 20]  # its own turn is as it was
    after = stage.played("plait")
    assert np.abs(after).max() > 10 and np.isfinite(after).all()
