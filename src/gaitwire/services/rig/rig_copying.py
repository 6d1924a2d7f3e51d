"""A rig copied from one puppet onto another one's art, with a list of what found no match."""

from __future__ import annotations

import json
from collections.abc import Mapping

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.ids import new_id
from gaitwire.core.puppet.change import PuppetChange
from gaitwire.core.puppet.controls import Reshape
from gaitwire.core.puppet.fitting import Placing
from gaitwire.core.puppet.likeness import Figure
from gaitwire.core.puppet.model import Part, Puppet
from gaitwire.core.puppet.outline import art_region
from gaitwire.core.puppet.rig_copy import Copier, ReshapeMapper, RigCopy
from gaitwire.services.rig.corrective_shapes import Correcting
from gaitwire.services.session.skins import WEIGHTS_MEDIA_TYPE, read_brushed, write_brushed
from gaitwire.store.blobs import Blob, get_blob, put_blob


class RigCopying(Correcting):
    """Gestures on the puppet that gets the rig."""

    def compared(self, source_id: str) -> RigCopy:
        """What a copy of another puppet's rig would do; nothing is changed."""
        return self._copied(self.workspace.puppet(source_id), self.puppet)

    def copy_rig(self, source_id: str) -> RigCopy:
        """Copy another puppet's rig; raises InvalidInputError where nothing matches."""
        found: list[RigCopy] = []

        def work(puppet: Puppet) -> PuppetChange:
            found.append(self._copied(self.workspace.puppet(source_id), puppet))
            return found[0].change

        self.commit("copy a rig", work)
        return found[0]

    def _copied(self, source: Puppet, target: Puppet) -> RigCopy:
        if source.id == target.id:
            raise InvalidInputError("This is the same puppet.", "Choose another one to copy from.")
        copier = Copier(self._figure(source), self._figure(target), new_id, self._weights, self._points(source))
        if not copier.like:
            raise InvalidInputError(
                f"Nothing of “{source.name}” is like anything here.", "Name the parts alike, or give the bones roles."
            )
        return copier.copy()

    def _figure(self, puppet: Puppet) -> Figure:
        regions = {p.id: art_region([self.workspace.art(p.art_hash)], self.workspace.skins.mask) for p in puppet.parts}
        return Figure(puppet, {i: r for i, r in regions.items() if not r.is_empty})

    def _weights(self, part_id: str, digest: str, bones: Mapping[str, str], placing: Placing) -> str:
        brushed = read_brushed(get_blob(self.workspace.store, digest).data)
        moved = json.loads(write_brushed(brushed))
        moved["vertices"] = [list(placing.in_part(part_id, (x, y))) for x, y in moved["vertices"]]
        moved["bones"] = [bones.get(b, b) for b in moved["bones"]]
        data = write_brushed(read_brushed(json.dumps(moved).encode()))
        return put_blob(self.workspace.store, Blob(WEIGHTS_MEDIA_TYPE, data))

    def _points(self, source: Puppet) -> ReshapeMapper:
        def points(reshape: Reshape, own: Part) -> Reshape | None:
            part = source.part(reshape.part_id)
            if part is None or reshape.drawing or own.soft:
                return None
            try:
                here, there = self.outline_in(source, part, 0), self.outline(own, 0)
            except InvalidInputError:
                return None
            if (
                reshape.count != len(here.points)
                or len(here.points) != len(there.points)
                or here.anchors != there.anchors
            ):
                return None
            return reshape.model_copy(update={"part_id": own.id})

        return points
