"""Area against shapely: what keeps its volume covers as much as at rest, rigid or soft.

Source: polygon area by shapely 2 (GEOS), of the very outlines that are drawn. For soft parts the
figure is *common practice*: flesh that bends neither swells nor thins by more than a few per cent.
"""

import numpy as np
import pytest
import shapely

from builders.making import bone, part, puppet, scene
from builders.sleeves import GRAIN, SLEEVE, arm
from gaitwire.core.evaluate import compile_scene, evaluate
from gaitwire.core.geometry.path import commands_of, rings_of, written
from gaitwire.core.puppet.soften import art_points, soften

APPLE = "M0 30C-40 30 -44 -30 0 -30C44 -30 40 30 0 30Z"


def area(d):
    return sum(shapely.Polygon(ring).area for ring in rings_of(d))


@pytest.mark.parametrize("stretch", [0.5, 0.8, 1.3, 2.0])
def test_a_squashed_part_covers_as_much_as_at_rest(stretch):
    apple = puppet([bone("b", length=10, angle=-90, keep_volume=True)], [part("q", "b")])
    made = scene({("b", "stretch"): [(0, stretch)], ("b", "skew"): [(0, 20)]})
    matrix = evaluate(compile_scene(made, {"p": apple}), np.zeros(1)).matrices[0, 0]
    ring = rings_of(APPLE)[0] @ matrix[:4].reshape(2, 2) + matrix[4:]
    assert shapely.Polygon(ring).area == pytest.approx(area(APPLE), rel=1e-9)
    assert not shapely.Polygon(ring).equals(shapely.Polygon(rings_of(APPLE)[0]))


@pytest.mark.parametrize("turn", [30, 60, 90])
def test_a_bent_sleeve_neither_swells_nor_thins(turn):
    made, skin = arm()
    compiled = compile_scene(scene({("fore", "turn"): [(0, turn)]}), {"p": made}, {"s": skin})
    frames = evaluate(compiled, np.zeros(1))
    (slot,) = frames.soft.values()
    art = soften(SLEEVE, GRAIN)
    bent = written(commands_of(art.nodes[0].d), frames.points[0, slot.drawing(0)].astype(float))
    assert len(art_points(art)) == slot.count - slot.vertices
    assert area(bent) == pytest.approx(area(art.nodes[0].d), rel=0.05)
