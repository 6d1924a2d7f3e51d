"""A walk on a puppet: written as keys, its feet still, its arms against its legs, undone in one step."""

import numpy as np
import pytest

from builders.acting import Alone
from builders.making import tip
from builders.named import id_of
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.core.walk.stride import Stride
from gaitwire.core.walk.walker import walker_of
from gaitwire.services.scene.floor import add_puppet, make_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.posing import set_values
from gaitwire.services.scene.walk_keys import put_walk
from gaitwire.store.history import take_step


class Walking(Alone):
    """Tamsin on a floor of her own."""

    def __init__(self, workspace, frames=97, **place):
        super().__init__(workspace, place={"x": 300.0, "y": 640.0, **place}, frames=frames, ground=640.0)

    def sole(self, foot, *frames):
        """The front of a foot's sole on the stage: under the bone's tip, on the base line at rest."""
        bone = self.bones[foot]
        ahead = bone.length * np.cos(np.radians(bone.angle))
        down = self.puppet.base_y - bone.y
        return tip(self.at(*frames), bone.id, np.hypot(ahead, down), np.degrees(np.arctan2(down, ahead)))


@pytest.fixture
def walking(orchard):
    return Walking(orchard)


@pytest.mark.parametrize("name", ["plain", "weary", "sneaking", "limping", "toddling", "shuffle", "run"])
@pytest.mark.parametrize("place", [{}, {"scale": 0.6, "turned": True}])
def test_planted_feet_are_still_on_every_frame_and_none_is_under_the_floor(orchard, name, place):
    walking = Walking(orchard, **place)
    card = CHARACTERS[name]
    put_walk(walking.floor, walking.who, card, travels=True)
    frames = np.arange(97.0)
    walker = walker_of(walking.puppet)
    stride = Stride(card, *walker.builds)
    pose = stride.at(frames / card.frames)
    for side, foot in enumerate(("near foot", "far foot")):
        sole = walking.sole(foot, *frames)
        assert sole[:, 1].max() < 640 + 0.05
        step, plant = stride.steps[side], np.floor(pose.phase - stride.lands[side] + 1e-9)
        down = (pose.share[side] > step.flat) & (pose.share[side] < step.stance)
        for k in np.unique(plant):
            held = sole[down & (plant == k)]
            if len(held) > 1:
                assert np.abs(held - held[0]).max() < 0.05


def test_a_walk_in_place_is_a_loop_and_its_arms_go_against_its_legs(orchard):
    walking = Walking(orchard, frames=25)
    put_walk(walking.floor, walking.who, CHARACTERS["plain"])
    nodes = walking.at(*range(25)).nodes
    assert nodes[24] == pytest.approx(nodes[0], abs=1e-4)
    columns = [
        walking.at(0).node_keys.index((walking.who, walking.bones[b].id)) for b in ("near thigh", "near upper arm")
    ]
    thigh, arm = (np.unwrap(np.arctan2(nodes[:24, c, 1], nodes[:24, c, 0])) for c in columns)
    assert np.corrcoef(thigh, arm)[0, 1] < -0.6
    head = tip(walking.at(*range(24)), walking.bones["face"].id, 0)[:, 1]
    assert head.argmin() % 12 in (6, 7, 8, 9) and head.argmax() % 12 in (0, 1, 2, 3)


def test_it_is_one_step_of_history_and_replaces_what_stood_there(walking):
    floor = walking.floor
    set_values(floor, 10.0, {(walking.who, walking.bones["near thigh"].id, "turn"): 33.0})
    set_values(floor, 90.0, {(walking.who, walking.bones["near thigh"].id, "turn"): 12.0})
    before = floor.scene.keys
    found = put_walk(floor, walking.who, CHARACTERS["brisk"], 0.0, 54.0)
    marks = [(p.time, p.name) for p in floor.scene.poses if p.time < 18]
    assert marks == [
        (0, "contact"),
        (2, "down"),
        (4, "passing"),
        (7, "up"),
        (9, "contact"),
        (11, "down"),
        (14, "passing"),
        (16, "up"),
    ]
    assert found.strides == pytest.approx(3.0) and found.shortened is None and found.keys > 500
    thigh = next(
        c for c in floor.scene.channels if c.owner_id == walking.bones["near thigh"].id and c.property == "turn"
    )
    times = [k.time for k in floor.scene.keys_by_channel()[thigh.id]]
    assert times == [*range(55), 90]
    take_step(walking.workspace.store, floor.scene_id, "undo")
    assert floor.scene.keys == before


def test_what_cannot_walk_says_which_roles_it_lacks(orchard):
    floor = Floor(orchard, make_scene(orchard, "Still", frames=24, loop=False))
    pip = id_of(orchard, "puppet", "Pip")
    who = add_puppet(floor, pip)
    with pytest.raises(InvalidInputError, match="no near thigh"):
        put_walk(floor, who, CHARACTERS["plain"])
    assert not floor.scene.keys
    walker = Walking(orchard)
    with pytest.raises(InvalidInputError, match="too short"):
        put_walk(walker.floor, walker.who, CHARACTERS["plain"], 3.0, 3.0)
    for start, stop in ((-4.0, 20.0), (0.0, 90_000.0)):
        with pytest.raises(InvalidInputError, match="not all in the scene"):
            put_walk(walker.floor, walker.who, CHARACTERS["plain"], start, stop)
