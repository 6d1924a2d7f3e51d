"""What remembers is stepped once: every way of asking reads the same course, edits keep what they cannot change."""

import pickle
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from builders.followers import DAMPED, STEPS, STIFF, Follower, Followers
from builders.making import bone, part, puppet, scene
from gaitwire.core.evaluate import compile_scene, evaluate
from gaitwire.core.evaluate.cache import BlockCache
from gaitwire.core.evaluate.solvers import SOLVERS
from gaitwire.core.evaluate.tracks import changed_since
from gaitwire.core.links import Plant
from gaitwire.core.motion.track import MOST_ROUNDS, SEAM, Track

PUPPET = puppet(
    [bone("arm", length=10.0), bone("tail", "arm", 10, 0, length=8.0), bone("end", "tail", 8, 0, length=5.0)],
    [part("brush", "tail")],
)
SWINGS = {("arm", "turn"): [(0, 0), (12, 40), (30, -20), (47, 10)], ("tail", "turn"): [(0, 5), (40, 25)]}


@pytest.fixture(autouse=True)
def followers():
    """A solver from elsewhere: one line more in the list."""
    SOLVERS.append(Followers("tail"))
    yield
    SOLVERS.pop()


def compiled(frames=48, loop=False, exposure=1, tracks=SWINGS, previous=None, **more):
    made = scene(tracks, frames=frames, loop=loop)
    instance = made.instances[0].model_copy(update={"exposure": exposure})
    made = made.model_copy(update={"instances": (instance,), **more})
    return compile_scene(made, {"p": PUPPET}, previous=previous)


def turned(found, node=2):
    a, b = found.nodes[:, node, 0], found.nodes[:, node, 1]
    return np.degrees(np.arctan2(b, a))


def swung(directions):
    """The course of a follower, written out once more, in the plainest way."""
    angle, speed, found = directions[0], 0.0, [directions[0]]
    for one, other in pairwise(directions):
        for n in range(STEPS):
            towards = one + (other - one) * (n + 1) / STEPS
            speed += STIFF / STEPS * (towards - angle) - DAMPED / STEPS * speed
            angle += speed / STEPS
        found.append(angle)
    return np.array(found)


def test_a_follower_swings_after_what_it_hangs_from():
    frames = np.arange(48.0)
    found = evaluate(compiled(), frames)
    keyed = np.interp(frames, [0, 40], [5, 25])
    wanted = swung(np.interp(frames, [0, 12, 30, 47], [0, 40, -20, 10])) + keyed
    assert turned(found) == pytest.approx(wanted, abs=1e-9)
    assert turned(found, 3) == pytest.approx(wanted, abs=1e-9)  # what hangs from it goes with it
    assert np.abs(wanted - keyed - turned(found, 1)).max() > 10  # which is another course than its parent's


@given(st.permutations(range(6)), st.booleans(), st.sampled_from([1, 2, 3]))
def test_blocks_in_any_order_single_frames_and_a_bake_agree(order, loop, exposure):
    whole = evaluate(compiled(loop=loop, exposure=exposure), np.arange(48.0))
    made = compiled(loop=loop, exposure=exposure)
    for block in order:
        frames = np.arange(block * 8.0, block * 8.0 + 8)
        found = evaluate(made, frames)
        assert np.allclose(found.nodes, whole.nodes[block * 8 : block * 8 + 8], atol=1e-6)
        assert np.allclose(found.matrices, whole.matrices[block * 8 : block * 8 + 8], atol=1e-6)
    one = evaluate(compiled(loop=loop, exposure=exposure), np.array([29.0]), cache=BlockCache())
    assert np.allclose(one.nodes[0], whole.nodes[29], atol=1e-6)


def test_a_fraction_of_a_frame_lies_between_its_neighbours_and_twos_show_the_track_on_twos():
    made = compiled()
    low, between, high = turned(evaluate(made, np.array([20.0, 20.25, 21.0])))
    lags = [a - b for a, b in zip((low, high), turned(evaluate(made, np.array([20.0, 21.0])), 1), strict=True)]
    arm = turned(evaluate(made, np.array([20.25])), 1)[0]
    assert between == pytest.approx(arm + lags[0] * 0.75 + lags[1] * 0.25)
    ones, twos = (turned(evaluate(compiled(exposure=n), np.arange(48.0))) for n in (1, 2))
    assert twos == pytest.approx(np.repeat(ones[::2], 2))


def test_a_loop_is_run_in_until_it_closes():
    made = compiled(loop=True)
    frames = np.array([0.0, 47.0, 47.5, 48.0, 49.0])
    found = turned(evaluate(made, frames))
    assert found[3] == pytest.approx(found[0]) and found[4] == pytest.approx(turned(evaluate(made, np.array([1.0])))[0])
    once_more = compiled(
        frames=96, tracks={k: [*v, *((t + 48, x) for t, x in v)] for k, v in SWINGS.items()}, loop=True
    )
    twice = turned(evaluate(once_more, np.arange(96.0)))
    assert np.abs(twice[:48] - twice[48:]).max() < SEAM  # two rounds of it are twice the same
    assert np.abs(twice[:48] - turned(evaluate(made, np.arange(48.0)))).max() < SEAM


def test_what_never_comes_to_rest_says_by_how_much_its_loop_is_open():
    class Drifts(Follower):
        def step(self, state, before, after):
            return state + 1.0

    track = Track(Drifts(), 10)
    asked = []
    track.at(np.array([3.0]), lambda frames: asked.append(frames) or np.zeros((1, len(frames))))
    assert track.open_by == pytest.approx(10.0) and len(asked) == 1
    assert pytest.approx(track._states[0][0] + 10) == MOST_ROUNDS * 10


def test_an_edit_steps_only_what_it_can_change(monkeypatch):
    stepped = []
    step = Follower.step
    monkeypatch.setattr(Follower, "step", lambda self, *a: stepped.append(1) or step(self, *a))
    before = compiled()
    evaluate(before, np.arange(48.0))
    assert len(stepped) == 47
    stepped.clear()
    later = {**SWINGS, ("arm", "turn"): [(0, 0), (12, 40), (30, -20), (36, 60), (47, 10)]}
    after = compiled(tracks=later, previous=before)
    found = turned(evaluate(after, np.arange(48.0)))
    assert len(stepped) == 17  # from the key before on
    assert found == pytest.approx(turned(evaluate(compiled(tracks=later), np.arange(48.0))), abs=1e-9)
    stepped.clear()
    same = compile_scene(after.scene, {"p": PUPPET}, previous=after)
    evaluate(same, np.arange(48.0))
    assert stepped == []


def test_what_looks_ahead_is_stepped_again_from_where_it_looks():
    """A key after the start of a plant's soft beginning changes frames before the key."""
    plant = Plant.model_validate(
        {"id": "l", "scene_id": "s", "instance_id": "i", "limb_id": "x", "start": 33.0, "stop": 40.0, "soft_in": 8.0}
    )
    later = {**SWINGS, ("arm", "turn"): [(0, 0), (12, 40), (30, -20), (36, 60), (47, 10)]}
    pairs = [[compiled(tracks=t, plants=plants).compiled_puppets for t in (SWINGS, later)] for plants in ((), (plant,))]
    assert [changed_since(*pair) for pair in pairs] == [30.0, 25.0]
    one, other = compiled(exposure=2).compiled_puppets, compiled().compiled_puppets
    assert changed_since(one, other) == -1.0  # anything but keys


def test_tracks_stay_at_home_when_a_scene_goes_to_another_process():
    made = compiled()
    wanted = evaluate(made, np.arange(48.0)).nodes
    sent = pickle.loads(pickle.dumps(made))
    assert sent.groups[0].tracks is not made.groups[0].tracks
    assert np.allclose(evaluate(sent, np.arange(48.0)).nodes, wanted, atol=1e-9)
