"""Joints: pivots and tips, moved, joined, cut; the art stays where it is."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from typing import Literal

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.puppet.change import PuppetChange
from gaitwire.core.puppet.edit import find_bone, refuse_locked
from gaitwire.core.puppet.limb_chains import chain_of
from gaitwire.core.puppet.model import LONGEST_LIMB, Bone, Limb, Puppet
from gaitwire.core.puppet.tree import children_of

End = Literal["pivot", "tip"]

_TOGETHER = 0.75
"""Pixels. Ends of bones nearer than that are one joint."""

MOST_PIECES = 12


def tip_of(bone: Bone) -> tuple[float, float]:
    """Where the bone ends, in the puppet's pixels."""
    angle = math.radians(bone.angle)
    return bone.x + bone.length * math.cos(angle), bone.y + bone.length * math.sin(angle)


def set_tip(bone: Bone, x: float, y: float) -> Bone:
    """The bone pointing to (x, y); a tip on the pivot makes it a group without length."""
    dx, dy = x - bone.x, y - bone.y
    length = math.hypot(dx, dy)
    if length < 0.5:
        return bone.model_copy(update={"length": 0.0})
    return bone.model_copy(update={"length": round(length, 3), "angle": round(math.degrees(math.atan2(dy, dx)), 4)})


def set_pivot(bone: Bone, x: float, y: float) -> Bone:
    """The bone with its pivot elsewhere; a bone with length keeps its tip where it was."""
    moved = bone.model_copy(update={"x": round(x, 3), "y": round(y, 3)})
    return moved if bone.length == 0 else set_tip(moved, *tip_of(bone))


def _end(bone: Bone, end: End) -> tuple[float, float]:
    return tip_of(bone) if end == "tip" else (bone.x, bone.y)


def _set_end(bone: Bone, end: End, x: float, y: float) -> Bone:
    return set_tip(bone, x, y) if end == "tip" else set_pivot(bone, x, y)


def _joined(puppet: Puppet, bone: Bone, end: End) -> Iterator[tuple[Bone, End]]:
    """The other ends that lie on this one: of the bone above and its other children, or of the children."""
    if end == "tip":
        others: list[tuple[Bone, End]] = [(b, "pivot") for b in puppet.bones if b.parent_id == bone.id]
    else:
        above = puppet.bone(bone.parent_id or "")
        others = [(b, "pivot") for b in puppet.bones if above and b.parent_id == above.id and b.id != bone.id]
        if above is not None and above.length > 0:
            others.append((above, "tip"))
    x, y = _end(bone, end)
    for other, which in others:
        ox, oy = _end(other, which)
        if math.hypot(ox - x, oy - y) < _TOGETHER:
            yield other, which


def move_joint(puppet: Puppet, bone_id: str, end: End, x: float, y: float, alone: bool = False) -> PuppetChange:
    """Move an end of a bone, and with it, unless `alone`, the ends of its neighbours that lie on it.

    Far ends stay, and so does the art. Raises LockedError for the bone itself; locked neighbours stay.
    """
    bone = find_bone(puppet, bone_id)
    refuse_locked([bone])
    moved = [_set_end(bone, end, x, y)]
    if not alone:
        moved += [_set_end(other, which, x, y) for other, which in _joined(puppet, bone, end) if not other.locked]
    return PuppetChange(bones=tuple(moved))


def meet_above(puppet: Puppet, bone_ids: Sequence[str]) -> PuppetChange:
    """Put the pivots of bones on the tips of the bones they hang from; raises where there is no such tip."""
    moved = []
    for bone_id in bone_ids:
        bone = find_bone(puppet, bone_id)
        above = puppet.bone(bone.parent_id or "")
        if above is None or above.length == 0:
            raise InvalidInputError(f"“{bone.name}” hangs from nothing that has a tip.", "Give the bone above a tip.")
        moved.append(set_pivot(bone, *tip_of(above)))
    refuse_locked(moved)
    return PuppetChange(bones=tuple(moved))


def insert_above(puppet: Puppet, bone_id: str, new_id: str, name: str) -> PuppetChange:
    """A new bone between a bone and the one it hangs from, reaching from that one's end to its pivot."""
    bone = find_bone(puppet, bone_id)
    refuse_locked([bone])
    above = puppet.bone(bone.parent_id or "")
    x, y = (bone.x, bone.y) if above is None else tip_of(above) if above.length > 0 else (above.x, above.y)
    between = bone.model_copy(
        update={
            "id": new_id, "name": name, "role": "", "length": 0.0, "x": round(x, 3), "y": round(y, 3), "low": None,
            "high": None,
        }
    )  # fmt: skip
    made = (set_tip(between, bone.x, bone.y), bone.model_copy(update={"parent_id": new_id, "rank": 0}))
    crossed = [i for i in puppet.limbs if bone in chain_of(puppet, i)[1:] or (i.tip_id == bone_id and not i.whole)]
    return PuppetChange(bones=made, limbs=_longer(crossed, 1))


def split(puppet: Puppet, bone_id: str, new_ids: Sequence[str], names: Sequence[str]) -> PuppetChange:
    """Cut a bone into one more piece than there are new ids, end to end, of one length.

    Children go to the last piece, rigid parts and pins stay with the first, soft parts bend with all.
    Raises InvalidInputError for a bone without length.
    """
    bone = find_bone(puppet, bone_id)
    refuse_locked([bone])
    pieces = len(new_ids) + 1
    if bone.length == 0:
        raise InvalidInputError(f"“{bone.name}” has no length to cut.", "Draw its tip first.")
    if not 2 <= pieces <= MOST_PIECES:
        raise InvalidInputError(f"A bone is cut into 2 to {MOST_PIECES} pieces.", "Type such a number.")
    (tx, ty), made = tip_of(bone), []
    above = bone.id
    for n, (new_id, name) in enumerate(zip(new_ids, names, strict=True), start=1):
        share = n / pieces
        x, y = round(bone.x + (tx - bone.x) * share, 3), round(bone.y + (ty - bone.y) * share, 3)
        update = {"id": new_id, "name": name, "parent_id": above, "x": x, "y": y, "rank": 0, "role": ""}
        made.append(bone.model_copy(update={**update, "length": round(bone.length / pieces, 3)}))
        above = new_id
    below = [b.model_copy(update={"parent_id": above}) for b in children_of(puppet.bones)[bone.id]]
    first = bone.model_copy(update={"length": round(bone.length / pieces, 3)})
    softs = [
        p.model_copy(update={"bends_with": (*p.bends_with, *new_ids)})
        for p in puppet.parts
        if p.soft and (p.bone_id == bone.id or bone.id in p.bends_with)
    ]
    return PuppetChange(
        bones=(first, *made, *below),
        parts=tuple(softs),
        limbs=_longer([i for i in puppet.limbs if bone in chain_of(puppet, i)], len(new_ids)),
    )


def _longer(limbs: Sequence[Limb], more: int) -> tuple[Limb, ...]:
    return tuple(limb.model_copy(update={"count": min(limb.count + more, LONGEST_LIMB)}) for limb in limbs)
