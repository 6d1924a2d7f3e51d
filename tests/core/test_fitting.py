"""Measured walks cut into strides, and cards fitted to them: what was made from a card is found again."""

import numpy as np
import pytest

from builders.markers import RATE, markers_of
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.core.walk.fitting import fit_card
from gaitwire.core.walk.measures import measured
from gaitwire.core.walk.recorded import recorded_walk
from gaitwire.core.walk.stride import Stride


@pytest.mark.parametrize("name", ["plain", "weary", "brisk"])
@pytest.mark.parametrize("facing", [1.0, -1.0])
def test_markers_give_back_angles_shares_and_lengths(name, facing):
    card = CHARACTERS[name].model_copy(update={"dwell": 0.0})
    found = recorded_walk(markers_of(card, facing=facing), RATE)
    told = measured(Stride(card))
    assert found.strides >= 2 and found.seconds == pytest.approx(card.frames / 24, rel=0.02)
    assert found.stride == pytest.approx(told.stride_length, rel=0.02)
    assert found.stance_share * 100 == pytest.approx(told.stance_share, abs=7)  # markers lie beyond the very sole
    for joint in ("hip", "knee"):
        assert np.sqrt(np.mean((found.curves[joint] - getattr(told, joint)) ** 2)) < 8  # contacts a little aside


@pytest.mark.parametrize("name", ["brisk", "weary", "heavy-laden"])
def test_a_card_is_found_again_from_its_markers(name):
    card = CHARACTERS[name].model_copy(update={"dwell": 0.0})
    walk = recorded_walk(markers_of(card, noise=3.0), RATE)
    fit = fit_card(walk, "found")
    plain = {
        j: np.sqrt(np.mean((getattr(measured(Stride(CHARACTERS["plain"])), j) - walk.curves[j]) ** 2)) for j in fit.off
    }
    assert fit.card.name == "found" and fit.card.frames_a_step == pytest.approx(card.frames_a_step, rel=0.03)
    for joint, most in (("hip", 3.0), ("knee", 5.0), ("ankle", 4.0)):
        assert fit.off[joint] < most and fit.off[joint] < plain[joint] and fit.correlation[joint] > 0.95


def test_what_is_no_walk_is_told():
    whole = markers_of(CHARACTERS["plain"])
    with pytest.raises(InvalidInputError, match="no marker for the heel and the toe"):
        recorded_walk({k: v for k, v in whole.items() if k not in ("heel", "toe")}, RATE)
    with pytest.raises(InvalidInputError, match="no whole stride"):
        recorded_walk({k: v[:40] for k, v in whole.items()}, RATE)
