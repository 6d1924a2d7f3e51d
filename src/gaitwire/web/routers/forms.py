"""Reading what forms post: lists of ids, and fields by name."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from typing import Annotated, Any

from fastapi import Form, UploadFile

from gaitwire.core.errors import InvalidInputError, TooLargeError
from gaitwire.formats.reading import LIMITS

Ids = Annotated[str, Form(max_length=40_000)]
Coordinate = Annotated[float, Form(allow_inf_nan=False, ge=-1e5, le=1e5)]
Field = Annotated[str, Form(max_length=40)]
Value = Annotated[str, Form(max_length=400)]

Readers = Mapping[str, Callable[[str], Any]]
"""How the text of each field is read."""


def read_ids(text: str) -> list[str]:
    """Ids joined by commas."""
    return [part for part in text.split(",") if part]


def flag(text: str) -> bool:
    """A ticked box."""
    return text == "true"


def number(text: str) -> float:
    """A number as people type it; raises InvalidInputError."""
    try:
        found = float(text.strip().replace(",", "."))
    except ValueError:
        raise InvalidInputError(f"“{text[:20]}” is no number.", "Type a number.") from None
    if not math.isfinite(found) or abs(found) > 1e5:
        raise InvalidInputError(f"“{text[:20]}” is out of range.", "Type a smaller number.")
    return found


def percent(text: str) -> float:
    """A share, typed in percent."""
    return number(text) / 100


def number_or_none(text: str) -> float | None:
    """A number, or nothing."""
    return number(text) if text.strip() else None


def id_or_none(text: str) -> str | None:
    """An id, or nothing."""
    return text or None


def read_field(readers: Readers, field: str, text: str) -> dict[str, Any]:
    """One field's value; raises InvalidInputError for a field that cannot be set here."""
    if field not in readers:
        raise InvalidInputError(f"“{field}” cannot be set here.")
    return {field: readers[field](text)}


def read_upload(file: UploadFile) -> bytes:
    """An uploaded file's bytes; raises TooLargeError before there are too many of them."""
    data = file.file.read(LIMITS.bytes + 1)
    if len(data) > LIMITS.bytes:
        raise TooLargeError(f"This file is larger than {LIMITS.bytes // 10**6} MB.", "Make its pictures smaller.")
    return data
