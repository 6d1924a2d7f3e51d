"""Ready to walk? The list for a puppet in the store, and each of its remedies as one gesture on the Bench."""

from __future__ import annotations

from collections.abc import Callable

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.geometry.bounds import Box, union
from gaitwire.core.puppet.change import PuppetChange
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.walk.readiness import Weakness, foot_along, weaknesses
from gaitwire.services.rig.bench import Bench
from gaitwire.services.rig.limbs import Limbs
from gaitwire.services.session.workspace import Workspace

LABELS = {"roles": "guess roles from names", "feet": "as long as their drawings", "limbs": "make the limbs"}
"""What the button of each remedy says."""


def _boxes(workspace: Workspace, puppet: Puppet) -> dict[str, Box]:
    found: dict[str, list[Box]] = {}
    for part in puppet.parts:
        for bone_id in (part.bone_id, *part.bends_with):
            if bone_id and not part.hidden:
                found.setdefault(bone_id, []).append(workspace.art(part.art_hash).bounds)
    return {bone_id: box for bone_id, boxes in found.items() if (box := union(boxes)) is not None}


def ready_list(workspace: Workspace, puppet_id: str) -> list[Weakness]:
    """What a puppet lacks for a walk, or has only weakly."""
    puppet = workspace.puppet(puppet_id)
    return weaknesses(puppet, _boxes(workspace, puppet))


def mend_for_walk(workspace: Workspace, puppet_id: str, remedy: str) -> None:
    """Do what a remedy says; raises InvalidInputError where that is nothing."""
    work = _REMEDIES.get(remedy)
    if work is None:
        raise InvalidInputError(f"There is no remedy “{remedy[:20]}”.", "Reload the page.")
    work(workspace, puppet_id)


def _guess(workspace: Workspace, puppet_id: str) -> None:
    bench = Bench(workspace, puppet_id)
    if not bench.guess_roles([b.id for b in bench.puppet.bones if not b.role]):
        raise InvalidInputError("No name tells a role.", "Give its bones their roles and sides on the Bench.")


def _lengthen(workspace: Workspace, puppet_id: str) -> None:
    def work(puppet: Puppet) -> PuppetChange:
        boxes = _boxes(workspace, puppet)
        flat = [b for b in puppet.bones if b.role in ("foot", "fore foot") and b.length <= 0 and b.id in boxes]
        if not flat:
            raise InvalidInputError("No foot without a length has a drawing.", "Draw its bone on the Bench.")
        along = {b.id: foot_along(b, boxes[b.id]) for b in flat}
        return PuppetChange(
            bones=tuple(b.model_copy(update={"length": along[b.id][0], "angle": along[b.id][1]}) for b in flat)
        )

    Bench(workspace, puppet_id).commit("give feet a length", work)


def _limb(workspace: Workspace, puppet_id: str) -> None:
    Limbs(workspace, puppet_id).add_all()


_REMEDIES: dict[str, Callable[[Workspace, str], None]] = {"roles": _guess, "feet": _lengthen, "limbs": _limb}
