"""Weight for a walk keyed by hand: the body dips and rises, feet and head stay, all in one step of history."""

import numpy as np
import pytest

from builders.named import id_of
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate import evaluate
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.services.rig.soft_parts import Softening
from gaitwire.services.scene.floor import add_puppet, make_scene
from gaitwire.services.scene.found_poses import mark_pose, poses_of
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.poses import delete_pose
from gaitwire.services.scene.walk_keys import put_walk
from gaitwire.services.scene.weight import weigh_down
from gaitwire.store.history import take_step

FLAT = CHARACTERS["plain"].model_copy(update={"bounce": 0.0, "sink": 0.05, "lean": 0.0})


@pytest.fixture
def keyed(orchard):
    """Tamsin with a walk of keys that hardly goes up and down."""
    floor = Floor(orchard, make_scene(orchard, "Flat", frames=24, loop=True, ground=640.0))
    tamsin = id_of(orchard, "puppet", "Tamsin")
    who = add_puppet(floor, tamsin, x=400.0, y=640.0)
    put_walk(floor, who, FLAT)
    names = {b.id: b.name for b in orchard.puppet(tamsin).bones}

    def bone(name):
        frames = evaluate(orchard.compiled(floor.scene_id), np.arange(24.0))
        at = [names.get(k[1]) for k in frames.node_keys].index(name)
        return frames.nodes[:, at]

    return floor, who, bone


@pytest.mark.parametrize("marked", [True, False])
def test_the_body_dips_and_rises_and_feet_and_head_stay(orchard, keyed, marked):
    floor, who, bone = keyed
    if not marked:
        for pose in poses_of(floor, who):
            delete_pose(floor, pose.id, with_keys=False)
    before = {n: bone(n) for n in ("pelvis", "near foot", "far foot", "face", "near thigh", "near upper arm")}
    beats = weigh_down(floor, who, 5.0, 3.0)
    assert {b.name for b in beats} == {"contact", "down", "passing", "up"} and len(beats) >= 7
    down = [int(b.time) for b in beats if b.name == "down"]
    up = [int(b.time) for b in beats if b.name == "up"]
    moved = bone("pelvis")[:, 5] - before["pelvis"][:, 5]
    leg = 165.0
    assert moved[down] == pytest.approx([0.05 * leg] * len(down), rel=0.1) and (moved[up] < -0.03 * leg).all()
    at = [int(b.time) for b in beats if b.name == "down"]  # a leg that is bent enough to rise on keeps its ankle too
    for foot in ("near foot", "far foot"):
        assert np.abs(bone(foot) - before[foot])[at][:, 4:].max() < 0.05
        turned = np.arctan2(bone(foot)[:, 1], bone(foot)[:, 0]) - np.arctan2(before[foot][:, 1], before[foot][:, 0])
        assert np.degrees(np.abs(turned[at])).max() < 0.05
    for level in ("face", "near upper arm"):
        angle = np.degrees(np.arctan2(bone(level)[:, 1], bone(level)[:, 0]))
        was = np.degrees(np.arctan2(before[level][:, 1], before[level][:, 0]))
        assert np.abs(angle - was)[down].max() < 0.05
    take_step(orchard.store, floor.scene_id, "undo")
    assert np.abs(bone("pelvis") - before["pelvis"]).max() < 1e-9


def test_what_stands_on_pins_dips_over_them(orchard):
    pip = id_of(orchard, "puppet", "Pip")
    puppet = orchard.puppet(pip)
    soft = Softening(orchard, pip)
    body = max(puppet.parts, key=lambda p: orchard.art(p.art_hash).bounds.height)
    soft.soften([body.id])
    (foot,) = soft.place_pin(body.id, "lead", puppet.base_x, puppet.base_y - 2)
    (top,) = soft.place_pin(body.id, "lead", puppet.base_x, puppet.base_y - 0.5 * puppet.height)
    floor = Floor(orchard, make_scene(orchard, "Squats", frames=24, loop=False, ground=640.0))
    who = add_puppet(floor, pip, x=400.0, y=640.0)
    for frame, name in ((0, "contact"), (6, "passing"), (12, "contact")):
        mark_pose(floor, who, float(frame), name)

    def at(pin):
        frames = evaluate(orchard.compiled(floor.scene_id), np.array([3.0, 9.0]))
        return frames.nodes[:, [k[1] for k in frames.node_keys].index(pin), 5]

    before = at(foot), at(top)
    weigh_down(floor, who, 4.0)
    assert at(foot) == pytest.approx(before[0], abs=0.05)
    assert at(top)[0] > before[1][0] + 2 and at(top)[1] < before[1][1] - 2


def test_what_has_no_legs_goes_down_as_a_whole_where_its_poses_say(orchard):
    floor = Floor(orchard, make_scene(orchard, "Hops", frames=24, loop=False, ground=640.0))
    pip = id_of(orchard, "puppet", "Pip")
    who = add_puppet(floor, pip, x=400.0, y=640.0)
    with pytest.raises(InvalidInputError, match="No steps"):
        weigh_down(floor, who, 3.0)
    for frame, name in ((0, "contact"), (6, "passing"), (12, "contact")):
        mark_pose(floor, who, float(frame), name)
    assert [b.time for b in weigh_down(floor, who, 4.0)] == [0, 3, 6, 9, 12]
    y = floor.values_at(np.array([0.0, 3.0, 9.0]))[who, who, "shift_y"]
    assert y[0] == 0 and y[1] > 2 and y[2] < -2
