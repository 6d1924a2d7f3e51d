"""Dragging a limb by any of its joints while another stays; limits; drags of bones with limits."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from builders.making import bone, puppet, scene, tip
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate import compile_scene, evaluate
from gaitwire.core.evaluate.handles import drag, take
from gaitwire.core.evaluate.reaching import reach, take_limb
from gaitwire.core.puppet.model import Limb

BONES = [
    bone("hip", x=0, y=0, length=10, angle=90),
    bone("thigh", "hip", 4, 10, length=50, angle=92),
    bone("shin", "thigh", 2.2551, 59.9695, length=40, angle=88),
    bone("foot", "shin", 3.6511, 99.9451, length=20, angle=0),
]
LEG = Limb(id="leg", puppet_id="p", name="leg", tip_id="foot", bend=1)
TRACKS = {("hip", "turn"): [(0, 20)], ("thigh", "turn"): [(0, -35)], ("shin", "turn"): [(0, 50)]}


def made(limb=LEG, bones=BONES, tracks=TRACKS):
    found = puppet(bones).model_copy(update={"limbs": (limb,)})
    return compile_scene(scene(tracks, x=30.0, y=40.0, scale=1.5, turned=True), {"p": found})


def joints(compiled, wanted=None):
    frames = evaluate(compiled, np.zeros(1), wanted)
    return {name: tip(frames, name, 0)[0] for name in ("thigh", "shin", "foot")}


@given(st.floats(-70, 70), st.floats(-70, 70))
def test_the_end_comes_to_the_pointer_or_says_by_how_much_it_does_not(dx, dy):
    compiled = made()
    before = joints(compiled)
    target = before["foot"] + (dx, dy)
    found = reach(take_limb(compiled, "i", "leg", 0.0), tuple(target), joint=2)
    after = joints(compiled, found.values)
    assert after["thigh"] == pytest.approx(before["thigh"])
    assert np.hypot(*(after["foot"] - target)) == pytest.approx(1.5 * found.miss, abs=1e-6)


def test_the_end_can_stay_while_the_root_is_dragged():
    compiled = made()
    before = joints(compiled)
    target = before["thigh"] + (9.0, 22.0)
    found = reach(take_limb(compiled, "i", "leg", 0.0), tuple(target), joint=0, stays=2)
    after = joints(compiled, found.values)
    assert after["thigh"] == pytest.approx(target)
    assert after["foot"] == pytest.approx(before["foot"])
    assert found.miss < 1e-9


def test_the_middle_can_stay_while_the_end_is_dragged():
    compiled = made()
    before = joints(compiled)
    target = before["shin"] + (45.0, 12.0)
    found = reach(take_limb(compiled, "i", "leg", 0.0), tuple(target), joint=2, stays=1)
    after = joints(compiled, found.values)
    assert after["shin"] == pytest.approx(before["shin"])
    ahead, wanted = after["foot"] - before["shin"], target - before["shin"]
    assert ahead[0] * wanted[1] - ahead[1] * wanted[0] == pytest.approx(0, abs=1e-6)
    with pytest.raises(InvalidInputError, match="the one that stays"):
        reach(take_limb(compiled, "i", "leg", 0.0), (0.0, 0.0), joint=1, stays=1)


def test_the_middle_can_be_dragged_while_the_end_stays():
    compiled = made()
    before = joints(compiled)
    found = reach(take_limb(compiled, "i", "leg", 0.0), tuple(before["shin"] + (0.4, 0.3)), joint=1, stays=2)
    after = joints(compiled, found.values)
    assert after["thigh"] == pytest.approx(before["thigh"])
    assert np.hypot(*(after["foot"] - before["foot"])) <= 1.5 * found.miss + 1e-9


def test_limits_hold_a_limb_back():
    bones = [b if b.id != "shin" else b.model_copy(update={"low": 0.0, "high": 60.0}) for b in BONES]
    compiled = made(bones=bones, tracks={})
    near = joints(compiled)["thigh"] + (3.0, 20.0)
    found = reach(take_limb(compiled, "i", "leg", 0.0), tuple(near), joint=2)
    assert found.values["i", "shin", "turn"] == 60.0
    assert found.miss > 1 and found.held == ("shin",)
    far = joints(compiled)["thigh"] + (0.0, 400.0)
    assert reach(take_limb(compiled, "i", "leg", 0.0), tuple(far), joint=2).held == ()  # only too far away


def test_a_dragged_turn_stops_at_its_limit_and_keys_beyond_it_stay():
    bones = [b if b.id != "shin" else b.model_copy(update={"low": -5.0, "high": 40.0}) for b in BONES]
    for keyed, expected in ((30.0, 40.0), (55.0, 55.0)):
        compiled = made(bones=bones, tracks={("shin", "turn"): [(0, keyed)]})
        grip = take(compiled, "i", "shin", 0.0)
        pivot = joints(compiled)["shin"]
        start, far = np.add(pivot, [0.0, 10.0]), np.add(pivot, [10.0, 0.0])  # mirrored: clockwise for the puppet
        assert drag("turn", grip, [], tuple(start), tuple(far))["i", "shin", "turn"] == expected
