"""Names of layers: short, printable, each once."""

from __future__ import annotations


def distinct(name: str, taken: set[str]) -> str:
    """The name, cleaned and with a number if it is taken; it is then taken too."""
    plain = " ".join("".join(c if c.isprintable() else " " for c in name).split())[:80].strip() or "layer"
    candidate, n = plain, 1
    while candidate.lower() in taken:
        n += 1
        candidate = f"{plain[:74]} {n}"
    taken.add(candidate.lower())
    return candidate
