"""The artist's next version of a puppet's art: the rig stays, the drawings are renewed."""

from __future__ import annotations

from collections.abc import Mapping
from typing import NamedTuple

from gaitwire.core.ids import new_id
from gaitwire.core.puppet.change import PuppetChange
from gaitwire.core.puppet.model import Bone, Part, Puppet
from gaitwire.core.puppet.placing import placed
from gaitwire.formats.art_readers import read_art
from gaitwire.formats.picture_files import read_pictures
from gaitwire.formats.reading import Reading, ReadPart
from gaitwire.services.library.art_in import bone_for, put_art, put_pictures
from gaitwire.services.rig.gestures import PuppetGestures
from gaitwire.services.session.naming import unlike
from gaitwire.services.session.workers import run_limited


class Renewed(NamedTuple):
    """Names of parts: with new art, with the same art, added, and those that the file does not have."""

    renewed: tuple[str, ...]
    same: tuple[str, ...]
    added: tuple[str, ...]
    missing: tuple[str, ...]
    notes: tuple[str, ...]


def _known_as(part: Part) -> str:
    return (part.came_as or part.name).lower()


class ArtAgain(PuppetGestures):
    """Art brought in again for one puppet."""

    def renew(self, data: bytes, filename: str) -> Renewed:
        """Renew parts by the names of the layers they came from; new layers are added, missing ones stay.

        Bones, order, softness, pins and keys stay as they are. Raises UnreadableArtError when the
        file cannot be used, InvalidInputError where a pin would lie outside the new art; nothing is
        stored then.
        """
        return self._renew(run_limited(read_art, data, filename))

    def renew_pictures(self, files: Mapping[str, bytes]) -> Renewed:
        """The same from several pictures by path, each a layer."""
        return self._renew(run_limited(read_pictures, files, self.puppet.name))

    def _renew(self, reading: Reading) -> Renewed:
        found: list[Renewed] = []

        def work(puppet: Puppet) -> PuppetChange:
            put_pictures(self.workspace, reading)
            change, report = self._compared(puppet, reading)
            found.append(report)
            return change

        self.commit("bring art in again", work)
        return found[0]

    def _compared(self, puppet: Puppet, reading: Reading) -> tuple[PuppetChange, Renewed]:
        layers = {p.name.lower(): p for p in reading.parts}
        parts = [self._fresh(p, layers.get(_known_as(p)), reading.placed) for p in puppet.parts]
        known = {_known_as(p) for p in parts}
        order = sorted(parts, key=lambda p: p.rank)
        bones = [self._insert(puppet, reading, p, order) for p in reading.parts if p.name.lower() not in known]
        if bones:
            order = [p.model_copy(update={"rank": rank}) for rank, p in enumerate(order)]
        before = {p.id: p for p in puppet.parts}
        report = Renewed(
            renewed=tuple(p.name for p in parts if p.art_hash != before[p.id].art_hash),
            same=tuple(p.name for p in parts if _known_as(p) in layers and p.art_hash == before[p.id].art_hash),
            added=tuple(b.name for b in bones),
            missing=tuple(p.name for p in parts if _known_as(p) not in layers and not p.shadow),
            notes=reading.notes,
        )
        changed = tuple(p for p in order if p != before.get(p.id))
        return PuppetChange(bones=tuple(bones), parts=changed), report

    def _fresh(self, part: Part, layer: ReadPart | None, in_place: bool) -> Part:
        """The part with its new art; a loose picture, which says nothing of its place, goes where the old one is."""
        if layer is None:
            return part
        art = layer.art
        if not in_place:
            (ax, ay), (bx, by) = art.bounds.centre, self.workspace.art(part.art_hash).bounds.centre
            art = placed(art, (1.0, 0.0, 0.0, 1.0, bx - ax, by - ay))
        return part.model_copy(update={"art_hash": put_art(self.workspace, art)})

    def _insert(self, puppet: Puppet, reading: Reading, layer: ReadPart, order: list[Part]) -> Bone:
        """Put a new part into the order, in front of what lies behind it in the file; its own new bone."""
        taken = [p.name for p in order] + [b.name for b in puppet.bones]
        folder = reading.folders[layer.folder].name.lower() if layer.folder is not None else ""
        above = next((b.id for b in puppet.bones if b.name.lower() == folder), None)
        name = unlike(layer.name, taken)
        bone = bone_for(puppet.id, name, above, len(puppet.bones) + len(order), layer.art.bounds)
        part = Part(
            id=new_id(), puppet_id=puppet.id, bone_id=bone.id, name=name, hidden=layer.hidden, came_as=layer.name,
            art_hash=put_art(self.workspace, layer.art),
        )  # fmt: skip
        places = {_known_as(p): place for place, p in enumerate(order)}
        behind = [p.name.lower() for p in reading.parts[: reading.parts.index(layer)]]
        order.insert(next((places[n] + 1 for n in reversed(behind) if n in places), 0), part)
        return bone
