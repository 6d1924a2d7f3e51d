"""Tips that keep their angle against the ground: where limbs are pulled, where they are solved, as the body moves."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from builders.making import bone, puppet, scene, tip
from gaitwire.core.evaluate import compile_scene, evaluate
from gaitwire.core.evaluate.posed import solved_poses
from gaitwire.core.evaluate.reaching import reach, take_limb
from gaitwire.core.evaluate.spot import planned, tip_turn
from gaitwire.core.puppet.model import Limb

BONES = [
    bone("hip", x=0, y=0, length=10, angle=90),
    bone("thigh", "hip", 4, 10, length=50, angle=92),
    bone("shin", "thigh", 2.2551, 59.9695, length=40, angle=88),
    bone("foot", "shin", 3.6511, 99.9451, length=20, angle=0),
]
LEG = Limb(id="leg", puppet_id="p", name="leg", tip_id="foot", bend=1, steady=True)


def made(tracks, limb=LEG, **place):
    found = puppet(BONES).model_copy(update={"limbs": (limb,)})
    return compile_scene(scene(tracks, **{"x": 30.0, "y": 40.0, "scale": 1.5, **place}), {"p": found})


def foot_angle(compiled, frame=0.0, wanted=None):
    """Degrees in which the foot points on the stage."""
    frames = evaluate(compiled, np.array([frame]), wanted)
    a, b = frames.nodes[0, [k[1] for k in frames.node_keys].index("foot"), :2]
    return float(np.degrees(np.arctan2(b, a)))


def apart(one, two):
    return abs((one - two + 180) % 360 - 180)


@given(st.floats(-60, 60), st.floats(-70, 40), st.floats(-40, 40), st.booleans())
def test_a_solved_foot_points_where_its_own_turn_says_however_the_body_stands(dx, dy, hip, turned):
    moved = {("hip", "turn"): [(0, hip)], ("foot", "turn"): [(0, 12)], ("leg", "mix"): [(0, 1)]}
    compiled = made({**moved, ("leg", "tip_x"): [(0, dx)], ("leg", "tip_y"): [(0, dy)]}, turned=turned)
    assert apart(foot_angle(compiled), 180 - 12 if turned else 12) < 1e-6


@pytest.mark.parametrize(("mix", "share"), [(0, 0), (0.5, 0.5), (1, 1)])
def test_it_is_weighed_by_the_mix_and_by_its_own_share(mix, share):
    bent = {("hip", "turn"): [(0, 30)], ("foot", "turn"): [(0, 0)]}
    still = {("leg", "tip_x"): [(0, 30)], ("leg", "tip_y"): [(0, -20)]}
    free = LEG.model_copy(update={"steady": False})
    loose = foot_angle(made({**bent, **still, ("leg", "mix"): [(0, 1)]}, free))
    own = foot_angle(made({**bent, **still, ("leg", "mix"): [(0, 1)], ("leg", "steady"): [(0, share)]}))
    assert own == pytest.approx(loose * (1 - share), abs=1e-6)
    if mix != 0.5:  # between the two the chain itself lies elsewhere
        as_keyed = foot_angle(made({**bent, **still, ("leg", "mix"): [(0, mix)]}))
        assert apart(as_keyed, foot_angle(made(bent)) if mix == 0 else 0.0) < 1e-6


@given(st.floats(-30, 30), st.floats(-60, 30), st.booleans())
def test_a_pulled_foot_keeps_its_angle(dx, dy, turned):
    tracks = {("hip", "turn"): [(0, 20)], ("thigh", "turn"): [(0, -35)], ("shin", "turn"): [(0, 50)]}
    compiled = made(tracks, turned=turned)
    frames = evaluate(compiled, np.zeros(1))
    target = tip(frames, "foot", 0)[0] + (dx, dy)
    found = reach(take_limb(compiled, "i", "leg", 0.0), tuple(target), joint=2)
    assert apart(foot_angle(compiled, wanted=found.values), foot_angle(compiled)) < 1e-6
    free = made(tracks, LEG.model_copy(update={"steady": False}), turned=turned)
    assert ("i", "foot", "turn") not in reach(take_limb(free, "i", "leg", 0.0), tuple(target), joint=2).values


def test_what_is_keyed_on_going_over_to_the_tip_has_it_lie_as_it_lay():
    tracks = {("hip", "turn"): [(0, 20)], ("thigh", "turn"): [(0, -35)], ("shin", "turn"): [(0, 50)]}
    for turned in (False, True):
        compiled = made({**tracks, ("foot", "turn"): [(0, 7)]}, turned=turned)
        solved = solved_poses(compiled.groups, "i", 0.0)["i"]
        found = tip_turn(solved, planned(solved, LEG))
        assert found == pytest.approx(20 - 35 + 50 + 7)
