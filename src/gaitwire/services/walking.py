"""Walks by name: shipped cards and cards in files, and what is measured on them."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path
from typing import Any

from gaitwire.core.errors import NotFoundError
from gaitwire.core.walk.card import GaitCard
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.core.walk.figure import WalkFigure, walk_figure
from gaitwire.core.walk.fitting import fit_card
from gaitwire.core.walk.measures import measured
from gaitwire.core.walk.recorded import recorded_walk
from gaitwire.core.walk.stride import Stride
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


def fit_markers(data: bytes, name: str) -> tuple[GaitCard, dict[str, Any]]:
    """The card that comes closest to the markers in a CSV file, and how close that is, as plain numbers."""
    markers = read_markers(data)
    walk = recorded_walk(markers.places, markers.rate)
    fit = fit_card(walk, name)
    return fit.card, {
        "card": name, "strides": walk.strides, "stance_share": round(100 * walk.stance_share, 3),
        "stride_length": round(walk.stride, 6), "seconds": round(walk.seconds, 6),
        "rmse": {joint: round(value, 4) for joint, value in fit.off.items()},
        "correlation": {joint: round(value, 6) for joint, value in fit.correlation.items()},
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
