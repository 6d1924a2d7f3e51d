"""Notes: what is measured, on scenes where the answer is known by hand."""

import numpy as np
import pytest

from core.test_hitches import linked
from core.test_plants import SWAY, WALKER, compiled, plant
from gaitwire.core.evaluate import compile_scene, evaluate
from gaitwire.core.notes import MEASURES, Stage, notes_of
from gaitwire.core.puppet.model import Limb
from making import bone, puppet, scene


def noted(made, kind):
    stage = Stage(made, evaluate(made, np.arange(made.scene.frames, dtype=float)))
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
    line = scene({("b", "shift_x"): [(0, 0), (12, 24)]}, frames=24, loop=True)
    made = compile_scene(line, {"p": body})
    (note,) = noted(made, "seam")
    assert (note.value, note.unit) == (pytest.approx(4.0, abs=1e-6), "px/frame")  # 2 px a frame up, 2 down
    smooth = scene({("b", "shift_x"): [(0, 0), (12, 24)]}, frames=24, loop=True, ease="sine-in-out")
    assert noted(compile_scene(smooth, {"p": body}), "seam") == []


def test_two_sides_are_compared_half_a_round_apart():
    legs = [
        bone(f"{s} thigh", None, 0, 0, length=50, angle=90, side=s, region="leg", role="thigh") for s in ("near", "far")
    ]
    tracks = {("near thigh", "turn"): [(0, -20), (12, 20)], ("far thigh", "turn"): [(0, 20), (12, -20)]}
    same = compile_scene(scene(tracks, ease="sine-in-out"), {"p": puppet(legs)})
    assert noted(same, "sides") == []
    tracks[("far thigh", "turn")] = [(0, 20), (12, -12)]
    (note,) = noted(compile_scene(scene(tracks, ease="sine-in-out"), {"p": puppet(legs)}), "sides")
    assert note.value == pytest.approx(8) and note.frame == 0 and not note.fault


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
    stage = Stage(made, evaluate(made, np.arange(24.0)))
    kinds = [n.kind for n in notes_of(stage)]
    assert kinds == sorted(kinds, key=list(MEASURES).index) and "short" in kinds
