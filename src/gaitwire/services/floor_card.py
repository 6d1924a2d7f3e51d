"""What the Floor's card shows about chosen bones and beads."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache

import numpy as np

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate.compiled import CompiledScene
from gaitwire.core.evaluate.evaluate import sample_parts, sample_values
from gaitwire.core.puppet.edit import find_part
from gaitwire.core.puppet.model import Part, Puppet, Replacement
from gaitwire.core.scene import Scene
from gaitwire.core.timing.channel import NODE_PROPERTIES, PART_PROPERTIES, PROPERTIES, Property
from gaitwire.core.timing.easing import EASINGS, find_easing
from gaitwire.core.timing.easing.nearest import nearest_cubic
from gaitwire.core.timing.easing.registry import FREE
from gaitwire.core.timing.edit import rise_of
from gaitwire.core.timing.key import Key, curve_to_shares
from gaitwire.core.tolerances import TIME
from gaitwire.services.floor import Floor
from gaitwire.services.scene_gestures import Bead, Node, owned
from gaitwire.services.workspace import Workspace


@dataclass(frozen=True)
class ValueRow:
    """One property of the chosen nodes at a frame; None where they differ."""

    prop: Property
    value: float | None
    keyed: bool


def owner_name(scene: Scene, puppets: dict[str, Puppet], node: Node) -> str:
    """What a node is called."""
    instance = next((i for i in scene.instances if i.id == node[0]), None)
    if instance is None:
        return "?"
    if node[0] == node[1]:
        return f"{instance.name}, whole"
    puppet = puppets.get(instance.puppet_id)
    owner = owned(puppet, node[1]) if puppet else None
    return owner.name if owner else "?"


def value_rows(scene: Scene, compiled: CompiledScene, nodes: Sequence[Node], frame: float) -> list[ValueRow]:
    """The chosen nodes' values at a frame."""
    sampled: list[np.ndarray] = []
    kinds: set[str] = set()
    for island in compiled.islands:
        wanted = [i for i, key in enumerate(island.node_keys) if key in set(nodes)]
        pins = {p.id for p in island.source[1].pins}
        if wanted:
            values = sample_values(island, np.array([frame]))
            sampled += [values[i, :, 0] for i in wanted]
            kinds |= {"pin" if island.node_keys[i][1] in pins else "bone" for i in wanted}
    if not sampled:
        return []
    table = np.array(sampled)
    keyed = _keyed(scene, nodes, frame)
    has = PROPERTIES["pin" if "pin" in kinds else "bone"]
    rows = []
    for column, name in enumerate(NODE_PROPERTIES):
        if name not in has:
            continue
        values = table[:, column]
        same = bool(np.ptp(values) < 1e-9)
        rows.append(ValueRow(PROPERTIES["bone"][name], float(values[0]) if same else None, name in keyed))
    return rows


@dataclass(frozen=True)
class PartRows:
    """What a part shows at a frame, and what it could show."""

    part: Part
    drawings: tuple[Replacement, ...]
    shows: int
    rows: tuple[ValueRow, ...]
    """Opacity and places forward."""
    keyed: bool
    """Whether the drawing has a key on this frame."""


def part_rows(scene: Scene, compiled: CompiledScene, nodes: Sequence[Node], frame: float) -> list[PartRows]:
    """The parts that are chosen or hang from the one chosen bone, front to back."""
    found = []
    for island in compiled.islands:
        puppet: Puppet = island.source[1]
        owners = {o for i, o in nodes if i == island.source[0].id}
        values = sample_parts(island, np.array([frame]))
        for index in reversed(range(len(island.part_keys))):
            part = find_part(puppet, island.part_keys[index][1])
            if part.id in owners or (part.bone_id in owners and len(nodes) == 1):
                keyed = _keyed(scene, [island.part_keys[index]], frame)
                named = dict(zip(PART_PROPERTIES, values[index, :, 0].tolist(), strict=True))
                rows = tuple(
                    ValueRow(prop, named[name], name in keyed)
                    for name, prop in PROPERTIES["part"].items()
                    if name != "drawing"
                )
                drawings = puppet.drawings(part)
                shows = round(named["drawing"])
                known = shows if any(d.number == shows for d in drawings) else 0
                found.append(PartRows(part, drawings, known, rows, "drawing" in keyed))
    return found


def _keyed(scene: Scene, nodes: Sequence[Node], frame: float) -> set[str]:
    """Properties that have a key on the frame on any of the nodes."""
    chosen = {c.id: c.property for c in scene.channels if (c.instance_id, c.owner_id) in set(nodes)}
    return {chosen[k.channel_id] for k in scene.keys if k.channel_id in chosen and abs(k.time - frame) < TIME}


@dataclass(frozen=True)
class CurveView:
    """The easing of the chosen beads' segments, as the curve panel draws it."""

    ease: str
    """Name they share, 'free', or '' when they differ."""
    handles: tuple[float, float, float, float]
    """(x1, y1, x2, y2) in shares; what a free curve would start from."""
    points: str
    """The curve as SVG points in a unit square, y up; '' for a free one, drawn from its handles."""
    segments: int


def curve_view(floor: Floor, beads: Sequence[Bead]) -> CurveView | None:
    """What the curve panel shows for beads; None if all of them only step.

    Raises InvalidInputError when none of them is there.
    """
    floor.chosen_keys(beads)
    scene = floor.scene
    by_channel = scene.keys_by_channel()
    keys: list[tuple[Key, float]] = []
    try:
        chosen = floor.chosen_keys(beads, eased=True)
    except InvalidInputError:
        return None
    for channel_id, ids in chosen.items():
        row = by_channel[channel_id]
        keys += [(k, rise_of(row, k.id, scene.loop_length)) for k in row if k.id in ids]
    names = {key.ease for key, _ in keys}
    ease = names.pop() if len(names) == 1 else ""
    own = next((s for key, rise in keys if key.curve and (s := curve_to_shares(key.curve, rise))), None)
    handles = own or nearest_cubic(ease if ease and ease != FREE else "sine-in-out")
    points = _course(ease, 65, flip=False) if ease and ease != FREE else ""
    return CurveView(ease, handles, points, len(keys))


@dataclass(frozen=True)
class Preset:
    """A named easing as a button: its direction, and its course as SVG points in a unit square, y down."""

    name: str
    label: str
    points: str


def _course(name: str, count: int, flip: bool) -> str:
    """SVG points of an easing in a unit square, y up or (flipped) down."""
    t = np.linspace(0, 1, count)
    y = find_easing(name)(t)
    return " ".join(f"{a:.4f},{b:.4f}" for a, b in zip(t, 1 - y if flip else y, strict=True))


@cache
def easing_families() -> tuple[tuple[str, tuple[Preset, ...]], ...]:
    """Families of easings with their members, for the card; those that stand alone are 'plain'."""
    found: dict[str, list[Preset]] = {"plain": []}
    for easing in EASINGS.values():
        home = easing.family if easing.direction else "plain"
        found.setdefault(home, []).append(
            Preset(easing.name, easing.direction or easing.family, _course(easing.name, 33, flip=True))
        )
    return tuple((family, tuple(members)) for family, members in found.items())


def chosen_nodes(workspace: Workspace, scene: Scene, nodes: Sequence[Node]) -> list[Node]:
    """Those of the nodes that are in the scene."""
    cast = workspace.cast(scene)
    return [n for n in nodes if owner_name(scene, cast, n) != "?"]
