"""Drawing in place on the Bench: into the drawing that a part shows."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from gaitwire.core.conventions import Point
from gaitwire.core.geometry.anchors import Run, runs_of
from gaitwire.core.puppet import sketch
from gaitwire.core.puppet.art import Art, Shape, Solid, leaves
from gaitwire.core.puppet.change import PuppetChange
from gaitwire.core.puppet.drawings import find_drawing
from gaitwire.core.puppet.edit import find_part, refuse_locked
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.puppet.sketch import SketchKind, Style
from gaitwire.services.library.art_in import put_art
from gaitwire.services.rig.gestures import PuppetGestures


class Sketching(PuppetGestures):
    """Gestures on the drawing that a part shows. An `axis` mirrors them in the upright line x = axis."""

    def shown(self, part_id: str) -> Art:
        """The drawing that is drawn into."""
        part = find_part(self.puppet, part_id)
        return self.workspace.art(find_drawing(self.puppet, part_id, part.shows).art_hash)

    def sheet(self, part_id: str) -> dict[str, Any]:
        """What the page needs to take hold of the drawing's points: shapes back to front, and colours to draw with."""
        puppet = self.puppet
        shapes = [
            _entry(index, leaf)
            for index, leaf in enumerate(leaves(self.shown(part_id).nodes))
            if isinstance(leaf, Shape)
        ]
        hashes = {d.art_hash for part in puppet.parts for d in puppet.drawings(part)}
        return {"shapes": shapes, "palette": sketch.palette(map(self.workspace.art, sorted(hashes)))}

    def _redraw(self, label: str, part_id: str, work: Callable[[Art], Art]) -> None:
        def change(puppet: Puppet) -> PuppetChange:
            part = find_part(puppet, part_id)
            refuse_locked([part])
            drawing = find_drawing(puppet, part_id, part.shows)
            digest = put_art(self.workspace, work(self.workspace.art(drawing.art_hash)))
            if drawing.number == 0:
                return PuppetChange(parts=(part.model_copy(update={"art_hash": digest}),))
            return PuppetChange(replacements=(drawing.model_copy(update={"art_hash": digest}),))

        self.commit(label, change)

    def _reshape(self, label: str, part_id: str, index: int, work: Callable[[list[Run]], list[Run]]) -> None:
        self._redraw(label, part_id, lambda art: sketch.redrawn(art, index, work))

    def add(
        self, part_id: str, kind: SketchKind, places: Sequence[Point], style: Style, closed: bool = True,
        clipped: bool = False,
    ) -> int:  # fmt: skip
        """A new shape in front; its place among the shapes."""
        shape = sketch.make_shape(sketch.sketched(kind, places, closed), style)
        self._redraw(f"draw a {kind}", part_id, lambda art: sketch.with_shape(art, shape, clipped))
        return len(list(leaves(self.shown(part_id).nodes))) - 1

    def restyle(self, part_id: str, index: int, **values: Any) -> None:
        """Another fill, stroke or width for a shape; what is not named stays."""
        self._redraw("colour a shape", part_id, lambda art: sketch.restyled(art, index, **values))

    def remove(self, part_id: str, index: int) -> None:
        """Remove a shape."""
        self._redraw("remove a shape", part_id, lambda art: sketch.without_shape(art, index))

    def mirror(self, part_id: str, index: int, axis: float, keep: bool) -> None:
        """Reflect a shape in the line x = axis, beside itself or in its own place."""
        self._redraw("mirror a shape", part_id, lambda art: sketch.mirrored_shape(art, index, axis, keep))

    def move_point(
        self, part_id: str, index: int, point: tuple[int, int], row: int, place: Point, axis: float | None = None
    ) -> None:
        """Move an anchor (row 1) or one of its handles (0 before it, 2 after it)."""

        self._reshape("move a point", part_id, index, lambda runs: sketch.move_point(runs, *point, row, place, axis))

    def add_point(self, part_id: str, index: int, place: Point, axis: float | None = None) -> None:
        """One more anchor on a shape's outline."""
        self._reshape("add a point", part_id, index, lambda runs: sketch.add_point(runs, place, axis))

    def drop_points(self, part_id: str, index: int, chosen: Sequence[tuple[int, int]]) -> None:
        """Take anchors away."""
        self._reshape("remove points", part_id, index, lambda runs: sketch.drop_points(runs, chosen))

    def bend_points(self, part_id: str, index: int, chosen: Sequence[tuple[int, int]], smooth: bool) -> None:
        """Make anchors smooth, or corners."""
        label = "smooth points" if smooth else "corner points"
        self._reshape(label, part_id, index, lambda runs: sketch.bend_points(runs, chosen, smooth))


def _entry(index: int, shape: Shape) -> dict[str, Any]:
    stroke = shape.stroke
    return {
        "index": index, "d": shape.d, "fixed": shape.matrix is not None,
        "runs": [{"closed": r.closed, "anchors": r.anchors.round(2).tolist()} for r in runs_of(shape.d)],
        "fill": shape.fill.color if isinstance(shape.fill, Solid) else "",
        "stroke": stroke.paint.color if stroke and isinstance(stroke.paint, Solid) else "",
        "width": stroke.width if stroke else 0,
    }  # fmt: skip
