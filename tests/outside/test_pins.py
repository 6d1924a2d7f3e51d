"""Pins against libigl's own solver on the same mesh, and against rigid motion.

Sources: O. Sorkine, M. Alexa, "As-Rigid-As-Possible Surface Modeling" (2007), as libigl 2 has it
(spokes energy, uniform iterations from the same start); a rigid motion has no energy at all.
"""

import igl
import numpy as np
import pytest
from shapely.geometry import MultiPolygon, Point, box

from gaitwire.core.deform.blend import to_complex
from gaitwire.core.deform.pinned import ITERATIONS, Pinned, PinSet, cotangents
from gaitwire.core.geometry.mesh import make_mesh

PINS = np.array([[20.0, 20.0], [60.0, 22.0], [110.0, 40.0], [160.0, 20.0]])
SLEEVE = MultiPolygon([box(0, 0, 180, 40).difference(box(70, 0, 90, 12)).union(Point(180, 25).buffer(22))])


def sleeve(spacing):
    mesh = make_mesh(SLEEVE, spacing, PINS)
    loose = PinSet(len(PINS), np.zeros(0, np.int64), np.full(len(PINS), spacing), np.zeros(len(PINS)))
    return mesh, Pinned(mesh, loose)


def by_libigl(mesh, pinned, targets, steps):
    """Where libigl has the vertices after so many steps from the same start."""
    rest = to_complex(mesh.vertices)
    start = pinned.least_squares(rest[None], targets[None], np.ones((1, len(PINS)), complex))[0]
    start[: len(PINS)] = targets
    data = igl.ARAPData()
    data.energy = igl.ARAPEnergyType.ARAP_ENERGY_TYPE_SPOKES
    data.max_iter = steps
    held = np.arange(len(PINS), dtype=np.int32)
    igl.arap_precomputation(np.ascontiguousarray(mesh.vertices), mesh.triangles, 2, held, data)
    goal = np.stack([targets.real, targets.imag], axis=-1)
    return to_complex(igl.arap_solve(goal, data, np.stack([start.real, start.imag], axis=-1)))


@pytest.mark.parametrize("spacing", [5.0, 4.0])
@pytest.mark.parametrize("shifts", [[0, 0, 0, 40 - 60j], [0, 15j, -30 - 30j, -90 - 110j], [5, -5, 40j, 80 + 20j]])
def test_the_same_mesh_and_pins_give_the_same_points_as_libigl(spacing, shifts):
    mesh, pinned = sleeve(spacing)
    assert cotangents(mesh).data.min() > 0.0051  # else ours leaves the paper, for safety
    rest = to_complex(mesh.vertices)
    targets = rest[: len(PINS)] + np.array(shifts)
    turns = np.ones((len(PINS), 1), complex)
    ours = pinned.deform(rest[:, None], targets[:, None], turns)[:, 0]

    assert np.abs(ours - by_libigl(mesh, pinned, targets, ITERATIONS)).max() < 1e-9


def test_a_pin_pulled_further_and_further_makes_nothing_jump():
    """Also where both ways of solving are mixed, and where one of them ends."""
    mesh, pinned = sleeve(5.0)
    rest = to_complex(mesh.vertices)
    way = np.linspace(0.5, 1.5, 401) * pinned._edge
    targets = rest[: len(PINS), None] + np.outer([0, 0, 1, 1j], way)
    turns = np.ones((len(PINS), len(way)), complex)
    shares = pinned._nudged(rest[:, None], targets, turns)
    assert shares[0] == 1 and shares[-1] == 0
    found = pinned.deform(np.repeat(rest[:, None], len(way), axis=1), targets, turns)
    assert np.abs(np.diff(found, axis=1)).max() < 4 * np.diff(way).max()


@pytest.mark.parametrize("shifts", [[0, 0, 0, 3 - 1j], [0, 3j, -2 - 2j, -3], [3, -3, 2j, -3j]])
def test_nudged_pins_come_nearer_to_where_libigl_settles_than_its_own_steps_do(shifts):
    mesh, pinned = sleeve(5.0)
    rest = to_complex(mesh.vertices)
    targets = rest[: len(PINS)] + np.array(shifts)
    turns = np.ones((len(PINS), 1), complex)
    assert (pinned._nudged(rest[:, None], targets[:, None], turns) == 1).all()
    settled = by_libigl(mesh, pinned, targets, 3000)
    ours = np.abs(pinned.deform(rest[:, None], targets[:, None], turns)[:, 0] - settled).max()
    theirs = np.abs(by_libigl(mesh, pinned, targets, ITERATIONS) - settled).max()
    assert ours < theirs and ours < 0.1


@pytest.mark.parametrize("spacing", [5.0, 8.0, 15.0])
def test_a_rigid_motion_of_the_pins_is_a_rigid_motion_of_the_whole(spacing):
    mesh, pinned = sleeve(spacing)
    rest = to_complex(mesh.vertices)
    moved = rest * np.exp(2.2j) + (300 - 40j)
    found = pinned.deform(rest[:, None], moved[: len(PINS), None], np.ones((len(PINS), 1), complex))[:, 0]
    assert np.abs(found - moved).max() < 1e-9


def test_a_turning_pin_turns_the_art_round_it():
    mesh = make_mesh(SLEEVE, 6.0, PINS)
    held = PinSet(len(PINS), np.array([2]), np.full(len(PINS), 12.0), np.zeros(len(PINS)))
    rest = to_complex(mesh.vertices)
    turns = np.ones((len(PINS), 1), complex)
    turns[2] = np.exp(0.6j)
    found = Pinned(mesh, held).deform(rest[:, None], rest[: len(PINS), None], turns)[:, 0]
    pin = rest[2]
    near = np.flatnonzero((np.abs(rest - pin) < 8) & (np.abs(rest - pin) > 0))
    spun = np.angle((found[near] - pin) / (rest[near] - pin))
    assert len(near) >= 4
    assert spun.min() > 0.45
    assert spun.max() < 0.62
    assert np.abs(np.abs(found[near] - pin) / np.abs(rest[near] - pin) - 1).max() < 0.2


def test_a_stiff_pin_keeps_its_surroundings_in_shape():
    """Beyond the pull of the point itself, within half the stiff pin's radius, edges are strained less."""

    def strain(stiffness):
        mesh = make_mesh(SLEEVE, 6.0, PINS)
        pins = PinSet(len(PINS), np.zeros(0, np.int64), np.full(len(PINS), 30.0), np.array([0, 0, stiffness, 0]))
        rest = to_complex(mesh.vertices)
        goal = rest[: len(PINS)] + np.array([0, 0, 30j, -20])
        found = Pinned(mesh, pins).deform(rest[:, None], goal[:, None], np.ones((len(PINS), 1), complex))[:, 0]
        a, b = mesh.edges.T
        away = np.abs((rest[a] + rest[b]) / 2 - rest[2])
        near = (away > 8) & (away < 20)
        return np.abs(np.abs(found[a] - found[b]) / np.abs(rest[a] - rest[b]) - 1)[near].mean()

    assert strain(1.0) < 0.5 * strain(0.0)


def test_frames_worked_out_together_are_as_each_alone():
    """Also across the bounds of those that are solved at once, and between frames on which nothing is pulled."""
    mesh, pinned = sleeve(4.0)
    rest, count = to_complex(mesh.vertices), 60
    frames = np.arange(count)
    bones = rest[:, None] * np.exp(0.02j * frames)
    pulls = np.outer([0, 1, -1j, 2 + 1j], np.where(frames % 7 == 3, 0.0, frames))
    turns = np.ones((len(PINS), count), complex)
    together = pinned.deform(bones, bones[: len(PINS)] + pulls, turns)
    assert pinned._at_once < count / 3
    alone = [pinned.deform(bones[:, [n]], bones[: len(PINS), [n]] + pulls[:, [n]], turns[:, [n]])[:, 0] for n in frames]
    assert np.abs(together - np.stack(alone, axis=1)).max() < 1e-9
    assert np.array_equal(together[:, 3], bones[:, 3])
