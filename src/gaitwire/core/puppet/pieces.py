"""Taking a part apart into its shapes, and joining parts into one; at rest nothing looks different."""

from __future__ import annotations

from collections.abc import Sequence

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.geometry.bounds import Box, union
from gaitwire.core.puppet.art import Art, ArtNode, Group
from gaitwire.core.puppet.boxes import node_box
from gaitwire.core.puppet.change import PuppetChange
from gaitwire.core.puppet.edit import refuse_locked
from gaitwire.core.puppet.model import Bone, Part, Puppet


def pieces_of(art: Art) -> list[Art]:
    """Each of the art's shapes as art of its own, back to front."""
    pieces = []
    for node in art.nodes:
        box = node_box(node)
        if box is not None:
            pieces.append(Art(nodes=(node,), box=Box(*(round(v, 4) for v in box))))
    return pieces


def joined_art(parts: Sequence[tuple[Art, float]]) -> Art:
    """One art of several, back to front, each with its part's opacity kept."""
    nodes: list[ArtNode] = []
    for art, opacity in parts:
        nodes += art.nodes if opacity >= 1 else [Group(children=art.nodes, opacity=opacity)]
    box = union(art.bounds for art, _ in parts)
    if box is None:
        raise InvalidInputError("Nothing is chosen to join.", "Choose at least two parts.")
    return Art(nodes=tuple(nodes), box=box)


def refuse_fitted(puppet: Puppet, parts: Sequence[Part]) -> None:
    """Raise InvalidInputError for a part whose softness or replacements would be lost."""
    for part in parts:
        if part.soft:
            raise InvalidInputError(f"“{part.name}” is soft.", "Make it rigid first.")
        if any(r.part_id == part.id for r in puppet.replacements):
            raise InvalidInputError(f"“{part.name}” has replacements.", "Remove them first.")


def apart(puppet: Puppet, part: Part, pieces: Sequence[tuple[Bone, Part]]) -> PuppetChange:
    """The part's pieces in its place, each on its own bone below the part's."""
    refuse_locked([part])
    refuse_fitted(puppet, [part])
    ordered: list[Part] = []
    for other in sorted(puppet.parts, key=lambda p: p.rank):
        ordered += [piece for _, piece in pieces] if other.id == part.id else [other]
    ranked = (p.model_copy(update={"rank": rank}) for rank, p in enumerate(ordered))
    return PuppetChange(bones=tuple(bone for bone, _ in pieces), parts=tuple(ranked), removed_parts=(part.id,))


def join(puppet: Puppet, parts: Sequence[Part], art_hash: str) -> PuppetChange:
    """The parts as one: the hindmost's name and bone, in the foremost's place.

    Raises InvalidInputError for fewer than two parts, LockedError.
    """
    if len(parts) < 2:
        raise InvalidInputError("One part alone cannot be joined.", "Choose at least two.")
    refuse_locked(parts)
    refuse_fitted(puppet, parts)
    chosen = sorted(parts, key=lambda p: p.rank)
    one = chosen[0].model_copy(update={"art_hash": art_hash, "opacity": 1.0})
    gone = {p.id for p in chosen[1:]}
    ordered: list[Part] = []
    for other in sorted(puppet.parts, key=lambda p: p.rank):
        if other.id == chosen[-1].id:
            ordered.append(one)
        elif other.id not in gone and other.id != one.id:
            ordered.append(other)
    ranked = (p.model_copy(update={"rank": rank}) for rank, p in enumerate(ordered))
    return PuppetChange(parts=tuple(ranked), removed_parts=tuple(gone))
