"""Rows and models: which table holds which model, and how its fields become columns."""

from __future__ import annotations

import json
import sqlite3
from bisect import insort
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from operator import attrgetter
from threading import Lock
from typing import Any, TypeVar

from cachetools import LRUCache
from pydantic import BaseModel, ValidationError

from gaitwire.core.bounds import GREATEST, LATEST
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.explaining import explained
from gaitwire.core.motion.phrase import Phrase
from gaitwire.core.puppet.change import KINDS
from gaitwire.core.puppet.controls import Control, Entry
from gaitwire.core.puppet.model import Bone, Limb, Part, Pin, Puppet, Replacement
from gaitwire.core.scene import Scene
from gaitwire.core.scene_tables import SCENE_TABLES, SceneTable
from gaitwire.core.timing.clip import SavedPose
from gaitwire.core.timing.key import Curve, Excerpt, Key
from gaitwire.core.walk.kept import KeptCard
from gaitwire.store.connection import Store

Model = TypeVar("Model", bound=BaseModel)
StoredRow = dict[str, Any]


def _plain(model: BaseModel) -> StoredRow:
    return model.model_dump()


@dataclass(frozen=True)
class Table:
    """A table of models; `json_columns` are stored as JSON text."""

    name: str
    model: type[BaseModel]
    columns: tuple[str, ...]
    json_columns: frozenset[str] = frozenset()

    def to_row(self, item: BaseModel) -> StoredRow:
        """Column values of a model."""
        row = {c: getattr(item, c) for c in self.columns}
        for c in self.json_columns:
            row[c] = None if row[c] is None else json.dumps(row[c], default=_plain)
        return {c: int(v) if isinstance(v, bool) else v for c, v in row.items()}

    def from_row(self, row: sqlite3.Row | StoredRow) -> StoredRow:
        """A row's values as the model takes them."""
        values = dict(row)
        for c in self.json_columns:
            values[c] = None if values[c] is None else json.loads(values[c])
        return values

    def check(self, row: StoredRow) -> None:
        """Raise InvalidInputError for a row that no model can be: many are made around their own checks."""
        try:
            self.model.__pydantic_validator__.validate_python(self.from_row(row))
        except ValidationError as error:
            raise InvalidInputError(*explained(error)) from error

    @property
    def insert_sql(self) -> str:
        marks = ", ".join("?" * len(self.columns))
        return f"INSERT INTO {self.name} ({', '.join(self.columns)}) VALUES ({marks})"  # noqa: S608


def _table(name: str, model: type[BaseModel], skip: Iterable[str] = (), json_columns: Iterable[str] = ()) -> Table:
    columns = tuple(f for f in model.model_fields if f not in set(skip))
    return Table(name, model, columns, frozenset(json_columns))


TABLES: dict[str, Table] = {
    t.name: t
    for t in (
        _table("puppets", Puppet, skip=("revision", *KINDS)),
        _table("bones", Bone),
        _table("parts", Part, json_columns=("bends_with",)),
        _table("replacements", Replacement),
        _table("pins", Pin),
        _table("limbs", Limb),
        _table("controls", Control),
        _table("entries", Entry, json_columns=("rows", "reshapes")),
        _table("scenes", Scene, skip=("revision", *SCENE_TABLES)),
        *(_table(t.name, t.model, json_columns=t.json) for t in SCENE_TABLES.values()),
        _table("saved_poses", SavedPose),
        _table("gait_cards", KeptCard, json_columns=("settings", "measured")),
        _table("phrases", Phrase, skip=("revision",), json_columns=("tags", "rows")),
    )
}
"""Every table whose rows are kept in history."""

TABLE_OF: Mapping[type[BaseModel], str] = {table.model: table.name for table in TABLES.values()}
"""The table of a model, owners before what they own."""


def fetch(store: Store, table: str, where: str, values: tuple[object, ...], model: type[Model]) -> list[Model]:
    """Rows of a table as models; `where` may hold an order too."""
    spec = TABLES[table]
    rows = store.rows(f"SELECT * FROM {table} WHERE {where}", values)  # noqa: S608
    return [model.model_validate(spec.from_row(row)) for row in rows]


_KEYS = "SELECT k.* FROM keys k"


@dataclass(frozen=True)
class _Kept:
    """A scene's rows as of a revision: its keys by channel and time, and its other tables."""

    revision: int
    keys: list[Key]
    tables: dict[str, list[Any]]


_SCENES = 16
"""Scenes whose rows are kept; pages seldom show more at once."""


class SceneShelf:
    """Rows of scenes as they were last read, brought up to date by what the revisions since have changed.

    A scene may hold tens of thousands of keys, and an edit touches a few: those alone are read
    again, and all others stay the very same objects. Of other tables only those are read that
    changed at all.
    """

    def __init__(self) -> None:
        self._scenes: LRUCache[str, _Kept] = LRUCache(_SCENES)
        self._lock = Lock()

    def fetch(self, store: Store, scene_id: str, revision: int) -> _Kept:
        """The scene's rows as of a revision."""
        with self._lock:
            kept = self._scenes.get(scene_id)
        floor = store.rows("SELECT floor FROM documents WHERE id = ?", (scene_id,))[0]["floor"]
        if kept is None or not floor <= kept.revision <= revision:
            keys = _read_keys(store, "JOIN channels c ON c.id = k.channel_id WHERE c.scene_id = ?", [scene_id])
            rows = {table.name: _rows_of(store, scene_id, table) for table in _OTHERS}
            kept = _Kept(revision, sorted(keys, key=_PLACE), rows)
        elif kept.revision < revision:
            sql = "SELECT DISTINCT table_name, row_id FROM revision_rows WHERE document_id = ? AND revision > ?"
            changed = store.rows(sql, (scene_id, kept.revision))
            touched = {row["table_name"] for row in changed}
            rows = {t.name: _rows_of(store, scene_id, t) if t.name in touched else kept.tables[t.name] for t in _OTHERS}
            ids = [row["row_id"] for row in changed if row["table_name"] == "keys"]
            kept = _Kept(revision, _renewed(store, scene_id, kept.keys, ids), rows)
        with self._lock:
            known = self._scenes.get(scene_id)
            if known is None or known.revision <= revision:
                self._scenes[scene_id] = kept
        return kept


_PLACE = attrgetter(*SCENE_TABLES["keys"].order)
_OTHERS = tuple(table for table in SCENE_TABLES.values() if table.model is not Key)


def _rows_of(store: Store, scene_id: str, table: SceneTable) -> list[Any]:
    return fetch(store, table.name, f"scene_id = ? ORDER BY {', '.join(table.order)}", (scene_id,), table.model)


def _renewed(store: Store, scene_id: str, keys: list[Key], ids: Sequence[str]) -> list[Key]:
    """A scene's keys in order with some of them read again, or gone; an edit may touch other scenes' keys too."""
    if not ids:
        return keys
    stale = set(ids)
    found = [k for k in keys if k.id not in stale]
    for start in range(0, len(ids), 500):
        chunk = ids[start : start + 500]
        where = (
            f"JOIN channels c ON c.id = k.channel_id WHERE c.scene_id = ? AND k.id IN ({', '.join('?' * len(chunk))})"
        )
        for key in _read_keys(store, where, [scene_id, *chunk]):
            insort(found, key, key=_PLACE)
    return found


def _read_keys(store: Store, where: str, values: Sequence[str]) -> list[Key]:
    """Keys with the checks of their numbers alone: all others were made when they went in."""
    return [_key(row) for row in store.rows(f"{_KEYS} {where}", tuple(values))]


def _key(row: sqlite3.Row) -> Key:
    """A key of a row; one out of bounds, which somebody else's hand has written, raises ValidationError."""
    build = Key.model_construct if _in_bounds(row["time"], row["value"]) else Key
    return build(
        id=row["id"],
        channel_id=row["channel_id"],
        time=row["time"],
        value=row["value"],
        ease=row["ease"],
        curve=Curve(*json.loads(row["curve"])) if row["curve"] else None,
        chart=() if row["chart"] == "[]" else tuple(json.loads(row["chart"])),
        excerpt=Excerpt(*json.loads(row["excerpt"])) if row["excerpt"] else None,
        stay=bool(row["stay"]),
        aside=bool(row["aside"]),
    )


def _in_bounds(time: float, value: float) -> bool:
    return -LATEST <= time <= LATEST and -GREATEST <= value <= GREATEST
