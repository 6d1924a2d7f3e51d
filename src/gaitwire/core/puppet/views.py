"""Views: from where a puppet is drawn."""

from __future__ import annotations

from typing import Literal, NamedTuple

View = Literal["side", "three-quarter", "front", "back"]


class Seen(NamedTuple):
    """A view: what it is called, and how far what is ahead lies across the stage and towards the eye."""

    label: str
    ahead: float
    toward: float


VIEWS: dict[View, Seen] = {
    "side": Seen("from the side", 1.0, 0.0),
    "three-quarter": Seen("three-quarter", 0.7071, 0.7071),
    "front": Seen("from the front", 0.0, 1.0),
    "back": Seen("from the back", 0.0, -1.0),
}
