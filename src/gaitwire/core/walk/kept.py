"""Gait cards of one's own, as they are kept."""

from __future__ import annotations

from typing import Self

from pydantic import BaseModel, ConfigDict

from gaitwire.core.bounds import Id, Label, Name, Value
from gaitwire.core.walk.card import GaitCard


class KeptCard(BaseModel):
    """A card as a document; its settings lie beside its name; those it lacks are as on the plain card."""

    model_config = ConfigDict(frozen=True)

    id: Id
    name: Name
    settings: dict[Label, Value]
    measured: dict[Label, list[Value]] | None = None
    """Joint angles in degrees over the stride of the walk that it was fitted to, by joint, if it was."""

    @classmethod
    def of(cls, id_: str, card: GaitCard, measured: dict[Label, list[Value]] | None = None) -> Self:
        """A card to be kept."""
        return cls(id=id_, name=card.name, settings=card.model_dump(exclude={"name"}), measured=measured)

    @property
    def card(self) -> GaitCard:
        return GaitCard.model_validate({"name": self.name, **self.settings})
