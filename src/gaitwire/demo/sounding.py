"""Made-up sounds: a scarecrow's voice that says nothing, steps in the grass, a hop and a landing. As WAV files."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from scipy.signal import butter, lfilter, sosfilt

from gaitwire.core.conventions import FloatArray
from gaitwire.core.sound import SAMPLE_RATE
from gaitwire.formats.sound_files import write_wav

_VOWELS = ((660.0, 1180.0, 2500.0), (420.0, 2000.0, 2650.0), (520.0, 900.0, 2400.0), (330.0, 2250.0, 2900.0))
"""Resonances of a mouth that says ah, eh, oh, ee; roughly, from memory."""


def _written(sound: FloatArray, loudest: float = 0.8) -> bytes:
    peak = float(np.abs(sound).max()) or 1.0
    return write_wav(np.rint(sound / peak * loudest * 32767).astype(np.int16)[None])


def _times(seconds: float) -> FloatArray:
    return np.arange(round(seconds * SAMPLE_RATE)) / SAMPLE_RATE


def _resonant(sound: FloatArray, frequency: float, width: float) -> FloatArray:
    """One resonance: a two-pole filter (textbook form)."""
    r = np.exp(-np.pi * width / SAMPLE_RATE)
    turn = 2 * np.pi * frequency / SAMPLE_RATE
    found: FloatArray = lfilter([1 - r], [1, -2 * r * np.cos(turn), r * r], sound)
    return found


def voice(syllables: Sequence[tuple[float, float, float]], seconds: float) -> bytes:
    """A gruff voice: (second, seconds, strength) of each syllable, its pitch falling over the sentence."""
    out = np.zeros(round(seconds * SAMPLE_RATE))
    rng = np.random.default_rng(5)
    for n, (start, long, strength) in enumerate(syllables):
        t = _times(long)
        pitch = 128.0 * (1 + 0.16 * np.sin(n * 1.7)) * (1 - 0.18 * t / long)
        phase = 2 * np.pi * np.cumsum(pitch) / SAMPLE_RATE
        source = np.maximum(np.sin(phase), 0.0) ** 3 + 0.05 * rng.normal(size=len(t))
        vowel = zip(_VOWELS[n % 4], (90, 110, 160), (1, 0.7, 0.35), strict=True)
        shaped = sum(_resonant(source, frequency, width) * gain for frequency, width, gain in vowel)
        swell = np.sin(np.pi * np.minimum(t / long, 1.0)) ** 0.6
        at = round(start * SAMPLE_RATE)
        piece = (shaped * swell * strength)[: len(out) - at]
        out[at : at + len(piece)] += piece
    return _written(sosfilt(butter(2, 80, "highpass", fs=SAMPLE_RATE, output="sos"), out), 0.7)


def step(seed: int) -> bytes:
    """A foot in the grass: a soft thud, then blades."""
    rng = np.random.default_rng(seed)
    t = _times(0.22)
    thud = np.sin(2 * np.pi * (72 - 90 * t) * t) * np.exp(-t / 0.035)
    blades = sosfilt(butter(2, (1800, 7000), "bandpass", fs=SAMPLE_RATE, output="sos"), rng.normal(size=len(t)))
    rustle = blades * np.exp(-t / 0.05) * np.minimum(t / 0.012, 1) * (0.4 + 0.6 * (rng.random(len(t)) > 0.6))
    return _written(thud + 0.5 * rustle, 0.6)


def hop() -> bytes:
    """What takes off: a springy note that rises."""
    t = _times(0.34)
    pitch = 170 * 2 ** (1.6 * t / 0.34) * (1 + 0.05 * np.sin(2 * np.pi * 26 * t))
    return _written(
        np.sin(2 * np.pi * np.cumsum(pitch) / SAMPLE_RATE) * np.exp(-t / 0.16) * np.minimum(t / 0.006, 1), 0.5
    )


def landing() -> bytes:
    """What comes down: a plump thud with a wet edge."""
    rng = np.random.default_rng(11)
    t = _times(0.4)
    thud = np.sin(2 * np.pi * np.cumsum(46 + 90 * np.exp(-t / 0.03)) / SAMPLE_RATE) * np.exp(-t / 0.09)
    wet = sosfilt(butter(2, (500, 2600), "bandpass", fs=SAMPLE_RATE, output="sos"), rng.normal(size=len(t)))
    return _written(thud + 0.25 * wet * np.exp(-t / 0.03), 0.85)
