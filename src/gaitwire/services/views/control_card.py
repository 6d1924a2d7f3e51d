"""What cards show of bend fixes, pads and gauges: the dial with its places, and what a place says of its owners."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from gaitwire.core.evaluate import CompiledScene
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.evaluate.controls import control_shares_of
from gaitwire.core.evaluate.values import sample_controls, shown_times
from gaitwire.core.notes.order import switches
from gaitwire.core.puppet.controls import CORRECTED, Control, Entry, RowKind, spread_of
from gaitwire.core.puppet.corrective_shapes import rivals, undrawn
from gaitwire.core.puppet.model import Part, Puppet, Replacement
from gaitwire.core.timing.channel import CONTROL_PROPERTIES, PROPERTIES, Property
from gaitwire.core.tolerances import TIME


class Mark(NamedTuple):
    """An entry on a dial, and parts for which it asks for a drawing that is not there."""

    entry: Entry
    title: str
    undrawn: tuple[str, ...]


class Blank(NamedTuple):
    """A usual place where nothing is stored."""

    name: str
    x: float
    y: float


_USUAL = (
    Blank("three-quarter", 45.0, 0.0), Blank("side", 90.0, 0.0), Blank("three-quarter, other way", -45.0, 0.0),
    Blank("side, other way", -90.0, 0.0), Blank("up", 0.0, 30.0), Blank("down", 0.0, -30.0),
)  # fmt: skip
_ROUND = (
    Blank("back three-quarter", 135.0, 0.0), Blank("back", 180.0, 0.0),
    Blank("back three-quarter, other way", -135.0, 0.0),
)  # fmt: skip
"""Places of a pad at which a head is usually drawn; the second lot where it goes round."""

_CLOSE = 16.0
"""Degrees within which an entry stands for a usual place."""


@dataclass(frozen=True)
class Dial:
    """A control as it is drawn: x from `left` to `right`, y from `low` to `high`, upwards."""

    control: Control
    left: float
    right: float
    low: float
    high: float
    marks: tuple[Mark, ...]
    blanks: tuple[Blank, ...]
    lines: tuple[tuple[float, float, float, float], ...]
    unit: str
    rivals: tuple[tuple[str, str, bool], ...]
    """Parts whose drawing another control decides about too: (part, the one that wins, whether it is this one)."""

    @property
    def width(self) -> float:
        return self.right - self.left

    @property
    def height(self) -> float:
        return self.high - self.low


def dial_of(puppet: Puppet, control: Control) -> Dial:
    """A control of a puppet as a dial."""
    entries = puppet.entries_of(control.id)
    left, right, low, high = _extent(control, entries)
    marks = tuple(Mark(e, _title(control, e), tuple(undrawn(puppet, e))) for e in entries)
    blanks: tuple[Blank, ...] = ()
    lines: tuple[tuple[float, float, float, float], ...] = ()
    if control.kind == "pad":
        usual = [b for b in (*_USUAL, *(_ROUND if control.wraps else ())) if left <= b.x <= right]
        blanks = tuple(b for b in usual if not any(_close(control, b, e) for e in entries))
        lines = tuple((*a, *b) for a, b in spread_of(control, entries).lines.tolist()) if entries else ()
    shared = tuple((name, other.name, other.id == control.id) for name, other in rivals(puppet, control))
    return Dial(control, left, right, low, high, marks, blanks, lines, "%" if control.kind == "gauge" else "°", shared)


def _extent(control: Control, entries: Sequence[Entry]) -> tuple[float, float, float, float]:
    if control.kind == "gauge":
        return (-100.0 if any(e.x < 0 for e in entries) else 0.0), 100.0, -3.0, 3.0
    if control.kind == "fix":
        return -180.0, 180.0, -6.0, 6.0
    wide = 180.0 if control.wraps or any(abs(e.x) > 90 for e in entries) else 90.0
    tall = max(45.0, *(abs(e.y) for e in entries)) if entries else 45.0
    return -wide, wide, -tall, tall


def _close(control: Control, blank: Blank, entry: Entry) -> bool:
    across = blank.x - entry.x
    if control.wraps:
        across -= 360 * round(across / 360)
    return abs(across) < _CLOSE and abs(blank.y - entry.y) < _CLOSE


def _title(control: Control, entry: Entry) -> str:
    place = f"{entry.x:g}%" if control.kind == "gauge" else f"{entry.x:g}°"
    if control.kind == "pad":
        place += f", {entry.y:g}° up"
    return f"{entry.name}, {place}" if entry.name else place


@dataclass(frozen=True)
class DialCard:
    """A pad or gauge of a puppet in a scene: its dial, where its point lies, and what is keyed."""

    instance_id: str
    view: Dial
    rows: tuple[tuple[Property, float, bool], ...]
    """(property, value, whether it has a key on this frame)."""
    switches: tuple[int, ...]
    """Frames on which it changes the drawing order."""
    keyed_parts: tuple[str, ...]
    """Parts whose drawing it would choose, but that have keys of their own."""

    @property
    def x(self) -> float:
        return self.rows[0][1]

    @property
    def y(self) -> float:
        return self.rows[1][1] if len(self.rows) > 1 else 0.0


def dial_cards(compiled: CompiledScene, nodes: Sequence[tuple[str, str]], frame: float) -> list[DialCard]:
    """The pads and gauges of what is chosen: of a whole puppet all, of a bone or part those that move it."""
    found = []
    for compiled_puppet in compiled.compiled_puppets:
        who, puppet = compiled_puppet.source.instance.id, compiled_puppet.source.puppet
        owners = {owner for instance, owner in nodes if instance == who}
        if owners and compiled_puppet.controls.owners:
            values = sample_controls(compiled_puppet, np.array([frame]))
            for number, (_, control_id) in enumerate(compiled_puppet.controls.owners):
                control = puppet.control(control_id)
                if control is not None and (owners & {who, control_id} or owners & _moves(puppet, control)):
                    found.append(_dial_card(compiled, compiled_puppet, control, values[number, :, 0].tolist(), frame))
    return found


def _moves(puppet: Puppet, control: Control) -> set[str]:
    homes = {p.id: p.bone_id for p in puppet.parts}
    owners = {r.owner_id for e in puppet.entries_of(control.id) for r in e.rows}
    return owners | {homes[o] for o in owners if o in homes}


def _dial_card(
    compiled: CompiledScene, compiled_puppet: CompiledPuppet, control: Control, values: Sequence[float], frame: float
) -> DialCard:
    who, puppet = compiled_puppet.source.instance.id, compiled_puppet.source.puppet
    keyed = {
        c.property
        for c, keys in compiled_puppet.source.channels
        if c.owner_id == control.id and any(abs(k.time - frame) < TIME for k in keys)
    }
    own_props = PROPERTIES["pad" if control.kind == "pad" else "gauge"].items()
    props = [prop for name, prop in own_props if name in CONTROL_PROPERTIES]
    rows = tuple((p, v, p.name in keyed) for p, v in zip(props, values, strict=False))
    drawn = {r.owner_id for e in puppet.entries_of(control.id) for r in e.rows if r.property in ("drawing", "shown")}
    own = {c.owner_id for c, keys in compiled_puppet.source.channels if c.property in ("drawing", "shown") and keys}
    parts = tuple(p.name for p in puppet.parts if p.id in drawn & own)
    return DialCard(who, dial_of(puppet, control), rows, _switches(compiled, compiled_puppet, control), parts)


def _switches(compiled: CompiledScene, puppet: CompiledPuppet, control: Control) -> tuple[int, ...]:
    scene = compiled.scene
    times = shown_times(puppet, np.arange(float(scene.frames)))
    control_shares = control_shares_of(puppet, sample_controls(puppet, times))
    for blend, shares in zip(puppet.blends, control_shares, strict=True):
        if blend.control.id == control.id and shares is not None:
            return tuple(sorted(switches(puppet, blend, shares, scene.loop)))
    return ()


class EntrySaying(NamedTuple):
    """What a place says of the chosen owners about one property; None where they differ."""

    prop: Property
    value: float | None
    told: bool
    """Whether it says anything, or they are as at rest."""


@dataclass(frozen=True)
class EntryCard:
    """What a place says of chosen parts, pins or bones."""

    kind: RowKind
    rows: tuple[EntrySaying, ...]
    drawings: tuple[Replacement, ...]
    shows: int | None
    """The drawing that it wants, or None for none in particular."""
    reshaped: int
    """Points that lie elsewhere."""


def carried_cards(puppet: Puppet, entry: Entry, bone_ids: Sequence[str]) -> list[tuple[Part, EntryCard]]:
    """The parts on the one chosen bone, the front one first, with what an entry says of them; none for several."""
    if len(bone_ids) != 1:
        return []
    parts = sorted((p for p in puppet.parts if p.bone_id == bone_ids[0]), key=lambda p: -p.rank)
    return [(p, entry_card(puppet, entry, "part", [p.id])) for p in parts]


def title_of(puppet: Puppet, entry: Entry) -> str:
    """What an entry is called where its control is not shown with it."""
    control = puppet.control(entry.control_id)
    return f"{control.name}, {_title(control, entry)}" if control else entry.name


def entry_card(puppet: Puppet, entry: Entry, kind: RowKind, owner_ids: Sequence[str]) -> EntryCard:
    """What an entry says of owners of one kind."""
    known = {(r.owner_id, r.property): r.value for r in entry.rows}
    rows = []
    for name, prop in CORRECTED[kind].items():
        if name == "drawing":
            continue
        values = {known.get((owner, name), prop.rest) for owner in owner_ids}
        told = any((owner, name) in known for owner in owner_ids)
        rows.append(EntrySaying(prop, values.pop() * prop.display if len(values) == 1 else None, told))
    part = puppet.part(owner_ids[0]) if kind == "part" and len(owner_ids) == 1 else None
    shows = known.get((owner_ids[0], "drawing"))
    reshaped = sum(len(r.points) for r in entry.reshapes if r.part_id in owner_ids)
    return EntryCard(
        kind, tuple(rows), puppet.drawings(part) if part else (), None if shows is None else round(shows), reshaped
    )
