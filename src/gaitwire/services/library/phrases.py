"""Phrases on the Shelf: those that ship, and those of one's own, kept as documents."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any, NamedTuple

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.ids import new_id
from gaitwire.core.motion.composed_phrases import answering
from gaitwire.core.motion.phrase import Phrase, PhraseUse, SuitedView
from gaitwire.core.motion.ready import READY, phrase_of
from gaitwire.formats.phrase_file import phrase_text, read_phrase
from gaitwire.services.session.naming import clean_name, unlike
from gaitwire.services.session.revising import revised
from gaitwire.services.session.workspace import Workspace
from gaitwire.store import documents
from gaitwire.store.history import SHELF

LONGEST_NAME = 60


class ListedPhrase(NamedTuple):
    """A phrase in the list: what uses are tied to it by, and whether it is one's own."""

    ref: str
    name: str
    tags: tuple[str, ...]
    view: SuitedView
    length: float
    own: bool
    revision: int = 0

    @property
    def words(self) -> str:
        """What it is found by."""
        return " ".join((self.name, *self.tags)).lower()


def list_phrases(workspace: Workspace) -> list[ListedPhrase]:
    """Every phrase: one's own, the last touched first, then those that ship."""
    own = [workspace.phrase(entry.id) for entry in documents.list_documents(workspace.store, "phrase")]
    ready = [(r.name, phrase_of(r, {}), False) for r in READY.values()]
    rows = [*((p.id, p, True) for p in own), *ready]
    return [ListedPhrase(ref, p.name, p.tags, p.view, p.length, mine, p.revision) for ref, p, mine in rows]


def phrase_at(workspace: Workspace, ref: str) -> Phrase:
    """A phrase by what uses are tied to it by; raises NotFoundError."""
    return phrase_of(READY[ref], {}) if ref in READY else workspace.phrase(ref)


def read_tags(text: str) -> tuple[str, ...]:
    """Tags, as they are typed: with commas between them, each once."""
    found = (" ".join(part.split()).lower() for part in text.replace(";", ",").split(","))
    return tuple(dict.fromkeys(tag for tag in found if tag))


def keep_phrase(workspace: Workspace, phrase: Phrase) -> str:
    """Keep a phrase as one of one's own; its id. A name that is taken gets a number."""
    phrase_id = new_id()
    taken = (listed.name for listed in list_phrases(workspace))
    name = unlike(clean_name(phrase.name)[:LONGEST_NAME].strip(), taken)
    with workspace.edit(f"keep the phrase “{name}”", [phrase_id, SHELF]) as edit:
        documents.register(edit, "phrase", phrase_id)
        edit.put("phrases", [phrase.model_copy(update={"id": phrase_id, "name": name})])
    return phrase_id


def set_phrase(workspace: Workspace, ref: str, values: dict[str, Any]) -> None:
    """Give a phrase of one's own another name, other tags or another view; what is tied to it follows."""
    phrase = _own(workspace, ref)
    if "name" in values:
        values = {**values, "name": clean_name(values["name"])[:LONGEST_NAME].strip()}
    with workspace.edit(f"set {', '.join(values)} of a phrase", [ref, SHELF]) as edit:
        edit.put("phrases", [revised(phrase, values)])


def drop_phrase(workspace: Workspace, ref: str) -> str:
    """Take a phrase of one's own off; undo on the Shelf brings it back. Its name.

    What is tied to it in scenes sleeps until then.
    """
    phrase = _own(workspace, ref)
    with workspace.edit(f"take the phrase “{phrase.name}” off", [ref, SHELF]) as edit:
        documents.discard(edit, "phrase", ref)
    return phrase.name


def bring_phrase(workspace: Workspace, data: bytes) -> str:
    """Keep the phrase in a file; its id. Raises InvalidInputError."""
    return keep_phrase(workspace, read_phrase(data))


def export_phrase(workspace: Workspace, ref: str) -> tuple[str, str]:
    """A phrase as a file's text, and what to call the file."""
    phrase = phrase_at(workspace, ref)
    return phrase_text(phrase), f"{phrase.name.replace('/', '-')}.phrase.json"


def performer(workspace: Workspace, phrase: Phrase) -> str | None:
    """The puppet on which the most of a phrase shows; None where nothing does.

    What is seen from the side is best shown by one with legs.
    """
    best, most = None, (False, 0)
    for entry in documents.list_documents(workspace.store, "puppet"):
        puppet = workspace.puppet(entry.id)
        use = PhraseUse(id="", scene_id="", instance_id=puppet.id, phrase=phrase, start=0.0)
        count = sum(answering(row.owner, puppet, use) is not None for row in phrase.rows if row.owner.kind != "seat")
        walks = phrase.view == "side" and any(b.role == "foot" for b in puppet.bones)
        if count and (walks, count) > most:
            best, most = puppet.id, (walks, count)
    return best


def _own(workspace: Workspace, ref: str) -> Phrase:
    if ref in READY:
        raise InvalidInputError("The phrases that ship stay as they are.", "Change one of your own.")
    return workspace.phrase(ref)


def tags_of(listed: Iterable[ListedPhrase]) -> list[str]:
    """Every tag once, the most used first."""
    counts: dict[str, int] = {}
    for one in listed:
        for tag in one.tags:
            counts[tag] = counts.get(tag, 0) + 1
    return sorted(counts, key=lambda tag: (-counts[tag], tag))
