"""Gait cards as files: JSON with the settings by name; what is left out is as on the plain card."""

from __future__ import annotations

import json
from typing import Any

from pydantic import ValidationError

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.walk.card import GaitCard

FORMAT = "gait card"
VERSION = 1
MOST_BYTES = 100_000


def card_text(card: GaitCard) -> str:
    """A card as the text of a file."""
    return json.dumps({"format": FORMAT, "version": VERSION, **card.model_dump()}, indent=2, ensure_ascii=False) + "\n"


def read_card(data: bytes) -> GaitCard:
    """The card in a file; raises InvalidInputError that names the setting which does not fit."""
    if len(data) > MOST_BYTES:
        raise InvalidInputError("This file is too long for a gait card.", "Choose one that was saved as a card.")
    try:
        found = json.loads(data)
    except (ValueError, RecursionError):
        raise InvalidInputError(
            "This file is no gait card.", "A card is a JSON file saved on the Stride desk."
        ) from None
    if not isinstance(found, dict) or found.pop("format", None) != FORMAT:
        raise InvalidInputError("This file is no gait card.", "A card is a JSON file saved on the Stride desk.")
    version = found.pop("version", None)
    if version != VERSION:
        raise InvalidInputError(f"This card is of version {version!s:.20}.", f"Version {VERSION} can be read.")
    return _checked(found)


def _checked(values: dict[str, Any]) -> GaitCard:
    unknown = sorted(values.keys() - GaitCard.model_fields.keys())
    if unknown:
        raise InvalidInputError(f"A card has no setting “{unknown[0]:.40}”.", "Take it out of the file.")
    try:
        return GaitCard.model_validate(values)
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"])
        raise InvalidInputError(f"“{where}” does not fit: {first['msg']}.", "Set it right in the file.") from None
