"""Phrases as files: JSON with the motion by owner and property."""

from __future__ import annotations

import json

from pydantic import ValidationError

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.motion.phrase import Phrase

FORMAT = "phrase"
VERSION = 2
"""1 knew no excerpts of easings."""

READABLE = (1, 2)
MOST_BYTES = 4_000_000
_NO_PHRASE = ("This file is no phrase.", "A phrase is a JSON file that was saved on the Shelf.")


def phrase_text(phrase: Phrase) -> str:
    """A phrase as the text of a file."""
    values = phrase.model_dump(mode="json", exclude={"id", "revision"})
    return json.dumps({"format": FORMAT, "version": VERSION, **values}, indent=1, ensure_ascii=False) + "\n"


def read_phrase(data: bytes) -> Phrase:
    """The phrase in a file, without an id of its own; raises InvalidInputError that says what does not fit."""
    if len(data) > MOST_BYTES:
        raise InvalidInputError("This file is too long for a phrase.", "Choose one that was saved as a phrase.")
    try:
        found = json.loads(data)
    except (ValueError, RecursionError):
        raise InvalidInputError(*_NO_PHRASE) from None
    if not isinstance(found, dict) or found.pop("format", None) != FORMAT:
        raise InvalidInputError(*_NO_PHRASE)
    version = found.pop("version", None)
    if version not in READABLE:
        known = " and ".join(map(str, READABLE))
        raise InvalidInputError(f"This phrase is of version {version!s:.20}.", f"Versions {known} can be read.")
    try:
        return Phrase.model_validate({**found, "id": "", "revision": 0})
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"]) or "the phrase"
        raise InvalidInputError(f"“{where:.60}” does not fit: {first['msg']}.", "Set it right in the file.") from None
