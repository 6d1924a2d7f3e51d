"""Editing a puppet: pure functions from a puppet to the bones and parts that change.

Pivots are absolute in the puppet's pixels, so hanging a bone elsewhere moves nothing on the page.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable, Sequence

from gaitwire.core.conventions import UP
from gaitwire.core.errors import InvalidInputError, LockedError, NotFoundError
from gaitwire.core.puppet.change import PuppetChange
from gaitwire.core.puppet.limb_chains import chain_of
from gaitwire.core.puppet.model import Bone, Limb, Part, Puppet
from gaitwire.core.puppet.tree import children_of, descendants, refuse_cycle, walk


def find_bone(puppet: Puppet, bone_id: str) -> Bone:
    """The bone; raises NotFoundError."""
    bone = puppet.bone(bone_id)
    if bone is None:
        raise NotFoundError("This bone is not in the puppet any more.", "Choose another.")
    return bone


def find_part(puppet: Puppet, part_id: str) -> Part:
    """The part; raises NotFoundError."""
    part = puppet.part(part_id)
    if part is None:
        raise NotFoundError("This part is not in the puppet any more.", "Choose another.")
    return part


def refuse_locked(items: Iterable[Bone | Part]) -> None:
    """Raise LockedError, by name, if one of them is locked."""
    for item in items:
        if item.locked:
            raise LockedError(f"“{item.name}” is locked.", "Unlock it first.")


def hang(puppet: Puppet, bone_ids: Sequence[str], parent_id: str | None, before_id: str | None = None) -> PuppetChange:
    """Hang bones from a parent (None: from nothing), in front of a sibling or at the end.

    Raises CycleError by name, LockedError, NotFoundError.
    """
    moving = [find_bone(puppet, i) for i in bone_ids]
    refuse_locked(moving)
    for bone in moving:
        refuse_cycle(puppet.bones, bone.id, parent_id)
    siblings = [b for b in children_of(puppet.bones)[parent_id] if b.id not in bone_ids]
    at = next((i for i, b in enumerate(siblings) if b.id == before_id), len(siblings))
    moved = [b.model_copy(update={"parent_id": parent_id}) for b in moving]
    ordered = [*siblings[:at], *moved, *siblings[at:]]
    return PuppetChange(bones=tuple(b.model_copy(update={"rank": rank}) for rank, b in enumerate(ordered)))


def hang_beside(puppet: Puppet, bone_ids: Sequence[str], sibling_id: str, after: bool) -> PuppetChange:
    """Hang bones from the parent of a sibling, just before or after it; raises like `hang`."""
    sibling = find_bone(puppet, sibling_id)
    if sibling_id in bone_ids:
        return PuppetChange()
    row = [b.id for b in children_of(puppet.bones)[sibling.parent_id] if b.id not in bone_ids]
    at = row.index(sibling_id) + after
    return hang(puppet, bone_ids, sibling.parent_id, row[at] if at < len(row) else None)


def group(puppet: Puppet, bone_ids: Sequence[str], new_id: str, name: str) -> PuppetChange:
    """A new bone without length over the bones, hanging where the first of them hung.

    Its pivot lies in the middle of theirs. Bones that already hang from another one of the group
    stay as they hang.
    """
    chosen = [find_bone(puppet, i) for i in dict.fromkeys(bone_ids)]
    if not chosen:
        raise InvalidInputError("Nothing is chosen to group.", "Choose the bones first.")
    refuse_locked(chosen)
    below = {d for b in chosen for d in descendants(puppet.bones, b.id)}
    tops = [b for b in chosen if b.id not in below]
    order = {row.bone.id: i for i, row in enumerate(walk(puppet.bones))}
    tops.sort(key=lambda b: order[b.id])
    first = tops[0]
    regions, sides = {b.region for b in tops}, {b.side for b in tops}
    over = first.model_copy(
        update={
            "id": new_id,
            "name": name,
            "length": 0.0,
            "angle": UP,
            "region": first.region if len(regions) == 1 else "body",
            "side": first.side if len(sides) == 1 else "centre",
            "role": "",
            "x": round(sum(b.x for b in tops) / len(tops), 3),
            "y": round(sum(b.y for b in tops) / len(tops), 3),
        }
    )
    return PuppetChange(
        bones=(over, *(b.model_copy(update={"parent_id": new_id, "rank": i}) for i, b in enumerate(tops)))
    )


def remove_bones(puppet: Puppet, bone_ids: Sequence[str]) -> PuppetChange:
    """Remove bones; their children, parts and pins go to the next bone above that stays.

    Limbs that end at one of them go with it; a limb they were a link of becomes shorter. Raises
    InvalidInputError when a part would have nothing to hang from.
    """
    gone = {find_bone(puppet, i).id for i in bone_ids}
    refuse_locked(b for b in puppet.bones if b.id in gone)
    by_id = {b.id: b for b in puppet.bones}

    def above(bone_id: str) -> str | None:
        at = by_id[bone_id].parent_id
        while at in gone:
            at = by_id[at].parent_id
        return at

    bones = [b.model_copy(update={"parent_id": above(b.parent_id)}) for b in puppet.bones
             if b.id not in gone and b.parent_id in gone]  # fmt: skip
    parts = []
    for part in puppet.parts:
        home = above(part.bone_id) if part.bone_id in gone else part.bone_id
        if home is None:
            raise InvalidInputError(
                f"“{part.name}” hangs from a bone you are removing, and nothing is above it.",
                "Hang it elsewhere first.",
            )
        bends = tuple(b for b in part.bends_with if b not in gone and b != home)
        if home != part.bone_id or bends != part.bends_with:
            parts.append(part.model_copy(update={"bone_id": home, "bends_with": bends}))
    pins = [p.model_copy(update={"bone_id": above(p.bone_id)}) for p in puppet.pins if p.bone_id in gone]
    limbs, ended = _shorter_limbs(puppet, gone)
    # What other controls say of such bones sleeps.
    fixes = tuple(c.id for c in puppet.controls if c.bone_id in gone)
    return PuppetChange(
        bones=tuple(bones), parts=tuple(parts), pins=tuple(pins), limbs=limbs, removed_bones=tuple(gone),
        removed_limbs=ended, removed_controls=fixes, removed_entries=entries_in(puppet, fixes),
    )  # fmt: skip


def entries_in(puppet: Puppet, control_ids: Collection[str]) -> tuple[str, ...]:
    """Ids of all entries of some controls."""
    return tuple(e.id for e in puppet.entries if e.control_id in control_ids)


def _shorter_limbs(puppet: Puppet, gone: Collection[str]) -> tuple[tuple[Limb, ...], tuple[str, ...]]:
    """Limbs that lose some of their bones, and ids of those that cannot be any more."""
    shorter, ended = [], []
    for limb in puppet.limbs:
        if limb.tip_id in gone:
            ended.append(limb.id)
            continue
        chain = chain_of(puppet, limb)
        left = sum(b.id not in gone for b in chain)
        if left < 2:
            ended.append(limb.id)
        elif left < len(chain):
            shorter.append(limb.model_copy(update={"count": left}))
    return tuple(shorter), tuple(ended)


def remove_parts(puppet: Puppet, part_ids: Sequence[str]) -> PuppetChange:
    """Remove parts with their replacements and pins; their bones stay."""
    parts = [find_part(puppet, i) for i in part_ids]
    refuse_locked(parts)
    gone = {p.id for p in parts}
    return PuppetChange(
        removed_parts=tuple(gone),
        removed_replacements=tuple(r.id for r in puppet.replacements if r.part_id in gone),
        removed_pins=tuple(p.id for p in puppet.pins if p.part_id in gone),
    )


def hang_parts(puppet: Puppet, part_ids: Sequence[str], bone_id: str) -> PuppetChange:
    """Hang parts from a bone."""
    bone = find_bone(puppet, bone_id)
    parts = [find_part(puppet, i) for i in part_ids]
    refuse_locked(parts)
    return PuppetChange(parts=tuple(p.model_copy(update={"bone_id": bone.id}) for p in parts))


def reorder(puppet: Puppet, part_ids: Sequence[str], behind_id: str | None) -> PuppetChange:
    """Put parts directly in front of another part (None: behind everything), keeping their own order."""
    moving = set(part_ids)
    refuse_locked(find_part(puppet, i) for i in part_ids)
    ordered = sorted(puppet.parts, key=lambda p: p.rank)
    group_ = [p for p in ordered if p.id in moving]
    rest = [p for p in ordered if p.id not in moving]
    at = 0 if behind_id is None else next((i + 1 for i, p in enumerate(rest) if p.id == behind_id), len(rest))
    final = [*rest[:at], *group_, *rest[at:]]
    return PuppetChange(parts=tuple(p.model_copy(update={"rank": i}) for i, p in enumerate(final) if p.rank != i))


def step_order(puppet: Puppet, part_ids: Sequence[str], steps: int) -> PuppetChange:
    """Move parts by one place to the front (positive) or the back, as one block."""
    ordered = sorted(puppet.parts, key=lambda p: p.rank)
    moving = set(part_ids)
    places = [i for i, p in enumerate(ordered) if p.id in moving]
    if not places:
        return PuppetChange()
    rest = [p for p in ordered if p.id not in moving]
    before = sum(1 for p in ordered[: places[0]] if p.id not in moving)
    at = min(len(rest), max(0, before + steps))
    return reorder(puppet, part_ids, rest[at - 1].id if at > 0 else None)
