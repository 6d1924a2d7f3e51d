"""Gait cards by name and in files, and the report of a walk."""

import json

import numpy as np
import pytest

from gaitwire.core.errors import InvalidInputError, NotFoundError
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.core.walk.recorded import MARKERS
from gaitwire.core.walk.stride import Stride
from gaitwire.formats.gait_card import card_text, read_card
from gaitwire.services.gait.named_walks import find_card, fit_file, walk_report


@pytest.mark.parametrize("name", CHARACTERS)
def test_every_shipped_walk_keeps_its_feet_and_its_seam(name):
    stride = Stride(CHARACTERS[name])
    assert not stride.shortened
    pose = stride.at(np.linspace(0, 1, 481))
    sole = stride.soles(pose)
    assert min(point.imag.min() for point in sole) > -1e-9
    for side, step in enumerate(stride.steps):
        held = sole.ball[side][(pose.share[side] > step.flat) & (pose.share[side] < step.stance)]
        steps = np.abs(np.diff(held))
        assert np.sort(steps)[:-1].max() < 1e-9  # but for the jump from one plant to the next
    h = 1e-5
    times = np.concatenate([[0, h, 1 - h, 1], pose.phase])
    pose = stride.at(times)
    turns = np.stack([*pose.leg.thigh, *pose.leg.knee, *pose.pitch, *np.radians(pose.upper.shoulder), pose.hips.up])
    assert turns[:, 3] == pytest.approx(turns[:, 0], abs=1e-6)
    peak = np.abs(np.diff(turns[:, 4:], axis=1)).max(axis=1) * 480
    jump = (turns[:, 1] - turns[:, 0] - turns[:, 3] + turns[:, 2]) / h
    assert (np.abs(jump) <= 0.01 * peak).all()
    assert pose.leg.knee.min() > 0


def test_a_walk_is_reported_as_plain_numbers():
    found = walk_report(find_card("weary"))
    assert json.loads(json.dumps(found)) == {
        **found,
        "contacts": {k: [list(s) for s in v] for k, v in found["contacts"].items()},
    }
    assert len(found["hip"]) == len(found["foot_height"]) == 101
    assert found["cadence"] == pytest.approx(60 * 24 / 16) and found["card"] == "weary"
    near, far = (walk_report(find_card("limping"), side) for side in (False, True))
    assert near["stance_share"] < far["stance_share"]
    with pytest.raises(NotFoundError, match="heavy-laden"):
        find_card("strolling")


def test_a_card_comes_back_from_its_file(tmp_path):
    for card in CHARACTERS.values():
        assert read_card(card_text(card).encode()) == card
    (tmp_path / "mine.json").write_text('{"format": "gait card", "version": 1, "name": "mine", "stride": 1.2}')
    assert find_card(str(tmp_path / "mine.json")).stride == 1.2


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("{", "no gait card"),
        ("[1]", "no gait card"),
        ('{"stride": 1}', "no gait card"),
        ('{"format": "gait card", "version": 9}', "version 9"),
        ('{"format": "gait card", "version": 1, "stride": 99}', "“stride” does not fit"),
        ('{"format": "gait card", "version": 1, "stride": NaN}', "“stride” does not fit"),
        ('{"format": "gait card", "version": 1, "hop": 1}', "no setting “hop”"),
        (" " * 200_000, "too long"),
    ],
)
def test_what_is_no_card_is_told(text, said):
    with pytest.raises(InvalidInputError, match=said):
        read_card(text.encode())


HEAD = "time," + ",".join(f"{n}_{a}" for n in MARKERS for a in "xy")


@pytest.mark.parametrize(
    ("text", "said"),
    [
        (b"\xff\xfe\x00", "no readable CSV"),
        (b"", "“time” is missing"),
        (b"time,hip_x\n1,2", "“hip_y” is missing"),
        (f"{HEAD}\n0{',1' * 10}\n0.1{',x' * 10}".encode(), "Row 3 is not all numbers"),
        (f"{HEAD}\n0{',1' * 10}\n0.1{',nan' * 10}\n0.2{',1' * 10}".encode(), "Row 3 is not all numbers"),
        (f"{HEAD}\n0{',1' * 10}\n0.1{',1' * 10}\n0.9{',1' * 10}".encode(), "do not go on evenly"),
        (f"{HEAD}\n0{',1' * 10}\n0.1{',1' * 10}\n0.2{',1' * 10}".encode(), "no whole stride"),
    ],
)
def test_a_table_that_is_no_walk_is_told(text, said):
    with pytest.raises(InvalidInputError, match=said):
        fit_file(text, "mine.csv")
