"""Rolls in a scene: put, edited on top of, undone, refused."""

import numpy as np
import pytest

from builders.named import id_of
from gaitwire.core.errors import InvalidInputError
from gaitwire.services.scene.floor import add_puppet, make_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.posing import set_values
from gaitwire.services.scene.rolls import put_roll, remove_roll
from gaitwire.store.history import take_step


def test_a_barrel_rolls_by_the_way_it_is_moved_and_takes_keys_on_top(orchard):
    floor = Floor(orchard, make_scene(orchard, "Rolling", frames=48, loop=False, ground=640.0))
    barrel = id_of(orchard, "puppet", "Cider barrel")
    who = add_puppet(floor, barrel, x=100.0, y=640.0, scale=0.5)
    bone = next(b for b in orchard.puppet(barrel).bones if b.role == "wheel" or b.name == "barrel")
    put_roll(floor, (who, bone.id))
    radius = orchard.puppet(barrel).base_y - bone.y
    assert floor.scene.rolls[0].radius == pytest.approx(radius)
    for frame, place in ((0, 0.0), (40, 300.0)):
        set_values(floor, float(frame), {(who, who, "shift_x"): place})

    def turn(frame):
        return floor.values_at(np.array([float(frame)]))[who, bone.id, "turn"][0]

    whole = np.degrees(300 / (0.5 * radius))
    assert turn(40) - turn(0) == pytest.approx(whole)
    set_values(floor, 20.0, {(who, bone.id, "turn"): 77.0})
    assert turn(20) == pytest.approx(77.0, abs=1e-5)
    assert turn(40) - turn(20) == pytest.approx(whole / 2, abs=1e-5)  # the offset goes on, and so does the roll
    put_roll(floor, (who, bone.id), 2 * radius)
    assert len(floor.scene.rolls) == 1 and turn(40) - turn(20) == pytest.approx(whole / 4, abs=1e-5)
    take_step(orchard.store, floor.scene_id, "undo")
    assert floor.scene.rolls[0].radius == pytest.approx(radius)
    remove_roll(floor, (who, bone.id))
    assert turn(40) == pytest.approx(turn(20), abs=1e-6)
    with pytest.raises(InvalidInputError, match="Only a bone rolls"):
        put_roll(floor, (who, who))
    with pytest.raises(InvalidInputError):
        put_roll(floor, (who, bone.id), 0.0)
