"""One puppet's rig on another one's art: bones, roles, limbs, softness, pins, weights, fixes, pads and gauges."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field

from shapely.geometry import Point

from gaitwire.core.puppet.change import PuppetChange
from gaitwire.core.puppet.controls import Control, Entry, Reshape, Row
from gaitwire.core.puppet.corrective_shapes import NO_DRAWING
from gaitwire.core.puppet.edit import entries_in
from gaitwire.core.puppet.fitting import Placing, kept_bones
from gaitwire.core.puppet.likeness import Figure, like_bone, like_parts
from gaitwire.core.puppet.limb_chains import chain_of
from gaitwire.core.puppet.model import Bone, Limb, Part, Pin

_OTHERWISE = 10.0
"""Degrees by which a joint is bent otherwise at rest from which on its limits and fixes are turned along."""
_ON_ART = 2.0
"""Pixels beside its part at which a pin still counts as on it."""


@dataclass
class RigCopy:
    """What a copy changes in the target; pairs of parts by name, and what found no match, in words."""

    change: PuppetChange = field(default_factory=PuppetChange)
    pairs: list[tuple[str, str]] = field(default_factory=list)
    lost: list[str] = field(default_factory=list)
    left: list[str] = field(default_factory=list)
    """Parts of the target that nothing of the source is like: they stay as they are."""


Weights = Callable[[str, str, Mapping[str, str], Placing], str]
"""From a part of the source, its weights' hash and bones by the source's: the hash of the weights on the target."""

ReshapeMapper = Callable[[Reshape, Part], Reshape | None]
"""A reshaping on the target's part; None where its points are not the same ones."""


class Copier:
    """Copies a rig; `new_id` gives ids, `weights` and `points` what only stored art can tell."""

    def __init__(
        self, source: Figure, target: Figure, new_id: Callable[[], str], weights: Weights, points: ReshapeMapper
    ) -> None:
        self.source, self.target, self.new_id = source.puppet, target.puppet, new_id
        self.regions, self.weights, self.points = target.regions, weights, points
        self.like = like_parts(source.puppet, target.puppet)
        self.placing = Placing(source, target, self.like)
        self.kept = kept_bones(source, self.like)
        self.bones: dict[str, str] = {}
        self.pins: dict[str, str] = {}
        self.found = RigCopy()

    def copy(self) -> RigCopy:
        """All of it."""
        found, source, target = self.found, self.source, self.target
        parts, theirs = ({p.id: p for p in puppet.parts} for puppet in (source, target))
        found.pairs = [(parts[a].name, theirs[b].name) for a, b in self.like.items()]
        found.lost = [f"part “{p.name}”" for p in source.parts if p.id not in self.like]
        matched = set(self.like.values())
        found.left = [p.name for p in target.parts if p.id not in matched]
        self._name_bones()
        bones = self._bones()
        made_parts = self._parts(parts, theirs)
        others, gone = self._other_bones(bones, made_parts)
        limbs, pins = list(self._limbs()), list(self._pins(theirs))
        controls, entries, old = self._controls()
        found.change = PuppetChange(
            bones=(*bones, *others), parts=tuple(made_parts), pins=tuple(pins), limbs=tuple(limbs),
            controls=tuple(controls), entries=tuple(entries), removed_bones=tuple(gone),
            removed_limbs=tuple(i.id for i in target.limbs if i.tip_id in gone and i.id not in {x.id for x in limbs}),
            removed_pins=tuple(p.id for p in target.pins if p.part_id in matched),
            removed_controls=tuple(old), removed_entries=entries_in(target, old),
        )  # fmt: skip
        return found

    def _name_bones(self) -> None:
        """Which bone of the target becomes which: its own where it has one that is like it, else a new one."""
        homes = {p.id: p.bone_id for p in self.target.parts}
        own = {p.bone_id: homes[self.like[p.id]] for p in reversed(self.source.parts) if p.id in self.like}
        taken: set[str] = set()
        for bone in self.kept:
            twin = like_bone(bone, self.target, own.get(bone.id), taken)
            self.bones[bone.id] = twin.id if twin else self.new_id()
            taken.add(self.bones[bone.id])
        kept = {b.id for b in self.kept}
        self.found.lost += [f"bone “{b.name}”" for b in self.source.bones if b.id not in kept]

    def _bones(self) -> list[Bone]:
        made: dict[str, Bone] = {}
        for bone in self.kept:
            x, y = self.placing.pivot(bone)
            update = {
                "id": self.bones[bone.id], "puppet_id": self.target.id, "x": round(x, 3), "y": round(y, 3),
                "parent_id": self.bones.get(bone.parent_id or ""), "locked": False,
            }  # fmt: skip
            if bone.length > 0:
                tx, ty = self.placing.tip(bone, self.kept)
                update["length"] = round(max(math.hypot(tx - x, ty - y), 1.0), 3)
                update["angle"] = round(math.degrees(math.atan2(ty - y, tx - x)), 4)
            made[bone.id] = bone.model_copy(update=update)
        return [self._limited(bone, made[bone.id]) for bone in self.kept]

    def _limited(self, bone: Bone, made: Bone) -> Bone:
        by = self._otherwise(bone, made)
        if not by:
            return made
        limits = {n: None if v is None else round(v - by, 1) for n, v in (("low", bone.low), ("high", bone.high))}
        return made.model_copy(update=limits)

    def _otherwise(self, bone: Bone, made: Bone | None = None) -> float:
        """Degrees by which a joint is bent more at rest in the target than in the source; nought for little."""
        above = next((b for b in self.kept if b.id == bone.parent_id), None)
        if above is None or not bone.length or not above.length:
            return 0.0
        here, there = (self._aim(b) for b in (bone, above))
        by = (here - there) - (bone.angle - above.angle)
        by -= 360.0 * round(by / 360.0)
        return by if abs(by) > _OTHERWISE else 0.0

    def _aim(self, bone: Bone) -> float:
        (x, y), (tx, ty) = self.placing.pivot(bone), self.placing.tip(bone, self.kept)
        return math.degrees(math.atan2(ty - y, tx - x))

    def _parts(self, parts: Mapping[str, Part], theirs: Mapping[str, Part]) -> list[Part]:
        made = []
        for here, there in self.like.items():
            part, own = parts[here], theirs[there]
            update = {
                "bone_id": self.bones[part.bone_id], "soft": part.soft, "grain": round(part.grain * self._size, 2),
                "bends_with": tuple(self.bones[b] for b in part.bends_with if b in self.bones), "weights_hash": "",
            }  # fmt: skip
            if part.weights_hash:
                update["weights_hash"] = self.weights(part.id, part.weights_hash, self.bones, self.placing)
            made.append(own.model_copy(update=update))
        return made

    @property
    def _size(self) -> float:
        across, down = self.placing.scale
        return math.sqrt(abs(across * down))

    def _other_bones(self, bones: Sequence[Bone], parts: Sequence[Part]) -> tuple[list[Bone], list[str]]:
        """Bones of the target that nothing is like: those that carry something stay, the others go."""
        new = {b.id for b in bones}
        moved = {p.id for p in parts}
        carrying = {p.bone_id for p in self.target.parts if p.id not in moved}
        root = next((b.id for b in bones if b.parent_id is None), None)
        stay, gone = [], []
        for bone in self.target.bones:
            if bone.id in new:
                continue
            if bone.id not in carrying:
                gone.append(bone.id)
            elif bone.parent_id not in new and bone.parent_id not in carrying:
                stay.append(bone.model_copy(update={"parent_id": root}))
        return stay, gone

    def _limbs(self) -> Iterator[Limb]:
        known = {i.tip_id: i.id for i in self.target.limbs}
        for limb in self.source.limbs:
            chain = [b.id for b in chain_of(self.source, limb)]
            if all(b in self.bones for b in (*chain, limb.tip_id)):
                tip = self.bones[limb.tip_id]
                yield limb.model_copy(
                    update={"id": known.get(tip) or self.new_id(), "puppet_id": self.target.id, "tip_id": tip}
                )
            else:
                self.found.lost.append(f"limb “{limb.name}”")

    def _pins(self, theirs: Mapping[str, Part]) -> Iterator[Pin]:
        for pin in self.source.pins:
            twin = self.like.get(pin.part_id)
            x, y = self.placing.in_part(pin.part_id, (pin.x, pin.y))
            region = self.regions.get(twin or "")
            if twin is None or region is None or not region.buffer(_ON_ART).contains(Point(x, y)):
                self.found.lost.append(f"pin “{pin.name}”")
                continue
            self.pins[pin.id] = self.new_id()
            update = {
                "id": self.pins[pin.id], "puppet_id": self.target.id, "part_id": twin, "x": round(x, 3),
                "y": round(y, 3), "bone_id": self.bones.get(pin.bone_id or ""),
            }  # fmt: skip
            yield pin.model_copy(update=update)

    def _controls(self) -> tuple[list[Control], list[Entry], set[str]]:
        """Controls with their entries; and ids of those of the target whose place they take."""
        controls, entries, old = [], [], set()
        last = max((c.rank for c in self.target.controls), default=-1)
        for n, control in enumerate(sorted(self.source.controls, key=lambda c: c.rank), start=1):
            bone = self.bones.get(control.bone_id or "")
            if control.kind == "fix" and bone is None:
                self.found.lost.append(f"bend fix “{control.name}”")
                continue
            old |= {
                c.id for c in self.target.controls
                if c.kind == control.kind and (c.bone_id == bone if bone else c.name == control.name)
            }  # fmt: skip
            update = {"id": self.new_id(), "puppet_id": self.target.id, "rank": last + n, "bone_id": bone}
            made = control.model_copy(update=update)
            controls.append(made)
            joint = self.source.bone(control.bone_id or "")
            by = self._otherwise(joint) if joint else 0.0
            entries += [self._entry(e, made.id, by) for e in self.source.entries_of(control.id)]
        return controls, entries, old

    def _entry(self, entry: Entry, control_id: str, by: float) -> Entry:
        rows = [row for row in (self._row(r) for r in entry.rows) if row is not None]
        reshapes = [r for r in (self._reshape(r) for r in entry.reshapes) if r is not None]
        update = {
            "id": self.new_id(), "puppet_id": self.target.id, "control_id": control_id, "x": round(entry.x - by, 2),
            "rows": tuple(rows), "reshapes": tuple(reshapes),
        }  # fmt: skip
        return entry.model_copy(update=update)

    def _row(self, row: Row) -> Row | None:
        owner = {"bone": self.bones, "pin": self.pins, "part": self.like}[row.kind].get(row.owner_id)
        if owner is None:
            return None  # what it is about is told already
        across, down = self.placing.scale
        factor = {"shift_x": across, "shift_y": down}.get(row.property, 1.0)
        value = self._drawing(row, owner) if row.property == "drawing" else round(row.value * factor, 6)
        return row.model_copy(update={"owner_id": owner, "value": value})

    def _drawing(self, row: Row, owner: str) -> float:
        """The number of the drawing of that name on the target's part."""
        part, own = self.source.part(row.owner_id), self.target.part(owner)
        if part is None or own is None or not row.value:
            return row.value
        name = next((d.name for d in self.source.drawings(part) if d.number == row.value), "")
        there = next((d.number for d in self.target.drawings(own) if d.name == name), None)
        if there is None:
            said = f"drawing “{name}” of {own.name}"
            if said not in self.found.lost:
                self.found.lost.append(said)
            return float(NO_DRAWING)
        return float(there)

    def _reshape(self, reshape: Reshape) -> Reshape | None:
        own = self.target.part(self.like.get(reshape.part_id, ""))
        made = self.points(reshape, own) if own else None
        if made is None:
            part = self.source.part(reshape.part_id)
            said = f"points of “{part.name if part else '?'}”"
            if own and said not in self.found.lost:
                self.found.lost.append(said)
            return None
        across, down = self.placing.scale
        points = tuple((i, round(x * across, 4), round(y * down, 4)) for i, x, y in made.points)
        return made.model_copy(update={"points": points})
