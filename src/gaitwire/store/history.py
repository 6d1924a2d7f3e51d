"""Edits as steps: row images before and after, per document touched; undo and redo without end."""

from __future__ import annotations

import json
import sqlite3
import time
from collections.abc import Iterable, Sequence
from contextlib import AbstractContextManager, ExitStack
from contextvars import ContextVar
from typing import Any, NamedTuple

from pydantic import BaseModel

from gaitwire.core.errors import AlreadyDoneError, ConflictError, HistoryError
from gaitwire.store.connection import Store
from gaitwire.store.records import TABLES, StoredRow

_gesture: ContextVar[str] = ContextVar("gesture", default="")


def carry(gesture: str) -> None:
    """From now on, what this request or thread stores belongs to a gesture of that name."""
    _gesture.set(gesture)


def _refuse_repeated(db: sqlite3.Connection) -> None:
    """Raise AlreadyDoneError where the gesture was stored before."""
    name = _gesture.get()
    if name and db.execute("SELECT 1 FROM gestures WHERE name = ?", (name,)).fetchone():
        raise AlreadyDoneError("This was stored already; only its answer was lost.")


def _note_gesture(db: sqlite3.Connection) -> None:
    """Note the gesture as done, in the block that does it."""
    if name := _gesture.get():
        _gesture.set("")  # of a request that makes several steps, the first tells
        db.execute("INSERT INTO gestures VALUES (?, ?)", (name, time.time()))


Images = dict[tuple[str, str], tuple[StoredRow | None, StoredRow | None]]
"""(table, row id) to the row before and after."""


class StepInfo(NamedTuple):
    """What undo or redo would do next."""

    label: str
    depth: int


class Edit:
    """One gesture on one or more documents: an atomic block that becomes one step of history.

    `expected` maps a document to the revision the page was looking at. If the document has moved
    on since, the edit still goes through unless a row it writes has changed in between; then
    ConflictError is raised and nothing is stored.
    """

    def __init__(
        self, store: Store, label: str, documents: Iterable[str], expected: dict[str, int] | None = None
    ) -> None:
        self.store = store
        self.label = label
        self.documents = list(dict.fromkeys(documents))
        self.expected = expected or {}
        self.images: Images = {}
        self._block: AbstractContextManager[object, bool | None]

    def __enter__(self) -> Edit:
        with ExitStack() as stack:
            self.db = stack.enter_context(self.store.atomic())
            _refuse_repeated(self.db)
            self._block = stack.pop_all()
        return self

    def __exit__(self, kind: Any, error: Any, trace: Any) -> bool | None:
        if kind is None:
            try:
                self._record()
            except BaseException as failure:
                self._block.__exit__(type(failure), failure, failure.__traceback__)
                raise
        return self._block.__exit__(kind, error, trace)

    def put(self, table: str, items: Iterable[BaseModel]) -> None:
        """Insert rows or replace those of the same id."""
        spec = TABLES[table]
        self._write(table, {str(row["id"]): row for row in map(spec.to_row, items)})

    def remove(self, table: str, ids: Iterable[str]) -> None:
        """Remove rows by id; what hangs from them must be removed in the same edit."""
        self._write(table, dict.fromkeys(ids))

    def ids(self, table: str, **values: str | float) -> list[str]:
        """Ids of the rows with these values, as the edit has left them so far."""
        named = " AND ".join(f"{name} = ?" for name in values)
        found = self.db.execute(f"SELECT id FROM {table} WHERE {named}", tuple(values.values()))  # noqa: S608
        return [str(row[0]) for row in found]

    def written(self, table: str) -> dict[str, Any]:
        """What this edit has written to a table so far, as models by id; None for what it removed."""
        spec = TABLES[table]
        rows = {row_id: after for (name, row_id), (_, after) in self.images.items() if name == table}
        return {i: row and spec.model.model_validate(spec.from_row(row)) for i, row in rows.items()}

    def _write(self, table: str, rows: dict[str, StoredRow | None]) -> None:
        self.store.touched.update(self.documents)
        before = _read(self.db, table, list(rows))
        rows = {i: row for i, row in rows.items() if row != before.get(i)}
        for row_id, row in rows.items():
            if row is not None:
                TABLES[table].check(row)
            first = self.images.get((table, row_id), (before.get(row_id), None))[0]
            self.images[table, row_id] = (first, row)
        _replace(self.db, table, rows)

    def _record(self) -> None:
        changed = {k: v for k, v in self.images.items() if v[0] != v[1]}
        if not changed:
            return
        _note_gesture(self.db)
        for document, revision in self.expected.items():
            _refuse_stale(self.db, document, revision, changed)
        for document in self.documents:
            _forget_undone(self.db, document)
        made = self.db.execute("INSERT INTO steps (label, made_at) VALUES (?, ?)", (self.label, time.time()))
        step = made.lastrowid
        self.db.executemany("INSERT INTO step_documents VALUES (?, ?)", [(step, d) for d in self.documents])
        self.db.executemany(
            "INSERT INTO step_rows VALUES (?, ?, ?, ?, ?)",
            [(step, t, i, _dump(before), _dump(after)) for (t, i), (before, after) in changed.items()],
        )
        _bump(self.db, self.documents, list(changed))


def _dump(row: StoredRow | None) -> str | None:
    return None if row is None else json.dumps(row)


def _read(db: sqlite3.Connection, table: str, ids: Sequence[str]) -> dict[str, StoredRow]:
    columns = ", ".join(TABLES[table].columns)
    found: dict[str, StoredRow] = {}
    for start in range(0, len(ids), 500):
        chunk = ids[start : start + 500]
        marks = ", ".join("?" * len(chunk))
        sql = f"SELECT {columns} FROM {table} WHERE id IN ({marks})"  # noqa: S608
        found |= {row["id"]: dict(row) for row in db.execute(sql, chunk)}
    return found


def _replace(db: sqlite3.Connection, table: str, rows: dict[str, StoredRow | None]) -> None:
    """Old rows out, then new ones in: so two keys may trade places without meeting on the way."""
    spec = TABLES[table]
    db.executemany(f"DELETE FROM {table} WHERE id = ?", [(i,) for i in rows])  # noqa: S608
    db.executemany(spec.insert_sql, [tuple(r[c] for c in spec.columns) for r in rows.values() if r is not None])


def _bump(db: sqlite3.Connection, documents: Iterable[str], rows: Sequence[tuple[str, str]]) -> None:
    for document in documents:
        updated = db.execute(
            "UPDATE documents SET revision = revision + 1, touched_at = ? WHERE id = ? RETURNING revision",
            (time.time(), document),
        ).fetchone()
        revision = updated["revision"]
        db.executemany("INSERT INTO revision_rows VALUES (?, ?, ?, ?)", [(document, revision, t, i) for t, i in rows])
        if revision % _SWEPT_EVERY == 0:
            _sweep(db, document, revision)


KNOWN_REVISIONS = 200
"""Revisions of a document of which it is known what they changed; windows are seldom further behind."""

KNOWN_ROWS = 20_000
_SWEPT_EVERY = 50


def _sweep(db: sqlite3.Connection, document: str, revision: int) -> None:
    """Forget what the oldest revisions changed: the document's floor says up to which."""
    counted = db.execute(
        "SELECT revision, count(*) AS n FROM revision_rows WHERE document_id = ?"
        " GROUP BY revision ORDER BY revision DESC",
        (document,),
    )
    floor, rows = revision - KNOWN_REVISIONS, 0
    for row in counted:
        rows += row["n"]
        if rows > KNOWN_ROWS:
            floor = max(floor, row["revision"])
            break
    if floor > 0:
        db.execute("DELETE FROM revision_rows WHERE document_id = ? AND revision <= ?", (document, floor))
        db.execute("UPDATE documents SET floor = max(floor, ?) WHERE id = ?", (floor, document))


def _refuse_stale(db: sqlite3.Connection, document: str, revision: int, changed: Images) -> None:
    floor = db.execute("SELECT floor FROM documents WHERE id = ?", (document,)).fetchone()
    since = db.execute(
        "SELECT table_name, row_id FROM revision_rows WHERE document_id = ? AND revision > ?", (document, revision)
    )
    forgotten = floor is not None and revision < floor["floor"]
    if forgotten or any((row["table_name"], row["row_id"]) in changed for row in since):
        raise ConflictError(
            "This was changed in another window meanwhile.", "The page now shows how it stands; do it again."
        )


def _forget_undone(db: sqlite3.Connection, document: str) -> None:
    """A new edit ends the way forward: steps that were undone here can no longer be redone."""
    db.execute(
        "DELETE FROM steps WHERE undone = 1 AND id IN (SELECT step_id FROM step_documents WHERE document_id = ?)",
        (document,),
    )


def clear_history(store: Store) -> None:
    """Forget every step of every document: what stands now can no longer be undone."""
    with store.atomic() as db:
        db.execute("DELETE FROM steps")


_NEXT = {
    # direction: (undone flag of the steps looked at, order that finds the next one)
    "undo": (0, "DESC"),
    "redo": (1, "ASC"),
}


SHELF = "shelf"
"""The Shelf's own history: making and discarding documents. Only there are those steps taken back,
so that undo on a puppet's page never makes the page itself vanish."""

_STEPS_OF = "FROM steps s JOIN step_documents d ON d.step_id = s.id WHERE d.document_id = ?1 AND s.undone = ?2"
_NOT_SHELF = f" AND s.id NOT IN (SELECT step_id FROM step_documents WHERE document_id = '{SHELF}')"  # noqa: S608


def _next_step(store: Store, document: str, direction: str, own: bool = True) -> sqlite3.Row | None:
    """The next step; with `own`, on a page other than the Shelf, the Shelf's steps are passed over."""
    undone, order = _NEXT[direction]
    scope = _NOT_SHELF if own and document != SHELF else ""
    rows = store.rows(f"SELECT s.id, s.label {_STEPS_OF}{scope} ORDER BY s.id {order} LIMIT 1", (document, undone))
    return rows[0] if rows else None


def next_step(store: Store, document: str, direction: str) -> StepInfo:
    """Label of the next step to undo or redo ('' when there is none) and how many there are."""
    row = _next_step(store, document, direction)
    scope = "" if document == SHELF else _NOT_SHELF
    count = store.rows(f"SELECT count(*) AS n {_STEPS_OF}{scope}", (document, _NEXT[direction][0]))[0]["n"]
    return StepInfo(row["label"] if row else "", count)


def take_step(store: Store, document: str, direction: str) -> tuple[str, list[str]]:
    """Undo or redo one step of a document: its label, and every document it changed.

    Raises HistoryError when there is no step, or when a step that also touched this document's
    neighbours must give way to a later one there first.
    """
    with store.atomic() as db:
        _refuse_repeated(db)
        _note_gesture(db)
        step = _next_step(store, document, direction)
        if step is None:
            raise HistoryError(f"There is nothing to {direction}.")
        touched = [
            r["document_id"] for r in store.rows("SELECT * FROM step_documents WHERE step_id = ?", (step["id"],))
        ]
        for other in touched:
            first = _next_step(store, other, direction, own=False)
            if first is not None and first["id"] != step["id"]:
                raise HistoryError(
                    f"“{step['label']}” also touched another page.", f"There, {direction} “{first['label']}” first."
                )
        rows = store.rows("SELECT * FROM step_rows WHERE step_id = ?", (step["id"],))
        image = "before" if direction == "undo" else "after"
        by_table: dict[str, dict[str, StoredRow | None]] = {}
        for row in rows:
            by_table.setdefault(row["table_name"], {})[row["row_id"]] = json.loads(row[image]) if row[image] else None
        for table, images in by_table.items():
            for restored in filter(None, images.values()):
                TABLES[table].check(restored)
            _replace(db, table, images)
        db.execute("UPDATE steps SET undone = ? WHERE id = ?", (int(direction == "undo"), step["id"]))
        _bump(db, touched, [(r["table_name"], r["row_id"]) for r in rows])
        return step["label"], touched
