"""Hops: the arc of a thrown body, area kept, a frame in normal proportions at touch-down, what hangs on late."""

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import solve_ivp
from shapely.affinity import affine_transform
from shapely.geometry import Polygon

from builders.making import bone, puppet, scene
from gaitwire.core.evaluate import compile_scene, evaluate
from gaitwire.core.motion.hop import SLOWER, Hop, arc_of, beats_of, lag, timing_of
from gaitwire.core.timing.key import Key

hops = st.builds(
    Hop, crouch=st.integers(2, 20), air=st.integers(4, 40), land=st.integers(1, 9), settle=st.integers(4, 40),
    height=st.floats(5, 600), distance=st.floats(-800, 800), drop=st.floats(-4, 300), heft=st.floats(0, 1),
    keep=st.floats(0, 1), stretch=st.floats(0, 1),
)  # fmt: skip


def played(hop, *frames):
    """The seat's matrices (F, 6) on frames of a scene with the hop's keys."""
    tracks = {("i", b.prop): [] for b in beats_of(hop)}
    made = scene(tracks, frames=400, loop=False)
    channels = {c.property: c.id for c in made.channels}
    keys = tuple(
        Key(id=f"{n}", channel_id=channels[b.prop], time=b.time, value=b.value, ease=b.ease)
        for n, b in enumerate(beats_of(hop))
    )
    compiled = compile_scene(made.model_copy(update={"keys": keys}), {"p": puppet([bone("a")])})
    return evaluate(compiled, np.array(frames, float)).nodes[:, 0]


@given(hops)
def test_in_the_air_it_goes_as_a_thrown_body_does(hop):
    when, arc = timing_of(hop), arc_of(hop)
    frames = np.linspace(when.off, when.down, 23)
    since = frames - when.off
    found = played(hop, *frames)[:, 4:]
    assert found[:, 0] == pytest.approx(hop.distance * since / since[-1], abs=1e-6 * (1 + abs(hop.distance)))
    assert found[:, 1] == pytest.approx(-arc.rise * since + arc.gravity * since**2 / 2, abs=1e-6 * (1 + hop.height))
    assert found[-1, 1] == pytest.approx(hop.drop, abs=1e-6)


def test_on_level_ground_gravity_is_8_h_over_t_squared():
    hop = Hop(height=162.0, air=18.0)
    assert arc_of(hop).gravity == pytest.approx(8 * 162 / 18**2) and arc_of(hop).up == pytest.approx(9)


@given(hops, st.sampled_from([0.0, 0.5, 1.0]))
def test_area_stays_what_is_asked_over_the_whole_hop(hop, keep):
    body = Polygon([(-40, 0), (-55, -50), (-20, -96), (30, -90), (52, -40), (36, 0)])
    hop = hop.model_copy(update={"keep": keep})
    frames = np.linspace(0, timing_of(hop).end, 60)
    drawn = np.linalg.norm(
        played(hop.model_copy(update={"keep": 0.0}), *frames)[:, :4].reshape(-1, 2, 2), 2, axis=(1, 2)
    )
    for (a, b, c, d, e, f), longest in zip(played(hop, *frames), drawn, strict=True):
        area = affine_transform(body, (a, c, b, d, e, f)).area / body.area
        if keep == 1:
            assert area == pytest.approx(1)
        elif longest > 1 + 1e-9:  # drawn out: without keeping, the longest side is the stretch itself
            assert area == pytest.approx(longest ** (1 - keep))


@given(hops)
def test_it_touches_down_in_its_own_proportions_then_squashes_and_comes_to_rest(hop):
    when = timing_of(hop)
    height = {
        round(t, 3): played(hop, t)[0, 3] for t in (0.0, when.deepest, when.top, when.down, when.squashed, when.end)
    }
    assert all(float(t).is_integer() for t in (when.deepest, when.off, when.down, when.squashed, when.end))
    assert height[0.0] == height[when.down] == pytest.approx(1) and height[when.end] == pytest.approx(1)
    assert height[round(when.top, 3)] == pytest.approx(1)
    assert height[when.squashed] <= height[when.deepest] <= 1
    swings = [b.value - 1 for b in beats_of(hop) if b.prop == "stretch" and b.time > when.squashed + 2]
    assert swings[0] > 0 > swings[1] and all(abs(b) < abs(a) for a, b in pairwise(swings))


def test_it_is_drawn_out_along_the_way_it_goes():
    hop = Hop(height=120.0, distance=300.0, stretch=0.5, keep=0.0)
    when, arc = timing_of(hop), arc_of(hop)
    for time in (when.off, when.down - 1):
        a, b, c, d, _, _ = played(hop, time)[0]
        values, vectors = np.linalg.eigh([[a, (b + c) / 2], [(b + c) / 2, d]])
        along = vectors[:, values.argmax()]
        velocity = np.array([arc.across, -arc.rise + arc.gravity * (time - when.off)])
        assert abs(along @ velocity) == pytest.approx(np.hypot(*velocity), rel=1e-3)


def test_a_heavy_one_takes_longer_on_the_ground_and_squashes_deeper():
    light, heavy = (Hop(heft=heft, crouch=10, land=10, settle=20) for heft in (0.0, 1.0))
    a, b = timing_of(light), timing_of(heavy)
    assert b.off == pytest.approx(a.off * (1 + SLOWER)) and b.down - b.off == a.down - a.off
    assert b.end - b.squashed > 1.5 * (a.end - a.squashed)
    deepest = [min(x.value for x in beats_of(h) if x.prop == "stretch") for h in (light, heavy)]
    assert deepest[1] < deepest[0] - 0.05


def test_what_hangs_on_swings_as_the_equation_says():
    hop, aim, period, damping = Hop(heft=0.0, distance=90.0), -20.0, 11.0, 0.16
    when, arc = timing_of(hop), arc_of(hop)
    frames = np.arange(0.0, when.end)
    found = lag(hop, frames, aim, period, damping)
    u, omega = np.array([math.cos(math.radians(aim)), math.sin(math.radians(aim))]), 2 * math.pi / period

    def base(t):
        if when.deepest <= t < when.off:
            return np.array([arc.across, -arc.rise]) / (when.off - when.deepest)
        if when.off <= t < when.down:
            return np.array([0, arc.gravity])
        if when.down <= t < when.squashed:
            return -np.array([arc.across, arc.gravity * arc.down]) / (when.squashed - when.down)
        return np.zeros(2)

    def swing(t, state):
        a = base(t)
        return [state[1], -(omega**2) * state[0] - 2 * damping * omega * state[1] + 0.55 * (a[0] * u[1] - a[1] * u[0])]

    other = solve_ivp(swing, (0, frames[-1]), [0, 0], t_eval=frames, max_step=0.02, rtol=1e-7).y[0]
    assert np.abs(other).max() > 5
    assert found == pytest.approx(other, abs=0.12 * np.abs(other).max())
    # As it leaves the ground the leaf, which points to the right, stays behind: it turns clockwise, down.
    assert found[int(when.off)] > 2
