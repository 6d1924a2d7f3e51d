"""Walks beneath keys: laid, edited on top, changed with the edits kept at their phase, made into keys without a slip."""

import numpy as np
import pytest

from builders.acting import Alone
from builders.named import id_of
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate import evaluate
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.core.walk.stride import Stride
from gaitwire.core.walk.walker import walker_of
from gaitwire.services.scene.floor import add_puppet
from gaitwire.services.scene.posing import set_values
from gaitwire.services.scene.walk_keys import put_walk
from gaitwire.services.scene.walks import find_gait, make_walks_own, put_gait, remove_gait, set_gait, walks_of
from gaitwire.store.history import take_step

HEAD = "face"
PLAIN, WEARY, BRISK = CHARACTERS["plain"], CHARACTERS["weary"], CHARACTERS["brisk"]


class Laid(Alone):
    """Tamsin on a floor of her own, with a walk beneath her keys."""

    def __init__(self, workspace, card=PLAIN, frames=97, loop=False, **walk):
        super().__init__(workspace, place={"x": 300.0, "y": 640.0}, frames=frames, loop=loop, ground=640.0)
        self.gait = put_gait(self.floor, self.who, card, **walk)

    def nodes(self, *frames):
        return self.at(*frames).nodes

    def value(self, bone, prop, *frames):
        return self.seen(bone, frames, prop)


@pytest.fixture
def laid(orchard):
    return Laid(orchard, travels=True)


def test_a_layer_shows_what_the_same_walk_shows_as_keys(orchard, laid):
    under = laid.nodes(*range(97))
    assert not laid.floor.scene.keys
    put_walk(laid.floor, laid.who, PLAIN, travels=True)
    assert not laid.floor.scene.gaits and laid.floor.scene.keys
    assert np.abs(laid.nodes(*range(97)) - under).max() < 1e-6
    take_step(orchard.store, laid.floor.scene_id, "undo")
    assert laid.floor.scene.gaits and not laid.floor.scene.keys


def test_an_edit_reaches_no_further_than_the_poses_beside_it(laid):
    before = laid.value(HEAD, "turn", *range(97))
    set_values(laid.floor, 30.0, {(laid.who, laid.ids[HEAD], "turn"): 25.0})
    after = laid.value(HEAD, "turn", *range(97))
    assert after[30] == pytest.approx(25.0, abs=1e-5)
    changed = np.flatnonzero(np.abs(after - before) > 1e-9)
    assert changed.min() >= 24 and changed.max() <= 36 and len(changed) > 3
    set_values(laid.floor, 31.0, {(laid.who, laid.ids[HEAD], "turn"): 20.0})  # no further fence beside the first
    assert len(laid.keys(HEAD)) == 4


def test_an_edit_keeps_its_phase_of_the_stride_when_the_card_changes(orchard, laid):
    set_values(laid.floor, 30.0, {(laid.who, laid.ids[HEAD], "turn"): 25.0})  # a quarter into the second stride
    set_values(laid.floor, 60.0, {(laid.who, laid.ids["neck"], "turn"): 9.0})
    lifted = max(laid.keys(HEAD), key=lambda k: abs(k.value))
    found = set_gait(laid.floor, laid.gait, {"card": WEARY})
    assert found.beyond == 0
    stride = Stride(WEARY, *walker_of(laid.puppet).builds)
    again = max(laid.keys(HEAD), key=lambda k: abs(k.value))
    assert again.value == lifted.value
    assert stride.phase_of(np.array([again.time / WEARY.frames])) == pytest.approx(30 / 24, abs=1e-6)
    base = laid.value(HEAD, "turn", again.time)[0] - again.value
    set_gait(laid.floor, laid.gait, {"card": PLAIN})  # and all the way back
    assert max(laid.keys(HEAD), key=lambda k: abs(k.value)).time == pytest.approx(30.0, abs=1e-6)
    assert base != pytest.approx(laid.value(HEAD, "turn", 30.0)[0] - lifted.value, abs=0.5)
    take_step(orchard.store, laid.floor.scene_id, "undo")
    assert find_gait(laid.floor, laid.gait).card == WEARY


def test_edits_that_no_longer_fit_are_told(orchard):
    laid = Laid(orchard, card=BRISK)
    set_values(laid.floor, 94.0, {(laid.who, laid.ids[HEAD], "turn"): 25.0})
    assert set_gait(laid.floor, laid.gait, {"card": WEARY}).beyond >= 1
    assert set_gait(laid.floor, laid.gait, {"card": BRISK}).beyond == 0


@pytest.mark.parametrize(("density", "most"), [("every", 1e-6), ("breakdowns", 1.5), ("poses", 5.0)])
def test_a_walk_made_ones_own_looks_the_same_and_its_feet_stay(laid, density, most):
    set_values(laid.floor, 30.0, {(laid.who, laid.ids[HEAD], "turn"): 25.0})
    before = laid.nodes(*range(97))
    found = make_walks_own(laid.floor, laid.who, density)
    scene = laid.floor.scene
    assert not scene.gaits and found.keys == len(scene.keys) and len(scene.poses) > 10
    assert found.error <= most and (density == "every" or " at " in found.where)
    after = laid.nodes(*range(97))
    keys = [k[1] for k in laid.workspace.compiled(laid.floor.scene_id).compiled_puppets[0].nodes.owners]
    feet = [keys.index(laid.ids[foot]) for foot in ("near foot", "far foot")]
    assert np.abs(after - before)[:, feet].max() < 1e-6
    turned = np.degrees(np.abs(np.angle(
        (after[..., 0] + 1j * after[..., 1]) / (before[..., 0] + 1j * before[..., 1])
    )))  # fmt: skip
    assert turned.max() < 3 * most + 1e-6  # errors add up along the trunk to the head


def test_a_second_walk_goes_on_from_where_the_first_came_to_and_cuts_it(laid):
    put_gait(laid.floor, laid.who, WEARY, 48.0, 72.0, travels=True)
    spans = sorted(laid.floor.scene.gaits, key=lambda g: g.start)
    assert [(g.start, g.stop, g.card.name) for g in spans] == [
        (0, 47, "plain"), (48, 72, "weary"), (73, 96, "plain"),
    ]  # fmt: skip
    assert spans[2].begins == pytest.approx(73 / 24 % 1)
    along = laid.nodes(*range(97))[:, 0, 4]
    steps = np.diff(along)
    assert (np.abs(steps[[46, 47, 71, 72]]) < 16).all() and along[96] > along[47] + 200
    before = laid.nodes(*range(97))
    make_walks_own(laid.floor, laid.who, "every")
    assert np.abs(laid.nodes(*range(97)) - before).max() < 1e-6


def test_a_loop_of_a_whole_stride_closes_beneath_keys_and_as_keys(orchard):
    laid = Laid(orchard, frames=24, loop=True)
    seam = laid.nodes(23.999, 0.0)
    assert np.abs(seam[0] - seam[1]).max() < 0.05
    set_values(laid.floor, 0.0, {(laid.who, laid.ids[HEAD], "turn"): 12.0})
    assert laid.value(HEAD, "turn", 0.0)[0] == pytest.approx(12.0, abs=1e-5)
    assert laid.value(HEAD, "turn", 12.0) == pytest.approx(laid.value(HEAD, "turn", 36.0))
    before = laid.nodes(*range(24))
    found = make_walks_own(laid.floor, laid.who, "breakdowns")
    assert found.error < 1.5 and np.abs(laid.nodes(*range(24)) - before).max() < 60


def test_what_cannot_walk_or_has_no_walk_is_told(orchard, laid):
    pip = id_of(orchard, "puppet", "Pip")
    other = add_puppet(laid.floor, pip)
    with pytest.raises(InvalidInputError, match="cannot walk yet"):
        put_gait(laid.floor, other, PLAIN)
    with pytest.raises(InvalidInputError, match="No walk lies beneath"):
        make_walks_own(laid.floor, other)
    remove_gait(laid.floor, laid.gait)
    assert not laid.floor.scene.gaits


@pytest.mark.parametrize("slope", [14.0, -9.0])
@pytest.mark.parametrize("as_keys", [False, True])
def test_feet_stay_and_stand_on_a_slope(orchard, slope, as_keys):
    laid = Laid(orchard, travels=True, slope=slope)
    if as_keys:
        put_walk(laid.floor, laid.who, PLAIN, travels=True, slope=slope)
        assert not laid.floor.scene.gaits
    frames = np.arange(97.0)
    walker = walker_of(laid.puppet)
    stride = Stride(PLAIN, *walker.builds, slope=slope)
    owners = [k[1] for k in laid.workspace.compiled(laid.floor.scene_id).compiled_puppets[0].nodes.owners]
    up = np.exp(1j * np.radians(slope))
    for side, leg in enumerate(walker.legs):
        build, step = stride.sides[side], stride.steps[side]
        a, b, c, d, e, f = laid.nodes(*frames)[:, owners.index(leg.foot.id)].T
        for along in (-build.heel, build.ball):
            x, y = walker.length * along, walker.length * build.ankle
            sole = (a * x + c * y + e - 300) - 1j * (b * x + d * y + f - 640)  # y up, from where it set out
            above = (sole / up).imag
            assert above.min() > -0.01
            phase = frames / 24 - stride.lands[side]
            flat = (np.mod(phase, 1) > step.flat) & (np.mod(phase, 1) < step.heel_off)
            assert flat.any() and above[flat].max() < 0.01
            down = (np.mod(phase, 1) > step.flat) & (np.mod(phase, 1) < step.stance)
            held = down[1:] & down[:-1] & (along > 0)
            assert np.abs(np.diff(sole))[held].max(initial=0.0) < 0.01 and (held.any() or along < 0)
    seat = laid.nodes(0, 96)[:, 0, 4:]
    gone = seat[1] - seat[0]
    assert gone[0] > 300 and -gone[1] / gone[0] == pytest.approx(np.tan(np.radians(slope)), abs=1e-6)
    chest = owners.index(laid.ids["chest"])
    lean = np.degrees(np.angle(laid.nodes(*frames)[:, chest, 0] + 1j * laid.nodes(*frames)[:, chest, 1]))
    assert np.abs(lean).max() < 12  # the body stays upright


def soles_of(laid, frames):
    """The fronts and the heels of both soles on the stage, complex, (2, F) each, and how far up they are."""
    walker = walker_of(laid.puppet)
    owners = [k[1] for k in laid.workspace.compiled(laid.floor.scene_id).compiled_puppets[0].nodes.owners]
    nodes = laid.nodes(*frames)
    found = {}
    for name, share in (("ball", 1.0), ("heel", -1.0)):
        rows = []
        for leg, build in zip(walker.legs, walker.builds, strict=True):
            a, b, c, d, e, f = nodes[:, owners.index(leg.foot.id)].T
            x = walker.length * (build.ball if share > 0 else -build.heel)
            y = walker.length * build.ankle
            rows.append(a * x + c * y + e + 1j * (b * x + d * y + f))
        found[name] = np.stack(rows)
    return found


def assert_feet_hold(laid, frames):
    """On every frame one foot's sole or an end of it is where it was on the frame before."""
    soles = soles_of(laid, frames)
    still = np.minimum(*(np.abs(np.diff(p, axis=1)) for p in soles.values()))
    assert still.min(axis=0).max() < 0.02
    assert max(p.imag.max() for p in soles.values()) < 640.05


@pytest.mark.parametrize("card", [PLAIN, WEARY, CHARACTERS["sneaking"]])
def test_a_walk_that_sets_out_and_comes_to_stand_keeps_its_feet(orchard, card):
    laid = Laid(orchard, card=card, frames=120, travels=True, pace="stands")
    frames = np.arange(120.0)
    assert_feet_hold(laid, frames)
    soles = soles_of(laid, [0, 1, 118, 119])
    for point in soles.values():
        assert point[:, 0] == pytest.approx(point[:, 1], abs=0.3) and point[:, 2] == pytest.approx(point[:, 3], abs=0.3)
        assert point[0, 0] == pytest.approx(point[1, 0], abs=8) and point[0, 3] == pytest.approx(point[1, 3], abs=8)
    seat = laid.nodes(*frames)[:, 0, 4]
    speed = np.diff(seat)
    assert speed[0] < 0.1 * speed.max() and speed[-1] < 0.1 * speed.max() and seat[-1] - seat[0] > 150
    before = laid.nodes(*frames)
    make_walks_own(laid.floor, laid.who, "breakdowns")
    assert_feet_hold(laid, frames)
    assert np.abs(laid.nodes(*frames) - before)[..., 4:].max() < 12


def test_a_walk_goes_as_its_puppet_is_moved_with_rests_and_changes_of_speed(orchard):
    laid = Laid(orchard, card=PLAIN, frames=145, pace="seat")
    seat = (laid.who, laid.who, "shift_x")
    for frame, place in ((6, 0), (60, 300), (80, 300), (130, 700)):
        set_values(laid.floor, float(frame), {seat: float(place)})
    frames = np.arange(145.0)
    assert_feet_hold(laid, frames)
    soles = soles_of(laid, frames)
    for first, last in ((0, 6), (62, 79), (131, 144)):  # nothing moves where its puppet rests
        for point in soles.values():
            assert np.abs(point[:, first:last] - point[:, first : first + 1]).max() < 0.01
    level = soles["ball"].imag[:, [3, 70, 140]]
    assert level == pytest.approx(640, abs=0.01)  # both feet down where it rests, half way too
    assert {c.property for c in laid.floor.scene.channels} == {"shift_x"}
    where = laid.nodes(*frames)[:, 0, 4]
    assert where[130] - where[0] == pytest.approx(700, abs=1e-6)
    heels = soles["heel"][:, 144].real - soles["heel"][:, 0].real
    assert heels == pytest.approx([700, 700], abs=0.01)
    set_gait(laid.floor, laid.gait, {"card": WEARY})
    assert_feet_hold(laid, frames)


def test_without_in_betweens_a_walk_is_shown_by_its_poses(laid):
    found = evaluate(laid.workspace.compiled(laid.floor.scene_id), np.arange(97.0), blocking=True).nodes
    steps = np.flatnonzero(np.abs(np.diff(found, axis=0)).max(axis=(1, 2)) > 1e-6) + 1
    times = {m.time for m in walks_of(laid.floor, laid.who)[0].poses()}
    assert 12 < len(steps) <= len(times) and all(any(0 <= s - t < 1 for t in times) for s in steps.tolist())
