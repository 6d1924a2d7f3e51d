"""Notes: what is measured, on scenes where the answer is known by hand."""

import numpy as np
import pytest

from builders.making import bone, puppet, scene
from builders.planting import SWAY, WALKER, compiled, linked, plant
from gaitwire.core.evaluate import compile_scene, evaluate
from gaitwire.core.notes import MEASURES, NoteScene, notes_of
from gaitwire.core.puppet.model import Limb


def noted(made, kind):
    stage = NoteScene(made, evaluate(made, np.arange(made.scene.frames, dtype=float)))
    return list(MEASURES[kind].measure(stage))


def test_a_plant_in_reach_has_nothing_to_note_and_rolling_is_no_slip():
    tracks = {**SWAY, ("leg", "roll"): [(4, -30), (10, 0), (16, 40)]}
    made = compiled(tracks, [plant(x=300.0, y=387.0), plant("reach", 2, 20, x=330.0, y=300.0, angle=20)])
    assert noted(made, "slip") == [] and noted(made, "short") == []


@pytest.mark.parametrize("turned", [False, True])
def test_a_tip_that_its_keys_move_slips_by_as_much(turned):
    made = compiled(
        {("leg", "tip_x"): [(4, 0), (10, 12)]},
        [plant(x=300.0, y=386.0, start=4, stop=20)],
        ease="linear",
        turned=turned,
    )
    (note,) = noted(made, "slip")
    assert (note.value, note.first, note.last) == (pytest.approx(2.0), 4, 20)
    assert "2.0 px a frame" in note.said


def test_out_of_reach_is_told_in_pixels():
    made = compiled({}, [plant("reach", 6, 9, x=300.0, y=100.0)])
    (note,) = noted(made, "short")
    assert note.value == pytest.approx(80.0, abs=0.01)  # 160 px away, 80 px long
    assert (note.first, note.last) == (6, 9)


def test_a_foot_under_the_ground_by_how_much_and_when():
    tracks = {("pelvis", "shift_y"): [(0, 0), (10, 0), (12, 6), (14, 0)]}
    made = compiled(tracks, [], ease="linear")
    made = compile_scene(made.scene.model_copy(update={"ground": 406.0}), made.puppets)
    (note,) = noted(made, "penetration")
    assert (note.value, note.frame, note.first, note.last) == (pytest.approx(6.0, abs=0.01), 12, 11, 13)


def test_a_limb_that_snaps_straight_is_told_and_a_soft_one_is_not():
    tracks = {("pelvis", "shift_y"): [(0, 8), (12, -13), (23, 8)]}
    hard = WALKER.model_copy(update={"limbs": (Limb(id="leg", puppet_id="p", name="leg", tip_id="foot", bend=1),)})
    soft = WALKER.model_copy(update={"limbs": (hard.limbs[0].model_copy(update={"softness": 0.12, "stretch": 0.2}),)})
    made = [
        compiled(tracks, [plant(start=0, stop=23, x=300.0, y=398.48)], walker=w, ease="linear") for w in (hard, soft)
    ]
    worst = [max((n.value for n in noted(m, "pop")), default=0.0) for m in made]
    assert worst[0] > 16 and worst[1] == 0.0, worst


def test_the_seam_of_a_loop_in_place_and_speed():
    body = puppet([bone("b", x=0, y=0, length=10, angle=0)])

    def there_and_back(out, back):
        line = scene({("b", "shift_x"): [(0, 0), (12, 24)]}, frames=24, loop=True)
        keys = tuple(k.model_copy(update={"ease": e}) for k, e in zip(line.keys, (out, back), strict=True))
        return noted(compile_scene(line.model_copy(update={"keys": keys}), {"p": body}), "seam")

    (note,) = there_and_back("quad-out", "quad-in")  # 4 px a frame out, 4 in, and softly round at the far end
    assert (note.value, note.unit) == (pytest.approx(8.0, abs=0.05), "px/frame")
    assert there_and_back("sine-in-out", "sine-in-out") == []
    assert there_and_back("linear", "linear") == []  # it turns as sharply at the far end: that is how it was made


LEGS = [
    *(bone(f"{s} thigh", None, 0, 0, length=50, angle=90, side=s, region="leg", role="thigh") for s in ("near", "far")),
    *(
        bone(f"{s} foot", f"{s} thigh", 0, 50, length=12, angle=0, side=s, region="leg", role="foot")
        for s in ("near", "far")
    ),
]


def strides(count, last):
    """Steps of 12 frames; the far leg swings only to `last` degrees."""
    ends = [(12 * n, 20 if n % 2 else -20) for n in range(2 * count)]
    other = [(t, 20 if v < 0 else -last) for t, v in ends]
    tracks = {("near thigh", "turn"): ends, ("far thigh", "turn"): other}
    made = scene(tracks, frames=24 * count, ease="sine-in-out")
    return compile_scene(made, {"p": puppet(LEGS)})


@pytest.mark.parametrize("count", [1, 2, 3])
def test_two_sides_of_a_walk_are_compared_half_a_stride_apart_however_many_strides_the_loop_has(count):
    assert noted(strides(count, 20), "sides") == []
    found = [n for n in noted(strides(count, 12), "sides") if n.name == "near thigh"]
    assert [n.value for n in found] == [pytest.approx(8)] and not found[0].fault


def test_who_does_not_walk_has_no_sides_and_no_walking_head():
    sway = {("near thigh", "turn"): [(0, -2), (12, 2)], ("far thigh", "turn"): [(0, 9), (30, -9)]}
    made = compile_scene(scene(sway, frames=48, ease="sine-in-out"), {"p": puppet(LEGS)})
    assert noted(made, "sides") == noted(made, "head") == []


def test_a_foot_planted_a_little_above_the_floor_hovers_and_can_be_put_down():
    y = compiled({}, []).compiled_puppets[0].source.instance.y
    made = compiled({}, [plant(x=300.0, y=y)])
    size = made.compiled_puppets[0].source.instance.scale
    tall = WALKER.height * 0.05 * size
    stage = NoteScene(made, evaluate(made, np.zeros(1)))
    (plan,) = (p for p in stage.limbs(made.compiled_puppets[0]) if p.heel != p.ball)
    sole = y + size * max(plan.heel.imag, plan.ball.imag)
    for gap, many in ((0.0, 0), (tall, 1), (WALKER.height, 0)):  # as high up as that it stands on something else
        found = noted(compile_scene(made.scene.model_copy(update={"ground": sole + gap}), made.puppets), "hovering")
        assert [n.value for n in found] == [pytest.approx(tall)] * many


def test_the_heads_highest_and_lowest_frames_against_passings_and_contacts():
    bones = [
        bone("pelvis", None, 0, 0, length=10), bone("head", "pelvis", 0, -80, length=20, role="head"),
        *(bone(f"{s} leg", "pelvis", 0, 0, length=60, angle=90, side=s, region="leg") for s in ("near", "far")),
        *(bone(f"{s} foot", f"{s} leg", 0, 60, length=15, angle=0, side=s, region="leg", role="foot") for s in ("near", "far")),
    ]  # fmt: skip
    swing = {("near leg", "turn"): [(0, -25), (12, 25)], ("far leg", "turn"): [(0, 25), (12, -25)]}
    bob = {("pelvis", "shift_y"): [(2, 9), (8, -6), (14, 9), (20, -6)]}
    (note,) = noted(compile_scene(scene({**swing, **bob}, ease="sine-in-out"), {"p": puppet(bones)}), "head")
    assert "highest on 8, 2 after the passing" in note.said and "lowest on 2, 2 after the contact" in note.said
    assert note.value == pytest.approx(15)


def test_all_kinds_are_measured_in_order():
    made = linked(compiled(SWAY, [plant("reach", 6, 9, x=300.0, y=100.0)]))
    stage = NoteScene(made, evaluate(made, np.arange(24.0)))
    kinds = [n.kind for n in notes_of(stage)]
    assert kinds == sorted(kinds, key=list(MEASURES).index) and "short" in kinds
