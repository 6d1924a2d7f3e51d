"""Turning round: the other way from a frame on, on the feet that it stands on; walks there and back."""

import numpy as np
import pytest

from gaitwire.core.errors import InvalidInputError, LockedError, NotFoundError
from gaitwire.core.evaluate import evaluate
from gaitwire.core.motion.turning import NARROWEST, Turn, senses, widths
from gaitwire.core.notes import MEASURES
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.services.floor import Floor, make_scene
from gaitwire.services.noting import scene_notes
from gaitwire.store.documents import list_documents
from gaitwire.store.history import take_step

FLOOR = 640.0


def at(time, frames=6.0):
    return Turn(id="t", scene_id="s", instance_id="i", time=time, frames=frames)


def test_it_narrows_to_its_edge_and_widens_the_other_way():
    seen = widths([at(10)], np.array([0.0, 10, 11.5, 13, 16, 40]))
    assert seen == pytest.approx([1, 1, np.cos(np.pi / 4), NARROWEST, -1, -1])
    assert senses([at(10), at(20, 0.0)], np.array([12.0, 14, 19.5, 20, 30])).tolist() == [1, -1, -1, 1, 1]


class Stage:
    """Tamsin alone on a floor."""

    def __init__(self, workspace, frames=160, **place):
        self.workspace = workspace
        self.floor = Floor(workspace, make_scene(workspace, "Back", frames=frames, loop=False, ground=FLOOR))
        puppet = next(e.id for e in list_documents(workspace.store, "puppet") if e.name == "Tamsin")
        self.who = self.floor.add_puppet(puppet, x=400.0, y=FLOOR, **place)
        self.puppet = workspace.puppet(puppet)
        self.bones = {b.name: b for b in self.puppet.bones}

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
            self.floor.set_values(float(time), {(self.who, self.who, "shift_x"): across})


@pytest.fixture
def stage(orchard):
    return Stage(orchard)


def test_on_the_spot_its_ankles_stay_and_its_toes_point_the_other_way(stage):
    stage.floor.put_gait(stage.who, CHARACTERS["plain"], 0.0, 60.0, travels=True, pace="stands")
    stage.floor.turn_round(stage.who, 70.0)
    for foot in ("near foot", "far foot"):
        ankle, (heel, toe) = stage.joint(foot, range(60, 90)), stage.sole(foot, [65, 80])
        assert np.abs(ankle - ankle[0]).max() < 1.5  # both feet turn about one point between them
        assert (toe - heel)[0].real > 20 and (toe - heel)[1].real < -20


def test_a_walk_after_a_turn_goes_back(stage):
    floor = stage.floor
    floor.put_gait(stage.who, CHARACTERS["plain"], 0.0, 60.0, travels=True, pace="stands")
    floor.turn_round(stage.who, 64.0, 6.0)
    floor.put_gait(stage.who, CHARACTERS["plain"], 76.0, 136.0, travels=True, pace="stands")
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
    gait = stage.floor.put_gait(stage.who, CHARACTERS["plain"], 0.0, 159.0, pace="seat")
    assert stage.floor.turn_back(stage.who, 6.0) == 1
    (turn,) = stage.floor.scene.turns
    assert 60 <= turn.time <= 71 and stage.floor.gait(gait)
    steps = [m for m in stage.floor.walks_of(stage.who)[0].poses() if m.name == "contact"]
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
    floor.turn_round(stage.who, 10.0, 0.0)
    floor.set_values(30.0, {(stage.who, stage.who, "shift_x"): 25.0, (stage.who, stage.who, "widen"): -1.1})
    seen = floor.values_at(np.array([30.0]))
    assert seen[stage.who, stage.who, "shift_x"] == pytest.approx(25.0)
    assert seen[stage.who, stage.who, "widen"] == pytest.approx(-1.1)
    limb = next(i for i in stage.puppet.limbs if i.tip_id == stage.bones["near foot"].id)
    before = stage.sole("near foot", [30])
    floor.plant([(stage.who, limb.id)], 30.0)
    after = stage.sole("near foot", [30, 38])
    assert np.abs(after - before).max() < 0.05
    assert not [n for n in scene_notes(stage.workspace, floor.scene_id) if n.kind == "slip"] and "slip" in MEASURES


def test_what_cannot_turn_is_refused(stage):
    made = stage.floor.turn_round(stage.who, 40.0)
    with pytest.raises(InvalidInputError, match="already"):
        stage.floor.turn_round(stage.who, 42.0)
    with pytest.raises(InvalidInputError, match="never turns back"):
        stage.floor.turn_back(stage.who)
    with pytest.raises(InvalidInputError):
        stage.floor.set_turn(made, {"frames": -2.0})
    stage.floor.set_turn(made, {"time": 50.0, "frames": 0.0})
    assert stage.floor.turn(made).time == 50
    stage.floor.remove_turn(made)
    with pytest.raises(NotFoundError):
        stage.floor.turn(made)
    stage.floor.update_instance(stage.who, locked=True)
    with pytest.raises(LockedError):
        stage.floor.turn_round(stage.who, 10.0)
    assert not stage.floor.scene.turns
