"""The camera: where points of the stage lie in the picture, by hand; layers near and far; shadows on the ground."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from builders.making import bone, key, part, puppet, scene
from gaitwire.core.evaluate import compile_scene, evaluate
from gaitwire.core.evaluate.camera import CAMERA, filmed, views_of
from gaitwire.core.scene import CAMERA_ID, Instance
from gaitwire.core.timing.channel import Channel

SIZE = (1280.0, 720.0)
REST = np.array([[1.0, 0, 0, 1, 640, 360]])
LAYERS = [part("sky", "b", 0, distance=0.0), part("hill", "b", 1, distance=0.5), part("leaf", "b", 2)]


def seen(view, x, y):
    a, b, c, d, e, f = np.moveaxis(view, -1, 0)
    return np.stack([a * x + c * y + e, b * x + d * y + f], axis=-1)


def camera_at(x, y, zoom=1.0, turn=0.0):
    cos, sin = np.cos(np.radians(turn)), np.sin(np.radians(turn))
    return np.array([[cos, sin, -sin * zoom, cos * zoom, x, y]])


def test_what_it_looks_at_lies_in_the_middle_of_the_picture():
    view = views_of(camera_at(900, 200, zoom=2.5, turn=30), SIZE, np.array([1.0]))[:, 0]
    assert seen(view, 900, 200)[0] == pytest.approx((640, 360))
    # A point to the right of the camera as it is turned lies to the right in the picture, enlarged.
    along = 900 + 40 * np.cos(np.pi / 6), 200 + 40 * np.sin(np.pi / 6)
    assert seen(view, *along)[0] == pytest.approx((640 + 100, 360))


@given(st.floats(0, 3), st.floats(-50, 1400), st.floats(-50, 900))
def test_at_rest_it_changes_nothing(distance, x, y):
    view = views_of(REST, SIZE, np.array([distance]))[:, 0]
    assert seen(view, x, y)[0] == pytest.approx((x, y))


def test_what_is_far_moves_less_and_what_is_at_nought_stays_put():
    views = views_of(camera_at(840, 360, zoom=4.0, turn=10), SIZE, np.array([1.0, 0.5, 0.0]))
    assert seen(views[:, 2], 123, 45)[0] == pytest.approx((123, 45))
    assert seen(views[:, 1], 740, 360)[0] == pytest.approx((640, 360)), "it has gone half the way"
    scale = np.hypot(views[0, :, 0], views[0, :, 1])
    assert scale == pytest.approx([4.0, 2.0, 1.0]), "and half of the zoom, in powers of two"
    turns = np.degrees(np.arctan2(views[0, :, 1], views[0, :, 0]))
    assert turns == pytest.approx([-10.0, -10.0, 0.0])


def staged(tracks, distance=1.0):
    """A puppet of three layers under a camera with keys."""
    cast = {"p": puppet([bone("b")], LAYERS), CAMERA_ID: CAMERA}
    made = scene({}, loop=False, distance=distance)
    camera = Instance(id="c", scene_id="s", puppet_id=CAMERA_ID, name="Camera", x=640, y=360, depth=5)
    channels = tuple(
        Channel(id=prop, scene_id="s", instance_id="c", owner_kind="camera", owner_id="c", property=prop)
        for prop in tracks
    )
    keys = tuple(key(t, v, channel=prop) for prop, row in tracks.items() for t, v in row)
    made = made.model_copy(
        update={
            "instances": (*made.instances, camera),
            "channels": channels,
            "keys": keys,
            "width": 1280,
            "height": 720,
        }
    )
    return compile_scene(made, cast)


def test_frames_are_filmed_layer_by_layer():
    found = evaluate(staged({"shift_x": [(0, 0), (20, 100)]}), np.array([0.0, 10.0, 20.0]))
    assert [k[1] for k in found.part_keys] == ["sky", "hill", "leaf"]
    assert found.matrices[:, :, 4] == pytest.approx(np.zeros((3, 3))), "the stage itself stays as it is"
    picture = filmed(found)
    assert picture.matrices[:, :, 4] == pytest.approx(np.array([[0, 0, 0], [0, -25, -50], [0, -50, -100]]))
    assert picture.nodes[2, picture.node_keys.index(("i", "b")), 4] == pytest.approx(-100)
    assert filmed(picture) is picture, "and only once"


def test_a_whole_puppet_can_be_far_too():
    picture = filmed(evaluate(staged({"shift_x": [(0, 100)]}, distance=0.5), np.array([0.0])))
    assert picture.matrices[0, :, 4] == pytest.approx([0, -25, -50])


def test_without_a_camera_frames_stay_as_they_are():
    made = compile_scene(scene({}), {"p": puppet([bone("b")], LAYERS)})
    found = evaluate(made, np.array([0.0]))
    assert filmed(found) is found


# ── shadows ──

BODY = puppet([bone("hips", None, 50, 60)], [part("shade", "hips", 0, shadow=40.0), part("trunk", "hips", 1)])
BODY = BODY.model_copy(update={"base_x": 50.0, "base_y": 100.0})


def shadow(tracks, frame=0.0, ground=None, **place):
    made = scene(tracks, loop=False, **place).model_copy(update={"ground": ground})
    found = evaluate(compile_scene(made, {"p": BODY}), np.array([frame]))
    return found.matrices[0, 0], found.opacity[0, 0]


def test_a_shadow_lies_under_its_bone_and_does_not_turn_with_it():
    matrix, strength = shadow({("hips", "turn"): [(0, 70)], ("hips", "shift_x"): [(0, 12)]}, x=300.0, y=400.0)
    assert matrix == pytest.approx([1, 0, 0, 1, 300 - 50 + 12, 400 - 100]) and strength == 1


def test_risen_by_what_its_part_says_it_has_half_its_size_and_a_quarter_of_its_strength():
    matrix, strength = shadow({("i", "shift_y"): [(0, -40)]}, x=300.0, y=400.0)
    assert matrix[[0, 3]] == pytest.approx([0.5, 0.5]) and strength == pytest.approx(0.25)
    # Its point under the body stays on the ground: (50, 100) of the puppet lies at (300, 400).
    assert matrix[0] * 50 + matrix[4] == pytest.approx(300) and matrix[3] * 100 + matrix[5] == pytest.approx(400)


def test_it_keeps_to_the_scenes_ground_and_to_the_puppets_size():
    matrix, strength = shadow({}, ground=480.0, x=300.0, y=400.0, scale=2.0, turned=True)
    # 80 px over the ground, for a puppet twice as large: as 40 for one of its own size.
    assert matrix[[0, 3]] == pytest.approx([-1.0, 1.0]) and strength == pytest.approx(0.25)
    assert matrix[3] * 100 + matrix[5] == pytest.approx(480)


def test_a_crouch_makes_it_no_larger():
    matrix, strength = shadow({("hips", "shift_y"): [(0, 20)]}, x=300.0, y=400.0)
    assert matrix[0] == 1 and strength == 1


def test_a_change_of_ground_is_not_taken_from_what_was_evaluated_before():
    first = compile_scene(scene({}, y=400.0), {"p": BODY})
    other = compile_scene(scene({}, y=400.0).model_copy(update={"ground": 500.0}), {"p": BODY})
    assert first.groups[0].signature != other.groups[0].signature
