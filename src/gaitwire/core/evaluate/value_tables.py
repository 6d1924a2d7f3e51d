"""Tables of values: where a property of an owner lies among those of nodes, parts, limbs and controls."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from gaitwire.core.addresses import Node, OwnAddress
from gaitwire.core.conventions import FloatArray, IntArray
from gaitwire.core.timing.channel import (
    CONTROL_PROPERTIES,
    LEADING_PROPERTIES,
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
from gaitwire.core.timing.offset import Offset

_NODE_PLACE = {name: i for i, name in enumerate(NODE_PROPERTIES)}
_PART_PLACE = {name: i for i, name in enumerate(PART_PROPERTIES)}
_LIMB_PLACE = {name: i for i, name in enumerate(LIMB_PROPERTIES)}
_WHOLE_PLACE = {name: i for i, name in enumerate(WHOLE_PROPERTIES)}
_CONTROL_PLACE = {name: i for i, name in enumerate(CONTROL_PROPERTIES)}
_LEADING_PLACE = {name: i for i, name in enumerate(LEADING_PROPERTIES)}

KeyedChannels = list[tuple[Channel, list[Key]]]
"""Channels with their keys in order of time."""


Repeats = dict[int, tuple[Repeat, bool]]


class OwnerIndices(NamedTuple):
    """Where owners stand in the tables of nodes, parts, limbs and controls, by id."""

    nodes: Mapping[str, int]
    parts: Mapping[str, int]
    limbs: Mapping[str, int]
    controls: Mapping[str, int]
    led: Mapping[str, int]
    """Of all that can be led, whatever it is."""


TABLES = ("node", "part", "limb", "control", "whole", "led")
"""Of nodes, parts, limbs, controls, of the puppet as a whole, and of all that can be led."""


@dataclass(frozen=True)
class ValueTable:
    """Where values of n owners lie, P properties each, one column each, and which keys and offsets fill them."""

    owners: tuple[Node, ...]
    properties: tuple[str, ...]
    rows: IntArray  # (C,) of the key table, of the channels that fill a column
    columns: IntArray  # (C,) the columns that they fill: owner * P + property
    offsets: tuple[tuple[int, Offset], ...]  # (column, what is added there over a span)

    def __len__(self) -> int:
        return len(self.owners) * len(self.properties)

    def address(self, column: int) -> OwnAddress:
        """What a column is a value of."""
        owner, prop = divmod(column, len(self.properties))
        return self.owners[owner][1], self.properties[prop]

    def column(self, owner: Node, prop: str) -> int | None:
        """Where a value lies; None where that is not there."""
        if owner not in self.owners or prop not in self.properties:
            return None
        return self.owners.index(owner) * len(self.properties) + self.properties.index(prop)


@dataclass(frozen=True)
class PartTable(ValueTable):
    """The same of P parts, with what they are at rest."""

    node: IntArray  # (P,) node that carries each part
    pivot: FloatArray  # (2, P) that node's pivot at rest, in the part's own pixels
    opacity: FloatArray  # (P,)
    shows: FloatArray  # (P,) number of the drawing that shows at rest
    distance: FloatArray  # (P,) how much of a camera's way it takes part in
    shadow: FloatArray  # (P,) pixels of rise at which a shadow has half its size; 0 for what is none
    drawings: tuple[IntArray, ...]  # of each part: its drawings' numbers, in order


def read_columns(
    channels: KeyedChannels, owners: OwnerIndices
) -> tuple[list[list[Key]], dict[str, tuple[IntArray, IntArray]], Repeats]:
    """Keys of channels whose owners are there; by table which rows of these fill which columns; rows that repeat."""
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

    filled = {name: np.array(found, np.int64).reshape(-1, 2).T.copy() for name, found in pairs.items()}
    return live, {name: (rows, columns) for name, (rows, columns) in filled.items()}, repeats


def table_of(kind: OwnerKind, prop: str) -> str:
    """The table that holds the values of a property of a kind of owner."""
    if kind == "seat" and prop in WHOLE_PROPERTIES:
        return "whole"
    if prop in LEADING_PROPERTIES:
        return "led"
    return kind if kind in ("part", "limb") else "control" if kind in ("pad", "gauge") else "node"


def column_of(kind: OwnerKind, owner_id: str, prop: str, owners: OwnerIndices) -> int | None:
    """Where what moves a property of an owner lies in the flat table of its kind."""
    index, places = {
        "part": (owners.parts, _PART_PLACE), "limb": (owners.limbs, _LIMB_PLACE), "node": (owners.nodes, _NODE_PLACE),
        "control": (owners.controls, _CONTROL_PLACE), "whole": (owners.nodes, _WHOLE_PLACE),
        "led": (owners.led, _LEADING_PLACE),
    }[table_of(kind, prop)]  # fmt: skip
    if owner_id not in index or prop not in places:
        return None
    return index[owner_id] * len(places) + places[prop]
