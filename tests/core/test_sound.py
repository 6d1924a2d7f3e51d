"""Waveforms of signals that are known, and how long what is left of a sound lasts."""

import numpy as np
import pytest

from gaitwire.core.sound import PEAKS, SAMPLE_RATE, Sound, peaks_of, thinned

STEP = SAMPLE_RATE // PEAKS


def sound(**values):
    return Sound.model_validate(
        {"id": "a", "scene_id": "s", "name": "a", "blob": "", "peaks": "", "seconds": 3.0, **values}
    )


def test_peaks_are_the_lowest_and_highest_of_all_channels_in_each_hundredth_of_a_second():
    samples = np.zeros((2, 3 * STEP + 5), np.int16)
    samples[0, 10] = 32767
    samples[1, STEP + 1] = -16384
    samples[0, 2 * STEP : 3 * STEP] = 8192
    assert peaks_of(samples).tolist() == [[0, 127], [-64, 0], [0, 32], [0, 0]]


def test_neighbours_become_one_where_there_are_too_many():
    peaks = np.array([(-1, 2), (-30, 4), (0, 127), (-5, 5), (-127, 0)], np.int8)
    assert thinned(peaks, 5) == pytest.approx(peaks / 127)
    assert thinned(peaks, 3) == pytest.approx(np.array([(-30, 4), (-5, 127), (-127, 0)]) / 127)


def test_what_is_cut_off_is_not_heard():
    assert sound(cut_in=0.5, cut_out=1.0).frames(24) == pytest.approx(36)
    assert sound(cut_in=2.0, cut_out=1.5).left == 0
