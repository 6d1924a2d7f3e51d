"""A pose against its opposite: what is named, by how much, and that a true mirror shows nothing."""

import numpy as np
import pytest

from builders.named import id_of
from gaitwire.core.errors import InvalidInputError
from gaitwire.services.scene.floor import add_puppet, make_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.posing import set_values
from gaitwire.services.views.opposite import opposite


@pytest.fixture
def walk(orchard):
    """Tamsin's thighs swing against each other, the second half of the loop mirroring the first."""
    floor = Floor(orchard, make_scene(orchard, "Trial", frames=24))
    tamsin = id_of(orchard, "puppet", "Tamsin")
    floor.who = add_puppet(floor, tamsin)
    floor.bones = {b.name: b for b in orchard.puppet(tamsin).bones}
    rest = floor.bones["near thigh"].angle - floor.bones["far thigh"].angle
    for frame, near in ((0, 24.0), (12, -18.0)):
        far = -18.0 if frame == 0 else 24.0
        values = {"near thigh": near, "far thigh": far + rest}
        set_values(floor, frame, {(floor.who, floor.bones[n].id, "turn"): v for n, v in values.items()})
    return floor


def differing(floor, frame):
    return {d.name: d for d in opposite(floor, floor.who, frame).differences}


def test_a_step_that_mirrors_the_other_has_legs_alike(walk):
    assert opposite(walk, walk.who, 3).other == 15
    for frame in (0, 6, 12, 17):
        assert "near thigh" not in differing(walk, frame)


def test_what_is_off_is_named_with_degrees_and_pixels(walk):
    set_values(walk, 12, {(walk.who, walk.bones["near thigh"].id, "turn"): -10.0})
    found = differing(walk, 12)
    off = found["near thigh"]
    assert (off.against, off.turn) == ("far thigh", pytest.approx(8.0, abs=1e-3))
    scale = walk.instance(walk.who).scale
    chord = 2 * walk.bones["near thigh"].length * scale * np.sin(np.radians(4.0))
    assert off.place == pytest.approx(chord, rel=1e-3)
    assert "near shin" in found  # what hangs from it is off by as much


def test_half_of_a_range_may_be_meant(walk):
    assert opposite(walk, walk.who, 4, 2, 10).other == 8
    with pytest.raises(InvalidInputError, match="too short"):
        opposite(walk, walk.who, 4, 4, 5)
