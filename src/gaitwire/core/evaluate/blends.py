"""Bend fixes, pads and gauges of one puppet as arrays: what each entry says, by columns of the puppet's tables."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from gaitwire.core.conventions import FloatArray, IntArray
from gaitwire.core.geometry.spread import Spread
from gaitwire.core.puppet.controls import CORRECTED, ROUND, STEPPED, Control, Entry, Row, spread_of
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.timing.channel import NODE_PROPERTIES, PART_PROPERTIES

PLACING = ("turn", "shift_x", "shift_y", "stretch", "widen", "skew")
"""Columns of the table that places parts on their bones."""


@dataclass(frozen=True)
class Lane:
    """What the entries of a control say about R columns of a table; entry 0 is the puppet at rest."""

    columns: IntArray  # (R,)
    away: FloatArray  # (E, R) values less what they are at rest
    ratio: np.ndarray  # (R,) whether they multiply

    def compose(self, table: FloatArray, weights: FloatArray) -> None:
        """Lay it on a table (columns, F), by the entries' shares (E, F)."""
        if not len(self.columns):
            return
        moved = self.away.T @ weights
        table[self.columns] = np.where(
            self.ratio[:, None], table[self.columns] * (1 + moved), table[self.columns] + moved
        )


class SteppedRow(NamedTuple):
    """What the entries say about a column that has nothing in between; NaN where one says nothing."""

    column: int
    prop: str
    numbers: FloatArray  # (E,)


class Shaped(NamedTuple):
    """How the entries have the points of a soft or reshaped part lie elsewhere."""

    soft: int
    away: np.ndarray  # (E, K) complex


@dataclass(frozen=True)
class Blend:
    """One control as arrays."""

    control: Control
    row: int  # in the table of controls; -1 for a fix
    joint: int  # the node whose turn places a fix; -1 for others
    spread: Spread
    nodes: Lane  # bones and pins; of a fix, pins alone
    placing: Lane  # parts on their bones
    parts: Lane  # parts' opacity
    steps: tuple[SteppedRow, ...]
    shapes: tuple[Shaped, ...]

    @property
    def is_fix(self) -> bool:
        return self.joint >= 0

    def places(self, controls: FloatArray, turns: FloatArray | None) -> FloatArray | None:
        """Where it stands (F, 2), from the table of controls (C, 2, F), or of joints' turns (N, F); None unknown."""
        if not self.is_fix:
            return np.asarray(controls[self.row].T)
        if turns is None:
            return None
        angle = turns[self.joint]
        return np.stack([angle - ROUND * np.rint(angle / ROUND), np.zeros_like(angle)], axis=1)


class BlendOwners(NamedTuple):
    """Where owners stand in the tables of nodes, parts, controls, and among the soft parts, by id."""

    nodes: Mapping[str, int]
    parts: Mapping[str, int]
    controls: Mapping[str, int]
    softs: Mapping[str, tuple[int, Callable[[int], slice], int]]
    """(which soft part, where a drawing's points lie among its own, how many it has)."""


def blends_of(puppet: Puppet, owners: BlendOwners) -> tuple[Blend, ...]:
    """The puppet's controls in their order; one without entries, or whose joint is gone, sleeps."""
    found = []
    for control in sorted(puppet.controls, key=lambda c: (c.rank, c.id)):
        entries = puppet.entries_of(control.id)
        joint = owners.nodes.get(control.bone_id or "", -1)
        if entries and (control.kind != "fix" or joint >= 0):
            found.append(_blend(puppet, control, entries, joint if control.kind == "fix" else -1, owners))
    return tuple(found)


def _blend(puppet: Puppet, control: Control, entries: Sequence[Entry], joint: int, owners: BlendOwners) -> Blend:
    names = {"node": NODE_PROPERTIES, "placing": PLACING, "part": PART_PROPERTIES}
    rows: dict[str, dict[int, tuple[Row, list[float]]]] = {name: {} for name in names}
    for at, entry in enumerate(entries, start=1):
        for row in entry.rows:
            index = (owners.parts if row.kind == "part" else owners.nodes).get(row.owner_id)
            if index is None or row.property not in CORRECTED[row.kind]:
                continue
            table = "node" if row.kind != "part" else "placing" if row.property in PLACING else "part"
            column = index * len(names[table]) + names[table].index(row.property)
            blank = math.nan if row.property in STEPPED else CORRECTED[row.kind][row.property].rest
            rows[table].setdefault(column, (row, [blank] * (len(entries) + 1)))[1][at] = row.value
    steps = tuple(
        SteppedRow(column, row.property, np.array(values))
        for column, (row, values) in rows["part"].items()
        if row.property in STEPPED
    )
    smooth = {column: found for column, found in rows["part"].items() if found[0].property not in STEPPED}
    node, placing, part = (_lane(found, len(entries) + 1) for found in (rows["node"], rows["placing"], smooth))
    own, shapes = owners.controls.get(control.id, -1), tuple(_shapes(entries, owners))
    return Blend(control, own, joint, spread_of(control, entries), node, placing, part, steps, shapes)


def _lane(rows: Mapping[int, tuple[Row, list[float]]], entries: int) -> Lane:
    rest = np.array([CORRECTED[row.kind][row.property].rest for row, _ in rows.values()])
    values = np.array([values for _, values in rows.values()]).reshape(len(rows), entries)
    return Lane(np.array(list(rows), np.int64), values.T - rest, rest == 1.0)


def _shapes(entries: Sequence[Entry], owners: BlendOwners) -> Iterable[Shaped]:
    found: dict[str, np.ndarray] = {}
    for at, entry in enumerate(entries, start=1):
        for reshape in entry.reshapes:
            if reshape.part_id not in owners.softs:
                continue
            _, drawing, count = owners.softs[reshape.part_id]
            away = found.setdefault(reshape.part_id, np.zeros((len(entries) + 1, count), complex))
            within = drawing(reshape.drawing)
            own = away[at, within]  # a view
            for index, x, y in reshape.points if len(own) == reshape.count else ():
                own[index] = complex(x, y)
    for part_id, away in found.items():
        yield Shaped(owners.softs[part_id][0], away)
