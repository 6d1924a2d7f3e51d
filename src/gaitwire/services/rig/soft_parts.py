"""The Bench's soft parts: meshes, the bones that bend them, brushed weights, pins."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from typing import Any, NamedTuple

import numpy as np

from gaitwire.core.deform.skin import Brushed, Skin
from gaitwire.core.deform.weights import brushed
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.ids import new_id
from gaitwire.core.puppet import pinning, softness
from gaitwire.core.puppet.change import PuppetChange
from gaitwire.core.puppet.edit import find_bone, find_part, refuse_locked
from gaitwire.core.puppet.model import Part, PinKind, Puppet
from gaitwire.core.puppet.outline import art_region
from gaitwire.services.rig.gestures import PuppetGestures
from gaitwire.services.session.naming import clean_name, unlike
from gaitwire.services.session.revising import revised
from gaitwire.services.session.skins import WEIGHTS_MEDIA_TYPE, write_brushed
from gaitwire.store.blobs import Blob, put_blob

MOST_DABS = 2000


class Heat(NamedTuple):
    """How much one bone bends a part: points (x, y) of its mesh, triangles, and a share for each point."""

    points: list[list[float]]
    triangles: list[list[int]]
    shares: list[float]


class Softening(PuppetGestures):
    """Soft parts of one puppet."""

    def soften(self, part_ids: Sequence[str]) -> None:
        """Make parts soft, bending with the bones that run within them; raises for art that cannot bend."""

        def work(puppet: Puppet) -> PuppetChange:
            made: tuple[Part, ...] = ()
            for part in (find_part(puppet, i) for i in part_ids):
                region = art_region([self.workspace.art(part.art_hash)], self.workspace.skins.mask)
                bends = part.bends_with or softness.likely_bends(puppet, part, region)
                made += softness.make_soft(puppet, part.id, bends).parts
            return PuppetChange(parts=made)

        self.commit("make soft", work)

    def harden(self, part_ids: Sequence[str]) -> None:
        """Make parts rigid."""
        self.commit("make rigid", lambda puppet: softness.make_rigid(puppet, part_ids))

    def bend_with(self, part_id: str, bone_ids: Collection[str]) -> None:
        """Set the bones that bend a part besides its own."""
        self.commit("bend with bones", lambda puppet: softness.bend_with(puppet, part_id, bone_ids))

    def skin(self, part_id: str) -> Skin:
        """A soft part's skin; raises InvalidInputError for a rigid one."""
        puppet = self.puppet
        part = find_part(puppet, part_id)
        if not part.soft:
            raise InvalidInputError(f"“{part.name}” is rigid.", "Make it soft first, on its card.")
        return self.workspace.skins.skin(puppet, part)

    def heat(self, part_id: str, bone_id: str) -> Heat:
        """How much a bone bends a part."""
        skin = self.skin(part_id)
        mesh = skin.body.mesh
        shares = np.zeros(skin.vertices)
        if bone_id in skin.bones:
            shares = skin.weights[: skin.vertices, skin.bones.index(bone_id)]
        return Heat(np.round(mesh.vertices, 2).tolist(), mesh.triangles.tolist(), np.round(shares, 3).tolist())

    def brush(
        self, part_id: str, bone_id: str, dabs: Sequence[tuple[float, float]], radius: float, amount: float
    ) -> None:
        """Brush a bone's hold on a part: along the dabs it grows by `amount` (negative: shrinks)."""
        if not dabs or len(dabs) > MOST_DABS:
            raise InvalidInputError("This stroke is empty or too long.", "Brush in shorter strokes.")

        def work(puppet: Puppet) -> PuppetChange:
            part = find_part(puppet, part_id)
            refuse_locked([part])
            skin = self.skin(part_id)
            if bone_id not in skin.bones:
                name = find_bone(puppet, bone_id).name
                raise InvalidInputError(f"“{name}” does not bend “{part.name}”.", "Add it on the part's card first.")
            mesh = skin.body.mesh
            weights, bone = skin.weights[: skin.vertices], skin.bones.index(bone_id)
            for dab in dabs:
                weights = brushed(weights, mesh.vertices, bone, dab, radius, amount)
            data = write_brushed(Brushed(skin.bones, mesh.vertices, mesh.triangles, weights))
            digest = put_blob(self.workspace.store, Blob(WEIGHTS_MEDIA_TYPE, data))
            return PuppetChange(parts=(part.model_copy(update={"weights_hash": digest}),))

        self.commit("brush weights", work)

    def unbrush(self, part_ids: Sequence[str]) -> None:
        """Go back to the weights that the bones' places give."""

        def work(puppet: Puppet) -> PuppetChange:
            parts = [find_part(puppet, i) for i in part_ids]
            refuse_locked(parts)
            return PuppetChange(parts=tuple(p.model_copy(update={"weights_hash": ""}) for p in parts))

        self.commit("weights as computed", work)

    def place_pin(self, part_id: str, kind: PinKind, x: float, y: float, axis: float | None = None) -> list[str]:
        """A pin on a part, and its twin beyond the line x = axis if one is given; their ids. No keys are written."""

        def work(puppet: Puppet) -> PuppetChange:
            taken = [p.name for p in puppet.pins_of(part_id)]
            name = unlike(f"{kind} pin", taken)
            names = (name, unlike(name, [*taken, name]))
            return pinning.place_pin(puppet, part_id, kind, (x, y), names, new_id, axis)

        return [p.id for p in self.commit(f"place a {kind} pin", work).pins]

    def move_pin(self, pin_id: str, x: float, y: float, axis: float | None = None) -> None:
        """Put a pin on another point of its part, and its twin beyond the line x = axis likewise."""
        self.commit("move a pin", lambda whole: pinning.move_pin(whole, pin_id, (x, y), axis))

    def set_pins(self, pin_ids: Sequence[str], values: Mapping[str, Any]) -> None:
        """Set fields of pins; raises InvalidInputError for a value that does not fit."""
        if "name" in values:
            values = {**values, "name": clean_name(str(values["name"]))}
        revise: Callable[..., Any] = revised
        label = f"set {', '.join(values)}".replace("bone id", "what carries it").replace("_", " ")
        self.commit(label, lambda whole: pinning.set_pins(whole, pin_ids, values, revise))

    def remove_pins(self, pin_ids: Sequence[str]) -> None:
        """Remove pins."""
        self.commit("remove pins", lambda whole: pinning.remove_pins(whole, pin_ids))
