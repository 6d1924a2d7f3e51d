"""Replacements: the several drawings of a part."""

from __future__ import annotations

from collections.abc import Sequence

from gaitwire.core.errors import InvalidInputError, NotFoundError
from gaitwire.core.puppet.change import PuppetChange
from gaitwire.core.puppet.edit import find_part, refuse_locked
from gaitwire.core.puppet.model import Puppet, Replacement

MOST_DRAWINGS = 200


def find_drawing(puppet: Puppet, part_id: str, number: int) -> Replacement:
    """A part's drawing by its number, 0 being its own; raises NotFoundError."""
    part = find_part(puppet, part_id)
    found = next((d for d in puppet.drawings(part) if d.number == number), None)
    if found is None:
        raise NotFoundError("This drawing is not in the part any more.", "Choose another.")
    return found


def made_drawing(
    puppet: Puppet, part_id: str, new_id: str, name: str, art_hash: str, smear: bool = False
) -> Replacement:
    """One more drawing of a part, the last of them."""
    refuse_locked([find_part(puppet, part_id)])
    others = [r for r in puppet.replacements if r.part_id == part_id]
    if len(others) >= MOST_DRAWINGS:
        raise InvalidInputError(f"A part has at most {MOST_DRAWINGS} drawings.", "Remove some first.")
    number = 1 + max((r.number for r in others), default=0)
    rank = 1 + max((r.rank for r in others), default=-1)
    return Replacement(
        id=new_id, puppet_id=puppet.id, part_id=part_id, number=number, name=name, rank=rank, art_hash=art_hash,
        smear=smear,
    )  # fmt: skip


def add_drawing(
    puppet: Puppet, part_id: str, new_id: str, name: str, art_hash: str, smear: bool = False
) -> PuppetChange:
    """One more drawing of a part, the last of them; it is the one shown from now on."""
    made = made_drawing(puppet, part_id, new_id, name, art_hash, smear)
    part = find_part(puppet, part_id)
    return PuppetChange(replacements=(made,), parts=(part.model_copy(update={"shows": made.number}),))


def remove_drawings(puppet: Puppet, part_id: str, numbers: Sequence[int]) -> PuppetChange:
    """Remove drawings of a part but its own; keys that name them show the own one until they are back."""
    part = find_part(puppet, part_id)
    refuse_locked([part])
    if 0 in numbers:
        raise InvalidInputError(
            "A part's own drawing stays with it.", "Remove the part, or change what its own drawing shows."
        )
    gone = [find_drawing(puppet, part_id, n) for n in numbers]
    parts = (part.model_copy(update={"shows": 0}),) if part.shows in numbers else ()
    return PuppetChange(parts=parts, removed_replacements=tuple(r.id for r in gone))


def show_drawing(puppet: Puppet, part_id: str, number: int) -> PuppetChange:
    """Which drawing the part shows at rest."""
    part = find_part(puppet, part_id)
    refuse_locked([part])
    return PuppetChange(parts=(part.model_copy(update={"shows": find_drawing(puppet, part_id, number).number}),))


def step_drawing(puppet: Puppet, part_id: str, number: int, steps: int) -> PuppetChange:
    """Move a replacement by places in the list; the part's own stays first."""
    refuse_locked([find_part(puppet, part_id)])
    chosen = find_drawing(puppet, part_id, number)
    if number == 0:
        return PuppetChange()
    part = find_part(puppet, part_id)
    row = [d for d in puppet.drawings(part) if d.number != 0]
    at = row.index(chosen)
    row.insert(min(len(row), max(0, at + steps)), row.pop(at))
    return PuppetChange(replacements=tuple(d.model_copy(update={"rank": n}) for n, d in enumerate(row)))
