"""Measured walks: markers of one leg over time, cut into strides and turned into joint angles."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import partial
from itertools import pairwise
from typing import NamedTuple

import numpy as np
import scipy  # its parts are loaded when they are asked for, and signal takes long

from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.walk.measures import SAMPLES

MARKERS = ("hip", "knee", "ankle", "heel", "toe")
JOINTS = ("hip", "knee", "ankle")
_SHORTEST = 0.5
"""Seconds that a stride takes at least."""
_SWINGS = 0.5
"""Share of the toe's greatest speed that each swing reaches."""


class Thresholds(NamedTuple):
    """Shares of their greatest speeds below which a heel has landed, and a toe has not left yet."""

    stopped: float
    set_off: float


ON_SKIN = Thresholds(0.18, 0.2)
"""Of markers on the skin, which move a little while the foot stands."""
IN_JOINTS = Thresholds(0.05, 0.05)
"""Of the joints of a skeleton, which hardly do."""
_LOW = 0.2
"""Share of the time in which a heel is lowest, and stands."""


@dataclass(frozen=True)
class Recorded:
    """A leg's strides, averaged, from its own contact; angles in degrees as `StrideMeasures` has them."""

    curves: Mapping[str, FloatArray]  # by joint, (SAMPLES,); the ankle without its mean
    spread: Mapping[str, FloatArray]  # standard deviation over the strides, (SAMPLES,) each
    stance_share: float
    stride: float  # leg lengths; 0 where the walker stays in place, as on a belt
    seconds: float  # of a stride
    strides: int


def joint_angles(markers: Mapping[str, np.ndarray], facing: float = 1.0) -> dict[str, FloatArray]:
    """Hip, knee and ankle (F,) in degrees from markers (F,), complex with y up, of a walker that faces +-x.

    The hip is the thigh against the vertical, the knee its bend, the ankle the foot against the shank.
    """
    seen = {name: facing * place.real + 1j * place.imag for name, place in markers.items()}
    thigh = np.degrees(np.angle((seen["knee"] - seen["hip"]) * 1j))
    shank = np.degrees(np.angle((seen["ankle"] - seen["knee"]) * 1j))
    foot = np.degrees(np.angle(seen["toe"] - seen["heel"]))
    return {"hip": thigh, "knee": thigh - shank, "ankle": foot - shank}


def recorded_walk(markers: Mapping[str, np.ndarray], rate: float, speeds: Thresholds = ON_SKIN) -> Recorded:
    """A leg's walk from its markers (F,), complex with y up, at so many frames a second.

    Contacts and toe offs are found from how fast heel and toe go against the floor, in shares of their
    own greatest speeds; so neither the unit of length nor a belt that runs matters. Raises
    InvalidInputError where a marker or a whole stride is missing.
    """
    missing = [name for name in MARKERS if name not in markers]
    if missing:
        raise InvalidInputError(f"There is no marker for the {' and the '.join(missing)}.", "Name one column for each.")
    facing = float(np.sign(np.nanmedian((markers["toe"] - markers["heel"]).real)) or 1.0)
    strikes, offs = _events(markers, facing, rate, speeds)
    leg = np.median(np.abs(markers["hip"] - markers["knee"]) + np.abs(markers["knee"] - markers["ankle"]))
    angles = joint_angles(markers, facing)
    rows: dict[str, list[FloatArray]] = {joint: [] for joint in JOINTS}
    shares, lengths, frames = [], [], []
    for begin, end in pairwise(strikes):
        leaves = [t for t in offs if begin < t < end]
        if not leaves or leg <= 0:
            continue
        at = np.linspace(begin, end, SAMPLES)
        for joint in JOINTS:
            rows[joint].append(np.interp(at, np.arange(len(angles[joint])), angles[joint]))
        shares.append((leaves[0] - begin) / (end - begin))
        lengths.append(facing * (markers["heel"][end] - markers["heel"][begin]).real / leg)
        frames.append(end - begin)
    if not shares:
        raise InvalidInputError("There is no whole stride in this.", "It takes two contacts of the same foot.")
    curves = {joint: np.mean(row, axis=0) for joint, row in rows.items()}
    curves["ankle"] = curves["ankle"] - curves["ankle"][:-1].mean()
    return Recorded(
        curves, {joint: np.std(row, axis=0) for joint, row in rows.items()}, float(np.mean(shares)),
        float(np.mean(lengths)), float(np.mean(frames)) / rate, len(shares),
    )  # fmt: skip


def recorded_legs(legs: Sequence[Mapping[str, np.ndarray]], rate: float, speeds: Thresholds = ON_SKIN) -> Recorded:
    """A walk from the markers of one leg or of both, averaged over all whole strides.

    Raises InvalidInputError where no leg has one.
    """
    found, lacking = [], None
    for markers in legs:
        try:
            found.append(recorded_walk(markers, rate, speeds))
        except InvalidInputError as error:
            lacking = error
    if not found:
        raise lacking or InvalidInputError("There is no leg in this.")
    weights = np.array([walk.strides for walk in found], float)
    mean = partial(np.average, axis=0, weights=weights)
    return Recorded(
        {joint: mean([w.curves[joint] for w in found]) for joint in JOINTS},
        {joint: mean([w.spread[joint] for w in found]) for joint in JOINTS},
        float(mean([w.stance_share for w in found])), float(mean([w.stride for w in found])),
        float(mean([w.seconds for w in found])), int(weights.sum()),
    )  # fmt: skip


def _events(
    markers: Mapping[str, np.ndarray], facing: float, rate: float, speeds: Thresholds
) -> tuple[list[int], list[int]]:
    """Frames on which the foot lands, and on which it leaves.

    Around each swing, where the toe is fastest: it ends when the heel has nearly stopped against the
    floor, and began when the toe set off.
    """
    heel, toe = (_speed(markers[name], markers["heel"].imag, facing) for name in ("heel", "toe"))
    swings, _ = scipy.signal.find_peaks(toe, height=_SWINGS * toe.max(), distance=max(1, round(_SHORTEST * rate)))
    strikes, offs = [], []
    for swing in swings:
        stopped = np.flatnonzero(heel[swing:] < speeds.stopped * heel.max())
        still = np.flatnonzero(toe[:swing] < speeds.set_off * toe.max())
        strikes += [int(swing + stopped[0])] if len(stopped) else []
        offs += [int(still[-1] + 1)] if len(still) else []
    return strikes, offs


def _speed(marker: np.ndarray, height: FloatArray, facing: float) -> FloatArray:
    """Forward speed (F,) against the floor, which is taken to move as the heel does while it is low."""
    speed = facing * np.gradient(marker.real)
    low = height <= np.quantile(height, _LOW)
    return np.asarray(speed - np.median(facing * np.gradient(marker.real)[low]))
