"""What a scene is made of besides its own settings: one table of the kinds of rows that it holds.

A new kind is a field of `Scene`, a model and one entry here: it is stored and read, goes when its puppet or its
scene goes, and slides with the keys that it belongs to.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from operator import attrgetter
from typing import Any

from pydantic import BaseModel

from gaitwire.core.guide import Guide
from gaitwire.core.links import Bearing, Hitch, Plant
from gaitwire.core.motion.drivers.driver import Driver
from gaitwire.core.motion.phrase import PhraseUse
from gaitwire.core.motion.roll import Roll
from gaitwire.core.motion.turning import Turn
from gaitwire.core.scene import Instance, Scene
from gaitwire.core.sound import Sound
from gaitwire.core.timing.channel import Channel
from gaitwire.core.timing.key import Key
from gaitwire.core.timing.mark import Marker, Pose
from gaitwire.core.timing.offset import Offset
from gaitwire.core.walk.span import GaitSpan


@dataclass(frozen=True)
class SceneTable:
    """A kind of row: `name` is its field of `Scene` and its table in the store."""

    name: str
    model: type[BaseModel]
    order: tuple[str, ...]
    """Fields by which its rows are in order."""
    json: tuple[str, ...] = ()
    """Fields that are stored as JSON."""
    of_puppet: bool = True
    """Whether each row belongs to one puppet of the scene, by `instance_id`, and goes with it."""
    times: tuple[str, ...] = ()
    """Fields that name frames and slide when the keys that a row belongs to slide."""


_KINDS = (  # owners before what they own
    SceneTable("instances", Instance, ("depth", "id"), of_puppet=False),
    SceneTable("channels", Channel, ("id",)),
    SceneTable("keys", Key, ("channel_id", "time"), json=("curve", "chart", "excerpt"), of_puppet=False),
    SceneTable("poses", Pose, ("instance_id", "time"), times=("time",)),
    SceneTable("markers", Marker, ("time",), of_puppet=False),
    SceneTable("offsets", Offset, ("start", "id")),
    SceneTable("guides", Guide, ("name", "id"), json=("pictures",), of_puppet=False),
    SceneTable("sounds", Sound, ("rank", "id"), of_puppet=False),
    SceneTable("plants", Plant, ("instance_id", "limb_id", "start", "id"), times=("start", "stop")),
    SceneTable("hitches", Hitch, ("instance_id", "owner_id", "time"), times=("time",)),
    SceneTable("bearings", Bearing, ("instance_id", "time"), times=("time",)),
    SceneTable("gaits", GaitSpan, ("instance_id", "start", "id"), json=("card",)),
    SceneTable("rolls", Roll, ("instance_id", "owner_id")),
    SceneTable("turns", Turn, ("instance_id", "time", "id")),
    SceneTable("drivers", Driver, ("instance_id", "owner_id", "id"), json=("settings",)),
    SceneTable("phrase_uses", PhraseUse, ("instance_id", "start", "id"), json=("phrase", "settings")),
)

SCENE_TABLES: dict[str, SceneTable] = {table.name: table for table in _KINDS}

TIMED = tuple(table for table in _KINDS if table.times)
"""Kinds of rows that slide with keys."""

BY_MODEL: Mapping[type[BaseModel], SceneTable] = {table.model: table for table in _KINDS}


def rows_of_puppet(scene: Scene, instance_id: str) -> dict[type[BaseModel], list[str]]:
    """Ids of all that belongs to one puppet of a scene, itself included, by model; what is owned before its owner."""
    channels = {c.id for c in scene.channels if c.instance_id == instance_id}
    found: dict[type[BaseModel], list[str]] = {}
    for table in reversed(_KINDS):
        rows = getattr(scene, table.name)
        if table.model is Key:
            found[Key] = [k.id for k in rows if k.channel_id in channels]
        elif table.of_puppet:
            found[table.model] = [row.id for row in rows if row.instance_id == instance_id]
    return found | {Instance: [instance_id]}


def in_order(table: SceneTable, rows: Iterable[Any]) -> tuple[Any, ...]:
    """Rows in their table's order."""
    return tuple(sorted(rows, key=attrgetter(*table.order)))
