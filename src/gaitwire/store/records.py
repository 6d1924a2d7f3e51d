"""Rows and models: which table holds which model, and how its fields become columns."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any, TypeVar

from pydantic import BaseModel

from gaitwire.core.puppet.model import Bone, Part, Puppet
from gaitwire.core.scene import Instance, Scene
from gaitwire.core.timing.channel import Channel
from gaitwire.core.timing.key import Curve, Key
from gaitwire.store.connection import Store

Model = TypeVar("Model", bound=BaseModel)
Row = dict[str, Any]


@dataclass(frozen=True)
class Table:
    """A table of models; `json_columns` are stored as JSON text."""

    name: str
    model: type[BaseModel]
    columns: tuple[str, ...]
    json_columns: frozenset[str] = frozenset()

    def to_row(self, item: BaseModel) -> Row:
        """Column values of a model."""
        row = {c: getattr(item, c) for c in self.columns}
        for c in self.json_columns:
            row[c] = None if row[c] is None else json.dumps(row[c])
        return {c: int(v) if isinstance(v, bool) else v for c, v in row.items()}

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
        _table("puppets", Puppet, skip=("revision", "bones", "parts")),
        _table("bones", Bone),
        _table("parts", Part),
        _table("scenes", Scene, skip=("revision", "instances", "channels", "keys")),
        _table("instances", Instance),
        _table("channels", Channel),
        _table("keys", Key, json_columns=("curve",)),
    )
}
"""Every table whose rows are kept in history."""


def fetch(store: Store, sql: str, values: tuple[object, ...], model: type[Model]) -> list[Model]:
    """Rows of a query as models; what is in the store was validated when it went in."""
    return [model.model_validate(dict(row)) for row in store.rows(sql, values)]


class KeyShelf:
    """Keys as they were last read, so that a row that has not changed gives the very same model again.

    A scene may hold tens of thousands of keys, and an edit touches a few: those alone are made
    anew. They are not validated: what is in the store was, when it went in.
    """

    def __init__(self) -> None:
        self._scenes: dict[str, dict[str, tuple[tuple[Any, ...], Key]]] = {}

    def fetch(self, store: Store, scene_id: str) -> list[Key]:
        """All keys of a scene, by channel and time."""
        rows = store.rows(
            "SELECT k.id, k.channel_id, k.time, k.value, k.ease, k.curve FROM keys k"
            " JOIN channels c ON c.id = k.channel_id WHERE c.scene_id = ? ORDER BY k.channel_id, k.time",
            (scene_id,),
        )
        kept = self._scenes.get(scene_id, {})
        fresh: dict[str, tuple[tuple[Any, ...], Key]] = {}
        for row in rows:
            values = tuple(row)
            found = kept.get(values[0])
            fresh[values[0]] = found if found is not None and found[0] == values else (values, _key(row))
        self._scenes[scene_id] = fresh
        return [key for _, key in fresh.values()]


def _key(row: sqlite3.Row) -> Key:
    curve = Curve(*json.loads(row["curve"])) if row["curve"] else None
    return Key.model_construct(
        id=row["id"], channel_id=row["channel_id"], time=row["time"], value=row["value"], ease=row["ease"], curve=curve
    )
