"""What the Floor's card shows about chosen bones and beads."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache

import numpy as np

from gaitwire.core.evaluate.compiled import CompiledScene
from gaitwire.core.evaluate.evaluate import sample_values
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.scene import Scene
from gaitwire.core.timing.channel import NODE_PROPERTIES, PROPERTIES, Property
from gaitwire.core.timing.easing import EASINGS, find_easing
from gaitwire.core.timing.easing.nearest import nearest_cubic
from gaitwire.core.timing.easing.registry import FREE
from gaitwire.core.timing.edit import rise_of
from gaitwire.core.timing.key import Key, curve_to_shares
from gaitwire.core.tolerances import TIME
from gaitwire.services.floor import Bead, Floor
from gaitwire.services.workspace import Workspace

Node = tuple[str, str]
"""(instance id, owner id)."""


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
    bone = puppet.bone(node[1]) if puppet else None
    return bone.name if bone else "?"


def value_rows(scene: Scene, compiled: CompiledScene, nodes: Sequence[Node], frame: float) -> list[ValueRow]:
    """The chosen nodes' values at a frame."""
    sampled: list[np.ndarray] = []
    for island in compiled.islands:
        wanted = [i for i, key in enumerate(island.node_keys) if key in set(nodes)]
        if wanted:
            values = sample_values(island, np.array([frame]))
            sampled += [values[i, :, 0] for i in wanted]
    if not sampled:
        return []
    table = np.array(sampled)
    keyed = _keyed(scene, nodes, frame)
    rows = []
    for column, name in enumerate(NODE_PROPERTIES):
        values = table[:, column]
        same = bool(np.ptp(values) < 1e-9)
        rows.append(ValueRow(PROPERTIES["bone"][name], float(values[0]) if same else None, name in keyed))
    return rows


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


def curve_view(floor: Floor, beads: Sequence[Bead]) -> CurveView:
    """What the curve panel shows for beads; raises InvalidInputError when none is there."""
    scene = floor.scene
    by_channel = scene.keys_by_channel()
    keys: list[tuple[Key, float]] = []
    for channel_id, ids in floor.chosen_keys(beads).items():
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
