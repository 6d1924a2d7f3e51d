"""Who does on one puppet what an owner does on another: found by id, name, or role and side; near or far."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

from pydantic import BaseModel, ConfigDict

from gaitwire.core.bounds import Degrees, Id, Label
from gaitwire.core.puppet.controls import Control
from gaitwire.core.puppet.mirroring import OTHER_SIDE, turned_over
from gaitwire.core.puppet.model import Bone, Limb, Part, Pin, Puppet
from gaitwire.core.puppet.roles import Side
from gaitwire.core.timing.channel import OwnerKind


class OwnerMark(BaseModel):
    """How an owner is known away from its puppet. `angle` is the direction of its bone at rest, in degrees."""

    model_config = ConfigDict(frozen=True)

    kind: OwnerKind
    owner_id: Id
    name: Label
    role: Label = ""
    side: Side = "centre"
    angle: Degrees = 0.0


class Owner(NamedTuple):
    """An owner found on a puppet, with its direction at rest."""

    id: Id
    angle: float


Owned = Bone | Part | Pin | Limb | Control


def mark_of(puppet: Puppet, owner: Owned | None, instance_id: str) -> OwnerMark:
    """The mark of an owner; None stands for the puppet's seat."""
    if owner is None:
        return OwnerMark(kind="seat", owner_id=instance_id, name="")
    if isinstance(owner, Bone):
        return OwnerMark(
            kind="bone", owner_id=owner.id, name=owner.name, role=owner.role, side=owner.side, angle=owner.angle
        )
    if isinstance(owner, Control):
        return OwnerMark(kind="pad" if owner.kind == "pad" else "gauge", owner_id=owner.id, name=owner.name)
    kind = next(kind for known, kind in _KINDS if isinstance(owner, known))
    return OwnerMark(kind=kind, owner_id=owner.id, name=owner.name)


_KINDS: tuple[tuple[type, OwnerKind], ...] = ((Part, "part"), (Pin, "pin"), (Limb, "limb"))


def counterpart(mark: OwnerMark, puppet: Puppet, instance_id: str, mirrored: bool = False) -> Owner | None:
    """What on a puppet does what the mark's owner did on its own; None if nothing does.

    Mirrored, the one on the other side: by its name turned over, or its role there. What has no
    side is its own counterpart.
    """
    if mark.kind == "seat":
        return Owner(instance_id, 0.0)
    owners = _owners(puppet, mark.kind)
    if mirrored and turned_over(mark.name) != mark.name:
        return _named(owners, turned_over(mark.name)) or _in_role(puppet, mark, OTHER_SIDE[mark.side])
    if mirrored and mark.side != "centre":
        return _in_role(puppet, mark, OTHER_SIDE[mark.side])
    same = next((Owner(o.id, _angle(o)) for o in owners if o.id == mark.owner_id), None)
    return same or _named(owners, mark.name) or _in_role(puppet, mark, mark.side)


def _owners(puppet: Puppet, kind: OwnerKind) -> Iterable[Owned]:
    known: dict[str, Iterable[Owned]] = {
        "bone": puppet.bones, "part": puppet.parts, "pin": puppet.pins, "limb": puppet.limbs,
    }  # fmt: skip
    return known.get(kind, (c for c in puppet.controls if c.kind == kind))


def _angle(owner: Owned) -> float:
    return owner.angle if isinstance(owner, Bone) else 0.0


def _named(owners: Iterable[Owned], name: str) -> Owner | None:
    return next((Owner(o.id, _angle(o)) for o in owners if o.name.lower() == name.lower()), None)


def _in_role(puppet: Puppet, mark: OwnerMark, side: Side) -> Owner | None:
    if mark.kind != "bone" or not mark.role:
        return None
    found = [Owner(b.id, b.angle) for b in puppet.bones if b.role == mark.role and b.side == side]
    return found[0] if len(found) == 1 else None
