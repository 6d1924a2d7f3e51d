"""The tree of bones: order, descendants, and the refusal of cycles."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from typing import NamedTuple

from gaitwire.core.errors import CycleError
from gaitwire.core.puppet.model import Bone


class TreeRow(NamedTuple):
    """A bone and how deep it hangs."""

    bone: Bone
    depth: int


def children_of(bones: Iterable[Bone]) -> dict[str | None, list[Bone]]:
    """Bones by parent id, each list in order of rank; a missing parent counts as none."""
    bones = list(bones)
    known = {b.id for b in bones}
    found: dict[str | None, list[Bone]] = defaultdict(list)
    for bone in bones:
        found[bone.parent_id if bone.parent_id in known else None].append(bone)
    for rows in found.values():
        rows.sort(key=lambda b: (b.rank, b.name, b.id))
    return found


def walk(bones: Sequence[Bone]) -> Iterator[TreeRow]:
    """Every bone, parents before children, siblings by rank."""
    children = children_of(bones)
    stack = [(b, 0) for b in reversed(children[None])]
    while stack:
        bone, depth = stack.pop()
        below = children.get(bone.id, [])
        yield TreeRow(bone, depth)
        stack += [(b, depth + 1) for b in reversed(below)]


def descendants(bones: Iterable[Bone], bone_id: str) -> set[str]:
    """Ids of all bones that hang from this one, at any depth; itself not among them."""
    children = children_of(bones)
    found: set[str] = set()
    stack = [bone_id]
    while stack:
        for child in children.get(stack.pop(), []):
            found.add(child.id)
            stack.append(child.id)
    return found


def refuse_cycle(bones: Sequence[Bone], bone_id: str, parent_id: str | None) -> None:
    """Raise CycleError, by name, if hanging the bone from that parent would close a ring."""
    if parent_id is None:
        return
    names = {b.id: b.name for b in bones}
    if parent_id == bone_id:
        raise CycleError(
            f"“{names[bone_id]}” cannot hang from itself.",
            "Leave it out of what is chosen, or drop it on another bone.",
        )
    if parent_id in descendants(bones, bone_id):
        raise CycleError(
            f"“{names[bone_id]}” cannot hang from “{names[parent_id]}”, which hangs from it.",
            "Hang the other one somewhere else first.",
        )
