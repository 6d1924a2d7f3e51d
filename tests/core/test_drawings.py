"""Which drawing shows, and what lies before what: keyed, stepped, and what the exporter makes of it."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from builders.making import bone, key, part, puppet, scene
from gaitwire.core.evaluate import compile_scene, evaluate
from gaitwire.core.puppet.model import Replacement
from gaitwire.core.scene import Scene
from gaitwire.core.timing.channel import Channel
from gaitwire.formats.animated_svg.order import movers, places


def other(number, rank):
    return Replacement(
        id=f"r{number}", puppet_id="p", part_id="hand", number=number, name=f"r{number}", rank=rank, art_hash=""
    )


FIVE = puppet([bone("b")], [part(name, "b", rank) for rank, name in enumerate(["back", "hand", "coat", "head", "hat"])])
FIVE = FIVE.model_copy(update={"replacements": (other(7, 1), other(3, 0))})


def keyed(prop, part_id, *points) -> Scene:
    base = scene({})
    channel = Channel(id="c", scene_id="s", instance_id="i", owner_kind="part", owner_id=part_id, property=prop)
    return base.model_copy(update={"channels": (channel,), "keys": tuple(key(t, v, "linear") for t, v in points)})


def at(made, *frames):
    return evaluate(compile_scene(made, {"p": FIVE}), np.array(frames, float))


def test_a_replacement_shows_from_its_key_on_and_not_halfway():
    found = at(keyed("drawing", "hand", (2, 3), (6, 7), (9, 0)), 0, 2, 5.9, 6, 8.99, 9, 20)
    shown = found.drawing[:, 1]  # in order: its own, then r3 (rank 0), then r7
    assert shown.tolist() == [0, 1, 1, 2, 2, 0, 0]  # the loop comes back to its last key


def test_a_drawing_that_was_taken_away_gives_way_to_the_parts_own():
    assert at(keyed("drawing", "hand", (0, 99)), 0).drawing[0, 1] == 0


@pytest.mark.parametrize(
    ("steps", "order"),
    [
        (0, ["back", "hand", "coat", "head", "hat"]),
        (1, ["back", "coat", "hand", "head", "hat"]),
        (2, ["back", "coat", "head", "hand", "hat"]),
        (-1, ["hand", "back", "coat", "head", "hat"]),
        (9, ["back", "coat", "head", "hat", "hand"]),
        (-9, ["hand", "back", "coat", "head", "hat"]),
    ],
)
def test_a_part_moves_as_many_places_as_its_value_says(steps, order):
    found = at(keyed("place", "hand", (3, steps)), 3)
    assert [found.part_keys[i][1] for i in found.order[0]] == order


def test_a_place_steps_too():
    found = at(keyed("place", "hand", (0, 0), (4, 3)), 3.9, 4)
    assert found.order[0].tolist() == [0, 1, 2, 3, 4]
    assert found.order[1].tolist() == [0, 2, 3, 4, 1]


@given(st.lists(st.permutations(range(6)), min_size=1, max_size=12))
def test_the_exported_layers_show_every_part_once_on_every_frame_in_that_frames_order(rows):
    order = np.array(rows)
    layers = list(places(order, movers(order)))
    for frame, row in enumerate(rows):
        assert [part for part, seen in layers if seen[frame]] == list(row)
    assert len(layers) <= order.size


def test_one_part_that_moves_does_not_take_the_others_with_it():
    order = np.array([[0, 1, 2, 3, 4], [0, 2, 3, 4, 1], [0, 1, 2, 3, 4]])
    assert movers(order) == {1}
    assert len(list(places(order, {1}))) == 6  # four that stay, and the hand in two places
