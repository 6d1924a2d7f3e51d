"""Drift in scenes: on top of keys and walks, closed in loops, still where something is held, posed on, undone."""

import numpy as np
import pytest

from builders.acting import Alone
from gaitwire.core.errors import InvalidInputError, LockedError
from gaitwire.core.motion.drivers.drift import Drift
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.services.scene.drifting import make_drift_own, put_drift
from gaitwire.services.scene.floor import update_instance, update_scene
from gaitwire.services.scene.led import driver_of, remove_drivers
from gaitwire.services.scene.limb_tips import solve_from_tip
from gaitwire.services.scene.links import hitch_nodes, plant_limbs
from gaitwire.services.scene.walks import put_gait
from gaitwire.services.session.workspace import Workspace
from gaitwire.services.views.drift_card import drift_card
from gaitwire.services.views.wires import build_timeline

FRAMES = np.arange(48)


@pytest.fixture
def stage(orchard):
    return Alone(orchard, place={"x": 500.0, "y": 640.0}, ground=640.0)


def test_it_lies_on_top_of_keys_and_is_gone_when_it_is_let_be(stage):
    stage.key(0, "near forearm", -20)
    stage.key(40, "near forearm", -60)
    before = stage.seen("near forearm", FRAMES)
    nodes = [stage.node(name) for name in ("near forearm", "far forearm", "face")]
    put_drift(stage.floor, nodes, {"turn": 3.0}, changes=6.0)
    away = stage.seen("near forearm", FRAMES) - before
    assert 0.5 < np.abs(away).max() < 6 and np.abs(np.diff(away)).max() < 3
    together = np.corrcoef([away, stage.seen("far forearm", FRAMES), stage.seen("face", FRAMES)])
    assert np.abs(together - np.eye(3)).max() < 0.9  # each goes its own way
    assert remove_drivers(stage.floor, nodes, Drift) == 3
    assert stage.seen("near forearm", FRAMES) == pytest.approx(before)
    stage.undo()
    assert stage.seen("near forearm", FRAMES) - before == pytest.approx(away)


def test_on_a_loop_it_closes_and_is_stored_as_it_was(stage, orchard):
    update_scene(stage.floor, loop=True)
    put_drift(stage.floor, [stage.node("chest")], {"turn": 4.0, "shift_x": 0.02})
    found = stage.seen("chest", [0, 0.5, 47.5, 48, 48.5])
    assert found[[0, 1]] == pytest.approx(found[[3, 4]], abs=1e-9)
    assert abs(found[2] - found[3]) < 0.5
    again = Workspace(orchard.store).scene(stage.floor.scene_id)
    assert again.drivers == stage.floor.scene.drivers and again.drivers[0].settings.amounts["shift_x"] == 0.02


def test_a_walk_drifts_and_a_pose_made_on_top_shows_as_it_was_made(stage):
    put_gait(stage.floor, stage.who, CHARACTERS["plain"], travels=True)
    before = stage.seen("chest", FRAMES)
    put_drift(stage.floor, [stage.node("chest")], {"turn": 5.0})
    assert np.abs(stage.seen("chest", FRAMES) - before).max() > 1
    stage.key(20, "chest", 17)
    assert stage.seen("chest", [20]) == pytest.approx([17], abs=1e-5)


def test_a_planted_foot_stays_and_a_free_tip_drifts(stage):
    leg = next(i for i in stage.puppet.limbs if i.name == "near leg")
    foot = stage.ids["near foot"]
    stage.floor.word = "go"
    solve_from_tip(stage.floor, [(stage.who, leg.id)], 0.0, True)
    put_drift(stage.floor, [(stage.who, leg.id)], {"tip_x": 0.05, "tip_y": 0.03})
    nodes = stage.at(*FRAMES)
    place = nodes.nodes[:, nodes.node_keys.index((stage.who, foot)), 4:]
    assert np.ptp(place, axis=0).max() > 5
    plant_limbs(stage.floor, [(stage.who, leg.id)], 10.0)
    nodes = stage.at(*FRAMES)
    place = nodes.nodes[:, nodes.node_keys.index((stage.who, foot)), 4:]
    assert np.ptp(place[10:], axis=0).max() < 0.01 and np.ptp(place[:6], axis=0).max() > 0.5
    assert np.abs(np.diff(place[:12], axis=0)).max() < 6  # it comes to its spot, and does not jump there


@pytest.mark.parametrize("loop", [False, True])
def test_what_is_carried_stands_still_and_goes_on_from_there(stage, loop):
    update_scene(stage.floor, loop=loop)
    basket = stage.node("basket")
    put_drift(stage.floor, [basket], {"turn": 6.0, "shift_x": 0.02}, changes=3.0)
    free = stage.seen("basket", FRAMES)
    stage.floor.word = "go"
    hitch_nodes(stage.floor, [basket], 12.0, stage.node("far hand"))
    hitch_nodes(stage.floor, [basket], 30.0, None)
    turns = stage.seen("basket", [*FRAMES, 48])
    assert np.ptp(turns[12:31]) < 1e-9 and np.ptp(turns[:12]) > 1 and np.ptp(turns[31:]) > 1
    most = 2.0 * np.abs(np.diff(free)).max()
    assert np.abs(np.diff(turns[:48])).max() < most  # nothing jumps, neither taken nor let go
    if loop:
        assert turns[48] == pytest.approx(turns[0]) and abs(turns[47] - turns[48]) < most
    else:
        assert turns[:13] == pytest.approx(free[:13])
    place = stage.at(10, 11, 12, 13, 29, 30, 31, 32)
    found = place.nodes[:, place.node_keys.index(basket), 4:]
    assert np.abs(np.diff(found[:4], axis=0)).max() < 8 and np.abs(np.diff(found[4:], axis=0)).max() < 8


def test_what_is_carried_from_the_start_begins_to_drift_when_it_is_let_go(stage):
    basket = stage.node("basket")
    put_drift(stage.floor, [basket], {"turn": 6.0}, changes=3.0)
    hitch_nodes(stage.floor, [basket], 0.0, stage.node("far hand"))
    assert stage.seen("basket", FRAMES) == pytest.approx(0)
    hitch_nodes(stage.floor, [basket], 20.0, None)
    turns = stage.seen("basket", FRAMES)
    assert turns[:21] == pytest.approx(0) and np.ptp(turns[30:]) > 1 and np.abs(np.diff(turns)).max() < 3


def test_seeds_tell_one_drift_from_another(stage):
    node = stage.node("face")
    put_drift(stage.floor, [node], {"turn": 3.0})
    first = stage.seen("face", FRAMES)
    put_drift(stage.floor, [node], seed=1)
    assert np.abs(stage.seen("face", FRAMES) - first).max() > 0.5 and len(stage.floor.scene.drivers) == 1
    put_drift(stage.floor, [node], {"turn": 6.0}, seed=0)
    assert stage.seen("face", FRAMES) == pytest.approx(2 * first)


def test_what_cannot_drift_says_so(stage):
    part = stage.puppet.parts[0].id
    with pytest.raises(InvalidInputError, match="does not drift"):
        put_drift(stage.floor, [(stage.who, part)])
    with pytest.raises(InvalidInputError, match="keep of a bone"):
        put_drift(stage.floor, [stage.node("face")], {"keep": 1.0})
    for wrong in ({"turn": 1000.0}, {"turn": float("nan")}, {"turn": -3.0}):
        with pytest.raises(InvalidInputError):
            put_drift(stage.floor, [stage.node("face")], wrong)
    with pytest.raises(InvalidInputError, match="by nothing"):
        put_drift(stage.floor, [stage.node("face")], {"turn": 0.0})
    update_instance(stage.floor, stage.who, locked=True)
    with pytest.raises(LockedError):
        put_drift(stage.floor, [stage.node("face")])
    assert driver_of(stage.floor, stage.node("face"), Drift) is None


def test_the_card_tells_what_those_chosen_have_in_common(stage):
    face, hand, leg = stage.node("face"), stage.node("near hand"), (stage.who, stage.puppet.limbs[0].id)
    assert drift_card(stage.floor, [(stage.who, stage.puppet.parts[0].id)]) is None
    assert drift_card(stage.floor, [face, hand]) == (0, 2, ())
    put_drift(stage.floor, [face, hand, leg], changes=2.0)
    put_drift(stage.floor, [face], {"turn": 4.0, "shift_x": 0.01})
    found = drift_card(stage.floor, [face, hand])
    values = {f.name: f.value for f in found.fields}
    assert (found.led, values["turn"], values["changes"], values["skew"]) == (2, None, 2.0, 0.0)
    (across,) = (f for f in drift_card(stage.floor, [face]).fields if f.name == "shift_x")
    assert (across.value, across.short) == (pytest.approx(1.0), "across %")
    assert [f.name for f in drift_card(stage.floor, [face, leg]).fields] == ["changes"]


@pytest.mark.parametrize("loop", [False, True])
def test_it_becomes_keys_that_show_what_it_showed(stage, loop):
    update_scene(stage.floor, loop=loop)
    put_gait(stage.floor, stage.who, CHARACTERS["plain"], travels=not loop)
    stage.key(10, "face", -8)
    stage.key(30, "face", 12)
    nodes = [stage.node("face"), stage.node("chest")]
    put_drift(stage.floor, nodes, {"turn": 4.0, "shift_x": 0.01})
    every = {(n, p): stage.seen(n, FRAMES, p) for n in ("face", "chest") for p in ("turn", "shift_x")}
    made = make_drift_own(stage.floor, nodes)
    assert stage.floor.scene.drivers == () and made.error <= 0.1
    for (name, prop), before in every.items():
        assert np.abs(stage.seen(name, FRAMES, prop) - before).max() <= 0.1 + 1e-6, (name, prop)
    assert 8 < made.keys < 4 * 40  # thinned, where it does not move as a walk does
    with pytest.raises(InvalidInputError, match="Nothing that is chosen drifts"):
        make_drift_own(stage.floor, nodes)
    stage.undo()
    for (name, prop), before in every.items():
        assert stage.seen(name, FRAMES, prop) == pytest.approx(before)


def test_wires_say_what_drifts(stage):
    leg = stage.puppet.limbs[0]
    put_drift(stage.floor, [stage.node("face"), (stage.who, leg.id)])
    timeline = build_timeline(stage.floor.scene, stage.workspace.cast(stage.floor.scene), {})
    wires = {w.name: w for member in timeline.cast for group in member.groups for w in (group.head, *group.wires)}
    assert wires["face"].led == "drifts: turn 1.5 °" and "face drifts" in wires["Head"].led
    (tip,) = (w for w in wires.values() if w.owner_id == leg.id)  # a tip's wire is there once it is led
    assert tip.led == "drifts: across 0.6 %, down 0.6 %" and not wires["neck"].led
