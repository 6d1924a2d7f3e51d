"""Turning round: the other way from a frame on, on the feet that it stands on; walks there and back."""

import numpy as np
import pytest

from builders.acting import Alone
from gaitwire.core.errors import InvalidInputError, LockedError, NotFoundError
from gaitwire.core.evaluate import evaluate
from gaitwire.core.evaluate.reaching import reach, take_limb
from gaitwire.core.evaluate.rest_compensation import kept_values
from gaitwire.core.motion.turning import EDGE, STAGES, Turn, nods, senses, toward, widths
from gaitwire.core.notes import MEASURES
from gaitwire.core.puppet.limb_chains import limb_chain
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.services.rig.drawings import Drawings
from gaitwire.services.scene.floor import update_instance
from gaitwire.services.scene.links import plant_limbs, update_plant
from gaitwire.services.scene.posing import set_values
from gaitwire.services.scene.turns import find_turn, remove_turn, set_turn, turn_back, turn_round
from gaitwire.services.scene.walks import find_gait, put_gait, walks_of
from gaitwire.services.views.notes import scene_notes
from gaitwire.store.history import take_step

FLOOR = 640.0


def at(time, frames=6.0, manner="whole"):
    return Turn(id="t", scene_id="s", instance_id="i", time=time, frames=frames, manner=manner)


def test_it_narrows_to_its_edge_and_widens_the_other_way():
    seen = widths([at(10)], np.array([0.0, 10, 11.5, 13, 16, 40]))
    assert seen == pytest.approx([1, 1, np.cos(np.pi / 4), EDGE, -1, -1])
    assert senses([at(10), at(20, 0.0)], np.array([12.0, 14, 19.5, 20, 30])).tolist() == [1, -1, -1, 1, 1]


def test_in_stages_the_head_leads_and_leg_after_leg_follows():
    frames, turn = np.linspace(0, 40, 401), at(10, 20.0, "stages")
    over = {stage: frames[np.argmax(senses([turn], frames, stage) < 0)] for stage in STAGES}
    # The middle of each: half way from first to last of 20 frames.
    assert over == pytest.approx({"head": 15.6, "trunk": 19.0, "leg": 22.2, "last leg": 25.8}, abs=0.11)
    for stage in STAGES:
        seen = widths([turn], frames, stage)
        assert (
            np.abs(seen).min() >= 0.5
            and seen[frames <= 10] == pytest.approx(1)
            and seen[frames >= 30] == pytest.approx(-1)
        )
        lean = nods([turn], frames, stage)
        assert not lean[frames <= 10].any() and np.abs(lean[frames >= 30]).max() < 1e-9
        assert not toward([turn], frames, stage)[frames <= 10].any()


class Stage(Alone):
    """Tamsin alone on a floor."""

    def __init__(self, workspace, frames=160, **place):
        super().__init__(workspace, place={"x": 400.0, "y": FLOOR, **place}, frames=frames, ground=FLOOR)

    def joint(self, name, frames):
        found = evaluate(self.workspace.compiled(self.floor.scene_id), np.asarray(frames, float))
        matrix = found.nodes[:, [k[1] for k in found.node_keys].index(self.bones[name].id)].T
        return matrix[4] + 1j * matrix[5]

    def sole(self, name, frames):
        """Heel and toe of a foot on the stage (2, F), complex."""
        found = evaluate(self.workspace.compiled(self.floor.scene_id), np.asarray(frames, float))
        bone = self.bones[name]
        a, b, c, d, e, f = found.nodes[:, [k[1] for k in found.node_keys].index(bone.id)].T
        ahead = bone.length * np.cos(np.radians(bone.angle))
        x, y = np.array([[-0.25 * bone.length], [ahead]]), self.puppet.base_y - bone.y
        return a * x + c * y + e + 1j * (b * x + d * y + f)

    def key_way(self, *points):
        for time, across in points:
            set_values(self.floor, float(time), {(self.who, self.who, "shift_x"): across})


@pytest.fixture
def stage(orchard):
    return Stage(orchard)


def test_on_the_spot_its_ankles_stay_and_its_toes_point_the_other_way(stage):
    put_gait(stage.floor, stage.who, CHARACTERS["plain"], 0.0, 60.0, travels=True, pace="stands")
    turn_round(stage.floor, stage.who, 70.0)
    (turn,) = stage.floor.scene.turns
    set_turn(stage.floor, turn.id, {"manner": "whole", "frames": 6.0})
    for foot in ("near foot", "far foot"):
        ankle, (heel, toe) = stage.joint(foot, range(60, 90)), stage.sole(foot, [65, 80])
        assert np.abs(ankle - ankle[0]).max() < 1.5  # both feet turn about one point between them
        assert (toe - heel)[0].real > 20 and (toe - heel)[1].real < -20


def matrices(stage, name, frames):
    found = evaluate(stage.workspace.compiled(stage.floor.scene_id), np.asarray(frames, float))
    return found.nodes[:, [k[1] for k in found.node_keys].index(stage.bones[name].id)].T


def test_in_stages_all_ends_as_the_whole_puppet_mirrored_and_nothing_comes_apart(stage):
    floor, frames = stage.floor, np.arange(0, 60)
    set_values(floor, 0.0, {(stage.who, stage.bones["near upper arm"].id, "turn"): -30.0})
    made = turn_round(floor, stage.who, 20.0, 20.0)
    staged = {name: matrices(stage, name, frames) for name in stage.bones}
    set_turn(floor, made, {"manner": "whole"})
    whole = {name: matrices(stage, name, frames) for name in stage.bones}
    out = (frames <= 20) | (frames >= 40)
    for name, matrix in staged.items():
        assert matrix[:, out] == pytest.approx(whole[name][:, out], abs=1e-9)
        seen = matrix[0] * matrix[3] - matrix[1] * matrix[2]
        assert np.abs(seen).min() >= 0.5  # none is thinner than half its width
        above = stage.puppet.bone(stage.bones[name].parent_id or "")
        if above is not None:  # each stays at its joint
            a, b, c, d, e, f = staged[above.name]
            x, y = stage.bones[name].x - above.x, stage.bones[name].y - above.y
            assert (matrix[4] - (a * x + c * y + e), matrix[5] - (b * x + d * y + f)) == pytest.approx((0, 0), abs=1e-9)
    over = {n: int(np.argmax((m[0] * m[3] - m[1] * m[2]) < 0)) for n, m in staged.items()}
    assert over["face"] < over["chest"] == over["pelvis"] < over["far thigh"] < over["near thigh"]
    lowest = [np.array([e.imag for e in stage.sole(f, range(20, 41))]).max(axis=0) for f in ("near foot", "far foot")]
    assert np.maximum(*lowest).min() > FLOOR - 2.0  # one foot or the other stands


def test_a_hand_has_what_it_asks_for_in_the_middle_of_a_turn(stage):
    floor, limbs = stage.floor, {i.name: i for i in stage.puppet.limbs}
    turn_round(floor, stage.who, 10.0, 20.0)
    for frame in (15.0, 18.0, 24.0):
        for limb, joint in ((limbs["near leg"], "near foot"), (limbs["near arm"], "near hand")):
            target = complex(stage.joint(joint, [frame])[0]) + (-18 - 25j)
            count = len(limb_chain(stage.puppet, limb))
            grip = take_limb(stage.workspace.compiled(floor.scene_id), stage.who, limb.id, frame)
            set_values(floor, frame, reach(grip, (target.real, target.imag), joint=count).values)
            assert abs(stage.joint(joint, [frame])[0] - target) < 0.1


def test_a_planted_foot_stays_in_stages_too(stage):
    floor = stage.floor
    limb = next(i for i in stage.puppet.limbs if i.tip_id == stage.bones["near foot"].id)
    plant_limbs(floor, [(stage.who, limb.id)], 5.0)
    (plant,) = floor.scene.plants
    update_plant(floor, plant.id, {"stop": 60.0})
    turn_round(floor, stage.who, 20.0, 20.0)
    stood = stage.joint("near foot", range(5, 32))
    assert np.abs(stood - stood[0]).max() < 0.01
    assert not [n for n in scene_notes(stage.workspace, floor.scene_id) if n.kind == "slip"]


def test_drawings_named_for_other_sides_show_on_the_way_unless_one_is_keyed(stage):
    floor, bench = stage.floor, Drawings(stage.workspace, stage.puppet.id)
    head = next(p for p in stage.puppet.parts if p.bone_id == stage.bones["face"].id)
    for name in ("head, front", "head three-quarter"):
        bench.rename(head.id, bench.copy(head.id), name)
        bench.show(head.id, 0)

    def shown(*frames):
        found = evaluate(stage.workspace.compiled(floor.scene_id), np.array(frames))
        return found.drawing[:, found.part_keys.index((stage.who, head.id))].tolist()

    turn_round(floor, stage.who, 10.0, 20.0)
    assert shown(9.0, 13.0, 15.5, 18.0, 22.0) == [0, 2, 1, 2, 0]
    set_values(floor, 15.0, {(stage.who, head.id, "drawing"): 2.0})
    assert shown(15.5) == [2]


def test_a_walk_after_a_turn_goes_back(stage):
    floor = stage.floor
    put_gait(floor, stage.who, CHARACTERS["plain"], 0.0, 60.0, travels=True, pace="stands")
    turn_round(floor, stage.who, 64.0, 6.0)
    put_gait(floor, stage.who, CHARACTERS["plain"], 76.0, 136.0, travels=True, pace="stands")
    hips = stage.joint("pelvis", [0, 60, 76, 136]).real
    assert hips[1] - hips[0] > 200 and hips[3] - hips[2] == pytest.approx(hips[0] - hips[1], abs=1.0)
    # Nothing of it goes through the floor, and what is down there stays.
    for foot in ("near foot", "far foot"):
        for end in stage.sole(foot, range(160)):
            assert end.imag.max() < FLOOR + 0.1
            low = end.imag > FLOOR - 0.02
            down = low[1:] & low[:-1]
            down[63:72] = False  # its toes are turned about the ankle there
            assert np.abs(np.diff(end))[down].max() < 0.06


@pytest.mark.parametrize("place", [{}, {"turned": True, "scale": 0.6}])
def test_a_walk_by_its_own_way_turns_where_that_turns_back(orchard, place):
    stage = Stage(orchard, **place)
    m = -1 if place else 1
    stage.key_way((0, 0), (60, 400 * m), (76, 400 * m), (140, -60 * m))
    gait = put_gait(stage.floor, stage.who, CHARACTERS["plain"], 0.0, 159.0, pace="seat")
    assert turn_back(stage.floor, stage.who, 6.0) == 1
    (turn,) = stage.floor.scene.turns
    assert 60 <= turn.time <= 71 and find_gait(stage.floor, gait)
    steps = [m for m in walks_of(stage.floor, stage.who)[0].poses() if m.name == "contact"]
    assert any(s.time < 60 for s in steps) and any(s.time > 80 for s in steps)
    for foot in ("near foot", "far foot"):
        heel = stage.sole(foot, range(160))[0]
        low = heel.imag > FLOOR - 0.02
        down = low[1:] & low[:-1]
        down[int(turn.time) - 1 : int(turn.time) + 8] = False
        assert np.abs(np.diff(heel))[down].max() < 0.06
    take_step(orchard.store, stage.floor.scene_id, "undo")
    assert not stage.floor.scene.turns


def test_what_is_keyed_and_planted_after_a_turn_is_where_it_is_seen(stage):
    floor = stage.floor
    turn_round(floor, stage.who, 10.0, 0.0)
    set_values(floor, 30.0, {(stage.who, stage.who, "shift_x"): 25.0, (stage.who, stage.who, "widen"): -1.1})
    seen = floor.values_at(np.array([30.0]))
    assert seen[stage.who, stage.who, "shift_x"] == pytest.approx(25.0)
    assert seen[stage.who, stage.who, "widen"] == pytest.approx(-1.1)
    limb = next(i for i in stage.puppet.limbs if i.tip_id == stage.bones["near foot"].id)
    before = stage.sole("near foot", [30])
    plant_limbs(floor, [(stage.who, limb.id)], 30.0)
    after = stage.sole("near foot", [30, 38])
    assert np.abs(after - before).max() < 0.05
    assert not [n for n in scene_notes(stage.workspace, floor.scene_id) if n.kind == "slip"] and "slip" in MEASURES


def test_what_cannot_turn_is_refused(stage):
    made = turn_round(stage.floor, stage.who, 40.0)
    with pytest.raises(InvalidInputError, match="already"):
        turn_round(stage.floor, stage.who, 42.0)
    with pytest.raises(InvalidInputError, match="never turns back"):
        turn_back(stage.floor, stage.who)
    with pytest.raises(InvalidInputError):
        set_turn(stage.floor, made, {"frames": -2.0})
    set_turn(stage.floor, made, {"time": 50.0, "frames": 0.0})
    assert find_turn(stage.floor, made).time == 50
    remove_turn(stage.floor, made)
    with pytest.raises(NotFoundError):
        find_turn(stage.floor, made)
    update_instance(stage.floor, stage.who, locked=True)
    with pytest.raises(LockedError):
        turn_round(stage.floor, stage.who, 10.0)
    assert not stage.floor.scene.turns


def test_what_is_keyed_in_the_middle_of_a_turn_is_not_taken_for_moved_by_the_bench(stage):
    turn_round(stage.floor, stage.who, 10.0, 20.0)
    compiled = stage.workspace.compiled(stage.floor.scene_id)
    assert kept_values(compiled, compiled, stage.who, np.array([5.0, 15.0, 18.0, 23.0, 40.0])) == {}
