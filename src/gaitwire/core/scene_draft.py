"""A scene as a gesture leaves it so far, and what it has changed by then.

Gestures put rows and remove them by their models; the scene that comes of it is there at once. Nothing is
stored: whoever holds the draft stores what it says is `written`, or shows it and forgets it.
"""

from __future__ import annotations

from bisect import insort
from collections.abc import Iterable, Mapping
from operator import attrgetter
from typing import Any, TypeVar

from pydantic import BaseModel

from gaitwire.core.scene import Scene
from gaitwire.core.scene_tables import BY_MODEL, SceneTable, in_order
from gaitwire.core.timing.key import Key

Row = TypeVar("Row", bound=BaseModel)

_FEW = 200
"""Rows up to which each is put into its place; more are put in order all at once."""


class SceneDraft:
    """Starts from a scene. Rows of other models than a scene's are only kept, in what is written."""

    def __init__(self, before: Scene) -> None:
        self.before = before
        self._scene = before
        self._written: dict[type[BaseModel], dict[str, Any]] = {}
        self._late: dict[type[BaseModel], dict[str, Any]] = {}

    @property
    def scene(self) -> Scene:
        """The scene with all that was put and removed; the very same one while nothing is."""
        if self._late:
            head = self._late.pop(Scene, {}).get(self.before.id, self._scene)
            settings = {name: getattr(head, name) for name in _SETTINGS} if head is not self._scene else {}
            rows = {t.name: _changed(t, getattr(self._scene, t.name), rows) for t, rows in self._of_tables()}
            self._scene = self._scene.model_copy(update=settings | rows)
            self._late = {}
        return self._scene

    def _of_tables(self) -> Iterable[tuple[SceneTable, dict[str, Any]]]:
        return ((BY_MODEL[model], rows) for model, rows in self._late.items())

    def put(self, rows: Iterable[BaseModel]) -> None:
        """Put rows, in place of those of the same id; of a `Scene`, its own settings."""
        for row in rows:
            self._write(type(row), row.id, row)  # type: ignore[attr-defined]

    def remove(self, model: type[BaseModel], ids: Iterable[str]) -> None:
        """Remove rows by id; what hangs from them is to be removed by the same gesture."""
        for row_id in ids:
            self._write(model, row_id, None)

    def _write(self, model: type[BaseModel], row_id: str, row: BaseModel | None) -> None:
        self._written.setdefault(model, {})[row_id] = row
        if model in BY_MODEL or model is Scene:
            self._late.setdefault(model, {})[row_id] = row

    def written(self, model: type[Row]) -> Mapping[str, Row | None]:
        """What was put of a model, by id; None for what was removed."""
        return self._written.get(model, {})

    @property
    def models(self) -> Iterable[type[BaseModel]]:
        """The models of all that is written."""
        return self._written.keys()

    def key_written_at(self, key: Key) -> str | None:
        """The id of the key that this gesture has written where another one is to be."""
        rows = self.written(Key).values()
        found = (k for k in rows if k is not None and (k.channel_id, k.time) == (key.channel_id, key.time))
        return next((k.id for k in found), None)


_SETTINGS = tuple(n for n in Scene.model_fields if n not in {t.name for t in BY_MODEL.values()} and n != "revision")


def _changed(table: SceneTable, rows: tuple[Any, ...], written: Mapping[str, Any]) -> tuple[Any, ...]:
    """Rows in order, with others in their place or among them."""
    found = [row for row in rows if row.id not in written]
    put = [row for row in written.values() if row is not None]
    if len(put) > _FEW:
        return in_order(table, [*found, *put])
    for row in put:
        insort(found, row, key=attrgetter(*table.order))
    return tuple(found)
