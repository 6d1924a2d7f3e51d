"""Hops planned in a scene: keys from where the puppet stands, to be edited, on what hangs too; nothing else changes."""

import numpy as np
import pytest
from shapely.affinity import affine_transform
from shapely.geometry import box

from builders.named import id_of
from gaitwire.core.addresses import Bead
from gaitwire.core.errors import UnansweredError
from gaitwire.core.motion.hop import Hop, timing_of
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.services.scene.beads import move_beads
from gaitwire.services.scene.floor import add_puppet, make_scene, update_instance, update_scene
from gaitwire.services.scene.found_poses import poses_of
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.hops import plan_hop, usual_hop
from gaitwire.services.scene.poses import pose_durations, set_duration
from gaitwire.services.scene.posing import set_values
from gaitwire.services.scene.timing import seams_of
from gaitwire.services.scene.walks import put_gait
from gaitwire.store.history import take_step

HOP = Hop(crouch=6, air=12, land=3, settle=12, height=90, distance=240, drop=50, heft=0.0)


@pytest.fixture
def floor(orchard):
    pip = id_of(orchard, "puppet", "Pip")
    made = Floor(orchard, make_scene(orchard, "Hops", frames=80, loop=False))
    made.who = add_puppet(made, pip, x=300.0, y=500.0, scale=0.8)
    made.bones = {b.name: b.id for b in orchard.puppet(pip).bones}
    return made


def seat(floor, *frames):
    found = floor.workspace.frames(floor.scene_id, np.array(frames, float))
    return found.nodes[:, found.node_keys.index((floor.who, floor.who))]


def test_a_hop_begins_where_the_puppet_stands_and_ends_as_far_on_as_asked(floor):
    set_values(floor, 0, {(floor.who, floor.who, "shift_x"): 20.0, (floor.who, floor.who, "shift_y"): -10.0})
    found = plan_hop(floor, floor.who, 8.0, HOP)
    when = timing_of(HOP)
    assert (found.off, found.down, found.end) == (8 + when.off, 8 + when.down, 8 + when.end)
    places = seat(floor, 0, found.off, 8 + when.top, found.down, found.end, 79)[:, 4:]
    assert places[[0, 1]] == pytest.approx(np.array([[320, 490]] * 2))
    assert places[2, 1] == pytest.approx(400) and places[3:] == pytest.approx(np.array([[560, 540]] * 3))
    assert found.gravity == pytest.approx(2 * (90**0.5 + 140**0.5) ** 2 / 12**2)


def test_area_is_kept_on_every_frame_and_after_an_edit_by_hand(floor):
    found = plan_hop(floor, floor.who, 4.0, HOP)
    square = box(-10, -10, 10, 10)

    def areas():
        return [
            affine_transform(square, (a, c, b, d, e, f)).area / (square.area * 0.64)
            for a, b, c, d, e, f in seat(floor, *range(80))
        ]

    assert areas() == pytest.approx([1.0] * 80)
    deepest = found.down + 3
    set_values(floor, deepest, {(floor.who, floor.who, "stretch"): 0.5})
    assert areas() == pytest.approx([1.0] * 80) and seat(floor, deepest)[0, 3] == pytest.approx(0.4)
    move_beads(floor, [Bead(floor.who, floor.who, found.end)], 6.0)
    assert areas() == pytest.approx([1.0] * 80)


def test_leaf_and_stem_lag_and_nothing_else_is_keyed(floor):
    plan_hop(floor, floor.who, 4.0, HOP)
    names = {i: n for n, i in floor.bones.items()} | {floor.who: "seat"}
    keyed = {(names[c.owner_id], c.property) for c in floor.scene.channels}
    assert keyed == {("seat", p) for p in ("shift_x", "shift_y", "stretch", "axis", "keep")} | {
        ("stem", "turn"), ("leaf", "turn"),
    }  # fmt: skip
    values = floor.values_at(np.arange(80.0))
    stem, leaf = (np.abs(values[floor.who, floor.bones[b], "turn"]) for b in ("stem", "leaf"))
    assert stem.max() > 3 and leaf.max() > 3 and stem[:6].max() < 0.6 and leaf[75:].max() < 0.6
    take_step(floor.workspace.store, floor.scene_id, "undo")
    assert floor.scene.channels == () and floor.scene.keys == ()


def test_a_second_hop_takes_the_place_of_the_first_where_they_lie_over_each_other(floor):
    plan_hop(floor, floor.who, 4.0, HOP)
    higher = HOP.model_copy(update={"height": 200.0})
    plan_hop(floor, floor.who, 6.0, higher)
    start = seat(floor, 6)[0, 5]
    places = seat(floor, 6 + timing_of(higher).top, 79)[:, 5]
    assert places == pytest.approx([start - 200, start + 50], abs=1e-6)


def test_a_turned_puppet_swings_mirrored(floor):
    plan_hop(floor, floor.who, 4.0, HOP)
    plain = floor.values_at(np.arange(80.0))[floor.who, floor.bones["leaf"], "turn"]
    take_step(floor.workspace.store, floor.scene_id, "undo")
    update_instance(floor, floor.who, turned=True)
    plan_hop(floor, floor.who, 4.0, HOP.model_copy(update={"distance": -240.0}))
    assert floor.values_at(np.arange(80.0))[floor.who, floor.bones["leaf"], "turn"] == pytest.approx(plain, abs=1e-6)


def test_a_hop_that_does_not_fit_says_which_frame_it_would_need_and_makes_the_scene_longer(floor):
    with pytest.raises(UnansweredError, match="touches down on 88") as asked:
        plan_hop(floor, floor.who, 70.0, HOP)
    assert floor.scene.channels == () and set(asked.value.answers) == {"longer"}
    with pytest.raises(UnansweredError, match="stands still on") as asked:
        plan_hop(floor, floor.who, 58.0, HOP)
    assert set(asked.value.answers) == {"longer", "stop"}
    floor.word = "longer"
    found = plan_hop(floor, floor.who, 70.0, HOP)
    assert floor.scene.frames == found.end + 1
    take_step(floor.workspace.store, floor.scene_id, "undo")
    assert floor.scene.frames == 80 and floor.scene.channels == ()


def test_a_hop_is_as_high_as_the_figure_and_the_picture_let_it(floor):
    tall = 222 - min(floor.workspace.art(p.art_hash).bounds.y0 for p in floor.workspace.puppet(_pip(floor)).parts)
    assert usual_hop(floor, floor.who).height == pytest.approx(0.66 * 0.8 * tall, abs=1)
    update_instance(floor, floor.who, y=0.8 * tall + 50)  # its head is 50 px under the edge of the picture
    assert usual_hop(floor, floor.who).height <= 50


def test_what_comes_after_a_hop_moves_along_or_stays_and_what_is_before_does(floor):
    for frame, x in ((0, 0.0), (60, 30.0), (70, 50.0)):
        set_values(floor, frame, {(floor.who, floor.who, "shift_x"): x})
    before = seat(floor, 0, 4, 60, 70)[:, 4]
    with pytest.raises(UnansweredError, match="more after this hop"):
        plan_hop(floor, floor.who, 4.0, HOP)
    for word, further in (("along", 240), ("back", 0)):
        floor.word = word
        plan_hop(floor, floor.who, 4.0, HOP)
        assert seat(floor, 0, 4, 60, 70)[:, 4] == pytest.approx(np.add(before, [0, 0, further, further]))
        take_step(floor.workspace.store, floor.scene_id, "undo")


def test_in_a_loop_the_next_round_sets_out_from_where_the_hop_came_to_or_it_comes_back(floor):
    update_scene(floor, loop=True)
    with pytest.raises(UnansweredError, match="comes round") as asked:
        plan_hop(floor, floor.who, 20.0, HOP)
    assert set(asked.value.answers) == {"travels", "back"}
    start = seat(floor, 0)[0, 4]
    floor.word = "travels"
    end = int(plan_hop(floor, floor.who, 20.0, HOP).end)
    assert seat(floor, *range(20))[:, 4] == pytest.approx(start)
    assert seat(floor, *range(end, 80))[:, 4] == pytest.approx(start + 240)
    assert not [r for r in seams_of(floor) if r.channel.property == "shift_x"]  # it is meant to be elsewhere
    take_step(floor.workspace.store, floor.scene_id, "undo")
    floor.word = "back"
    plan_hop(floor, floor.who, 20.0, HOP)
    assert seat(floor, *range(20))[:, 4] == pytest.approx(start) and seat(floor, end, 79.99)[:, 4] == pytest.approx(
        [start + 240, start], abs=3
    )


def test_a_hop_that_is_too_long_for_its_loop_asks_for_both(floor):
    update_scene(floor, loop=True)
    floor.word = "longer"
    with pytest.raises(UnansweredError, match="comes round"):
        plan_hop(floor, floor.who, 70.0, HOP)
    floor.word = "longer travels"
    assert floor.scene.frames == 80 and plan_hop(floor, floor.who, 70.0, HOP).end < floor.scene.frames


def test_a_hop_over_a_walk_sets_out_from_where_that_has_come_to(orchard):
    tamsin = id_of(orchard, "puppet", "Tamsin")
    floor = Floor(orchard, make_scene(orchard, "Walking", frames=97, loop=False, ground=640.0))
    floor.who = add_puppet(floor, tamsin, x=150.0, y=640.0)
    put_gait(floor, floor.who, CHARACTERS["plain"], 0.0, 96.0, True)
    before = seat(floor, *range(97))[:, 4:]
    hop = HOP.model_copy(update={"drop": 0.0, "distance": 80.0})
    found = plan_hop(floor, floor.who, 40.0, hop)
    after = seat(floor, *range(97))[:, 4:]
    assert after[:41] == pytest.approx(before[:41], abs=1e-6)
    end = int(found.end)
    assert after[end:] == pytest.approx(np.add(before[end:], [80.0, 0.0]), abs=1e-4)  # and walks on from where it lands
    assert np.abs(np.diff(after[:, 0])).max() < 30


def test_the_moments_of_a_hop_are_poses_and_the_top_is_held_as_one_number(floor):
    found = plan_hop(floor, floor.who, 4.0, HOP)
    poses = {p.name: p for p in poses_of(floor, floor.who)}
    assert list(poses) == ["crouch", "take-off", "top", "touch-down", "squash", "stands"]
    assert (poses["take-off"].time, poses["touch-down"].time) == (found.off, found.down)
    top, leaf = poses["top"].time, seat_values(floor, poses["squash"].time)
    long = pose_durations(floor, floor.who)[poses["top"].id]
    set_duration(floor, poses["top"].id, int(long) + 5)
    later = {p.name: p.time for p in poses_of(floor, floor.who)}
    assert later["top"] == top and later["squash"] == poses["squash"].time + 5
    assert seat_values(floor, later["squash"]) == pytest.approx(leaf, abs=1e-3)  # what drags behind came along


def seat_values(floor, frame):
    values = floor.values_at(np.array([float(frame)]))
    return [float(values[floor.who, floor.bones[b], "turn"][0]) for b in ("leaf", "stem")]


def _pip(floor):
    return floor.instance(floor.who).puppet_id
