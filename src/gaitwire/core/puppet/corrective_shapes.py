"""Editing bend fixes, pads and gauges: pure functions from a puppet to what changes."""

from __future__ import annotations

import math
from collections.abc import Callable, Collection, Iterable, Mapping, Sequence

import numpy as np

from gaitwire.core.errors import InvalidInputError, NotFoundError
from gaitwire.core.puppet.change import PuppetChange
from gaitwire.core.puppet.controls import (
    CORRECTED,
    LIMITS,
    NEAR,
    ROUND,
    STEPPED,
    Control,
    Entry,
    Reshape,
    Row,
    spread_of,
)
from gaitwire.core.puppet.edit import entries_in, find_bone
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.puppet.twins import Twin

NO_DRAWING = -1
"""The number that stands for a drawing that is yet to be drawn."""

MOST_ENTRIES = 60
"""On one control: more could not be told apart on it."""

_NOTHING = 1e-9


def find_control(puppet: Puppet, control_id: str) -> Control:
    """The control; raises NotFoundError."""
    control = puppet.control(control_id)
    if control is None:
        raise NotFoundError("This fix, pad or gauge is not in the puppet any more.", "Choose another.")
    return control


def find_entry(puppet: Puppet, entry_id: str) -> Entry:
    """The entry; raises NotFoundError."""
    entry = puppet.entry(entry_id)
    if entry is None:
        raise NotFoundError("This place is not on its control any more.", "Choose another.")
    return entry


def add_control(puppet: Puppet, control: Control) -> PuppetChange:
    """One more control, last in the list; raises InvalidInputError for a second fix of the same joint."""
    if control.kind == "fix":
        bone = find_bone(puppet, control.bone_id or "")
        if any(c.bone_id == bone.id for c in puppet.controls):
            raise InvalidInputError(f"“{bone.name}” has a bend fix already.", "Add an angle to that one.")
    last = max((c.rank for c in puppet.controls), default=-1)
    return PuppetChange(controls=(control.model_copy(update={"rank": last + 1}),))


def remove_controls(puppet: Puppet, control_ids: Collection[str]) -> PuppetChange:
    """Remove controls with their entries."""
    gone = tuple(find_control(puppet, i).id for i in control_ids)
    return PuppetChange(removed_controls=gone, removed_entries=entries_in(puppet, gone))


def step_control(puppet: Puppet, control_id: str, steps: int) -> PuppetChange:
    """Move a control by places in the list; the later one has its way about drawings."""
    order = sorted(puppet.controls, key=lambda c: (c.rank, c.id))
    moved = find_control(puppet, control_id)
    at = order.index(moved)
    order.remove(moved)
    order.insert(max(0, min(len(order), at + steps)), moved)
    return PuppetChange(controls=tuple(c.model_copy(update={"rank": n}) for n, c in enumerate(order) if c.rank != n))


def put_entry(puppet: Puppet, entry: Entry) -> PuppetChange:
    """An entry, new or changed; raises InvalidInputError for a place that it cannot have."""
    control = find_control(puppet, entry.control_id)
    across, up = LIMITS[control.kind]
    if abs(entry.x) > across or abs(entry.y) > up:
        unit = "%" if control.kind == "gauge" else "°"
        tall = f" across and {up:g}{unit} up" if up else ""
        raise InvalidInputError(
            f"A place on “{control.name}” lies within {across:g}{unit}{tall} of nought.", "Type a number within that."
        )
    if math.hypot(entry.x, entry.y) < NEAR:
        raise InvalidInputError("At nought the puppet is at rest.", "Change that on the Bench itself.")
    others = [e for e in puppet.entries_of(control.id) if e.id != entry.id]
    if any(same_place(control, entry, other) for other in others):
        raise InvalidInputError(f"Something is stored at this place of “{control.name}” already.", "Correct that.")
    if len(others) >= MOST_ENTRIES:
        raise InvalidInputError(f"A control has at most {MOST_ENTRIES} places.", "Remove some first.")
    return PuppetChange(entries=(entry,))


def same_place(control: Control, one: Entry, other: Entry) -> bool:
    """Whether two entries lie so near to each other that they could not be told apart."""
    across = one.x - other.x
    if control.wraps or control.kind == "fix":
        across -= ROUND * round(across / ROUND)
    return math.hypot(across, one.y - other.y) < NEAR


def remove_entries(puppet: Puppet, entry_ids: Collection[str]) -> PuppetChange:
    """Remove entries; a control that has none left does nothing."""
    return PuppetChange(removed_entries=tuple(find_entry(puppet, i).id for i in entry_ids))


def with_rows(puppet: Puppet, entry: Entry, rows: Iterable[Row]) -> Entry:
    """The entry with some of its rows set; one that says what rest says is dropped.

    Raises InvalidInputError for what a correction cannot say, and for bones in a bend fix.
    """
    control = find_control(puppet, entry.control_id)
    found = {(r.owner_id, r.property): r for r in entry.rows}
    for row in rows:
        if row.property not in CORRECTED[row.kind]:
            raise InvalidInputError(f"A {row.kind} has no “{row.property}” to correct.")
        if control.kind == "fix" and row.kind == "bone":
            raise InvalidInputError("A bend fix corrects parts and pins, never bones.", "Pick a part of the art.")
        prop = CORRECTED[row.kind][row.property]
        held = min(prop.high, max(prop.low, row.value))
        at_rest = abs(held - prop.rest) < _NOTHING and row.property not in ("drawing", "shown")
        found.pop((row.owner_id, row.property), None)
        if not at_rest:
            stepped = row.property in STEPPED
            found[row.owner_id, row.property] = row.model_copy(update={"value": round(held, 0 if stepped else 6)})
    return entry.model_copy(update={"rows": tuple(found.values())})


def without_rows(entry: Entry, owner_ids: Collection[str], prop: str = "") -> Entry:
    """The entry without what it says of some owners, or (with `prop`) without that one property."""
    rows = tuple(r for r in entry.rows if r.owner_id not in owner_ids or (prop and r.property != prop))
    reshapes = entry.reshapes if prop else tuple(r for r in entry.reshapes if r.part_id not in owner_ids)
    return entry.model_copy(update={"rows": rows, "reshapes": reshapes})


def blended(puppet: Puppet, control: Control, x: float, y: float) -> tuple[tuple[Row, ...], tuple[Reshape, ...]]:
    """What a control says at a place between its entries, as an entry there would."""
    entries = puppet.entries_of(control.id)
    place, spread = np.array([[x, y]]), spread_of(control, entries)
    shares, nearest = spread.shares(place)[:, 0], int(spread.nearest(place)[0])
    rows: dict[tuple[str, str], Row] = {}
    points: dict[tuple[str, int, int], dict[int, complex]] = {}
    for n, entry in enumerate(entries, start=1):
        for row in entry.rows:
            address, rest = (row.owner_id, row.property), CORRECTED[row.kind][row.property].rest
            if row.property not in STEPPED:
                was = rows[address].value if address in rows else rest
                rows[address] = row.model_copy(update={"value": was + shares[n] * (row.value - rest)})
            elif n == nearest:
                rows[address] = row
        for reshape in entry.reshapes:
            own = points.setdefault((reshape.part_id, reshape.drawing, reshape.count), {})
            for i, dx, dy in reshape.points:
                own[i] = own.get(i, 0j) + shares[n] * complex(dx, dy)
    blank = Entry(id="", puppet_id="", control_id=control.id)
    found = with_rows(puppet, blank, rows.values())
    for (part_id, drawing, count), own in points.items():
        moved = tuple((i, z.real, z.imag) for i, z in sorted(own.items()))
        found = with_reshape(found, Reshape(part_id=part_id, drawing=drawing, count=count, points=moved))
    return found.rows, found.reshapes


def with_reshape(entry: Entry, reshape: Reshape) -> Entry:
    """The entry with the points of one drawing elsewhere; none at all if nothing lies elsewhere."""
    points = tuple((i, round(x, 4), round(y, 4)) for i, x, y in reshape.points if abs(x) > 1e-4 or abs(y) > 1e-4)
    others = tuple(r for r in entry.reshapes if (r.part_id, r.drawing) != (reshape.part_id, reshape.drawing))
    return entry.model_copy(
        update={"reshapes": (*others, reshape.model_copy(update={"points": points})) if points else others}
    )


def rivals(puppet: Puppet, control: Control) -> list[tuple[str, Control]]:
    """Parts whose drawing this control and another one decide about: (name of the part, the one that wins)."""
    ranked = sorted(puppet.controls, key=lambda c: (c.rank, c.id))
    about = {c.id: _drawn(puppet, c) for c in ranked}
    found = []
    for part in puppet.parts:
        sharing = [c for c in ranked if part.id in about[c.id]]
        if len(sharing) > 1 and control in sharing:
            found.append((part.name, sharing[-1]))
    return found


def _drawn(puppet: Puppet, control: Control) -> set[str]:
    return {r.owner_id for e in puppet.entries_of(control.id) for r in e.rows if r.property in ("drawing", "shown")}


def undrawn(puppet: Puppet, entry: Entry) -> list[str]:
    """Names of parts for which an entry asks for a drawing that is not there."""
    found = []
    for row in entry.rows:
        part = puppet.part(row.owner_id) if row.property == "drawing" else None
        if part is not None and row.value not in {d.number for d in puppet.drawings(part)}:
            found.append(part.name)
    return found


def reflected_value(prop: str, value: float) -> float:
    """What a value is on the other side of an upright line."""
    return -value if prop in ("turn", "shift_x", "skew") else value


def mirrored_rows(rows: Sequence[Row], twin: Twin, across: bool) -> tuple[tuple[Row, ...], list[Row]]:
    """Rows for the other side, and those for which nothing is there."""
    made, lost = [], []
    for row in rows:
        owner = twin(row.kind, row.owner_id)
        if owner is None:
            lost.append(row)
            continue
        value = reflected_value(row.property, row.value) if across else row.value
        made.append(row.model_copy(update={"owner_id": owner, "value": value}))
    return tuple(made), lost


def mirror_fix(
    puppet: Puppet, control: Control, twin: Twin, across: bool, reshaped: Mapping[str, tuple[Reshape, ...]],
    new_id: Callable[[], str],
) -> tuple[PuppetChange, list[Row]]:  # fmt: skip
    """A bend fix on the joint of the other side, in place of what is there; and rows that found no owner.

    `across`: it is the mirror image, else it turns the same way. `reshaped` holds each entry's points
    on the other side, by entry.
    """
    bone = find_bone(puppet, control.bone_id or "")
    other = twin("bone", bone.id)
    if other is None or other == bone.id:
        raise InvalidInputError(f"“{bone.name}” has no twin on the other side.", "Name or mirror the bone there first.")
    known = next((c for c in puppet.controls if c.bone_id == other), None)
    made = control.model_copy(
        update={
            "id": known.id if known else new_id(), "bone_id": other, "name": find_bone(puppet, other).name,
            "rank": known.rank if known else max(c.rank for c in puppet.controls) + 1,
        }
    )  # fmt: skip
    entries, lost = [], []
    for entry in puppet.entries_of(control.id):
        rows, gone = mirrored_rows(entry.rows, twin, across)
        lost += gone
        update = {
            "id": new_id(), "control_id": made.id, "x": -entry.x if across else entry.x, "rows": rows,
            "reshapes": reshaped.get(entry.id, ()),
        }  # fmt: skip
        entries.append(entry.model_copy(update=update))
    gone_entries = entries_in(puppet, {known.id}) if known else ()
    return PuppetChange(controls=(made,), entries=tuple(entries), removed_entries=gone_entries), lost
