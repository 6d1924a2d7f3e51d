"""Hitches in the evaluation: what a bone or a puppet goes with, from frame to frame, without a jump at any change.

A thing keeps its place and its turn in what carries it, as they were on the frame of the change; a
carrier's stretch takes its place along but does not deform it.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.geometry import affine
from gaitwire.core.links import Hitch
from gaitwire.core.tolerances import LENGTH, TIME


@dataclass(frozen=True)
class Carrier:
    """A carrier on the frames: its matrices (6, F), and the point of its own space that a caught thing comes to."""

    matrix: FloatArray
    hold: complex


@dataclass(frozen=True)
class Air:
    """What a flight needs to know: the ground's height in scene pixels, if there is any, and frames a second."""

    ground: float | None
    rate: float


def carried(
    own: FloatArray, pivot: tuple[FloatArray, FloatArray], hitches: Sequence[tuple[Hitch, Carrier | None]],
    times: FloatArray, columns: Mapping[float, int], air: Air,
) -> FloatArray:  # fmt: skip
    """What a thing hangs from on the frames (F,), as matrices (6, F): by birth `own`, then by its hitches in order.

    `pivot` is the thing's own place in that. Among the frames are those of all hitches up to the last
    one asked for (`columns` says where), of the frame before a throw, and of the catch that ends one.
    """
    out = own.copy()
    for index, (hitch, carrier) in enumerate(hitches):
        column = columns.get(hitch.time)
        if column is None:
            break
        later = times >= hitch.time - TIME
        if carrier is None and hitch.arc:
            after = hitches[index + 1] if index + 1 < len(hitches) else None
            moved = _flown(out, pivot, hitch, after, times, columns, air)
        elif carrier is None:
            # A bone goes with its parent again; a puppet's own matrix never moves.
            moved = _with(own, out, pivot, column)
        else:
            moved = _with(carrier.matrix, out, pivot, column)
        out = np.where(later, moved, out)
    return out


def _with(
    carrier: FloatArray, parent_matrix: FloatArray, pivot: tuple[FloatArray, FloatArray], column: int
) -> FloatArray:
    """A matrix as it was on a frame, taken along by a carrier's place and turn since then."""
    then, since = parent_matrix[:, [column]], carrier[:, [column]]
    x, y = affine.apply(then, pivot[0][[column]], pivot[1][[column]])
    inside = affine.apply(affine.invert(since), x, y)
    px, py = affine.apply(carrier, *inside)
    turned = _unit(carrier[0] + 1j * carrier[1]) / _unit(since[0] + 1j * since[1])
    return _moved(then, x + 1j * y, px + 1j * py, turned)


def _moved(parent_matrix: FloatArray, start: np.ndarray, end: np.ndarray, turned: np.ndarray) -> FloatArray:
    """A matrix after its point `start` has come to `end` and all has turned about that; complex, (F,) each."""
    place = end - turned * start
    step = np.stack([turned.real, turned.imag, -turned.imag, turned.real, place.real, place.imag])
    return affine.compose(step, np.broadcast_to(parent_matrix, step.shape))


def _unit(z: np.ndarray) -> np.ndarray:
    return np.asarray(z / np.maximum(np.abs(z), LENGTH))


def _flown(
    parent_matrix: FloatArray, pivot: tuple[FloatArray, FloatArray], hitch: Hitch,
    after: tuple[Hitch, Carrier | None] | None, times: FloatArray, columns: Mapping[float, int], air: Air,
) -> FloatArray:  # fmt: skip
    """The flight of a thing that was let go: a parabola (Galilei), to the hand that takes it or to the ground."""
    column = columns[hitch.time]
    then = parent_matrix[:, [column]]
    x, y = affine.apply(then, pivot[0][[column]], pivot[1][[column]])
    start = (x + 1j * y)[0]
    fall = 0.5j * hitch.gravity / air.rate**2
    passed = np.maximum(times - hitch.time, 0.0)
    if after is not None and after[1] is not None and after[0].time in columns:
        caught, long = after[1], after[0].time - hitch.time
        ex, ey = affine.apply(caught.matrix[:, columns[after[0].time]], caught.hold.real, caught.hold.imag)
        speed = (complex(float(ex), float(ey)) - start - fall * long**2) / long
        passed = np.minimum(passed, long)
    else:
        speed = start - _place(parent_matrix, pivot, columns.get(hitch.time - 1.0, column))
        passed = np.minimum(passed, _landing(start.imag, speed.imag, fall.imag, air.ground))
    path = start + speed * passed + fall * passed**2
    turned = np.exp(1j * np.radians(hitch.spin / air.rate * passed))
    return _moved(then, np.full(len(times), start), path, turned)


def _place(parent_matrix: FloatArray, pivot: tuple[FloatArray, FloatArray], column: int) -> complex:
    x, y = affine.apply(parent_matrix[:, column], pivot[0][column], pivot[1][column])
    return complex(float(x), float(y))


def _landing(height: float, speed: float, fall: float, ground: float | None) -> float:
    """Frames until something at a height that moves down at a speed reaches the ground; endless without one."""
    if ground is None:
        return np.inf
    room = max(ground - height, 0.0)
    return float((-speed + np.sqrt(speed**2 + 4 * fall * room)) / (2 * fall))
