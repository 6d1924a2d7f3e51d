"""Walks by name: shipped cards and cards in files, and what is measured on them."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from gaitwire.core.errors import NotFoundError
from gaitwire.core.walk.card import GaitCard
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.core.walk.measures import measured
from gaitwire.core.walk.stride import Stride
from gaitwire.formats.gait_card import read_card


def find_card(name: str) -> GaitCard:
    """A shipped card by its name, or one in a file; raises NotFoundError, InvalidInputError, OSError."""
    if name in CHARACTERS:
        return CHARACTERS[name]
    if name.endswith(".json"):
        return read_card(Path(name).read_bytes())
    raise NotFoundError(f"There is no gait card “{name}”.", f"Known: {', '.join(CHARACTERS)}; or a .json file.")


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
