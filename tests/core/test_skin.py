"""Soft parts: weights, the blend of bones, pins on top, and both at once."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from builders.making import scene
from builders.sleeves import GRAIN, SLEEVE, arm
from gaitwire.core.deform.skin import Brushed, make_skin, part_body
from gaitwire.core.deform.weights import brushed
from gaitwire.core.evaluate import compile_scene, evaluate
from gaitwire.core.puppet.model import Pin
from gaitwire.core.puppet.soften import art_points, soften


def pin(name, x, y=0.0, **more):
    return Pin.model_validate({"id": name, "puppet_id": "p", "part_id": "s", "name": name, "x": x, "y": y, **more})


def outline(made, skin, tracks, frames=(0.0,)):
    """Points of the sleeve's drawing, (F, K, 2), on the stage."""
    compiled = compile_scene(scene(tracks), {"p": made}, {"s": skin})
    found = evaluate(compiled, np.array(frames))
    (slot,) = found.soft.values()
    return found.points[:, slot.drawing(0)].astype(float)


def polygon_area(points):
    x, y = points.T
    return 0.5 * abs(np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1)))


REST = art_points(soften(SLEEVE, GRAIN))


def test_weights_add_up_and_change_over_at_the_joint():
    _, skin = arm()
    assert skin.weights.sum(axis=1) == pytest.approx(1)
    along = skin.rest.real
    assert skin.weights[along < 25, 0].min() > 0.95
    assert skin.weights[along > 95, 1].min() > 0.95
    at_joint = skin.weights[np.abs(along - 60) < 1.0, 0]
    assert at_joint == pytest.approx(0.5, abs=0.1)


def test_a_wider_reach_makes_a_wider_change_over():
    def width(reach):
        _, skin = arm(reach=reach)
        share = skin.weights[:, 1]
        between = skin.rest.real[(share > 0.1) & (share < 0.9)]
        return np.ptp(between)

    assert width(2.5) > 1.5 * width(1.0)


def test_at_rest_nothing_moves():
    assert outline(*arm(pin("a", 20), pin("b", 90)), {})[0] == pytest.approx(REST, abs=1e-4)


def test_a_bent_sleeve_keeps_its_width_at_the_elbow():
    """A mean of matrices would thin it to cos(45 degrees) there; the area stays within 6 %."""
    made, skin = arm()
    bent = outline(made, skin, {("fore", "turn"): [(0, 90)]})[0]
    assert polygon_area(bent[::3]) == pytest.approx(polygon_area(REST[::3]), rel=0.06)
    upper, lower = (bent[(np.abs(REST[:, 0] - 60) < 3) & (np.sign(REST[:, 1]) == side)] for side in (-1, 1))
    across = np.hypot(*(upper.mean(axis=0) - lower.mean(axis=0)))
    assert across == pytest.approx(20, rel=0.1)


def test_a_soft_part_bends_as_a_curve():
    """The steps of direction along its outer edge are small; a broken stick takes the whole turn in one."""
    made, skin = arm(reach=1.5)
    bent = outline(made, skin, {("fore", "turn"): [(0, 60)]})[0]
    edge = bent[np.abs(REST[:, 1] + 10) < 1e-6][::3]
    turns = np.diff(np.unwrap(np.arctan2(*np.diff(edge, axis=0).T[::-1])))
    assert np.degrees(turns).sum() == pytest.approx(60, abs=2)
    assert np.degrees(np.abs(turns)).max() < 30


@given(st.floats(-170, 170), st.floats(0.5, 2), st.floats(-100, 100))
def test_what_all_bones_do_together_is_done_exactly(turn, stretch, shift):
    """Turned, moved and scaled as a whole, a soft part is the same as a rigid one."""
    made, skin = arm(pin("a", 20), pin("b", 90, bone_id="fore"))
    tracks = {("i", "turn"): [(0, turn)], ("i", "shift_x"): [(0, shift)], ("i", "stretch"): [(0, stretch)]}
    compiled = compile_scene(scene(tracks), {"p": made}, {"s": skin})
    found = evaluate(compiled, np.zeros(1))
    (slot,) = found.soft.values()
    assert found.points[0, slot.drawing(0)] == pytest.approx(REST, abs=1e-3)


def test_pins_and_bones_work_on_the_same_part():
    """A pin of the forearm's own goes with it; the bend of the sleeve is the bones' where the pin asks for nothing else."""
    turned = {("fore", "turn"): [(0, 40)]}
    bones_alone = outline(*arm(), turned)[0]
    made, skin = arm(pin("hem", 112, bone_id="fore"), pin("cap", 8, kind="anchor"))
    both = outline(made, skin, turned)[0]
    assert both == pytest.approx(bones_alone, abs=0.35)
    pulled = outline(made, skin, {**turned, ("hem", "shift_y"): [(0, 12)]})[0]
    assert np.hypot(*(pulled - both).T)[REST[:, 0] > 110].mean() == pytest.approx(12, rel=0.15)
    assert np.hypot(*(pulled - both).T)[REST[:, 0] < 20].max() < 1.0


def test_one_frame_and_many_give_the_same_points():
    made, skin = arm(pin("hem", 112, bone_id="fore", holds_turn=True), pin("cap", 8, kind="anchor"))
    tracks = {
        ("hem", "shift_y"): [(0, 0), (20, 30)],
        ("hem", "turn"): [(0, 0), (20, 50)],
        ("fore", "turn"): [(3, 0), (9, 70)],
    }
    together = outline(made, skin, tracks, [0.0, 7.5, 13.0, 20.0])
    for at, time in enumerate([0.0, 7.5, 13.0, 20.0]):
        assert np.array_equal(together[at], outline(made, skin, tracks, [time])[0])


def test_a_dab_of_the_brush_gives_to_one_bone_and_leaves_the_sum():
    _, skin = arm()
    points = np.stack([skin.rest.real, skin.rest.imag], axis=-1)
    after = brushed(skin.weights, points, 1, (20.0, 0.0), 15.0, 0.8)
    assert after.sum(axis=1) == pytest.approx(1)
    away = np.hypot(points[:, 0] - 20, points[:, 1])
    assert np.array_equal(after[away > 15], skin.weights[away > 15])
    assert (after[away < 3, 1] > 0.7).all()


def test_brushed_weights_are_carried_to_another_mesh_and_unknown_bones_take_no_part():
    made, skin = arm()
    mesh = skin.body.mesh
    own = np.zeros((len(mesh.vertices), 3))
    own[:, 0] = mesh.vertices[:, 0] < 30
    own[:, 1] = 1 - own[:, 0]
    by_hand = Brushed(("upper", "fore", "gone"), mesh.vertices, mesh.triangles, own)
    finer = part_body(made, made.parts[0], [soften(SLEEVE, 3.0)], {}.__getitem__, 3.0)
    weights = make_skin(made, made.parts[0], finer, by_hand).weights
    assert weights.sum(axis=1) == pytest.approx(1)
    x = np.concatenate([finer.mesh.vertices, finer.points])[:, 0]
    assert weights[x < 20, 0].min() > 0.99
    assert weights[x > 40, 1].min() > 0.99
