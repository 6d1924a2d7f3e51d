"""Braces: tips keep their place and angle while what carries them is posed, and nothing else is asked for."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from builders.making import bone, puppet, scene
from gaitwire.core.evaluate import compile_scene, evaluate
from gaitwire.core.evaluate.bracing import Brace, braced, take_braces
from gaitwire.core.kinematics.chain import rebent
from gaitwire.core.puppet.model import Limb

BONES = [
    bone("hip", x=0, y=0, length=30, angle=-90),
    bone("thigh", "hip", 4, 0, length=50, angle=90),
    bone("shin", "thigh", 4, 50, length=40, angle=90),
    bone("foot", "shin", 4, 90, length=20, angle=0),
    bone("upper", "hip", 0, -30, length=30, angle=90),
    bone("lower", "upper", 0, 0, length=30, angle=90),
    bone("palm", "lower", 0, 30, length=20, angle=90),
    bone("fingers", "palm", 0, 50, length=10, angle=90),
    bone("head", "hip", 0, -30, length=15, angle=-90),
]
LEG = Limb(id="leg", puppet_id="p", name="leg", tip_id="foot")
ARM = Limb(id="arm", puppet_id="p", name="arm", tip_id="fingers", count=3, bend=-1)
POSED = {
    ("thigh", "turn"): [(0, -30)], ("shin", "turn"): [(0, 50)], ("foot", "turn"): [(0, -12)],
    ("upper", "turn"): [(0, 10)], ("lower", "turn"): [(0, 60)], ("palm", "turn"): [(0, -15)],
    ("head", "turn"): [(0, 8)],
}  # fmt: skip
TIPS = [Brace("i", "leg", "place"), Brace("i", "arm", "place")]
HEAD = Brace("i", "head", "angle")


def made(tracks=POSED, leg=LEG, **place):
    found = puppet(BONES).model_copy(update={"limbs": (leg, ARM)})
    return compile_scene(scene(tracks, **{"x": 30.0, "y": 40.0, "scale": 1.5, **place}), {"p": found})


def lie(compiled, wanted=None):
    """Matrices of the bones on frame 0, by name."""
    frames = evaluate(compiled, np.zeros(1), wanted)
    return {owner: frames.nodes[0, n] for n, (_, owner) in enumerate(frames.node_keys)}


def keep(compiled, wanted, braces=TIPS, **how):
    return braced(compiled, take_braces(compiled, braces, 0.0), 0.0, wanted, **how)


moves = st.fixed_dictionaries(
    {("i", "hip", "shift_x"): st.floats(-3, 3), ("i", "hip", "shift_y"): st.floats(-1, 9)},
    optional={("i", "hip", "turn"): st.floats(-5, 5), ("i", "i", "turn"): st.floats(-1, 1)},
)


@given(moves, st.booleans())
def test_tips_stay_where_they_are_and_as_they_lie_while_the_body_is_posed(wanted, turned):
    compiled = made(turned=turned)
    before = lie(compiled)
    found = keep(compiled, wanted, [*TIPS, HEAD])
    after = lie(compiled, found.values)
    assert not found.stopped
    for tip in ("foot", "fingers"):
        assert after[tip] == pytest.approx(before[tip], abs=1e-6)
    assert after["head"][:4] == pytest.approx(before["head"][:4], abs=1e-6)
    assert {slot: found.values[slot] for slot in wanted} == wanted
    named = {slot[1] for slot in found.values.keys() - wanted.keys()}
    assert named <= {"thigh", "shin", "foot", "upper", "lower", "palm", "fingers", "head"}


def test_a_gesture_of_nothing_asks_for_nothing_more():
    for still in ({("i", "hip", "shift_x"): 0.0}, {("i", "hip", "turn"): 0.0, ("i", "i", "stretch"): 1.0}):
        assert keep(made(), still, [*TIPS, HEAD]).values == still


def test_joints_go_on_bending_to_their_sides_each_by_its_own_share():
    """An elbow bent against its limb's side stays so; a palm bent back stays bent back."""
    compiled = made()
    values = keep(compiled, {("i", "hip", "shift_y"): 6.0}).values
    lower, palm = values["i", "lower", "turn"], values["i", "palm", "turn"]
    # The links lie along their bones, so turns are bends: all but for the upper arm, which aims.
    assert lower / 60 == pytest.approx(palm / -15) and lower > 60
    knee = values["i", "shin", "turn"]
    assert knee > 50


def test_out_of_reach_the_body_stops_and_goes_on_when_it_is_let_go():
    compiled = made()
    before, wanted = lie(compiled), {("i", "hip", "shift_y"): -80.0}
    stopped = keep(compiled, wanted, TIPS[:1])
    assert stopped.stopped == ("leg",)
    assert -80 < stopped.values["i", "hip", "shift_y"] < -5
    after = lie(compiled, stopped.values)
    assert after["foot"] == pytest.approx(before["foot"], abs=0.05)
    straight = lie(compiled, {**stopped.values, ("i", "shin", "turn"): 0.0})
    reach = np.hypot(*(straight["foot"] - straight["thigh"])[4:])
    assert np.hypot(*(after["foot"] - after["thigh"])[4:]) == pytest.approx(reach, abs=0.05)
    let_go = keep(compiled, wanted, TIPS[:1], free=True)
    assert let_go.values["i", "hip", "shift_y"] == -80 and let_go.stopped == ("leg",)
    gone = lie(compiled, let_go.values)
    assert gone["foot"][5] < before["foot"][5] - 20 and let_go.values["i", "shin", "turn"] == pytest.approx(0, abs=0.1)


def test_a_limb_that_is_posed_itself_is_let_go_and_the_others_are_not():
    compiled = made()
    before = lie(compiled)
    after = lie(compiled, keep(compiled, {("i", "hip", "shift_x"): 5.0, ("i", "shin", "turn"): 60.0}).values)
    assert after["fingers"] == pytest.approx(before["fingers"], abs=1e-6)
    assert np.abs(after["foot"] - before["foot"]).max() > 4


def test_a_limb_solved_from_its_tip_is_asked_only_for_how_its_tip_lies():
    solved = {**POSED, ("leg", "mix"): [(0, 1)], ("leg", "tip_y"): [(0, -12)]}
    wanted = {("i", "hip", "shift_x"): 5.0, ("i", "hip", "turn"): 6.0}
    for leg in (LEG, LEG.model_copy(update={"steady": True})):
        compiled = made(solved, leg)
        before, found = lie(compiled), keep(compiled, wanted, TIPS[:1])
        assert lie(compiled, found.values)["foot"] == pytest.approx(before["foot"], abs=1e-6)
        assert found.values.keys() - wanted.keys() == (set() if leg.steady else {("i", "foot", "turn")})
    far = keep(compiled, {("i", "hip", "shift_y"): -90.0}, TIPS[:1])
    assert far.stopped == ("leg",) and -90 < far.values["i", "hip", "shift_y"] < -1


def test_a_gaze_goes_on_looking_at_its_point():
    compiled = made()
    before = lie(compiled)
    height = compiled.puppets["p"].height
    a, b, _, _, x, y = before["head"]
    point = np.array([x + height * a, y + height * b])
    after = lie(compiled, keep(compiled, {("i", "hip", "shift_y"): 25.0}, [Brace("i", "head", "gaze")]).values)
    then = point - after["head"][4:]
    assert after["head"][:2] / np.hypot(*after["head"][:2]) == pytest.approx(then / np.hypot(*then), abs=1e-6)


@given(st.floats(20, 149), st.lists(st.floats(-80, 80), min_size=3, max_size=3), st.sampled_from([1, -1]))
def test_a_chain_is_bent_by_one_share_and_spans_what_it_is_to(distance, bends, side):
    lengths, lies = np.array([50.0, 40.0, 35.0, 25.0]), np.concatenate([[0.0], np.cumsum(bends)])
    found = rebent(lengths, lies, distance, side)
    spanned = abs((lengths * np.exp(1j * np.radians(found))).sum())
    shares = np.diff(found) / np.where(np.abs(bends) < 1e-9, np.inf, bends)
    same = [s for s, b in zip(shares, bends, strict=True) if abs(b) > 1]
    assert same == pytest.approx(same[:1] * len(same), rel=1e-6)
    most = 180 / max(np.abs(bends).max(), 1e-9)
    tried = np.linspace(0, most if np.abs(bends).max() >= 1e-6 else 0, 500)
    spans = np.abs((lengths[:, None] * np.exp(1j * np.radians(np.outer(lies, tried)))).sum(axis=0))
    if spans.min() < distance < spans.max():
        assert spanned == pytest.approx(distance, abs=1e-6)
    elif np.abs(bends).max() >= 1e-6:
        assert abs(spanned - distance) <= np.abs(spans - distance).min() + 0.05


def test_a_chain_that_spans_the_distance_already_is_left_as_it_is():
    lengths, lies = np.array([50.0, 40.0, 35.0]), np.array([0.0, 70.0, 20.0])
    spanned = abs((lengths * np.exp(1j * np.radians(lies))).sum())
    assert rebent(lengths, lies, spanned, 1) == pytest.approx(lies, abs=1e-9)
    straight = rebent(lengths, np.zeros(3), 100.0, -1)
    assert (np.diff(straight) < 0).all() and np.ptp(np.diff(straight)) < 1e-9
