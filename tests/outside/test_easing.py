"""Easings against others' work: Chromium's own Web Animations, and a registry library of the same equations.

Sources: W3C, CSS Easing Functions Level 1, as computed by Chromium for `cubic-bezier()` and
`linear`; R. Penner's easing equations as the npm package easing-functions 1.3.0 has them.
"""

from pathlib import Path

import numpy as np
import pytest

from gaitwire.core.timing.easing import EASINGS, find_easing
from gaitwire.core.timing.easing.cubic import cubic_share, cubic_value
from gaitwire.core.timing.easing.splines import spline_pieces

LIBRARY = Path(__file__).parents[1] / "node_modules" / "easing-functions" / "index.js"

_PROGRESS = """([easings, shares]) => easings.map((easing) => {
  const effect = new KeyframeEffect(document.body, { opacity: [0, 1] }, { duration: 1e6, easing, fill: "both" });
  const animation = new Animation(effect);
  return shares.map((share) => { animation.currentTime = share * 1e6; return effect.getComputedTiming().progress; });
})"""

shares = np.linspace(0, 1, 201)


def in_chromium(page, easings):
    """Progress that Chromium computes, (easings, shares)."""
    return np.array(page.evaluate(_PROGRESS, [easings, shares.tolist()]))


def _bisected(x, x1, y1, x2, y2):
    """The definition itself, by sixty halvings."""
    low, high = 0.0, 1.0
    for _ in range(60):
        s = (low + high) / 2
        below = 3 * (1 - s) ** 2 * s * x1 + 3 * (1 - s) * s * s * x2 + s**3 < x
        low, high = (s, high) if below else (low, s)
    return 3 * (1 - s) ** 2 * s * y1 + 3 * (1 - s) * s * s * y2 + s**3


def css(x1, y1, x2, y2):
    return f"cubic-bezier({x1:.9f}, {y1:.9f}, {x2:.9f}, {y2:.9f})"


def test_free_curves_are_what_the_standard_says(page):
    rng = np.random.default_rng(4)
    curves = np.column_stack(
        [rng.uniform(0, 1, 60), rng.uniform(-1, 2, 60), rng.uniform(0, 1, 60), rng.uniform(-1, 2, 60)]
    ).round(9)
    curves[:3] = [(0.25, 0.1, 0.25, 1.0), (0.42, 0, 0.58, 1), (0.9, 0.0, 0.1, 1.0)]
    theirs = in_chromium(page, [css(*c) for c in curves])
    ours = np.array([cubic_share(shares, *c) for c in curves])
    print("largest difference of", len(curves), "curves:", np.abs(ours - theirs).max())
    # Chromium stops looking for a curve's parameter at 1e-7 of its time: where a curve is steep, that shows.
    steepness = np.abs(np.gradient(ours, shares, axis=1))
    assert (np.abs(ours - theirs) <= np.maximum(1e-6, 2e-7 * steepness)).all()
    exact = np.array([_bisected(x, *curves[16]) for x in shares])
    assert ours[16] == pytest.approx(exact, abs=1e-9)
    # The same curve as a channel has it, handles in the channel's own units: 30 to 210 degrees.
    x1, y1, x2, y2 = curves.T[:, :, None]
    values = cubic_value(shares[None, :], x1, y1 * 180, x2, (y2 - 1) * 180, 30.0, 210.0)
    assert values == pytest.approx(30 + 180 * theirs, abs=1e-3)


@pytest.mark.parametrize("name", [n for n, e in EASINGS.items() if e.breaks])
def test_named_easings_that_are_cubics_play_the_same_in_chromium(page, name):
    pieces = spline_pieces(name)
    theirs = in_chromium(page, [css(p.x1, p.h1, p.x2, p.h2) for p in pieces])
    for p, progress in zip(pieces, theirs, strict=True):
        ours = find_easing(name)(p.t0 + (p.t1 - p.t0) * shares)
        assert p.y0 + (p.y1 - p.y0) * progress[:-1] == pytest.approx(ours[:-1], abs=1e-6)


_THEIR_NAMES = {
    "sine": "Sinusoidal", "quad": "Quadratic", "cubic": "Cubic", "quart": "Quartic", "quint": "Quintic",
    "expo": "Exponential", "circ": "Circular", "back": "Back", "bounce": "Bounce",
}  # fmt: skip
"""Elastic is left out: that package swings with a period of 0.4, Penner's equations with 0.3 (below)."""


@pytest.mark.parametrize("family", _THEIR_NAMES)
@pytest.mark.parametrize("direction", ["in", "out", "in-out"])
def test_named_easings_are_the_common_ones(page, family, direction):
    member = {"in": "In", "out": "Out", "in-out": "InOut"}[direction]
    script = f"(shares) => {{ const module = {{ exports: {{}} }}; {LIBRARY.read_text()}; return shares.map(module.exports.{_THEIR_NAMES[family]}.{member}); }}"
    assert find_easing(f"{family}-{direction}")(shares) == pytest.approx(
        page.evaluate(script, shares.tolist()), abs=1e-9
    )


def test_elastic_is_penners_with_a_period_of_three_tenths():
    """R. Penner's equation as published (from memory): -(a 2^(10(t-1)) sin((t-1-s) 2 pi / p)), a 1, p .3, s p/4."""
    t = shares[1:-1]
    theirs = -(2.0 ** (10 * (t - 1))) * np.sin((t - 1 - 0.3 / 4) * 2 * np.pi / 0.3)
    assert find_easing("elastic-in")(t) == pytest.approx(theirs, abs=1e-9)
