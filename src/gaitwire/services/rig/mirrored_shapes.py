"""What is stored on one side of a puppet made for the other: bend fixes of twin joints, the other half of a pad."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from types import MappingProxyType
from typing import NamedTuple

import numpy as np

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.ids import new_id
from gaitwire.core.puppet import corrective_shapes as rules
from gaitwire.core.puppet.change import PuppetChange, applied
from gaitwire.core.puppet.controls import NEAR, Entry, Reshape, Row
from gaitwire.core.puppet.edit import find_bone, find_part
from gaitwire.core.puppet.mirroring import turned_over
from gaitwire.core.puppet.model import Bone, Part, Pin, Puppet, Replacement
from gaitwire.core.puppet.placing import placed, reflection
from gaitwire.core.puppet.twins import Twin, twins_of
from gaitwire.services.library.art_in import put_art
from gaitwire.services.rig.corrective_shapes import Correcting

_MATCHES = 1.5
"""Pixels by which a reflected point may miss the one that it stands for."""
OTHER_WAY = ", other way"
"""After the name of a drawing that is another one reflected."""


class Reflected(NamedTuple):
    """How many entries were made, and what found nothing on the other side, in words."""

    entries: int
    lost: tuple[str, ...]


class Reflecting(Correcting):
    """Gestures that make the other side."""

    def mirror_fix(self, control_id: str, across: bool | None = None) -> Reflected:
        """The bend fix on the joint of the other side; None: reflected unless the puppet is seen from the side."""
        lost: list[str] = []

        def work(puppet: Puppet) -> PuppetChange:
            control = rules.find_control(puppet, control_id)
            if control.kind != "fix":
                raise InvalidInputError("Only a bend fix has a joint on the other side.", "Reflect a pad's places.")
            over = puppet.view != "side" if across is None else across
            twin = twins_of(puppet)
            entries = puppet.entries_of(control.id)
            reshaped = {e.id: self._reshapes(puppet, e, twin, over, lost) for e in entries}
            change, gone = rules.mirror_fix(puppet, control, twin, over, reshaped, new_id)
            lost.extend(_said(puppet, gone))
            return change

        change = self.commit("mirror a bend fix", work)
        return Reflected(len(change.entries), tuple(dict.fromkeys(lost)))

    def reflect(self, control_id: str, entry_ids: Sequence[str] = ()) -> Reflected:
        """Entries of a pad, or all on its fuller side, for the other half: in place of what lies there."""
        lost: list[str] = []
        made: list[Entry] = []

        def work(puppet: Puppet) -> PuppetChange:
            control = rules.find_control(puppet, control_id)
            if control.kind != "pad":
                raise InvalidInputError("Only a pad has another half.")
            chosen = [e for e in puppet.entries_of(control.id) if e.id in entry_ids] or _fuller(puppet, control_id)
            chosen = [e for e in chosen if abs(e.x) % 180 > NEAR]
            if not chosen:
                raise InvalidInputError(
                    "Nothing lies beside the middle of this pad.", "Store a place to one side first."
                )
            twin = twins_of(puppet)
            drawings: dict[tuple[str, int], Replacement] = {}
            gone: set[str] = set()
            for entry in chosen:
                made.append(self._reflected(puppet, entry, twin, drawings, lost))
                gone |= {e.id for e in puppet.entries_of(control.id) if rules.same_place(control, e, made[-1])}
            change = PuppetChange(replacements=tuple(drawings.values()), removed_entries=tuple(gone))
            after = applied(puppet, change)
            for entry in made:
                after = applied(after, rules.put_entry(after, entry))
            return change._replace(entries=tuple(made))

        self.commit("reflect places", work)
        return Reflected(len(made), tuple(dict.fromkeys(lost)))

    def _reflected(
        self, puppet: Puppet, entry: Entry, twin: Twin, drawings: dict[tuple[str, int], Replacement], lost: list[str]
    ) -> Entry:
        rows, gone = rules.mirrored_rows([r for r in entry.rows if r.property != "drawing"], twin, across=True)
        asked = [r for r in entry.rows if r.property == "drawing"]
        shown = [(r, self._drawing(puppet, r, twin, drawings, gone)) for r in asked]
        drawn = [new for _, new in shown if new is not None]
        other_way = {
            (old.owner_id, round(old.value)): round(new.value)
            for old, new in shown
            if new is not None and new.owner_id == old.owner_id
        }
        lost.extend(_said(puppet, gone))
        update = {
            "id": new_id(), "x": -entry.x, "name": turned_over(entry.name), "rows": (*rows, *drawn),
            "reshapes": self._reshapes(puppet, entry, twin, True, lost, other_way),
        }  # fmt: skip
        return entry.model_copy(update=update)

    def _drawing(
        self, puppet: Puppet, row: Row, twin: Twin, made: dict[tuple[str, int], Replacement], gone: list[Row]
    ) -> Row | None:
        """Which drawing shows on the other side: the twin's of that name, else the part's own reflected."""
        other = twin("part", row.owner_id)
        if other is None:
            gone.append(row)
            return None
        part, number = find_part(puppet, row.owner_id), round(row.value)
        known = next((d for d in puppet.drawings(part) if d.number == number), None)
        if known is None:
            return row.model_copy(update={"owner_id": other, "value": rules.NO_DRAWING})
        if other != part.id:
            names = (turned_over(known.name).lower(), known.name.lower())
            there = [d for d in puppet.drawings(find_part(puppet, other)) if d.name.lower() in names]
            same = there[0].number if there else 0 if number == 0 else rules.NO_DRAWING
            return row.model_copy(update={"owner_id": other, "value": same})
        return row.model_copy(update={"value": self._other_way(puppet, part, known, made).number})

    def _other_way(
        self, puppet: Puppet, part: Part, drawing: Replacement, made: dict[tuple[str, int], Replacement]
    ) -> Replacement:
        """A part's drawing reflected about its bone, as one of its drawings: known, or made."""
        base = drawing.name.removesuffix(OTHER_WAY)
        wanted = base if drawing.name.endswith(OTHER_WAY) else f"{base[:60]}{OTHER_WAY}"
        every = [*puppet.drawings(part), *(r for (i, _), r in made.items() if i == part.id)]
        known = next((d for d in every if d.name == wanted), None)
        if known is None:
            bone = find_bone(puppet, part.bone_id)
            art = placed(self.workspace.art(drawing.art_hash), reflection(bone.x))
            known = Replacement(
                id=new_id(), puppet_id=puppet.id, part_id=part.id, number=max(d.number for d in every) + 1, name=wanted,
                rank=max(d.rank for d in every) + 1, art_hash=put_art(self.workspace, art),
            )  # fmt: skip
            made[part.id, known.number] = known
        return known

    def _reshapes(
        self, puppet: Puppet, entry: Entry, twin: Twin, across: bool, lost: list[str],
        other_way: Mapping[tuple[str, int], int] = MappingProxyType({}),
    ) -> tuple[Reshape, ...]:  # fmt: skip
        """Points on the other side; `other_way` holds drawings that are others reflected, point by point."""
        found = []
        for reshape in entry.reshapes:
            number = other_way.get((reshape.part_id, reshape.drawing))
            if number is not None:
                points = tuple((i, -x, y) for i, x, y in reshape.points)
                found.append(reshape.model_copy(update={"drawing": number, "points": points}))
                continue
            other, part = twin("part", reshape.part_id), puppet.part(reshape.part_id)
            moved = self._moved(puppet, part, other, reshape, across) if part and other else None
            if moved is None:
                lost.append(f"the points of {part.name if part else 'a part'}")
            else:
                found.append(moved)
        return tuple(found)

    def _moved(self, puppet: Puppet, part: Part, other: str, reshape: Reshape, across: bool) -> Reshape | None:
        """Points on the other side: of a twin as they are counted, of a part without a side by where they lie."""
        here, there = self.outline(part, reshape.drawing), self.outline(find_part(puppet, other), reshape.drawing)
        if reshape.count != len(here.points) or len(here.points) != len(there.points):
            return None
        sign = -1 if across else 1
        if other != part.id or not across:
            points = tuple((i, sign * x, y) for i, x, y in reshape.points)
            return reshape.model_copy(update={"part_id": other, "points": points})
        first = [anchor[0] for anchor in here.anchors]
        mirrored = here.points[first] * (-1, 1) + (2 * find_bone(puppet, part.bone_id).x, 0)
        gaps = np.hypot(*(mirrored[:, None] - here.points[first][None]).T).T
        twins = gaps.argmin(axis=1)
        if gaps[np.arange(len(first)), twins].max() > _MATCHES:
            return None
        known = here.moved(reshape.points)
        moved = {first[twins[n]]: (-known[a][0], known[a][1]) for n, a in enumerate(first) if a in known}
        return reshape.model_copy(update={"points": tuple(here.carried(moved))})


def _fuller(puppet: Puppet, control_id: str) -> list[Entry]:
    """The entries on that half of a pad on which there are more; of two as full, the right one."""
    entries = puppet.entries_of(control_id)
    right, left = [e for e in entries if e.x > 0], [e for e in entries if e.x < 0]
    return right if len(right) >= len(left) else left


def _said(puppet: Puppet, rows: Sequence[Row]) -> list[str]:
    every: tuple[Bone | Part | Pin, ...] = (*puppet.bones, *puppet.parts, *puppet.pins)
    owners = {o.id: o.name for o in every}
    return [owners.get(r.owner_id, "something that is gone") for r in rows]
