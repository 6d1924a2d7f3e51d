"""Sounds laid along a scene: where each begins, what is cut off it, how loud it is; and their waveforms."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
from pydantic import BaseModel, ConfigDict, Field

from gaitwire.core.bounds import Frame, Id, Name, Rank, Seconds
from gaitwire.core.conventions import FloatArray

SAMPLE_RATE = 48_000
"""Samples a second of every sound that is kept."""

PEAKS = 100
"""Peaks a second of a waveform."""

Samples = npt.NDArray[np.int16]
"""(channels, n)."""


class Sound(BaseModel):
    """A sound on a scene. `start` is the frame on which what is left of it begins."""

    model_config = ConfigDict(frozen=True)

    id: Id
    scene_id: Id
    name: Name
    blob: Id
    """Hash of the sound, as it is played."""
    peaks: Id
    """Hash of its waveform."""
    rank: Rank = 0
    seconds: float = Field(gt=0, le=3600, allow_inf_nan=False)
    """Of the whole of it."""
    start: Frame = 0.0
    cut_in: Seconds = 0.0
    """Seconds cut off at its beginning."""
    cut_out: Seconds = 0.0
    """Seconds cut off at its end."""
    volume: float = Field(default=1.0, ge=0, le=4, allow_inf_nan=False)
    muted: bool = False

    @property
    def left(self) -> float:
        """Seconds of it that are played."""
        return max(0.0, self.seconds - self.cut_in - self.cut_out)

    def frames(self, rate: float) -> float:
        """Frames that it lasts at so many a second."""
        return self.left * rate


def peaks_of(samples: Samples) -> npt.NDArray[np.int8]:
    """Lowest and highest of all channels in every hundredth of a second, (n, 2), from -127 to 127."""
    step = SAMPLE_RATE // PEAKS
    count = -(-samples.shape[1] // step)
    padded = np.zeros((len(samples), count * step), np.int16)
    padded[:, : samples.shape[1]] = samples
    blocks = padded.reshape(len(samples), count, step)
    low, high = blocks.min(axis=(0, 2)), blocks.max(axis=(0, 2))
    return np.rint(np.stack([low, high], axis=1) / 32768.0 * 127).astype(np.int8)


def thinned(peaks: npt.NDArray[np.int8], most: int) -> FloatArray:
    """At most so many pairs (n, 2) of lowest and highest, from -1 to 1: neighbours as one."""
    together = max(1, -(-len(peaks) // most))
    count = -(-len(peaks) // together)
    padded = np.zeros((count * together, 2))
    padded[: len(peaks)] = peaks / 127.0
    blocks = padded.reshape(count, together, 2)
    return np.stack([blocks[:, :, 0].min(axis=1), blocks[:, :, 1].max(axis=1)], axis=1)
