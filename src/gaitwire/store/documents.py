"""Documents: loading puppets and scenes whole, listing, making and discarding them."""

from __future__ import annotations

import time
from collections.abc import Sequence
from typing import Literal, NamedTuple

from gaitwire.core.errors import NotFoundError
from gaitwire.core.motion.phrase import Phrase
from gaitwire.core.puppet import controls
from gaitwire.core.puppet.change import KINDS
from gaitwire.core.puppet.model import Bone, Limb, Part, Pin, Puppet, Replacement
from gaitwire.core.scene import Scene
from gaitwire.core.scene_tables import SCENE_TABLES
from gaitwire.core.walk.kept import KeptCard
from gaitwire.store.connection import Store
from gaitwire.store.history import Edit
from gaitwire.store.records import SceneShelf, fetch

Kind = Literal["puppet", "scene", "card", "phrase"]
_HOME: dict[Kind, str] = {"puppet": "puppets", "scene": "scenes", "card": "gait_cards", "phrase": "phrases"}


class Listing(NamedTuple):
    """One document in a listing."""

    id: str
    name: str
    revision: int
    touched_at: float


class DocumentState(NamedTuple):
    """How often a document was changed, and when last (seconds since 1970)."""

    revision: int
    touched_at: float


def state_of(store: Store, document: str) -> DocumentState:
    """The document's state; raises NotFoundError."""
    rows = store.rows("SELECT revision, touched_at FROM documents WHERE id = ?", (document,))
    if not rows:
        raise NotFoundError("This is not in the store any more.", "Go back to the Shelf.")
    return DocumentState(*rows[0])


class Named(NamedTuple):
    """What a document is and what it is called."""

    id: str
    kind: Kind
    name: str


def named(store: Store, document: str) -> Named | None:
    """A document's kind and name; None for one that is not there, and for the Shelf, which has no name."""
    rows = store.rows("SELECT kind FROM documents WHERE id = ?", (document,))
    kind = rows[0]["kind"] if rows else ""
    if kind not in _HOME:
        return None
    found = store.rows(f"SELECT name FROM {_HOME[kind]} WHERE id = ?", (document,))  # noqa: S608
    return Named(document, kind, found[0]["name"]) if found else None


def revision_of(store: Store, document: str) -> int:
    """The document's revision; raises NotFoundError."""
    return state_of(store, document).revision


def revisions_of(store: Store, named: Sequence[str]) -> dict[str, int]:
    """Revisions of documents by id; those that are not there are left out."""
    marks = ", ".join("?" * len(named))
    rows = store.rows(f"SELECT id, revision FROM documents WHERE id IN ({marks})", tuple(named))  # noqa: S608
    return {row["id"]: row["revision"] for row in rows}


def list_documents(store: Store, kind: Kind) -> list[Listing]:
    """Documents that were not taken off the shelf, the last touched first."""
    sql = (
        f"SELECT d.id, h.name, d.revision, d.touched_at FROM documents d JOIN {_HOME[kind]} h ON h.id = d.id"  # noqa: S608
        " WHERE d.kind = ? ORDER BY d.touched_at DESC, h.name"
    )
    return [Listing(*row) for row in store.rows(sql, (kind,))]


def scene_with(store: Store, puppet_id: str) -> str | None:
    """Id of the scene last touched in which the puppet stands, or None."""
    sql = (
        "SELECT i.scene_id FROM instances i JOIN documents d ON d.id = i.scene_id"
        " WHERE i.puppet_id = ? ORDER BY d.touched_at DESC LIMIT 1"
    )
    return next((str(row["scene_id"]) for row in store.rows(sql, (puppet_id,))), None)


def scenes_with(store: Store, puppet_id: str) -> list[str]:
    """Ids of all scenes in which the puppet stands, those that were taken off the Shelf left out."""
    sql = (
        "SELECT DISTINCT i.scene_id FROM instances i JOIN scenes s ON s.id = i.scene_id"
        " WHERE i.puppet_id = ? ORDER BY i.scene_id"
    )
    return [str(row["scene_id"]) for row in store.rows(sql, (puppet_id,))]


def register(edit: Edit, kind: Kind, document: str) -> None:
    """Make the document known; call it first in the edit that makes it."""
    row = (document, kind, time.time())
    edit.db.execute("INSERT INTO documents (id, kind, revision, touched_at) VALUES (?, ?, 0, ?)", row)


def load_puppet(store: Store, puppet_id: str) -> Puppet:
    """The puppet with its bones and parts; raises NotFoundError."""
    with store.snapshot():
        revision = revision_of(store, puppet_id)
        rows = store.rows("SELECT * FROM puppets WHERE id = ?", (puppet_id,))
        if not rows:
            raise NotFoundError("This puppet was taken off the Shelf.", "Undo that on the Shelf to have it back.")
        own = (puppet_id,)
        found = {
            "bones": fetch(store, "bones", "puppet_id = ? ORDER BY rank, name, id", own, Bone),
            "parts": fetch(store, "parts", "puppet_id = ? ORDER BY rank, id", own, Part),
            "replacements": fetch(store, "replacements", "puppet_id = ? ORDER BY rank, number", own, Replacement),
            "pins": fetch(store, "pins", "puppet_id = ? ORDER BY part_id, rank, id", own, Pin),
            "limbs": fetch(store, "limbs", "puppet_id = ? ORDER BY name, id", own, Limb),
            "controls": fetch(store, "controls", "puppet_id = ? ORDER BY rank, id", own, controls.Control),
            "entries": fetch(store, "entries", "puppet_id = ? ORDER BY control_id, x, y, id", own, controls.Entry),
        }
    return Puppet(**dict(rows[0]), revision=revision, **{name: tuple(rows) for name, rows in found.items()})  # type: ignore[arg-type]


def load_card(store: Store, card_id: str) -> KeptCard:
    """The gait card; raises NotFoundError."""
    found = fetch(store, "gait_cards", "id = ?", (card_id,), KeptCard)
    if not found:
        raise NotFoundError("There is no gait card here by that name.", "If it was taken off, undo that on the Shelf.")
    return found[0]


def load_phrase(store: Store, phrase_id: str) -> Phrase:
    """The phrase; raises NotFoundError."""
    with store.snapshot():
        revision = revision_of(store, phrase_id)
        found = fetch(store, "phrases", "id = ?", (phrase_id,), Phrase)
    if not found:
        raise NotFoundError("This phrase was taken off the Shelf.", "Undo that on the Shelf to have it back.")
    return found[0].model_copy(update={"revision": revision})


def load_scene(store: Store, scene_id: str, shelf: SceneShelf | None = None) -> Scene:
    """The scene with its instances, channels, keys and marks; raises NotFoundError.

    With a shelf, what has not changed since it last saw the scene are the same objects.
    """
    with store.snapshot():
        revision = revision_of(store, scene_id)
        rows = store.rows("SELECT * FROM scenes WHERE id = ?", (scene_id,))
        if not rows:
            raise NotFoundError("This scene was taken off the Shelf.", "Undo that on the Shelf to have it back.")
        kept = (shelf or SceneShelf()).fetch(store, scene_id, revision)
    head = Scene.model_validate({**dict(rows[0]), "revision": revision})
    found = {name: tuple(items) for name, items in kept.tables.items()}
    return head.model_copy(update={**found, "keys": tuple(kept.keys)})


def discard(edit: Edit, kind: Kind, document: str) -> None:
    """Remove all of a document's rows; undoing the step brings them back."""
    if kind == "puppet":
        puppet = load_puppet(edit.store, document)
        for table in reversed(KINDS):
            edit.remove(table, [item.id for item in getattr(puppet, table)])
    elif kind == "scene":
        scene = load_scene(edit.store, document)
        for name in reversed(SCENE_TABLES):
            edit.remove(name, [row.id for row in getattr(scene, name)])
    edit.remove(_HOME[kind], [document])
