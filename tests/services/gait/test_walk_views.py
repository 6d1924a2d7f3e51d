"""Walks seen from the front, the back and three-quarter: what stands stays, what comes near grows."""

import numpy as np
import pytest

from builders.making import bone, puppet
from builders.named import id_of
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate import evaluate
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.core.walk.walker import walker_of
from gaitwire.services.gait.preview import preview
from gaitwire.services.rig.bench import Bench
from gaitwire.services.scene.floor import add_puppet, make_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.phrases import put_phrase
from gaitwire.services.scene.walks import find_gait, make_walks_own, put_gait, set_gait, walks_of
from gaitwire.store.history import take_step

PLAIN = CHARACTERS["plain"]


def front(workspace):
    return id_of(workspace, "puppet", "Tamsin, front")


class Walking:
    """Tamsin, drawn from the front or as another view has it, on a floor of her own."""

    def __init__(self, workspace, view="front", card=PLAIN, frames=97, step=1.0, **walk):
        self.workspace = workspace
        if view != "front":
            Bench(workspace, front(workspace)).set_view(view)
        self.floor = Floor(workspace, make_scene(workspace, "Lane", frames=frames, loop=False, ground=500.0))
        self.who = add_puppet(self.floor, front(workspace), x=600.0, y=500.0, scale=0.5)
        self.gait = put_gait(self.floor, self.who, card, **walk)
        self.puppet = workspace.puppet(front(workspace))
        self.bones = {b.name: b.id for b in self.puppet.bones}
        self.frames = np.arange(0.0, frames - 0.5, step)
        found = evaluate(workspace.compiled(self.floor.scene_id), self.frames)
        self.nodes = {k[1]: found.nodes[:, n].T for n, k in enumerate(found.node_keys)}

    def joint(self, name):
        matrix = self.nodes[self.bones[name]]
        return matrix[4] + 1j * matrix[5]

    def size(self, name):
        """How wide a bone is seen, against the puppet in its scene."""
        return np.hypot(*self.nodes[self.bones[name]][0:2]) / 0.5


@pytest.mark.parametrize("view", ["front", "back", "three-quarter"])
@pytest.mark.parametrize(("name", "pace"), [("plain", "clock"), ("brisk", "clock"), ("heavy-laden", "stands")])
def test_ankles_of_feet_that_stand_flat_stay_on_their_spots(orchard, view, name, pace):
    walk = Walking(orchard, view, CHARACTERS[name], step=0.2, travels=True, pace=pace)
    gait = walks_of(walk.floor, walk.who)[0]
    for side, foot in enumerate(("near foot", "far foot")):
        step, phase = gait.stride.steps[side], gait.phases_at(walk.frames) - gait.stride.lands[side]
        share = phase - np.floor(phase)
        flat = (share > step.flat) & (share < step.heel_off) & (phase > 1) & (phase < phase[-1] - 1)
        held = flat[1:] & flat[:-1]
        assert held.sum() > 5
        assert np.abs(np.diff(walk.joint(foot)))[held].max() < 0.05


def test_from_the_front_it_grows_and_comes_down_the_stage_and_from_the_back_it_goes_away(orchard):
    near = Walking(orchard, travels=True)
    assert near.size("face")[-1] > 1.5 and near.joint("near foot")[-1].imag > near.joint("near foot")[0].imag + 50
    away = Walking(orchard, "back", travels=True)
    assert away.size("face")[-1] < 0.75 and away.joint("near foot")[-1].imag < away.joint("near foot")[0].imag - 20
    assert abs(np.diff(away.joint("face").real)).max() < 4  # neither goes across


def test_three_quarter_it_goes_across_too(orchard):
    walk = Walking(orchard, "three-quarter", travels=True)
    facing = walker_of(walk.puppet).facing
    assert facing * (walk.joint("face")[-1] - walk.joint("face")[0]).real > 150 and walk.size("face")[-1] > 1.2


def test_in_place_the_foot_in_front_is_lower_and_larger(orchard):
    walk = Walking(orchard, frames=24)
    near, far = walk.joint("near foot").imag, walk.joint("far foot").imag
    assert near[0] > far[0] + 10 and far[12] > near[12] + 10
    assert walk.size("near foot")[1] > walk.size("far foot")[1] + 0.05
    assert walk.size("face") == pytest.approx(np.ones(24), abs=1e-6)


def test_the_body_comes_over_the_foot_that_stands_and_the_second_step_mirrors_the_first(orchard):
    walk = Walking(orchard, frames=25)
    hips, middle = walk.joint("pelvis").real, 600.0
    left = walk.joint("near foot")[0].real < middle
    assert (hips[7] < middle) == left and (hips[19] < middle) != left
    for one, other in (("near foot", "far foot"), ("near hand", "far hand"), ("near shin", "far shin")):
        here, there = walk.joint(one)[:12], walk.joint(other)[12:24]
        assert 2 * middle - here.real == pytest.approx(there.real, abs=0.6)
        assert here.imag == pytest.approx(there.imag, abs=0.6)


@pytest.mark.parametrize("wide", [0.0, 0.4])
def test_feet_are_set_as_wide_as_is_asked_for(orchard, wide):
    walk = Walking(orchard, card=PLAIN.model_copy(update={"stance_width": wide}), frames=24)
    leg = walker_of(walk.puppet).length * 0.5
    apart = (walk.joint("far foot") - walk.joint("near foot"))[6].real
    assert apart == pytest.approx(wide * leg, rel=0.1, abs=1)


def test_made_into_keys_it_is_seen_as_before(orchard):
    walk = Walking(orchard, travels=True, frames=49)
    make_walks_own(walk.floor, walk.who)
    found = evaluate(orchard.compiled(walk.floor.scene_id), walk.frames)
    after = {k[1]: found.nodes[:, n].T for n, k in enumerate(found.node_keys)}
    assert max(np.abs(after[k] - walk.nodes[k]).max() for k in after) < 1e-3


def test_what_such_a_walk_cannot_do_is_refused(orchard):
    walk = Walking(orchard, frames=49)
    for values in ({"pace": "seat"}, {"slope": 5.0}):
        with pytest.raises(InvalidInputError, match="Drawn from the front"):
            set_gait(walk.floor, walk.gait, values)
    assert find_gait(walk.floor, walk.gait).pace == "clock"
    legs = [
        one
        for n, side in enumerate(("near", "far"))
        for one in (
            bone(f"{side} thigh", "hips", 10.0 * n, 40.0, role="thigh", side=side, length=40.0, angle=90.0),
            bone(f"{side} shin", f"{side} thigh", 10.0 * n, 80.0, role="shin", side=side, length=40.0, angle=90.0),
            bone(f"{side} foot", f"{side} shin", 10.0 * n, 120.0, role="foot", side=side, length=14.0),
        )
    ]
    bare = puppet([bone("hips", y=40.0, role="pelvis"), *legs]).model_copy(update={"view": "front"})
    with pytest.raises(InvalidInputError, match="walks on limbs"):
        walker_of(bare)


def test_a_view_is_set_on_the_bench_and_taken_back(orchard):
    bench = Bench(orchard, front(orchard))
    bench.set_view("back")
    assert bench.puppet.view == "back"
    with pytest.raises(InvalidInputError):
        bench.set_view("above")
    take_step(orchard.store, bench.puppet_id, "undo")
    assert bench.puppet.view == "front"
    assert preview(orchard, bench.puppet_id, PLAIN).prints() == []


def test_a_phrase_for_another_view_is_told(orchard):
    walk = Walking(orchard, frames=60)
    assert put_phrase(walk.floor, walk.who, "nod", 0.0).elsewhere == "from the front"
    assert put_phrase(walk.floor, walk.who, "shrug", 30.0).elsewhere == ""
