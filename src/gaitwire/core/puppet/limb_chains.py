"""Limbs: which bones they are made of, and how a new one is begun."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import Literal

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.puppet.model import LONGEST_LIMB, Bone, Limb, Puppet

_STRAIGHT = 1.0
"""Degrees. A chain drawn straighter than that does not say to which side it bends."""

ENDS = ("hand", "foot")
"""Roles of bones that limbs end at."""


def chain_of(puppet: Puppet, limb: Limb) -> list[Bone]:
    """The bones a limb is solved with, root first; fewer than it asks for where the tree ends."""
    bones = {b.id: b for b in puppet.bones}
    at = bones.get(limb.tip_id)
    if at is not None and not limb.whole:
        at = bones.get(at.parent_id or "")
    chain: list[Bone] = []
    while at is not None and len(chain) < limb.count:
        chain.append(at)
        at = bones.get(at.parent_id or "")
    return chain[::-1]


def limb_chain(puppet: Puppet, limb: Limb) -> list[Bone]:
    """The same; raises InvalidInputError when fewer than two are left."""
    chain = chain_of(puppet, limb)
    if len(chain) < 2:
        raise InvalidInputError(
            f"“{limb.name}” needs at least two bones above its tip.", "Choose a bone that hangs from a chain of them."
        )
    return chain


def limb_bones(puppet: Puppet) -> set[str]:
    """Ids of all bones that are in a limb's chain; a limb whose bones were taken away has none."""
    return {b.id for limb in puppet.limbs if len(chain := chain_of(puppet, limb)) > 1 for b in chain}


def limb_end(puppet: Puppet, limb: Limb) -> tuple[float, float]:
    """Where the limb ends at rest, in the puppet's pixels."""
    tip = next(b for b in puppet.bones if b.id == limb.tip_id)
    if not limb.whole:
        return tip.x, tip.y
    angle = math.radians(tip.angle)
    return tip.x + tip.length * math.cos(angle), tip.y + tip.length * math.sin(angle)


def rest_bend(chain: list[Bone], end: tuple[float, float]) -> Literal[-1, 1]:
    """The side a chain bends to as it was drawn; one drawn straight bends as an arm or a leg facing right would."""
    points = [(b.x, b.y) for b in chain] + [end]
    steps = [complex(bx - ax, by - ay) for (ax, ay), (bx, by) in pairwise(points)]
    turned = 0.0
    for before, after in pairwise(steps):
        if abs(before) > 0 and abs(after) > 0:
            turn = after / before
            turned += math.degrees(math.atan2(turn.imag, turn.real))
    if abs(turned) > _STRAIGHT:
        return 1 if turned > 0 else -1
    return -1 if any(b.region == "arm" for b in chain) else 1


def begun_limb(puppet: Puppet, tip_id: str, new_id: str, name: str = "") -> Limb:
    """A limb that ends at a bone: two bones, bent as they were drawn.

    It ends at the bone's joint if two bones of its region lie above it, else at its own tip. A foot keeps its
    angle. Raises
    InvalidInputError where no two bones are there, or the tip has a limb already.
    """
    tip = next((b for b in puppet.bones if b.id == tip_id), None)
    if tip is None:
        raise InvalidInputError("This bone is not in the puppet any more.", "Choose another.")
    if any(limb.tip_id == tip_id for limb in puppet.limbs):
        raise InvalidInputError(f"A limb ends at “{tip.name}” already.", "Change that one.")
    title = name or (f"{tip.side} {tip.region}" if tip.side != "centre" else f"{tip.name} limb")
    limb = Limb(id=new_id, puppet_id=puppet.id, name=title, tip_id=tip_id)
    above = chain_of(puppet, limb)
    if tip.role not in ENDS and tip.length > 0 and (len(above) < 2 or any(b.region != tip.region for b in above)):
        limb = limb.model_copy(update={"whole": True})
    if tip.role == "foot" and not limb.whole:
        limb = limb.model_copy(update={"steady": True})
    return limb.model_copy(update={"bend": rest_bend(limb_chain(puppet, limb), limb_end(puppet, limb))})


def longest_chain(puppet: Puppet, limb: Limb) -> int:
    """How many bones the limb could have."""
    return len(chain_of(puppet, limb.model_copy(update={"count": LONGEST_LIMB})))
