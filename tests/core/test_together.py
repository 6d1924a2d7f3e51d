"""Nodes moved as one thing: rigid turns, even scaling, curls; measured on what is shown."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from builders.making import bone, puppet, scene, tip
from gaitwire.core.evaluate import compile_scene, evaluate
from gaitwire.core.evaluate.handles import take
from gaitwire.core.evaluate.together import WAYS, chain_of_nodes, curl, take_together
from gaitwire.core.puppet.model import Limb

PUPPET = puppet([
    bone("hip", x=10, y=60, length=30, angle=-90),
    bone("thigh", "hip", 10, 60, length=40, angle=80),
    bone("shin", "thigh", 17, 99, length=35, angle=95),
    bone("tail", "hip", 5, 60, length=10, angle=180),
    bone("tail 2", "tail", -5, 60, length=10, angle=180),
    bone("tail 3", "tail 2", -15, 60, length=10, angle=180),
])  # fmt: skip
LIMBED = PUPPET.model_copy(
    update={"limbs": (Limb(id="l", puppet_id="p", name="leg", tip_id="shin", whole=True, count=2),)}
)
POSE = {("hip", "turn"): [(0, 12)], ("thigh", "turn"): [(0, -25)], ("i", "turn"): [(0, 9)]}
ALL = [("i", n) for n in ("hip", "thigh", "shin", "tail", "tail 2", "tail 3")]
AT = np.array([0.0])


def compiled(body=PUPPET, turned=False):
    return compile_scene(scene(POSE, x=30.0, y=40.0, scale=1.5, turned=turned), {"p": body})


def places(made, wanted=None):
    """Joints and tips of all bones on the stage."""
    shown = evaluate(made, AT, wanted)
    lengths = {b.id: (b.length, b.angle) for b in PUPPET.bones}
    return np.concatenate([tip(shown, n, f * lengths[n][0], lengths[n][1]) for _, n in ALL for f in (0, 1)])


def moved(made, way, about, start, now, nodes=ALL):
    upper, others = take_together(made, nodes, 0.0)
    return WAYS[way](upper, others, about, start, now)


@pytest.mark.parametrize("turned", [False, True])
@given(st.floats(-170, 170))
def test_a_turn_together_is_rigid_about_the_point(turned, degrees):
    made, about = compiled(turned=turned), (55.0, -10.0)
    a = np.radians(degrees)
    now = (about[0] + 20 * np.cos(a), about[1] + 20 * np.sin(a))
    before = places(made) - about
    after = places(made, moved(made, "turn", about, (about[0] + 20, about[1]), now)) - about
    c, s = np.cos(a), np.sin(a)
    assert after == pytest.approx(before @ np.array([[c, s], [-s, c]]), abs=1e-6)


@pytest.mark.parametrize("body", [PUPPET, LIMBED])
def test_scaling_together_is_even_about_the_point_for_limbs_too(body):
    made, about = compiled(body), (55.0, -10.0)
    wanted = moved(made, "scale", about, (65.0, -10.0), (70.0, -10.0))
    assert places(made, wanted) - about == pytest.approx(1.5 * (places(made) - about), abs=1e-6)


def test_a_limb_scaled_alone_keeps_its_shape():
    made, about = compiled(LIMBED), (55.0, -10.0)
    wanted = moved(made, "scale", about, (65.0, -10.0), (60.0, -10.0), [("i", "thigh"), ("i", "shin")])
    before, after = (places(made, w)[2:6] - about for w in (None, wanted))
    assert after == pytest.approx(0.5 * before, abs=1e-6)


def test_a_seat_is_stretched_across_and_down_by_its_own_factors():
    made = compile_scene(scene({}, x=30.0, y=40.0), {"p": PUPPET})
    about = (30.0, 40.0)
    wanted = moved(made, "sides", about, (40.0, 20.0), (50.0, 10.0), [("i", "i")])
    assert places(made, wanted) - about == pytest.approx((places(made) - about) * (2.0, 1.5), abs=1e-6)


def test_a_single_bone_takes_its_chain_as_far_as_nothing_branches():
    assert chain_of_nodes(compiled(), [("i", "tail")]) == [("i", n) for n in ("tail", "tail 2", "tail 3")]
    assert chain_of_nodes(compiled(), [("i", "hip")]) == [("i", "hip")]  # thigh and tail both hang from it
    assert chain_of_nodes(compiled(), [("i", "shin"), ("i", "thigh")]) == [("i", "thigh"), ("i", "shin")]


def test_a_curl_gives_every_joint_the_same_turn_and_takes_the_end_along():
    made = compiled()
    chain = [take(made, *node, 0.0) for node in chain_of_nodes(made, [("i", "tail")])]
    pivot = tip(evaluate(made, AT), "tail", 0)[0]
    end = tip(evaluate(made, AT), "tail 3", 10, 180)[0]
    a = np.radians(10.0)
    (dx, dy) = end - pivot
    now = (pivot[0] + dx * np.cos(a) - dy * np.sin(a), pivot[1] + dx * np.sin(a) + dy * np.cos(a))
    wanted = curl(chain, tuple(end), now)
    turns = list(wanted.values())
    assert turns == pytest.approx([turns[0]] * 3)
    after = tip(evaluate(made, AT, wanted), "tail 3", 10, 180)[0]
    assert after == pytest.approx(now, abs=0.6)  # a little shorter, being curled
