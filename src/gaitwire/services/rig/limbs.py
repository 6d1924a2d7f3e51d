"""The Bench's limbs."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from gaitwire.core.errors import InvalidInputError, NotFoundError
from gaitwire.core.ids import new_id
from gaitwire.core.puppet.change import PuppetChange
from gaitwire.core.puppet.limb_chains import ENDS, begun_limb, limb_chain, longest_chain
from gaitwire.core.puppet.model import Limb, Puppet
from gaitwire.services.rig.gestures import PuppetGestures
from gaitwire.services.session.naming import clean_name, unlike
from gaitwire.services.session.revising import revised


def find_limb(puppet: Puppet, limb_id: str) -> Limb:
    """The limb; raises NotFoundError."""
    limb = next((i for i in puppet.limbs if i.id == limb_id), None)
    if limb is None:
        raise NotFoundError("This limb is not in the puppet any more.", "Choose another.")
    return limb


class Limbs(PuppetGestures):
    """Limbs of one puppet."""

    def add(self, tip_id: str) -> str:
        """A limb that ends at a bone; its id."""
        made = new_id()
        self.commit(
            "make a limb", lambda puppet: PuppetChange(limbs=(_named(puppet, begun_limb(puppet, tip_id, made)),))
        )
        return made

    def add_all(self) -> int:
        """A limb for every hand and foot that has two bones above it and none yet; how many were made."""

        def work(puppet: Puppet) -> PuppetChange:
            made: tuple[Limb, ...] = ()
            for bone in puppet.bones:
                if bone.role in ENDS:
                    try:
                        limb = begun_limb(puppet, bone.id, new_id())
                    except InvalidInputError:
                        continue  # it has one, or hangs from too little
                    made += (_named(puppet.model_copy(update={"limbs": (*puppet.limbs, *made)}), limb),)
            if not made:
                raise InvalidInputError(
                    "There is no hand or foot without a limb.", "Give bones those roles, or choose a tip bone yourself."
                )
            return PuppetChange(limbs=made)

        return len(self.commit("make limbs", work).limbs)

    def update(self, limb_id: str, values: Mapping[str, Any]) -> None:
        """Set fields of a limb; raises InvalidInputError for a value that does not fit."""
        if "name" in values:
            values = {**values, "name": clean_name(str(values["name"]))}

        def work(puppet: Puppet) -> PuppetChange:
            limb = revised(find_limb(puppet, limb_id), values)
            limb_chain(puppet, limb)
            most = longest_chain(puppet, limb)
            if limb.count > most:
                raise InvalidInputError(f"Only {most} bones lie above this tip.", f"Type {most} or less.")
            return PuppetChange(limbs=(limb,))

        self.commit(f"set {', '.join(values)}", work)

    def remove(self, limb_id: str) -> None:
        """Remove a limb; its bones stay."""
        self.commit("remove a limb", lambda puppet: PuppetChange(removed_limbs=(find_limb(puppet, limb_id).id,)))


def _named(puppet: Puppet, limb: Limb) -> Limb:
    return limb.model_copy(update={"name": unlike(limb.name, (i.name for i in puppet.limbs))})
