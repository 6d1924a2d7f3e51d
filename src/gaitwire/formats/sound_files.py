"""Sound files: whatever the media library reads, as samples at one rate; and as one kind of file that browsers play."""

from __future__ import annotations

import io
import wave
from pathlib import PurePosixPath
from typing import NamedTuple

import av
import numpy as np
from av.error import FFmpegError

from gaitwire.core.errors import TooLargeError, UnreadableArtError
from gaitwire.core.sound import SAMPLE_RATE, Samples, peaks_of

SUFFIXES = (".wav", ".mp3", ".ogg", ".oga", ".opus", ".flac", ".m4a", ".aac", ".aif", ".aiff")
SOUND_MEDIA_TYPE = "audio/flac"
PEAKS_MEDIA_TYPE = "application/vnd.gaitwire.peaks"

LONGEST = 15 * 60
"""Seconds of a sound."""

_OPTIONS = {
    "format_whitelist": "wav,mp3,ogg,flac,mov,mp4,m4a,3gp,3g2,mj2,aac,aiff",
    "protocol_whitelist": "",
}
"""Nothing that names other files, as playlists do, and no way to open one."""


class SoundFile(NamedTuple):
    """A sound ready to be kept: how long it is, itself (FLAC), and its waveform (pairs of int8)."""

    seconds: float
    data: bytes
    peaks: bytes


def is_sound_name(name: str) -> bool:
    """Whether a file of that name is a sound."""
    return PurePosixPath(name).suffix.lower() in SUFFIXES


def read_samples(data: bytes) -> Samples:
    """The first sound of a file as samples (channels, n), one channel or two.

    Raises UnreadableArtError for what is no sound, TooLargeError for one beyond the limit.
    """
    blocks: list[Samples] = []
    count = 0
    try:
        with av.open(io.BytesIO(data), "r", options=_OPTIONS) as file:
            if not file.streams.audio:
                raise UnreadableArtError("There is no sound in this file.", "Choose another.")
            stream = file.streams.audio[0]
            if stream.codec_context is None:
                raise UnreadableArtError(
                    "This sound is coded in a way that is not known here.", "Save it as WAV, FLAC, OGG or MP3."
                )
            layout = "mono" if stream.codec_context.channels == 1 else "stereo"
            resampler = av.AudioResampler(format="s16p", layout=layout, rate=SAMPLE_RATE)
            for frame in [*file.decode(stream), None]:
                for block in resampler.resample(frame):
                    blocks.append(block.to_ndarray().astype(np.int16, copy=False))
                    count += block.samples
                if count > LONGEST * SAMPLE_RATE:
                    raise TooLargeError(f"This sound is longer than {LONGEST // 60} minutes.", "Cut it first.")
    except (FFmpegError, ValueError) as error:
        raise UnreadableArtError(
            "This sound cannot be read.", "Choose a WAV, MP3, OGG, FLAC, M4A or AIFF file."
        ) from error
    if not count:
        raise UnreadableArtError("There is no sound in this file.", "Choose another.")
    return np.concatenate(blocks, axis=1)


def read_sound(data: bytes) -> SoundFile:
    """A sound file as it is kept: nothing of what was decoded is lost; raises as `read_samples` does."""
    samples = read_samples(data)
    return SoundFile(samples.shape[1] / SAMPLE_RATE, write_flac(samples), peaks_of(samples).tobytes())


def write_flac(samples: Samples) -> bytes:
    """Samples as FLAC, which loses nothing."""
    out = io.BytesIO()
    layout = "mono" if len(samples) == 1 else "stereo"
    with av.open(out, "w", format="flac") as file:
        stream = file.add_stream("flac", rate=SAMPLE_RATE, layout=layout)
        block = stream.codec_context.frame_size or 4608
        for start in range(0, samples.shape[1], block):
            part = np.ascontiguousarray(samples[:, start : start + block].T.reshape(1, -1))
            frame = av.AudioFrame.from_ndarray(part, format="s16", layout=layout)
            frame.sample_rate, frame.pts = SAMPLE_RATE, start
            file.mux(stream.encode(frame))
        file.mux(stream.encode(None))
    return out.getvalue()


def write_wav(samples: Samples) -> bytes:
    """Samples as WAV."""
    out = io.BytesIO()
    with wave.open(out, "wb") as file:
        file.setnchannels(len(samples))
        file.setsampwidth(2)
        file.setframerate(SAMPLE_RATE)
        file.writeframes(np.ascontiguousarray(samples.T).astype("<i2").tobytes())
    return out.getvalue()
