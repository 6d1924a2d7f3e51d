"""Walks on all fours: the order of the feet, none of which slides or is under the floor, and the trunk between them."""

import numpy as np
import pytest

from builders.named import id_of
from gaitwire.core.evaluate import evaluate
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.core.walk.walker import walker_of
from gaitwire.measure.walking import slip
from gaitwire.services.gait.desk_curves import panels
from gaitwire.services.gait.preview import preview
from gaitwire.services.scene.floor import add_puppet, make_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.walks import make_walks_own, put_gait, walks_of

FLOOR = 640.0


def bramble(workspace):
    return id_of(workspace, "puppet", "Bramble")


class Going:
    """Bramble on a floor of her own, walking."""

    def __init__(self, workspace, card, frames=90, slope=0.0, place=(), **walk):
        self.floor = Floor(workspace, make_scene(workspace, "Lane", frames=frames, loop=False, ground=FLOOR))
        self.who = add_puppet(self.floor, bramble(workspace), x=300.0, y=FLOOR, **dict(place))
        put_gait(self.floor, self.who, CHARACTERS[card], slope=slope, **walk)
        self.gait = walks_of(self.floor, self.who)[0]
        self.frames = np.arange(float(frames))
        self.nodes = evaluate(workspace.compiled(self.floor.scene_id), self.frames)
        self.owners = [k[1] for k in self.nodes.node_keys]

    def matrix(self, bone):
        return self.nodes.nodes[:, self.owners.index(bone.id)].T

    def soles(self):
        """Heels and toes on the stage (2, F), complex, by the foot's name."""
        walker, found = self.gait.walker, {}
        for foot in self.gait.feet:
            a, b, c, d, e, f = self.matrix(foot.leg.foot)
            y = foot.length * foot.build.ankle
            x = np.array([[-foot.build.heel], [foot.build.ball]]) * walker.facing * foot.length
            found[foot.name] = a * x + c * y + e + 1j * (b * x + d * y + f)
        return found


@pytest.mark.parametrize(
    ("card", "order"),
    [("plod", ["near hind", "near fore", "far hind", "far fore"]), ("trot", ["near hind", "far fore"] * 2)],
)
def test_a_walk_goes_from_hind_to_fore_on_a_side_and_a_trot_across(orchard, card, order):
    feet = Going(orchard, card).gait.feet
    lands = {f.name: f.lands % 1.0 for f in feet}
    if card == "plod":
        assert sorted(lands, key=lambda name: lands[name]) == order
        assert sorted(lands.values()) == pytest.approx([0, 0.25, 0.5, 0.75])
    else:
        assert lands["near hind"] == lands["far fore"] and lands["far hind"] == lands["near fore"]


@pytest.mark.parametrize("name", CHARACTERS)
@pytest.mark.parametrize("travels", [False, True])
def test_no_foot_slides_on_any_card(orchard, name, travels):
    assert slip(preview(orchard, bramble(orchard), CHARACTERS[name], travels)) < 0.05


@pytest.mark.parametrize(
    "walk",
    [
        {"card": "plod", "travels": True, "slope": 9.0},
        {"card": "trot", "travels": True, "slope": -7.0},
        {"card": "plod", "travels": True, "pace": "stands"},
        {"card": "trot", "travels": True, "pace": "stands", "slope": 6.0},
        {"card": "plod", "travels": True, "place": {"scale": 0.5, "turned": True}},
    ],
)
def test_what_is_down_stays_where_it_is(orchard, walk):
    going = Going(orchard, **walk)
    m = -1 if going.floor.instance(going.who).turned else 1
    tangent = np.exp(-1j * np.radians(going.gait.span.slope) * m)
    for name, ends in going.soles().items():
        # The floor goes through the point on which she stands, 300 across.
        above = -((ends - 300.0 - 1j * FLOOR) / tangent).imag
        assert above.min() > -0.06, name
        for end, high in zip(ends, above, strict=True):
            down = (high[1:] < 0.02) & (high[:-1] < 0.02)
            assert np.abs(np.diff(end))[down].max() < 0.06, name


def test_she_stands_on_all_four_where_a_walk_begins_and_ends(orchard):
    going = Going(orchard, "plod", travels=True, pace="stands")
    for ends in going.soles().values():
        assert ends[:, [0, -1]].imag == pytest.approx(np.full((2, 2), FLOOR), abs=0.02)
    assert abs(going.matrix(going.gait.walker.pelvis)[1, [0, -1]]).max() < np.sin(np.radians(3))


def test_the_trunk_lies_between_hips_and_shoulders_and_the_forelegs_hang_from_it(orchard):
    going = Going(orchard, "plod", travels=True)
    walker = going.gait.walker
    hips = sum(going.matrix(leg.thigh)[4:] for leg in walker.legs) / 2
    shoulders = sum(going.matrix(leg.thigh)[4:] for leg in walker.fore.legs) / 2
    apart = np.hypot(*(shoulders - hips))
    size = going.floor.instance(going.who).scale * abs(walker.fore.ahead)
    assert apart == pytest.approx(np.full(len(apart), size), rel=2e-3)
    # It is lifted before and behind in turn: its pitch changes, by little.
    turn = np.degrees(np.arctan2(*going.matrix(walker.pelvis)[1::-1]))
    assert 0.2 < np.ptp(turn) < 5


def test_her_hocks_bend_backward_and_her_knees_forward(orchard):
    walker = walker_of(orchard.puppet(bramble(orchard)))
    assert [b.bend for b in (*walker.builds, *walker.fore.builds)] == [-1, -1, 1, 1]
    going = Going(orchard, "trot", travels=True)
    for legs, side in ((walker.legs, -1), (walker.fore.legs, 1)):
        for leg in legs:
            hip, joint, ankle = (going.matrix(b)[4] + 1j * going.matrix(b)[5] for b in leg)
            before = -((ankle - hip).conjugate() * (joint - hip)).imag
            assert (side * before > -1e-6).all()


def test_the_desk_tells_of_four_feet(orchard):
    shown = preview(orchard, bramble(orchard), CHARACTERS["plod"])
    found = panels(shown)
    assert [f.name for f in found.feet] == ["near hind", "far hind", "near fore", "far fore"]
    assert found.feet[2].spans[0][0] == pytest.approx(25.0, abs=0.1)
    assert not any(p.band for p in found.plots)
    assert {p.side for p in shown.prints()} == {"near", "far"} and len(shown.prints()) == 20


def test_made_into_keys_it_is_seen_as_before(orchard):
    going = Going(orchard, "trot", travels=True)
    make_walks_own(going.floor, going.who)
    after = evaluate(orchard.compiled(going.floor.scene_id), going.frames).nodes
    assert np.abs(after - going.nodes.nodes).max() < 1e-4
