"""A card some of whose settings change from one moment to the next."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, cast

from gaitwire.core.conventions import FloatArray
from gaitwire.core.walk.card import GaitCard

Varied = Mapping[str, FloatArray]
"""How far settings depart (P,) from a card's, by name."""


class _VariedCard:
    """Answers for settings as the card does, with what they depart by added."""

    def __init__(self, card: GaitCard, varied: Varied) -> None:
        self._card, self._varied = card, varied

    def __getattr__(self, name: str) -> Any:
        value = getattr(self._card, name)
        return value + self._varied[name] if name in self._varied else value


def varied_card(card: GaitCard, varied: Varied | None) -> GaitCard:
    """A card to be asked for its settings, which are arrays (P,) where they vary; the card itself where none does."""
    return cast(GaitCard, _VariedCard(card, varied)) if varied else card
