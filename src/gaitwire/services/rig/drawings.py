"""The Bench's replacements: the several drawings of a part."""

from __future__ import annotations

from pathlib import PurePath

from gaitwire.core.geometry.bounds import Box
from gaitwire.core.ids import new_id
from gaitwire.core.puppet import drawings as rules
from gaitwire.core.puppet.art import Art
from gaitwire.core.puppet.change import PuppetChange
from gaitwire.core.puppet.edit import find_part, remove_parts
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.puppet.pieces import joined_art
from gaitwire.core.puppet.placing import placed
from gaitwire.formats.art_readers import read_art
from gaitwire.formats.reading import Reading
from gaitwire.services.library.art_in import put_art, put_pictures
from gaitwire.services.rig.gestures import PuppetGestures
from gaitwire.services.session.naming import clean_name, unlike
from gaitwire.services.session.workers import run_limited


class Drawings(PuppetGestures):
    """Replacements of one puppet's parts."""

    def _add(self, label: str, part_id: str, name: str, art_hash: str, remove: str = "", smear: bool = False) -> int:
        def work(puppet: Puppet) -> PuppetChange:
            part = find_part(puppet, part_id)
            title = unlike(clean_name(name), [d.name for d in puppet.drawings(part)])
            change = rules.add_drawing(puppet, part_id, new_id(), title, art_hash, smear)
            if remove:
                gone = remove_parts(puppet, [remove])
                change = gone._replace(parts=change.parts, replacements=change.replacements)
            return change

        return self.commit(label, work).replacements[0].number

    def copy(self, part_id: str) -> int:
        """A copy of the drawing that the part shows; its number."""
        part = find_part(self.puppet, part_id)
        shown = rules.find_drawing(self.puppet, part_id, part.shows)
        return self._add("copy a drawing", part_id, f"{shown.name[:70]} copy", shown.art_hash, smear=shown.smear)

    def add_empty(self, part_id: str) -> int:
        """An empty drawing to draw into; its number."""
        part = find_part(self.puppet, part_id)
        box = self.workspace.art(part.art_hash).box
        return self._add("add a drawing", part_id, "drawing", put_art(self.workspace, Art(nodes=(), box=box)))

    def take(self, part_id: str, other_id: str, keep: bool = True) -> int:
        """The drawing of another part, where it lies; that part itself goes unless it is kept."""
        other = find_part(self.puppet, other_id)
        return self._add("take a drawing", part_id, other.name, other.art_hash, "" if keep else other.id)

    def add_file(self, part_id: str, data: bytes, filename: str) -> int:
        """A drawing from an art file, all its parts as one, set down where the part is; its number.

        Raises UnreadableArtError when the file cannot be used; nothing is stored then.
        """
        part = find_part(self.puppet, part_id)
        reading: Reading = run_limited(read_art, data, filename)
        art = joined_art([(p.art, 1.0) for p in reading.parts if not p.hidden])
        home = self.workspace.art(part.art_hash).bounds
        art = placed(art, _onto(art.bounds, home))
        put_pictures(self.workspace, reading)
        name = PurePath(filename).stem.replace("_", " ").replace("-", " ") or "drawing"
        return self._add("add a drawing", part_id, name, put_art(self.workspace, art))

    def show(self, part_id: str, number: int) -> None:
        """Which drawing a part shows at rest."""
        self.commit("show a drawing", lambda puppet: rules.show_drawing(puppet, part_id, number))

    def step(self, part_id: str, number: int, steps: int) -> None:
        """Move a drawing by places in the list."""
        self.commit("order drawings", lambda puppet: rules.step_drawing(puppet, part_id, number, steps))

    def rename(self, part_id: str, number: int, name: str) -> None:
        """Name a replacement; the part's own drawing goes by the part's name."""

        def work(puppet: Puppet) -> PuppetChange:
            found = rules.find_drawing(puppet, part_id, number)
            if number == 0:
                return PuppetChange(parts=(find_part(puppet, part_id).model_copy(update={"name": clean_name(name)}),))
            return PuppetChange(replacements=(found.model_copy(update={"name": clean_name(name)}),))

        self.commit("rename a drawing", work)

    def remove(self, part_id: str, numbers: list[int]) -> None:
        """Remove replacements."""
        self.commit("remove drawings", lambda puppet: rules.remove_drawings(puppet, part_id, numbers))


def _onto(box: Box, home: Box) -> tuple[float, float, float, float, float, float]:
    """Leave art that lies on the part's place where it is; move other art there, its middle on the part's."""
    (ax, ay), (bx, by) = box.centre, home.centre
    inside = abs(ax - bx) <= home.width and abs(ay - by) <= home.height
    return (1.0, 0.0, 0.0, 1.0, 0.0, 0.0) if inside else (1.0, 0.0, 0.0, 1.0, bx - ax, by - ay)
