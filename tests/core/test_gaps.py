"""Joint gaps against closed forms and against a count of points."""

import numpy as np
import pytest
from shapely.geometry import LineString, Point, box

from builders.making import bone, part, puppet
from gaitwire.core.puppet.gaps import Joint, disc, pieces_of, range_of

R = 20.0


def blocks(overlap, low=-120.0, high=120.0):
    """Two bars, 2 R high, that end square; each goes `overlap` beyond the pivot between them."""
    return Joint(box(-100, -R, overlap, R), box(-overlap, -R, 100, R), 0j, low, high)


def rounded(low=-150.0, high=150.0):
    """Two bars with round ends about the pivot."""
    upper, lower = (LineString([(0, 0), (x, 0)]).buffer(R, quad_segs=24) for x in (-100, 100))
    return Joint(upper, lower, 0j, low, high)


@pytest.mark.parametrize("angle", [0.0, 10.0, 45.0, 90.0, -60.0, 120.0])
def test_bars_that_hardly_meet_open_by_a_wedge(angle):
    # They meet in a hair's breadth: the disc reaches as far as they are wide, and a wedge of the angle opens.
    found = blocks(1e-4).gaps(np.array([angle]), seam=0.0)[0]
    assert found == pytest.approx(R * R * np.radians(abs(angle)) / 2, rel=5e-3, abs=0.05)


@pytest.mark.parametrize("angle", [30.0, 75.0, 110.0])
@pytest.mark.parametrize("overlap", [4.0, 9.0])
def test_bars_that_overlap_open_by_what_a_count_of_points_says(overlap, angle):
    step = 0.05
    grid = np.arange(-30, 30, step) + step / 2
    x, y = np.meshgrid(grid, grid)
    reach = np.hypot(overlap, R)
    spun = (x + 1j * y) * np.exp(-1j * np.radians(angle))
    upper = (x <= overlap) & (abs(y) <= R)
    rest = ((x >= -overlap) & (abs(y) <= R)) | upper
    there = (spun.real >= -overlap) & (abs(spun.imag) <= R)
    counted = ((np.hypot(x, y) <= reach) & rest & ~upper & ~there).sum() * step * step
    assert blocks(overlap).gaps(np.array([angle]), seam=0.0)[0] == pytest.approx(counted, rel=0.01, abs=0.3)


def test_round_ends_about_the_pivot_never_open():
    angles, areas = rounded().curve()
    assert len(angles) == 301 and (areas == 0).all()


def test_round_ends_off_the_pivot_open_and_the_best_pivot_is_their_middle():
    off = rounded().moved(6 + 5j)
    before, angle = off.worst()
    assert before > 20 and abs(angle) > 30
    best = off.better_pivot()
    assert abs(best) < 2.0 and off.moved(best).worst()[0] < 0.2 * before


def test_a_pivot_that_opens_nowhere_stays_where_it_is():
    assert rounded().better_pivot() == 0


def test_a_patch_as_wide_as_the_bars_leaves_only_their_corners():
    bars = blocks(3.0)
    assert bars.inscribed() == pytest.approx(R)
    patched = bars.patched(disc(0j, bars.inscribed()))
    assert patched.worst()[0] < 0.05 * bars.worst()[0]


def test_pieces_that_do_not_meet_have_no_gap_to_measure():
    apart = Joint(Point(-50, 0).buffer(10), Point(50, 0).buffer(10), 0j, -90, 90)
    assert apart.reach == 0 and apart.worst() == (0.0, -90.0) and apart.better_pivot() == 0


def test_pieces_are_rigid_parts_on_either_side_of_a_joint():
    arm = puppet(
        [bone("trunk"), bone("group", "trunk"), bone("arm", "group"), bone("paw", "arm")],
        [part("shirt", "trunk"), part("sleeve", "arm", soft=True), part("cuff", "arm"), part("palm", "paw")],
    )
    upper, lower = pieces_of(arm, arm.bone("arm"))
    assert [p.id for p in upper] == ["shirt"] and [p.id for p in lower] == ["cuff"]
    assert pieces_of(arm, arm.bone("group")) is None and pieces_of(arm, arm.bone("trunk")) is None


def test_limits_are_the_range_and_rest_is_always_in_it():
    assert range_of(bone("a", low=-30.0, high=10.0)) == (-30.0, 10.0)
    assert range_of(bone("a", low=20.0)) == (0.0, 120.0) and range_of(bone("a")) == (-120.0, 120.0)
