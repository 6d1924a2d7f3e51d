"""Which bones a limb is made of."""

from __future__ import annotations

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.puppet.model import Bone, Limb, Puppet


def limb_chain(puppet: Puppet, limb: Limb) -> list[Bone]:
    """The bones a limb is solved with, root first; fewer than it asks for where the tree ends.

    Raises InvalidInputError when fewer than two are left, or one of them has no way to go.
    """
    bones = {b.id: b for b in puppet.bones}
    at = bones.get(limb.tip_id)
    if at is not None and not limb.whole:
        at = bones.get(at.parent_id or "")
    chain: list[Bone] = []
    while at is not None and len(chain) < limb.count:
        chain.append(at)
        at = bones.get(at.parent_id or "")
    if len(chain) < 2:
        raise InvalidInputError(
            f"“{limb.name}” needs at least two bones above its tip.", "Hang the tip from a chain of bones first."
        )
    return chain[::-1]


def limb_bones(puppet: Puppet) -> set[str]:
    """Ids of all bones that are in a limb's chain."""
    found: set[str] = set()
    for limb in puppet.limbs:
        try:
            found |= {b.id for b in limb_chain(puppet, limb)}
        except InvalidInputError:
            continue  # its bones were taken away: it sleeps
    return found
