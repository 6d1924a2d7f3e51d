"""Names: cleaned, and made unlike those already there."""

from __future__ import annotations

from collections.abc import Iterable

from gaitwire.core.errors import InvalidInputError


def clean_name(text: str) -> str:
    """The name without control characters and doubled blanks, at most 80 long; raises if nothing is left."""
    name = " ".join("".join(ch if ch.isprintable() else " " for ch in text).split())[:80].strip()
    if not name:
        raise InvalidInputError("A name is needed.", "Type one.")
    return name


def unlike(name: str, taken: Iterable[str]) -> str:
    """The name, with a number if it is taken."""
    known = {t.lower() for t in taken}
    candidate, n = name, 1
    while candidate.lower() in known:
        n += 1
        candidate = f"{name[:74]} {n}"
    return candidate
