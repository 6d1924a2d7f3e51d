"""Easings: fixed points, mirrors, and the spline pieces that stand in for them."""

import numpy as np
import pytest

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.timing.easing import EASINGS, find_easing
from gaitwire.core.timing.easing.cubic import cubic_share
from gaitwire.core.timing.easing.nearest import nearest_cubic
from gaitwire.core.timing.easing.splines import spline_pieces

t = np.linspace(0, 1, 401)


@pytest.mark.parametrize("name", [n for n in EASINGS if n != "hold"])
def test_every_easing_runs_from_nought_to_one(name):
    found = find_easing(name)(np.array([-1.0, 0.0, 1.0, 2.0]))
    assert found == pytest.approx([0, 0, 1, 1], abs=1e-12)


@pytest.mark.parametrize("family", sorted({e.family for e in EASINGS.values()} - {"linear", "hold"}))
def test_out_is_in_turned_round_and_in_out_is_symmetric(family):
    ease_in, ease_out, both = (find_easing(f"{family}-{d}")(t) for d in ("in", "out", "in-out"))
    assert ease_out == pytest.approx(1 - ease_in[::-1], abs=1e-9)
    assert both == pytest.approx(1 - both[::-1], abs=1e-9)


@pytest.mark.parametrize(
    ("name", "at", "value"),
    [
        ("quad-in", 0.5, 0.25),
        ("cubic-out", 0.5, 0.875),
        ("sine-in-out", 0.25, (1 - np.cos(np.pi / 4)) / 2),
        ("back-out", 0.5, 1.0876975),
        ("expo-in", 0.5, 2.0**-5),
        ("circ-in", 0.6, 0.2),
        ("bounce-out", 1 / 2.75, 1.0),
        ("quint-in-out", 0.25, 16 * 0.25**5),
    ],
)
def test_values_worked_out_by_hand(name, at, value):
    assert float(find_easing(name)(at)) == pytest.approx(value, abs=1e-9)


@pytest.mark.parametrize("name", [n for n, e in EASINGS.items() if e.breaks])
def test_spline_pieces_play_the_easing_exactly(name):
    pieces = spline_pieces(name)
    assert pieces[0].t0 == 0 and pieces[-1].t1 == 1
    for p in pieces:
        assert all(0 <= h <= 1 for h in (p.x1, p.h1, p.x2, p.h2))
        inside = t[(t >= p.t0) & (t <= p.t1)]
        share = cubic_share((inside - p.t0) / (p.t1 - p.t0), p.x1, p.h1, p.x2, p.h2)
        assert p.y0 + (p.y1 - p.y0) * share == pytest.approx(find_easing(name)(inside), abs=1e-6)


def test_an_easing_that_is_no_cubic_has_no_pieces():
    assert spline_pieces("elastic-out") is None
    assert spline_pieces("sine-in") is None


def test_an_unknown_name_is_told_the_known_ones():
    with pytest.raises(InvalidInputError, match="sine-in-out"):
        find_easing("wobble")


@pytest.mark.parametrize(
    ("name", "bound"),
    [("linear", 1e-3), ("quad-in", 1e-3), ("quad-out", 1e-3), ("cubic-in", 1e-3), ("back-out", 5e-3), ("sine-in-out", 5e-3),
     ("expo-out", 0.02), ("quint-in-out", 0.06)],
)  # fmt: skip
def test_a_hand_takes_a_named_easing_up_about_where_it_is(name, bound):
    x1, y1, x2, y2 = nearest_cubic(name)
    assert 0 <= x1 <= 1 and 0 <= x2 <= 1
    assert np.abs(cubic_share(t, x1, y1, x2, y2) - find_easing(name)(t)).max() < bound
