"""Sounds as they come in, against the standard library's `wave` and the media library's own account of each file."""

import io
import wave

import av
import numpy as np
import pytest

from gaitwire.core.errors import TooLargeError, UnreadableArtError
from gaitwire.core.sound import SAMPLE_RATE, peaks_of
from gaitwire.demo.sounding import hop, landing, step, voice
from gaitwire.formats import sound_files
from gaitwire.formats.sound_files import read_samples, read_sound, write_flac, write_wav

SECONDS = 1.5


def chirp(rate=SAMPLE_RATE, channels=2):
    """A tone that rises and swells: each hundredth of a second has a peak of its own."""
    t = np.arange(round(SECONDS * rate)) / rate
    tone = np.sin(2 * np.pi * (200 + 300 * t) * t) * (0.2 + 0.4 * t)
    return np.rint(np.stack([tone * (1 - 0.4 * c) for c in range(channels)]) * 32767).astype(np.int16)


def encoded(codec, container, samples, rate=SAMPLE_RATE):
    """Samples in a file, by the media library's encoder."""
    out = io.BytesIO()
    layout = "stereo" if len(samples) == 2 else "mono"
    with av.open(out, "w", format=container) as file:
        stream = file.add_stream(codec, rate=rate, layout=layout)
        frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(samples.T.reshape(1, -1)), format="s16", layout=layout)
        frame.sample_rate, frame.pts = rate, 0
        for block in av.AudioResampler(format=stream.format, layout=layout, rate=rate).resample(frame):
            file.mux(stream.encode(block))
        file.mux(stream.encode(None))
    return out.getvalue()


def own_account(data):
    """How long the library says that a file is, and the highest sample that it decodes, as shares of full scale."""
    with av.open(io.BytesIO(data)) as file:
        seconds = float(file.duration / av.time_base)
        top = 0.0
        for frame in file.decode(audio=0):
            block = frame.to_ndarray()
            full = 1.0 if np.issubdtype(block.dtype, np.floating) else float(np.iinfo(block.dtype).max)
            top = max(top, float(np.abs(block.astype(float)).max()) / full)
    return seconds, top


@pytest.mark.parametrize(
    ("codec", "container"), [("pcm_s16le", "wav"), ("flac", "flac"), ("libmp3lame", "mp3"), ("libopus", "ogg")]
)
def test_length_and_peaks_are_those_that_the_library_gives(codec, container):
    data = encoded(codec, container, chirp())
    found = read_sound(data)
    seconds, top = own_account(data)
    assert found.seconds == pytest.approx(seconds, abs=0.03), "coders pad by a frame of theirs at most"
    peaks = np.frombuffer(found.peaks, np.int8).reshape(-1, 2)
    assert np.abs(peaks.astype(float)).max() / 127 == pytest.approx(top, abs=0.02)
    assert len(peaks) == -(-round(found.seconds * SAMPLE_RATE) // 480)


def test_a_wave_file_comes_in_sample_by_sample_as_the_standard_library_reads_it():
    data = write_wav(chirp())
    with wave.open(io.BytesIO(data)) as file:
        assert (file.getframerate(), file.getnchannels()) == (SAMPLE_RATE, 2)
        own = np.frombuffer(file.readframes(file.getnframes()), "<i2").reshape(-1, 2).T
    assert np.array_equal(read_samples(data), own)


@pytest.mark.parametrize("channels", [1, 2])
def test_what_is_kept_loses_nothing(channels):
    samples = chirp(channels=channels)
    assert np.array_equal(read_samples(write_flac(samples)), samples)


def test_another_rate_keeps_length_and_pitch():
    found = read_samples(encoded("pcm_s16le", "wav", chirp(rate=22_050, channels=1), rate=22_050))
    assert found.shape[1] / SAMPLE_RATE == pytest.approx(SECONDS, abs=0.003)
    crossings = np.flatnonzero(np.diff(np.signbit(found[0, 4800:]))) / SAMPLE_RATE + 0.1
    expected = np.flatnonzero(np.diff(np.signbit(chirp(channels=1)[0, 4800:]))) / SAMPLE_RATE + 0.1
    assert crossings[:100] == pytest.approx(expected[:100], abs=2e-4)


def test_what_is_no_sound_is_refused():
    silent = io.BytesIO()
    with av.open(silent, "w", format="mp4") as file:
        stream = file.add_stream("mpeg4", rate=24)
        stream.width = stream.height = 16
        for frame in [av.VideoFrame(16, 16, "yuv420p"), None]:
            file.mux(stream.encode(frame))
    for data in (b"", b"no sound", b"RIFF\0\0\0\0WAVE", silent.getvalue()):
        with pytest.raises(UnreadableArtError, match="sound"):
            read_sound(data)
    with pytest.raises(UnreadableArtError):  # a playlist names other files
        read_sound(b"#EXTM3U\n#EXTINF:1,\n/etc/passwd\n")


def test_what_is_too_long_is_refused_before_all_of_it_is_read(monkeypatch):
    monkeypatch.setattr(sound_files, "LONGEST", 1)
    with pytest.raises(TooLargeError, match="longer"):
        read_sound(write_wav(chirp()))


def test_the_demos_sounds_are_heard_and_not_clipped():
    for data in (hop(), landing(), step(3), voice([(0.1, 0.3, 1.0)], 0.6)):
        samples = read_samples(data).astype(float)
        assert 0.4 < np.abs(samples).max() / 32767 < 0.95
        assert abs(samples.mean()) < 250, "no standing offset"
    assert peaks_of(read_samples(voice([(0.3, 0.2, 1.0)], 0.6)))[:25].max() <= 1, "silent until it speaks"
