"""Bend fixes, pads and gauges of a puppet: every gesture on them is one step of history."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Sequence
from typing import Any, NamedTuple

import numpy as np

from gaitwire.core.conventions import Point
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate import CompiledScene, evaluate
from gaitwire.core.evaluate.handles import drag, take_all, tops
from gaitwire.core.evaluate.parting import part_grip
from gaitwire.core.geometry import affine
from gaitwire.core.ids import new_id
from gaitwire.core.owners import owned
from gaitwire.core.puppet import corrective_shapes as rules
from gaitwire.core.puppet.change import PuppetChange, applied
from gaitwire.core.puppet.controls import CORRECTED, Control, ControlKind, Entry, Reshape, Row, RowKind
from gaitwire.core.puppet.edit import find_bone, find_part
from gaitwire.core.puppet.model import Bone, Part, Pin, Puppet
from gaitwire.core.puppet.reshaping import Outline, outline_of
from gaitwire.core.puppet.soften import has_pictures
from gaitwire.services.rig.gestures import PuppetGestures
from gaitwire.services.session.naming import clean_name, unlike
from gaitwire.services.session.revising import revised
from gaitwire.services.session.skins import WHOLE, soft_name
from gaitwire.services.session.workspace import Placed

NAMES: dict[ControlKind, str] = {"fix": "bend fix", "pad": "facing pad", "gauge": "gauge"}
"""What each kind is called on the page."""

RowOwner = tuple[RowKind, str]


class Drag(NamedTuple):
    """A gesture on chosen owners, between two points of the stage; `anchors` name points of a drawing."""

    gesture: str
    owners: tuple[RowOwner, ...]
    start: Point
    now: Point
    anchors: tuple[int, ...] = ()


class Dragged(NamedTuple):
    """An entry as a drag has it, and what of it the drag says."""

    entry: Entry
    rows: tuple[Row, ...]
    reshapes: tuple[Reshape, ...]


class Correcting(PuppetGestures):
    """One puppet's controls and their entries."""

    def add_fix(self, bone_id: str, angle: float) -> str:
        """A bend fix of a joint, or another angle of the one that it has; the new entry's id."""
        puppet = self.puppet
        known = next((c for c in puppet.controls if c.kind == "fix" and c.bone_id == bone_id), None)
        if known is not None:
            return self.add_entry(known.id, angle, 0.0)
        bone = find_bone(puppet, bone_id)
        control = Control(id=new_id(), puppet_id=puppet.id, kind="fix", name=bone.name, bone_id=bone.id)
        entry = Entry(id=new_id(), puppet_id=puppet.id, control_id=control.id, x=angle)

        def work(puppet: Puppet) -> PuppetChange:
            change = rules.add_control(puppet, control)
            rules.put_entry(applied(puppet, change), entry)
            return change._replace(entries=(entry,))

        self.commit("add a bend fix", work)
        return entry.id

    def add_control(self, kind: ControlKind, name: str = "") -> str:
        """A pad or a gauge without entries; its id."""
        made = new_id()

        def work(puppet: Puppet) -> PuppetChange:
            title = unlike(clean_name(name or NAMES[kind]), (c.name for c in puppet.controls))
            return rules.add_control(puppet, Control(id=made, puppet_id=puppet.id, kind=kind, name=title))

        self.commit(f"add a {NAMES[kind]}", work)
        return made

    def set_control(self, control_id: str, values: dict[str, Any]) -> None:
        """Rename a control, or say whether a pad wraps round."""
        named = {**values, "name": clean_name(str(values["name"]))} if "name" in values else values

        def work(puppet: Puppet) -> PuppetChange:
            control = rules.find_control(puppet, control_id)
            if "wraps" in named and control.kind != "pad":
                raise InvalidInputError("Only a pad goes round.")
            made = revised(control, named)
            after = puppet.model_copy(
                update={"controls": tuple(made if c.id == made.id else c for c in puppet.controls)}
            )
            for entry in puppet.entries_of(control.id):
                rules.put_entry(after, entry)  # two that lie a full turn apart cannot both be
            return PuppetChange(controls=(made,))

        self.commit(f"set {', '.join(values)}", work)

    def step_control(self, control_id: str, steps: int) -> None:
        """Move a control by places in the list."""
        self.commit("order controls", lambda puppet: rules.step_control(puppet, control_id, steps))

    def remove_controls(self, control_ids: Sequence[str]) -> None:
        """Remove controls with all that they hold."""
        self.commit("remove controls", lambda puppet: rules.remove_controls(puppet, control_ids))

    def add_entry(self, control_id: str, x: float, y: float, name: str = "") -> str:
        """A place on a control, which begins with what the control says there; its id."""
        made = new_id()

        def work(puppet: Puppet) -> PuppetChange:
            control = rules.find_control(puppet, control_id)
            rows, reshapes = rules.blended(puppet, control, x, y)
            entry = Entry(
                id=made, puppet_id=puppet.id, control_id=control.id, name=name, x=x, y=y, rows=rows, reshapes=reshapes
            )
            return rules.put_entry(puppet, entry)

        self.commit("store a place", work)
        return made

    def set_entry(self, entry_id: str, values: dict[str, Any]) -> None:
        """Name an entry or put it elsewhere."""
        self.commit(
            f"set {', '.join(values)}",
            lambda puppet: rules.put_entry(puppet, revised(rules.find_entry(puppet, entry_id), values)),
        )

    def remove_entries(self, entry_ids: Sequence[str]) -> None:
        """Remove entries."""
        self.commit("remove a place", lambda puppet: rules.remove_entries(puppet, entry_ids))

    def put_rows(self, entry_id: str, rows: Iterable[Row], reshapes: Iterable[Reshape] = (), label: str = "") -> None:
        """Set what an entry says."""

        def work(puppet: Puppet) -> PuppetChange:
            entry = self._told(puppet, rules.find_entry(puppet, entry_id), rows)
            for reshape in reshapes:
                self.outline(find_part(puppet, reshape.part_id), reshape.drawing)  # refuses what has no points
                entry = rules.with_reshape(entry, reshape)
            return PuppetChange(entries=(entry,))

        self.commit(label or "correct", work)

    def _told(self, puppet: Puppet, entry: Entry, rows: Iterable[Row]) -> Entry:
        wanted = list(rows)
        for row in wanted:
            owner = owned(puppet, row.owner_id)
            if owner is None or _kind_of(owner) != row.kind:
                raise InvalidInputError("What is corrected here is not in the puppet any more.", "Choose another.")
            if isinstance(owner, Pin) and owner.kind == "anchor":
                raise InvalidInputError(f"“{owner.name}” is an anchor.", "Make it a lead pin to move it.")
        return rules.with_rows(puppet, entry, wanted)

    def set_value(self, entry_id: str, owners: Sequence[RowOwner], prop: str, value: float | None) -> None:
        """Set one value of several owners as an entry has it, as it is shown; None: as at rest."""
        if value is None:
            self.clear(entry_id, [owner for _, owner in owners], prop)
            return
        shown = {kind: CORRECTED[kind][prop].display for kind, _ in owners if prop in CORRECTED[kind]}
        rows = [Row(kind=k, owner_id=o, property=prop, value=value / shown.get(k, 1.0)) for k, o in owners]
        self.put_rows(entry_id, rows, label=f"correct {prop.replace('_', ' ')}")

    def step_order(self, entry_id: str, part_ids: Sequence[str], steps: int) -> None:
        """Bring parts by places further to the front as an entry has them, or back."""
        known = {(r.owner_id, r.property): r.value for r in rules.find_entry(self.puppet, entry_id).rows}
        rows = [
            Row(kind="part", owner_id=i, property="place", value=known.get((i, "place"), 0.0) + steps) for i in part_ids
        ]
        self.put_rows(entry_id, rows, label="bring forward" if steps > 0 else "bring back")

    def clear(self, entry_id: str, owner_ids: Collection[str], prop: str = "") -> None:
        """Forget what an entry says of some owners, or of one property of theirs."""

        def work(puppet: Puppet) -> PuppetChange:
            return PuppetChange(entries=(rules.without_rows(rules.find_entry(puppet, entry_id), owner_ids, prop),))

        self.commit("correct nothing here", work)

    # ── what is seen while a place is corrected ──

    def at(self, entry: Entry) -> Placed:
        """The values at which a control stands on an entry."""
        control = rules.find_control(self.puppet, entry.control_id)
        return standing_at(control, entry.x, entry.y)

    def compiled(self, entry_id: str, puppet: Puppet | None = None) -> CompiledScene:
        """The puppet alone as it stands at an entry, with all rigid parts as points."""
        puppet = puppet or self.puppet
        return self.workspace.compile_alone(puppet, self.at(rules.find_entry(puppet, entry_id)), loose=True)

    def dragged(self, entry: Entry, compiled: CompiledScene, move: Drag) -> Dragged:
        """An entry as a drag would have it; `compiled` is the puppet as it stood when the drag began."""
        if move.gesture == "points":
            reshape = self._reshaped(entry, compiled, move)
            return Dragged(rules.with_reshape(entry, reshape), (), (reshape,))
        who = self.puppet_id
        kinds = {owner: kind for kind, owner in move.owners}
        nodes = [(who, owner) for kind, owner in move.owners if kind != "part"]
        grips = take_all(compiled, tops(compiled, nodes) if move.gesture == "shift" else nodes, 0.0)
        grips += [part_grip(compiled, who, owner) for kind, owner in move.owners if kind == "part"]
        if not grips:
            raise InvalidInputError("Nothing is chosen to correct.", "Pick a part of the art first.")
        was = {(g.owner_id, prop): value for g in grips for prop, value in g.values.items()}
        own = {(r.owner_id, r.property): r.value for r in entry.rows}
        rows = []
        for (_, owner, prop), value in drag(move.gesture, grips[0], grips[1:], move.start, move.now).items():
            rest = CORRECTED[kinds[owner]][prop].rest
            now, before = own.get((owner, prop), rest), was[owner, prop]
            moved = now * value / before if rest == 1.0 else now + value - before
            rows.append(Row(kind=kinds[owner], owner_id=owner, property=prop, value=moved))
        return Dragged(self._told(self.puppet, entry, rows), tuple(rows), ())

    def _reshaped(self, entry: Entry, compiled: CompiledScene, move: Drag) -> Reshape:
        part = find_part(self.puppet, move.owners[0][1])
        number, matrix = self._shown(compiled, part)
        outline = self.outline(part, number)
        moved = _moved(entry, part, number, outline)
        inverse = affine.invert(matrix)
        dx, dy = affine.apply_linear(inverse, move.now[0] - move.start[0], move.now[1] - move.start[1])
        for anchor in move.anchors:
            x, y = moved.get(anchor, (0.0, 0.0))
            moved[anchor] = (x + float(dx), y + float(dy))
        return Reshape(part_id=part.id, drawing=number, count=len(outline.points), points=tuple(outline.carried(moved)))

    def outline(self, part: Part, number: int) -> Outline:
        """The points of a rigid part's drawing; raises InvalidInputError for what has none to move."""
        return self.outline_in(self.puppet, part, number)

    def outline_in(self, puppet: Puppet, part: Part, number: int) -> Outline:
        """The same of a part of any puppet."""
        if part.soft:
            raise InvalidInputError(f"“{part.name}” is soft.", "Move its pins: its points follow them.")
        drawing = next((d for d in puppet.drawings(part) if d.number == number), None)
        art = self.workspace.art(soft_name(drawing.art_hash if drawing else part.art_hash, WHOLE))
        if has_pictures(art.nodes):
            raise InvalidInputError(f"“{part.name}” is a picture, without points.", "Make it soft and pin it.")
        return outline_of(art)

    def anchors(self, entry_id: str, part_id: str) -> list[tuple[int, float, float]]:
        """The points of a part as it stands at an entry: (index, across, down) on the stage; none of what has none."""
        return self.anchors_in(rules.find_entry(self.puppet, entry_id), self.compiled(entry_id), part_id)

    def anchors_in(self, entry: Entry, compiled: CompiledScene, part_id: str) -> list[tuple[int, float, float]]:
        part = find_part(self.puppet, part_id)
        number, matrix = self._shown(compiled, part)
        try:
            outline = self.outline(part, number)
        except InvalidInputError:
            return []
        moved = _moved(entry, part, number, outline)
        found = []
        for first, *_ in outline.anchors:
            x, y = outline.points[first] + moved.get(first, (0.0, 0.0))
            sx, sy = affine.apply(matrix, float(x), float(y))
            found.append((first, float(sx), float(sy)))
        return found

    def _shown(self, compiled: CompiledScene, part: Part) -> tuple[int, Any]:
        """The number of the drawing that a part shows, and its matrix (6,)."""
        frames = evaluate(compiled, np.zeros(1))
        index = frames.part_keys.index((self.puppet_id, part.id))
        drawings = self.puppet.drawings(part)
        return drawings[int(frames.drawing[0, index])].number, frames.matrices[0, index]


def _moved(entry: Entry, part: Part, number: int, outline: Outline) -> dict[int, tuple[float, float]]:
    """The points of a drawing that an entry has elsewhere; none where they are not those of this outline."""
    known = next((r for r in entry.reshapes if (r.part_id, r.drawing) == (part.id, number)), None)
    return outline.moved(known.points) if known and known.count == len(outline.points) else {}


def said_of(rows: Sequence[Row]) -> str:
    """What a drag has come to, in a few words."""
    first = [r for r in rows if r.owner_id == rows[0].owner_id]
    props = [(CORRECTED[r.kind][r.property], r.value) for r in first]
    return ", ".join(f"{p.label} {value * p.display:.{p.decimals}f}{p.unit}" for p, value in props)


def standing_at(control: Control, x: float, y: float) -> Placed:
    """The values with which a control stands at a place."""
    if control.kind == "fix":
        return {("bone", control.bone_id or "", "turn"): x}
    if control.kind == "gauge":
        return {("gauge", control.id, "x"): x}
    return {("pad", control.id, "x"): x, ("pad", control.id, "y"): y}


def _kind_of(owner: object) -> str:
    return next(
        (kind for known, kind in ((Bone, "bone"), (Part, "part"), (Pin, "pin")) if isinstance(owner, known)), ""
    )
