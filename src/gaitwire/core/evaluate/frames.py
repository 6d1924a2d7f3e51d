"""`Frames`: what every sink takes (the browser, each exporter, notes, tests)."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from gaitwire.core.conventions import FloatArray, IntArray


@dataclass(frozen=True)
class PointRange:
    """Which of a frame's points are a soft part's: first its mesh's vertices, then its drawings' points."""

    start: int
    vertices: int
    count: int
    starts: tuple[int, ...]  # of each drawing's points, counted from the first of them

    def drawing(self, index: int) -> slice:
        """The points of one of the drawings."""
        first = self.start + self.vertices
        ends = (*self.starts[1:], self.count - self.vertices)
        return slice(first + self.starts[index], first + ends[index])

    @property
    def mesh(self) -> slice:
        """The mesh's vertices."""
        return slice(self.start, self.start + self.vertices)


@dataclass(frozen=True)
class Frames:
    """F evaluated frames of P parts and N nodes. Arrays are frame-major and not writeable."""

    frames: FloatArray  # (F,)
    matrices: FloatArray  # (F, P, 6) from a part's own pixels to the stage
    opacity: FloatArray  # (F, P) 0 to 1
    order: IntArray  # (F, P) indices of parts, back to front
    nodes: FloatArray  # (F, N, 6) world matrices of seats and bones
    part_keys: tuple[tuple[str, str], ...]  # (instance id, part id) of each part
    node_keys: tuple[tuple[str, str], ...]  # (instance id, owner id) of each node
    drawing: IntArray  # (F, P) index of the drawing that each part shows
    points: npt.NDArray[np.float32]  # (F, K, 2) of all soft parts, each in its part's own pixels
    fade: FloatArray  # (F, P) how much is left of the puppet that a part is of, which fades as one picture
    soft: Mapping[int, PointRange] = field(default_factory=dict)
    """Soft parts, by index."""
    views: FloatArray = field(default_factory=lambda: np.zeros((0, 0, 6)))
    """(F, L, 6) what the camera makes of each layer, from the stage to the picture, the stage's own first; L is 0
    without a camera."""
    layers: IntArray = field(default_factory=lambda: np.zeros(0, np.int64))
    """(P,) the layer of each part."""

    def __post_init__(self) -> None:
        for array in (self.frames, self.matrices, self.opacity, self.order, self.nodes, self.drawing, self.points):
            array.setflags(write=False)

    def __len__(self) -> int:
        return len(self.frames)


_MAGIC = 0x33465747  # "GWF3" read as a little-endian integer
HEADER_BYTES = 32


def pack(frames: Frames, stamp: int = 0) -> bytes:
    """The wire form: a 32-byte header, then little-endian float32 sections, frame-major.

    Header: eight uint32 (magic, frames, parts, nodes, stamp, points, and two kept for later sections).
    The stamp says which state of the documents was evaluated. Sections:
    frames (F), matrices (F, P, 6), opacity (F, P), order (F, P), nodes (F, N, 6), drawing (F, P),
    points (F, K, 2), fade (F, P).
    """
    f, p, n, k = len(frames.frames), frames.matrices.shape[1], frames.nodes.shape[1], frames.points.shape[1]
    header = np.array([_MAGIC, f, p, n, stamp & 0xFFFFFFFF, k, 0, 0], "<u4").tobytes()
    segments = (
        frames.frames, frames.matrices, frames.opacity, frames.order, frames.nodes, frames.drawing, frames.points,
        frames.fade,
    )  # fmt: skip
    return header + b"".join(np.ascontiguousarray(s, "<f4").tobytes() for s in segments)
