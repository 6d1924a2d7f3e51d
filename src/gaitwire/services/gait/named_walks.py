"""Walks by name: shipped cards and cards in files, and what is measured on them."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path, PurePath
from typing import Any, NamedTuple

from gaitwire.core.errors import NotFoundError
from gaitwire.core.walk.captured import leg_markers
from gaitwire.core.walk.card import GaitCard
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.core.walk.figure import WalkFigure, walk_figure
from gaitwire.core.walk.fitting import Fit, fit_card
from gaitwire.core.walk.measures import measured
from gaitwire.core.walk.recorded import IN_JOINTS, Recorded, recorded_legs, recorded_walk
from gaitwire.core.walk.stride import Stride
from gaitwire.formats.bvh import read_bvh
from gaitwire.formats.gait_card import read_card
from gaitwire.formats.markers_csv import read_markers


def find_card(name: str) -> GaitCard:
    """A shipped card by its name, or one in a file; raises NotFoundError, InvalidInputError, OSError."""
    return read_card(Path(name).read_bytes()) if name.endswith(".json") else _shipped(name)


def _shipped(name: str) -> GaitCard:
    if name not in CHARACTERS:
        raise NotFoundError(f"There is no gait card “{name}”.", f"Known: {', '.join(CHARACTERS)}.")
    return CHARACTERS[name]


@lru_cache(maxsize=256)
def figure_of(card: GaitCard, time: float) -> WalkFigure:
    """A wire figure that walks as a card says, at a time in strides."""
    return walk_figure(Stride(card), time)


class FittedWalk(NamedTuple):
    """A measured walk, and the card that comes closest to it."""

    walk: Recorded
    fit: Fit


def fit_file(data: bytes, filename: str) -> FittedWalk:
    """The card closest to the walk in a file: a skeleton's motion (.bvh) or a table of markers (.csv)."""
    path = PurePath(filename)
    if path.suffix.lower() == ".bvh":
        motion = read_bvh(data)
        legs = leg_markers([j.name for j in motion.joints], [j.parent for j in motion.joints], motion.places())
        walk = recorded_legs(legs, 1.0 / motion.frame_time, IN_JOINTS)
    else:
        markers = read_markers(data)
        walk = recorded_walk(markers.places, markers.rate)
    return FittedWalk(walk, fit_card(walk, path.stem[:60] or "measured"))


def fit_report(found: FittedWalk) -> dict[str, Any]:
    """How close a fitted card is, as plain numbers."""
    walk, fit = found
    return {
        "card": fit.card.name, "strides": walk.strides, "stance_share": round(100 * walk.stance_share, 3),
        "stride_length": round(walk.stride, 6), "seconds": round(walk.seconds, 6),
        "rmse": {joint: round(value, 4) for joint, value in fit.off.items()},
        "correlation": {joint: round(value, 6) for joint, value in fit.correlation.items()},
        "missed": fit.missed,
    }  # fmt: skip


def walk_report(card: GaitCard, far: bool = False) -> dict[str, Any]:
    """One stride of one leg from its own contact, as plain numbers."""
    found = measured(Stride(card), far)
    curves = {
        name: getattr(found, name).round(6).tolist()
        for name in ("hip", "knee", "ankle", "pelvis_height", "foot_height")
    }
    numbers = {
        name: round(getattr(found, name), 6)
        for name in (
            "ankle_offset", "stance_share", "double_support", "step_length", "stride_length", "cadence",
        )
    }  # fmt: skip
    return {"card": card.name, "leg": "far" if far else "near", **curves, **numbers, "contacts": found.contacts}
