"""The plain walk against measured walking and against what is common practice.

Measured: one healthy adult's markers, Fukuchi, Fukuchi and Duarte 2018 (PeerJ 6:e4640, CC BY 4.0), as
they ship inside the registry package gaitkit as an example; `data/healthy_walk.json` holds their places
along the way and up. Some event labels there are wrong, so contacts are found from the markers: where the
heel's forward speed falls through 0.70 m/s, and toe off where the toe's rises through 0.85 m/s. The floor
is levelled by 0.32 degrees. One adult and a few cycles: this shows that the model can take the shape of
walking, and proves no more.
"""

import json
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest

from gaitwire.core.walk.card import GaitCard
from gaitwire.core.walk.fitting import fit_card
from gaitwire.core.walk.measures import measured
from gaitwire.core.walk.recorded import recorded_walk
from gaitwire.core.walk.stride import Stride

DATA = json.loads((Path(__file__).parent / "data" / "healthy_walk.json").read_text())
LEVEL = np.exp(-1j * np.radians(0.32))


def markers(side):
    """Places (frames,) of a side's markers, complex, in millimetres."""
    joints = ("hip", "knee", "ankle", "heel", "toe")
    return {j: np.array(DATA["markers"][f"{side}_{j}"]) @ [1, 1j] * LEVEL for j in joints}


def crossings(marker, speed, falling):
    """Frames on which a marker's forward speed goes through some metres a second."""
    v = np.gradient(marker.real) * DATA["fps"] / 1000 - speed
    return np.flatnonzero((v[:-1] >= 0) & (v[1:] < 0) if falling else (v[:-1] < 0) & (v[1:] >= 0)) + 1


def angles(places):
    """Hip, knee and ankle in degrees: the thigh against the vertical, flexion, the foot against the shank."""
    thigh = np.degrees(np.angle((places["knee"] - places["hip"]) * 1j))
    shank = np.degrees(np.angle((places["ankle"] - places["knee"]) * 1j))
    foot = np.degrees(np.angle(places["toe"] - places["heel"]))
    return {"hip": thigh, "knee": thigh - shank, "ankle": foot - shank}


def strides():
    """Every whole stride of either leg: its curves, its stance share and the travel of its hip in leg lengths."""
    for side in ("left", "right"):
        places = markers(side)
        strikes = crossings(places["heel"], 0.70, falling=True)
        offs = crossings(places["toe"], 0.85, falling=False)
        curves = angles(places)
        leg = np.median(np.abs(places["hip"] - places["knee"]) + np.abs(places["knee"] - places["ankle"]))
        for a, b in pairwise(strikes):
            if not 120 < b - a < 200:
                continue
            at = np.linspace(a, b, 101)
            off = next(t for t in offs if t > a + 60)
            yield (
                {k: np.interp(at, np.arange(len(c)), c) for k, c in curves.items()},
                100 * (off - a) / (b - a),
                np.ptp(places["hip"].imag[a:b]) / leg,
            )


@pytest.fixture(scope="module")
def walked():
    return list(strides())


@pytest.mark.parametrize(("joint", "least", "most"), [("hip", 0.97, 5.0), ("knee", 0.95, 7.0), ("ankle", 0.85, 6.0)])
def test_joint_angles_follow_a_measured_walk(walked, joint, least, most):
    assert len(walked) >= 2
    theirs = np.mean([curves[joint] for curves, _, _ in walked], axis=0)
    ours = getattr(measured(Stride(GaitCard())), joint)
    if joint == "ankle":
        theirs = theirs - theirs.mean()
    assert np.corrcoef(theirs, ours)[0, 1] >= least
    assert np.sqrt(np.mean((theirs - ours) ** 2)) <= most


def test_stance_and_the_travel_of_the_hips_are_those_of_walking(walked):
    found = measured(Stride(GaitCard()))
    assert found.stance_share == pytest.approx(60, abs=3)  # textbook shares, from memory
    assert found.double_support == pytest.approx(10, abs=3)
    assert found.stance_share == pytest.approx(np.mean([share for _, share, _ in walked]), abs=3)
    travel = np.ptp(Stride(GaitCard()).at(np.linspace(0, 1, 201)).hips.hip_up[0])
    data = [up for _, _, up in walked]
    assert 0.7 * min(data) < travel < 1.3 * max(data)


def test_twelve_frames_a_step_with_contacts_and_passings_where_they_are_expected():
    """Common practice at 24 frames a second."""
    stride = Stride(GaitCard())
    assert stride.card.frames == 24
    assert [p * stride.card.frames for p in stride.lands] == [0, 12]
    pose = stride.at(np.linspace(0, 1, 241))
    apart = pose.ankle_along[0] - pose.ankle_along[1]
    passing = np.flatnonzero(np.diff(np.sign(apart))) / 240 * 24
    assert passing == pytest.approx([6, 18], abs=1.5)


def test_the_body_is_highest_from_passing_to_up_and_lowest_from_contact_to_down():
    """Common practice: contact 0, down near 3, passing 6, up near 9 of a step of 12 frames."""
    up = Stride(GaitCard()).at(np.arange(120) / 240).hips.up  # one step
    assert 6 <= up.argmax() / 10 <= 9 and (up.argmin() / 10 <= 3 or up.argmin() / 10 >= 11.5)


@pytest.mark.parametrize("side", ["left", "right"])
def test_a_card_fitted_to_the_measured_walk_comes_closer_than_the_plain_one(side):
    walk = recorded_walk(markers(side), DATA["fps"])
    assert 100 * walk.stance_share == pytest.approx(60, abs=3)
    fit = fit_card(walk)
    plain = measured(Stride(GaitCard()))
    for joint, most in (("hip", 3.0), ("knee", 5.0), ("ankle", 3.0)):
        assert fit.off[joint] < min(most, np.sqrt(np.mean((getattr(plain, joint) - walk.curves[joint]) ** 2)))
        assert fit.correlation[joint] > 0.95
