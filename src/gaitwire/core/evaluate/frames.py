"""`Frames`: what every sink takes (the browser, each exporter, notes, tests)."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from gaitwire.core.conventions import FloatArray, IntArray


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

    def __post_init__(self) -> None:
        for array in (self.frames, self.matrices, self.opacity, self.order, self.nodes):
            array.setflags(write=False)

    def __len__(self) -> int:
        return len(self.frames)


_MAGIC = 0x31465747  # "GWF1" read as a little-endian integer
HEADER_BYTES = 32


def pack(frames: Frames, stamp: int = 0) -> bytes:
    """The wire form: a 32-byte header, then little-endian float32 sections, frame-major.

    Header: eight uint32 (magic, frames, parts, nodes, stamp, and three kept for later sections).
    The stamp says which state of the documents was evaluated. Sections:
    frames (F), matrices (F, P, 6), opacity (F, P), order (F, P), nodes (F, N, 6).
    """
    f, p, n = len(frames.frames), frames.matrices.shape[1], frames.nodes.shape[1]
    header = np.array([_MAGIC, f, p, n, stamp & 0xFFFFFFFF, 0, 0, 0], "<u4").tobytes()
    sections = (frames.frames, frames.matrices, frames.opacity, frames.order, frames.nodes)
    return header + b"".join(np.ascontiguousarray(s, "<f4").tobytes() for s in sections)
