"""What the Floor's card shows about chosen bones and beads."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from functools import cache, partial
from typing import NamedTuple

import numpy as np

from gaitwire.core.addresses import Bead, Node
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate.compiled_scene import CompiledScene
from gaitwire.core.evaluate.controls import moved_addresses
from gaitwire.core.evaluate.values import sample_parts, sample_values
from gaitwire.core.owners import owner_name
from gaitwire.core.puppet.edit import find_part
from gaitwire.core.puppet.model import Part, Puppet, Replacement
from gaitwire.core.scene import Scene
from gaitwire.core.timing.channel import LED, NODE_PROPERTIES, PART_PROPERTIES, PROPERTIES, Property
from gaitwire.core.timing.easing import EASINGS, Easing
from gaitwire.core.timing.easing.nearest import nearest_cubic
from gaitwire.core.timing.easing.registry import CHART, EasingFunction
from gaitwire.core.timing.edit import lengths_of, rise_of, ticks_of
from gaitwire.core.timing.holding import held_for
from gaitwire.core.timing.key import Key, curve_to_shares
from gaitwire.core.timing.offset import Offset
from gaitwire.core.timing.segment import eased_share, risen
from gaitwire.core.tolerances import TIME
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.kept_poses import course_of
from gaitwire.services.scene.seams import SEAM_JUMP
from gaitwire.services.scene.timing import seams_of
from gaitwire.services.scene.visibility import Span, shown_spans
from gaitwire.services.session.workspace import Workspace


@dataclass(frozen=True)
class ValueRow:
    """One property of the chosen nodes at a frame; None where they differ."""

    prop: Property
    value: float | None
    keyed: bool


def value_rows(scene: Scene, compiled: CompiledScene, nodes: Sequence[Node], frame: float) -> list[ValueRow]:
    """The chosen nodes' values at a frame."""
    sampled: list[np.ndarray] = []
    kinds: set[str] = set()
    for puppet in compiled.compiled_puppets:
        wanted = [i for i, key in enumerate(puppet.nodes.owners) if key in set(nodes)]
        pins = {p.id for p in puppet.source[1].pins}
        if wanted:
            values = sample_values(puppet, np.array([frame]))
            sampled += [values[i, :, 0] for i in wanted]
            kinds |= {"pin" if puppet.nodes.owners[i][1] in pins else "bone" for i in wanted}
    if not sampled:
        return []
    table = np.array(sampled)
    keyed = _keyed(scene, nodes, frame)
    cameras = {(i.id, i.id) for i in scene.instances if i.is_camera}
    has = PROPERTIES["camera" if cameras >= set(nodes) else "pin" if "pin" in kinds else "bone"]
    rows = []
    for column, name in enumerate(NODE_PROPERTIES):
        if name not in has:
            continue
        values = table[:, column]
        same = bool(np.ptp(values) < 1e-9)
        rows.append(ValueRow(has[name], float(values[0]) if same else None, name in keyed))
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
    led: dict[str, bool]
    """What a pad, a gauge or a fix may decide, the drawing and whether it is shown; and whether it is left to them."""
    spans: tuple[Span, ...]
    """On which frames it is shown by its keys."""
    others: tuple[tuple[Node, str], ...]
    """What can take its place, with what it is called."""


def part_rows(floor: Floor, nodes: Sequence[Node], frame: float) -> list[PartRows]:
    """The parts that are chosen or hang from the one chosen bone, front to back."""
    scene, found = floor.scene, []
    for compiled_puppet in floor.workspace.compiled(floor.scene_id).compiled_puppets:
        puppet: Puppet = compiled_puppet.source[1]
        owners = {o for i, o in nodes if i == compiled_puppet.source[0].id}
        values = sample_parts(compiled_puppet, np.array([frame]))
        leads = moved_addresses(compiled_puppet)
        for index in reversed(range(len(compiled_puppet.parts.owners))):
            part = find_part(puppet, compiled_puppet.parts.owners[index][1])
            if part.id in owners or (part.bone_id in owners and len(nodes) == 1):
                keyed = _keyed(scene, [compiled_puppet.parts.owners[index]], frame)
                named = dict(zip(PART_PROPERTIES, values[index, :, 0].tolist(), strict=True))
                rows = tuple(
                    ValueRow(prop, named[name], name in keyed)
                    for name, prop in PROPERTIES["part"].items()
                    if name != "drawing"
                )
                drawings = puppet.drawings(part)
                shows = round(named["drawing"])
                known = shows if any(d.number == shows for d in drawings) else 0
                node = compiled_puppet.parts.owners[index]
                others = tuple(((node[0], p.id), p.name) for p in puppet.parts if p.id != part.id)
                led = _led(scene, node, leads, frame)
                spans = shown_spans(floor, node)
                found.append(PartRows(part, drawings, known, rows, "drawing" in keyed, led, spans, others))
    return found


def _led(scene: Scene, node: Node, leads: Collection[tuple[str, str]], frame: float) -> dict[str, bool]:
    """What others lead of a part, and whether its keys leave it to them on a frame."""
    keys = scene.keys_by_channel()
    own = {c.property: c for c in scene.channels if (c.instance_id, c.owner_id) == node}
    found = {}
    for name, prop in PROPERTIES["part"].items():
        if prop.led and (node[1], name) in leads:
            channel = own.get(name)
            says = course_of(scene, channel, keys.get(channel.id, [])).value(frame) if channel else LED
            found[name] = says == LED
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
    parted: bool
    """Whether only part of the easing is played: a bead was put into its course."""


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
    named = ease if ease in EASINGS else ""
    handles = own or nearest_cubic(named or "sine-in-out")
    key, rise = keys[0]
    points = _course(partial(eased_share, key), 65, flip=False) if named or ease == CHART else ""
    part = next((key.excerpt for key, _ in keys if key.excerpt), None)
    if part and points and abs(rise) > TIME:
        points = _course(lambda shares: risen(key, rise, shares) / rise, 65, flip=False)
    return CurveView(ease, handles, points, len(keys), part is not None)


def held_frames(floor: Floor, beads: Sequence[Bead]) -> float | None:
    """For how many frames the first of the stays among beads holds; None where none of them is one."""
    by_channel = floor.scene.keys_by_channel()
    for channel_id, ids in floor.chosen_keys(beads).items():
        row = by_channel.get(channel_id, [])
        for key in row:
            if key.id in ids and key.stay:
                return held_for(row, key, floor.scene.loop_length)
    return None


class Tick(NamedTuple):
    """One in-between of a timing chart: its frame, how far along the move it lies, whether it is numbered."""

    frame: float
    share: float
    label: bool


@dataclass(frozen=True)
class ChartView:
    """Where the in-betweens after the chosen beads lie; of the first of their segments, if they differ."""

    start: float
    stop: float
    ticks: tuple[Tick, ...]


_APART = 0.1
"""Share of the chart's height that numbers keep apart, to be read."""


def chart_view(floor: Floor, beads: Sequence[Bead]) -> ChartView | None:
    """The timing chart of the chosen beads; None where none of their segments has any length."""
    scene = floor.scene
    by_channel = scene.keys_by_channel()
    try:
        chosen = floor.chosen_keys(beads, eased=True)
    except InvalidInputError:
        return None
    found: list[tuple[float, Key, float, float]] = []
    for channel_id, ids in chosen.items():
        row = by_channel[channel_id]
        lengths = lengths_of(row, scene.loop_length)
        found += [(k.time, k, lengths[k.id], rise_of(row, k.id, scene.loop_length)) for k in row if k.id in ids]
    moving = [f for f in found if f[2] > TIME and abs(f[3]) > TIME] or [f for f in found if f[2] > TIME]
    if not moving:
        return None
    _, key, length, rise = min(moving, key=lambda f: f[0])
    shares = ticks_of(key, length, rise)
    first = scene.first_number
    ticks = []
    numbered = [0.0, 1.0]
    for n, share in enumerate(shares, start=1):
        clear = all(abs(share - other) >= _APART for other in numbered)
        if clear:
            numbered.append(share)
        ticks.append(Tick(key.time + n + first, share, clear))
    return ChartView(key.time + first, key.time + length + first, tuple(ticks))


@dataclass(frozen=True)
class RepeatView:
    """How the chosen wires go on; None for what they do not share."""

    kind: str | None
    start: float | None
    stop: float | None


REPEATS = (
    ("", "no further"), ("cycle", "over and over"), ("there and back", "there and back"), ("onward", "onward"),
)  # fmt: skip
"""Ways a channel goes on beyond its keys, as the card names them."""


def repeat_view(floor: Floor, nodes: Sequence[Node]) -> RepeatView | None:
    """The repeats of the chosen wires; None where they have no keys."""
    ways = {(c.repeat, c.repeat_from, c.repeat_to) for c in floor.channels_of(nodes)}
    if not ways:
        return None
    kinds = {kind for kind, _, _ in ways}
    if len(kinds) > 1:
        return RepeatView(None, None, None)
    return RepeatView(kinds.pop(), *(next(iter(ways))[1:] if len(ways) == 1 else (None, None)))


class SeamLine(NamedTuple):
    """One open seam, as the card tells it."""

    name: str
    said: str
    loop: int | None
    """How long the scene would be that it meets as it is."""


_MOST_SEAMS = 5


def seam_rows(floor: Floor, nodes: Sequence[Node] | None) -> tuple[int, list[SeamLine], bool]:
    """How many seams are open, the worst of them in words, and whether any could be eased closed."""
    rows = seams_of(floor, nodes)
    scene = floor.scene
    cast = floor.workspace.cast(scene)
    lines = []
    for row in rows[:_MOST_SEAMS]:
        name = owner_name(scene, cast, (row.channel.instance_id, row.channel.owner_id))
        lines.append(SeamLine(f"{name}, {row.prop.label}", row.said, row.loop))
    eases = scene.loop and any(abs(row.jump) > SEAM_JUMP and row.prop.rest == 0.0 for row in rows)
    return len(rows), lines, eases


class OffsetRow(NamedTuple):
    """An offset over a span, as the card shows it."""

    offset: Offset
    name: str
    prop: Property
    fields: tuple[tuple[str, str, float, str], ...]
    """(field, label, shown value, unit)."""


def offset_rows(scene: Scene, cast: dict[str, Puppet], nodes: Sequence[Node]) -> list[OffsetRow]:
    """The offsets over spans of the chosen nodes."""
    rows = []
    for offset in scene.offsets:
        node = (offset.instance_id, offset.owner_id)
        if node in nodes:
            prop = PROPERTIES[offset.owner_kind][offset.property]
            fields = (
                ("amount", "amount", offset.amount * prop.display, prop.unit),
                ("start", "from", offset.start + scene.first_number, "f"),
                ("stop", "to", offset.stop + scene.first_number, "f"),
                ("soft_in", "in", offset.soft_in, "f"),
                ("soft_out", "out", offset.soft_out, "f"),
            )
            rows.append(OffsetRow(offset, owner_name(scene, cast, node) if len(nodes) > 1 else "", prop, fields))
    return rows


@dataclass(frozen=True)
class Preset:
    """A named easing as a button: its direction, and its course as SVG points in a unit square, y down."""

    name: str
    label: str
    points: str


def _course(shape: EasingFunction, count: int, flip: bool) -> str:
    """SVG points of an easing in a unit square, y up or (flipped) down."""
    t = np.linspace(0, 1, count)
    y = shape(t)
    return " ".join(f"{a:.4f},{b:.4f}" for a, b in zip(t, 1 - y if flip else y, strict=True))


def easing_families() -> tuple[tuple[str, tuple[Preset, ...]], ...]:
    """Families of easings with their members, for the card; those that stand alone are 'plain'."""
    return _families(tuple(EASINGS.values()))


@cache
def _families(easings: tuple[Easing, ...]) -> tuple[tuple[str, tuple[Preset, ...]], ...]:
    found: dict[str, list[Preset]] = {"plain": []}
    for easing in easings:
        home = easing.family if easing.direction else "plain"
        found.setdefault(home, []).append(
            Preset(easing.name, easing.direction or easing.family, _course(easing, 33, flip=True))
        )
    return tuple((family, tuple(members)) for family, members in found.items())


def chosen_nodes(workspace: Workspace, scene: Scene, nodes: Sequence[Node]) -> list[Node]:
    """Those of the nodes that are in the scene."""
    cast = workspace.cast(scene)
    return [n for n in nodes if owner_name(scene, cast, n) != "?"]
