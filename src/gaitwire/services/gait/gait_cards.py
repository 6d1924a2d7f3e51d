"""Gait cards on the Stride desk: those that ship, and those of one's own, kept as documents."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.ids import new_id
from gaitwire.core.walk.card import GaitCard
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.core.walk.kept import KeptCard
from gaitwire.core.walk.mixing import mixed_card
from gaitwire.core.walk.settings import changed_card
from gaitwire.core.walk.span import GaitSpan
from gaitwire.formats.gait_card import card_text, read_card
from gaitwire.services.gait.named_walks import FittedWalk, fit_file
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.walks import find_gait, set_gait
from gaitwire.services.session.naming import clean_name, unlike
from gaitwire.services.session.workers import run_limited
from gaitwire.services.session.workspace import Workspace
from gaitwire.store import documents
from gaitwire.store.history import SHELF

LONGEST_NAME = 60
FIT_SECONDS = 120.0


class Listed(NamedTuple):
    """A card in the list: its address on the desk, and whether it is one's own."""

    ref: str
    card: GaitCard
    own: bool
    revision: int = 0


def list_cards(workspace: Workspace) -> list[Listed]:
    """Every card: one's own, the last touched first, then those that ship."""
    own = [
        Listed(entry.id, documents.load_card(workspace.store, entry.id).card, True, entry.revision)
        for entry in documents.list_documents(workspace.store, "card")
    ]
    return own + [Listed(name, card, False) for name, card in CHARACTERS.items()]


def card_at(workspace: Workspace, ref: str) -> GaitCard:
    """A card by its address: one that ships, one's own, or that of a walk in a scene; raises NotFoundError."""
    if BETWEEN in ref:
        return SpanDesk(workspace, ref).card
    return CHARACTERS[ref] if ref in CHARACTERS else documents.load_card(workspace.store, ref).card


Curves = dict[str, list[float]]
"""Joint angles over a measured stride, by joint."""


def measured_at(workspace: Workspace, ref: str) -> Curves | None:
    """The curves of the walk that a card was fitted to, if it was."""
    if ref in CHARACTERS or BETWEEN in ref:
        return None
    return documents.load_card(workspace.store, ref).measured


def keep_card(workspace: Workspace, card: GaitCard, measured: Curves | None = None) -> str:
    """Keep a card as one of one's own; its id. A name that is taken gets a number."""
    card_id = new_id()
    taken = [listed.card.name for listed in list_cards(workspace)]
    name = unlike(clean_name(card.name)[: LONGEST_NAME - 4].strip(), taken)
    with workspace.edit(f"keep the walk “{name}”", [card_id, SHELF]) as edit:
        documents.register(edit, "card", card_id)
        edit.put("gait_cards", [KeptCard.of(card_id, card.model_copy(update={"name": name}), measured)])
    return card_id


class CardDesk:
    """One card with the gestures on it. A card that ships stays as it is: what changes is a copy of one's own."""

    def __init__(self, workspace: Workspace, ref: str, revision: int | None = None) -> None:
        self.workspace, self.ref = workspace, ref
        self.beyond = 0
        """Edited beads that the last change left beyond the end of a walk."""
        self.expected = {} if revision is None or ref in CHARACTERS else {ref: revision}

    @property
    def card(self) -> GaitCard:
        return card_at(self.workspace, self.ref)

    @property
    def own(self) -> bool:
        """Whether it is one's own."""
        return self.ref not in CHARACTERS

    def set(self, shown: Mapping[str, float]) -> str:
        """Change settings, as they are shown; the id of the card that has them now."""
        changed = changed_card(self.card, shown)
        return self._put(changed, f"set {', '.join(shown)}".replace("_", " "))

    def mix(self, other: str, share: float) -> str:
        """A new card that goes a share of the way to another; its id."""
        if other == self.ref:
            raise InvalidInputError("A card cannot be mixed with itself.", "Choose another one.")
        return self._new(mixed_card(self.card, card_at(self.workspace, other), share))

    def copy(self) -> str:
        """A copy to go on with; its id."""
        return keep_card(self.workspace, self.card, measured_at(self.workspace, self.ref))

    def rename(self, name: str) -> str:
        """Give it another name; the id of the card that has it."""
        clean = clean_name(name)[:LONGEST_NAME].strip()
        return self._put(self.card.model_copy(update={"name": clean}), "rename")

    def take_off(self) -> None:
        """Take one's own card off; undo on the Shelf brings it back."""
        if not self.own:
            raise InvalidInputError("The cards that ship stay.", "Choose one of your own.")
        with self.workspace.edit(f"take the walk “{self.card.name}” off", [self.ref, SHELF], self.expected) as edit:
            documents.discard(edit, "card", self.ref)

    def _new(self, card: GaitCard) -> str:
        return keep_card(self.workspace, card)

    def _put(self, card: GaitCard, label: str) -> str:
        if not self.own:
            return keep_card(self.workspace, card)
        with self.workspace.edit(label, [self.ref], self.expected) as edit:
            edit.put("gait_cards", [KeptCard.of(self.ref, card, measured_at(self.workspace, self.ref))])
        return self.ref


class SpanDesk(CardDesk):
    """The card of a walk in a scene: what changes is that walk, its edits kept; nothing is copied."""

    def __init__(self, workspace: Workspace, ref: str, revision: int | None = None) -> None:
        super().__init__(workspace, ref)
        scene_id, _, self.gait_id = ref.partition(BETWEEN)
        self.floor = Floor(workspace, scene_id, revision)

    @property
    def gait(self) -> GaitSpan:
        """The walk; raises NotFoundError."""
        return find_gait(self.floor, self.gait_id)

    @property
    def card(self) -> GaitCard:
        return self.gait.card

    @property
    def own(self) -> bool:
        return True

    def take_off(self) -> None:
        raise InvalidInputError("This is the walk of a scene.", "Take it away on the Floor.")

    def _new(self, card: GaitCard) -> str:
        return self._put(card, "mix")

    def _put(self, card: GaitCard, label: str) -> str:
        self.beyond = set_gait(self.floor, self.gait_id, {"card": card}).beyond
        return self.ref


BETWEEN = "~"
"""Between a scene's id and a walk's, where that is what lies on the desk."""


def desk_of(workspace: Workspace, ref: str, revision: int | None = None) -> CardDesk:
    """The desk of a card that ships, of one's own, or of a walk in a scene."""
    return (SpanDesk if BETWEEN in ref else CardDesk)(workspace, ref, revision)


def bring_card(workspace: Workspace, data: bytes) -> str:
    """Keep the card in a file; its id. Raises InvalidInputError."""
    return keep_card(workspace, read_card(data))


def fit_walk(workspace: Workspace, data: bytes, filename: str) -> tuple[str, FittedWalk]:
    """Keep the card that comes closest to the measured walk in a file; its id, and how close it comes."""
    found = run_limited(fit_file, data, filename, seconds=FIT_SECONDS)
    curves = {joint: [round(float(v), 4) for v in row] for joint, row in found.walk.curves.items()}
    return keep_card(workspace, found.fit.card, curves), found


def export_card(workspace: Workspace, ref: str) -> tuple[str, str]:
    """A card as a file's text, and what to call the file."""
    card = card_at(workspace, ref)
    return card_text(card), f"{card.name.replace('/', '-')}.gait.json"
