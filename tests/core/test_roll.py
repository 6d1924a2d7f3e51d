"""Rolling: as far along the rim as the way on the floor, whichever way the puppet faces and however large it is."""

import numpy as np
import pytest

from builders.making import bone, puppet, scene
from gaitwire.core.evaluate import compile_scene, evaluate
from gaitwire.core.motion.roll import Roll

WHEEL = puppet([bone("frame"), bone("wheel", "frame", x=30.0, y=80.0)])


def rolled(places, overrides=None, **place):
    found = scene(
        {("i", "shift_x"): [(0, 0.0), (20, places[0])], ("i", "shift_y"): [(0, 0.0), (20, places[1])]}, **place
    )
    roll = Roll(id="r", scene_id="s", instance_id="i", owner_id="wheel", radius=20.0)
    compiled = compile_scene(found.model_copy(update={"rolls": (roll,), "loop": False}), {"p": WHEEL})
    frames = evaluate(compiled, np.array([0.0, 10.0, 20.0]), overrides)
    at = [k[1] for k in frames.node_keys].index("wheel")
    a, b = frames.nodes[:, at, 0], frames.nodes[:, at, 1]
    return np.degrees(np.unwrap(np.arctan2(b, a)))


@pytest.mark.parametrize(
    ("places", "place", "degrees"),
    [
        ((10 * np.pi, 0.0), {}, 90.0),
        ((-10 * np.pi, 0.0), {}, -90.0),
        ((10 * np.pi, 0.0), {"scale": 2.0}, 45.0),
        ((8 * np.pi, -6 * np.pi), {}, 90.0),  # up a slope: as far as the slope is long
    ],
)
def test_the_rim_goes_as_far_as_the_puppet(places, place, degrees):
    turned = rolled(places, **place)
    assert turned - turned[0] == pytest.approx([0, degrees / 2, degrees])


def test_one_turned_round_rolls_the_same_way_on_the_stage():
    turned = rolled((10 * np.pi, 0.0), turned=True)
    assert turned - turned[0] == pytest.approx([0, 45, 90])


def test_a_drag_of_the_wheel_has_the_last_word_and_one_of_the_seat_rolls_it():
    held = rolled((10 * np.pi, 0.0), {("i", "wheel", "turn"): 12.0})
    assert held == pytest.approx([12, 12, 12])
    dragged = rolled((0.0, 0.0), {("i", "i", "shift_x"): 5 * np.pi})
    assert dragged == pytest.approx([45, 45, 45])
