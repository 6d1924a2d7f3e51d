"""Stook's face: a facing pad that turns his head, and gauges for his mouth and his brows."""

from __future__ import annotations

from collections.abc import Mapping

from gaitwire.core.puppet.controls import Reshape, Row
from gaitwire.services.rig.mirrored_shapes import Reflecting
from gaitwire.services.session.workspace import Workspace

MouthShapes = Mapping[str, Mapping[str, float]]
"""Values by property, by the name of a bone; of parts where they are such that only parts have."""

_SIDE: MouthShapes = {
    "near eye": {"shift_x": 46, "widen": 0.86},
    "far eye": {"shift_x": 36, "widen": 0.3, "shown": 0},
    "near brow": {"shift_x": 48, "widen": 0.9},
    "far brow": {"shift_x": 34, "widen": 0.3, "shown": 0},
    "nose": {"shift_x": 52, "shift_y": -2, "drawing": 1},
    "mouth": {"shift_x": 25, "widen": 0.5, "shift_y": -2},
    "straw hair": {"shift_x": -12, "widen": 0.9},
    "hat": {"shift_x": -4, "widen": 0.94, "turn": -2},
    "collar": {"shift_x": 3},
}

_THREE_QUARTER: MouthShapes = {
    "near eye": {"shift_x": 26, "widen": 0.97},
    "far eye": {"shift_x": 20, "widen": 0.7},
    "near brow": {"shift_x": 27},
    "far brow": {"shift_x": 20, "widen": 0.74},
    "nose": {"shift_x": 28, "shift_y": -1, "drawing": 1},
    "mouth": {"shift_x": 17, "widen": 0.8, "shift_y": -1},
    "straw hair": {"shift_x": -6, "widen": 0.96},
    "hat": {"shift_x": -2, "widen": 0.98, "turn": -1},
    "collar": {"shift_x": 2},
}

_UP: MouthShapes = {
    "eyes": {"shift_y": -13, "stretch": 0.92},
    "brow": {"shift_y": -15},
    "nose": {"shift_y": -15, "stretch": 0.8},
    "mouth": {"shift_y": -13, "stretch": 1.08},
    "hat": {"shift_y": -3, "stretch": 0.9, "place": -12},
    "straw hair": {"shift_y": 6},
}

_DOWN: MouthShapes = {
    "eyes": {"shift_y": 11, "stretch": 0.9},
    "brow": {"shift_y": 12},
    "nose": {"shift_y": 15, "stretch": 1.15},
    "mouth": {"shift_y": 8, "stretch": 0.8},
    "hat": {"shift_y": 13, "stretch": 1.05},
    "straw hair": {"shift_y": -4},
}

_CHEEKS = {
    # Where the sack's corners and stitches go: (across, down) at rest to (across, down)
    "side": {(157, 116): (10, -4), (263, 116): (-6, 2), (242, 204): (12, -5), (178, 204): (20, 1),
             (174, 116): (36, 0), (168, 146): (38, 0), (246, 116): (11, 4), (252, 146): (13, 0)},
    "three-quarter": {(157, 116): (5, -2), (263, 116): (-3, 1), (242, 204): (7, -2), (178, 204): (9, 0),
                      (174, 116): (20, 0), (168, 146): (22, 0), (246, 116): (9, 0), (252, 146): (12, 0)},
    "up": {(157, 116): (1, 6), (263, 116): (-1, 6), (242, 204): (4, -7), (178, 204): (-4, -7)},
    "down": {(242, 204): (-5, 5), (178, 204): (5, 5)},
    "jaw": {(242, 204): (-4, 11), (178, 204): (4, 11)},
}  # fmt: skip

Places = tuple[tuple[float, str, MouthShapes, str], ...]

_PAD = (
    (45.0, 0.0, "three-quarter", _THREE_QUARTER, "three-quarter"), (90.0, 0.0, "side", _SIDE, "side"),
    (0.0, 30.0, "up", _UP, "up"), (0.0, -30.0, "down", _DOWN, "down"),
)  # fmt: skip

_MOUTH: Places = (
    (-100.0, "grim", {"mouth": {"drawing": 3, "shift_y": 1}}, ""),
    (45.0, "round", {"mouth": {"drawing": 2, "shift_y": 2, "stretch": 0.9}}, ""),
    (100.0, "open", {"mouth": {"drawing": 1, "shift_y": 6, "stretch": 1.12}}, "jaw"),
)

_BROWS: Places = (
    (-100.0, "frown", {"near brow": {"turn": 20, "shift_y": 7, "shift_x": 3},
                       "far brow": {"turn": -20, "shift_y": 7, "shift_x": -3}, "eyes": {"stretch": 0.86}}, ""),
    (100.0, "raised", {"near brow": {"turn": -9, "shift_y": -10}, "far brow": {"turn": 9, "shift_y": -10},
                       "eyes": {"stretch": 1.14}}, ""),
)  # fmt: skip

_OF_PARTS = ("drawing", "shown", "place")


def give_face(workspace: Workspace, puppet_id: str) -> None:
    """The pad with its two halves, and both gauges."""
    work = Reflecting(workspace, puppet_id)
    pad = work.add_control("pad", "head")
    for x, y, name, said, cheeks in _PAD:
        _store(work, pad, (x, y), name, said, cheeks)
    work.reflect(pad)
    for control, places in (("talk", _MOUTH), ("brows", _BROWS)):
        gauge = work.add_control("gauge", control)
        for x, name, said, cheeks in places:
            _store(work, gauge, (x, 0.0), name, said, cheeks)


def _store(
    work: Reflecting, control_id: str, place: tuple[float, float], name: str, said: MouthShapes, cheeks: str
) -> None:
    entry_id = work.add_entry(control_id, *place, name)
    # A new place begins with what is seen there: here every value is said anew.
    work.clear(entry_id, [b.id for b in work.puppet.bones] + [p.id for p in work.puppet.parts])
    puppet = work.puppet
    bones, parts = {b.name: b.id for b in puppet.bones}, {p.name: p.id for p in puppet.parts}
    rows = []
    for owner, values in said.items():
        for prop, value in values.items():
            kind, ids = ("part", parts) if prop in _OF_PARTS else ("bone", bones)
            rows.append(Row.model_validate({"kind": kind, "owner_id": ids[owner], "property": prop, "value": value}))
    reshapes = [_reshape(work, parts["face"], _CHEEKS[cheeks])] if cheeks else []
    work.put_rows(entry_id, rows, reshapes)


def _reshape(work: Reflecting, part_id: str, moves: Mapping[tuple[int, int], tuple[int, int]]) -> Reshape:
    """The points nearest to some places, moved."""
    part = work.puppet.part(part_id)
    if part is None:
        raise ValueError("no such part")
    outline = work.outline(part, 0)
    anchors = [first for first, *_ in outline.anchors]
    moved = {}
    for (x, y), by in moves.items():
        nearest = min(anchors, key=lambda n: (outline.points[n][0] - x) ** 2 + (outline.points[n][1] - y) ** 2)
        moved[nearest] = (float(by[0]), float(by[1]))
    return Reshape(part_id=part_id, drawing=0, count=len(outline.points), points=tuple(outline.carried(moved)))
