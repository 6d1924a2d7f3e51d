"""Columns: where a property of an owner lies in the tables of nodes, parts, limbs and controls."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from gaitwire.core.conventions import IntArray
from gaitwire.core.timing.channel import (
    CONTROL_PROPERTIES,
    LIMB_PROPERTIES,
    NODE_PROPERTIES,
    PART_PROPERTIES,
    PROPERTIES,
    WHOLE_PROPERTIES,
    Channel,
    OwnerKind,
    repeat_of,
)
from gaitwire.core.timing.key import Key
from gaitwire.core.timing.loop import Repeat

_NODE_PLACE = {name: i for i, name in enumerate(NODE_PROPERTIES)}
_PART_PLACE = {name: i for i, name in enumerate(PART_PROPERTIES)}
_LIMB_PLACE = {name: i for i, name in enumerate(LIMB_PROPERTIES)}
_WHOLE_PLACE = {name: i for i, name in enumerate(WHOLE_PROPERTIES)}
_CONTROL_PLACE = {name: i for i, name in enumerate(CONTROL_PROPERTIES)}

KeyedChannels = list[tuple[Channel, list[Key]]]
"""Channels with their keys in order of time."""


@dataclass(frozen=True)
class Columns:
    """Rows of the key table with the columns that they fill."""

    rows: IntArray
    columns: IntArray


Repeats = dict[int, tuple[Repeat, bool]]


class OwnerIndices(NamedTuple):
    """Where owners stand in the tables of nodes, parts, limbs and controls, by id."""

    nodes: Mapping[str, int]
    parts: Mapping[str, int]
    limbs: Mapping[str, int]
    controls: Mapping[str, int]


TABLES = ("node", "part", "limb", "control", "whole")

Tables = dict[str, Columns]
"""Columns of the tables of nodes, parts, limbs, controls, and of the puppet as a whole."""


def read_columns(channels: KeyedChannels, owners: OwnerIndices) -> tuple[list[list[Key]], Tables, Repeats]:
    """The rows of keys of channels whose owners are there, the columns that each fills, and the rows that repeat."""
    live: list[list[Key]] = []
    repeats: Repeats = {}
    pairs: dict[str, list[tuple[int, int]]] = {name: [] for name in TABLES}
    for channel, keys in channels:
        column = column_of(channel.owner_kind, channel.owner_id, channel.property, owners)
        if column is None:
            continue  # Its owner is gone for now; the keys sleep.
        pairs[table_of(channel.owner_kind, channel.property)].append((len(live), column))
        if (again := repeat_of(channel, keys)) is not None:
            repeats[len(live)] = again
        if PROPERTIES[channel.owner_kind][channel.property].stepped:
            keys = [k.model_copy(update={"ease": "hold"}) for k in keys]
        live.append(keys)

    def table(found: list[tuple[int, int]]) -> Columns:
        rows, columns = np.array(found, np.int64).reshape(-1, 2).T.copy()
        return Columns(rows, columns)

    return live, {name: table(found) for name, found in pairs.items()}, repeats


def table_of(kind: OwnerKind, prop: str) -> str:
    """The table that holds the values of a property of a kind of owner."""
    if kind == "seat" and prop in WHOLE_PROPERTIES:
        return "whole"
    return kind if kind in ("part", "limb") else "control" if kind in ("pad", "gauge") else "node"


def column_of(kind: OwnerKind, owner_id: str, prop: str, owners: OwnerIndices) -> int | None:
    """Where what moves a property of an owner lies in the flat table of its kind."""
    index, places = {
        "part": (owners.parts, _PART_PLACE), "limb": (owners.limbs, _LIMB_PLACE), "node": (owners.nodes, _NODE_PLACE),
        "control": (owners.controls, _CONTROL_PLACE), "whole": (owners.nodes, _WHOLE_PLACE),
    }[table_of(kind, prop)]  # fmt: skip
    if owner_id not in index or prop not in places:
        return None
    return index[owner_id] * len(places) + places[prop]
