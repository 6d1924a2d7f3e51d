"""Values of a compiled puppet's nodes, parts and limbs at frames: keys, with what is laid on top of them."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import replace
from typing import NamedTuple

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet, Phrased, rest_table
from gaitwire.core.evaluate.controls import (
    ControlShares,
    compose_nodes,
    compose_parts,
    control_shares_of,
    moved_addresses,
)
from gaitwire.core.timing.channel import (
    CONTROL_PROPERTIES,
    LED,
    LIMB_PROPERTIES,
    NODE_PROPERTIES,
    PART_PROPERTIES,
    PROPERTIES,
    WHOLE_PROPERTIES,
)
from gaitwire.core.timing.offset import Offset, window
from gaitwire.core.timing.sample import sample
from gaitwire.core.tolerances import TIME
from gaitwire.core.walk.span import RATIOS, composed

_REACH = 0.012
"""By how much what is of one piece is taller for each degree that it leans ahead in a turn, and less tall back."""

Overrides = Mapping[tuple[str, str, str], float]
"""Values that a drag wants, by (instance id, owner id, property); they stand in for the keys."""


def sample_values(puppet: CompiledPuppet, frames: FloatArray, overrides: Overrides | None = None) -> FloatArray:
    """Values (N, properties, F) of the nodes at the frames (F,)."""
    return node_values(puppet, frames, sample(puppet.keys, frames), overrides)


def node_values(
    puppet: CompiledPuppet,
    frames: FloatArray,
    sampled: FloatArray,
    overrides: Overrides | None,
    asked: int | None = None,
) -> FloatArray:
    """The same, from samples (C, F) of all the puppet's channels; `asked`: how many frames overrides hold on."""
    controls = control_values(puppet, frames, sampled, overrides, asked)
    count = puppet.skeleton.count
    table = rest_table(puppet.skeleton, len(frames))
    table[puppet.node_columns] = sampled[puppet.node_rows]
    _compose_walks(table, puppet, frames)
    _compose_phrases(table, puppet, "node", frames)
    compose_nodes(table, puppet, control_shares_of(puppet, controls))
    _compose_turns(table, puppet, frames)
    _compose_offsets(table, puppet.node_offsets, frames, puppet.keys.loop)
    for (instance_id, owner_id, prop), value in (overrides or {}).items():
        column = puppet.column(owner_id, prop, instance_id)
        if column is not None:
            table[column, :asked] = value
    for column, row in _rolled(puppet, table, overrides or {}):
        table[column] += row
    return table.reshape(count, len(NODE_PROPERTIES), len(frames))


def _rolled(puppet: CompiledPuppet, table: FloatArray, but: Overrides) -> Iterator[tuple[int, FloatArray]]:
    """What rolls add to columns (F,), from how far the seat has gone; not to what a drag wants elsewhere."""
    instance = puppet.source.instance
    for roll in puppet.source.rolls:
        column = puppet.column(roll.owner_id, "turn", instance.id)
        if column is not None and (instance.id, roll.owner_id, "turn") not in but:
            x, y = (puppet.column(instance.id, prop, instance.id) for prop in ("shift_x", "shift_y"))
            yield column, roll.turn(table[x], table[y], instance.pixels)


class LayersOverKeys(NamedTuple):
    """What lies over and under the keys of one property at a time: it shows as `factor` * keys + `added`."""

    factor: float
    added: float
    rolled: float
    """Degrees that a roll adds to that, on top of everything."""
    by: str
    """The phrase on top, if there is one."""


AS_KEYED = LayersOverKeys(1.0, 0.0, 0.0, "")


def layers_at(puppet: CompiledPuppet, time: float) -> dict[tuple[str, str], LayersOverKeys]:
    """The layers of walks, phrases and rolls of every property that they move at a time, by (owner id, property)."""
    twice, who = np.array([time, time]), puppet.source.instance.id
    found: dict[tuple[str, str], LayersOverKeys] = {}
    walked = set(gait_values(puppet, twice[:1]))
    # A drawing that a control shows gives way to the first key.
    led = {address for address in moved_addresses(puppet) if address[1] not in ("drawing", "shown")}
    turned = turned_addresses(puppet) | led
    control_shares = control_shares_of(puppet, sample_controls(puppet, twice))
    tables = (
        ("node", puppet.node_keys, NODE_PROPERTIES), ("part", puppet.part_keys, PART_PROPERTIES),
        ("limb", puppet.limb_keys, LIMB_PROPERTIES), ("control", puppet.control_keys, CONTROL_PROPERTIES),
    )  # fmt: skip
    for name, owners, names in tables:
        keys = [(owner, prop) for _, owner in owners for prop in names]
        # Whatever the keys say, each layer adds and multiplies: two of them tell how much.
        table = np.tile([0.0, 1.0], (len(keys), 1))
        if name == "node":
            _compose_walks(table, puppet, twice)
        moved = {keys[n]: p.lanes.name for p in puppet.phrases if p.table == name for n in p.columns}
        _compose_phrases(table, puppet, name, twice)
        if name == "node":
            compose_nodes(table, puppet, control_shares)
            _compose_turns(table, puppet, twice)
        if name == "control":
            _compose_turned_pads(table, puppet, twice)
        if name == "part":
            compose_parts(table, puppet, control_shares)
        for n, key in enumerate(keys):
            if key in moved or key in walked or key in turned:
                found[key] = LayersOverKeys(
                    float(table[n, 1] - table[n, 0]), float(table[n, 0]), 0.0, moved.get(key, "")
                )
    if puppet.source.rolls:
        table = sample_values(puppet, twice[:1]).reshape(-1, 1)
        rolled = {column: float(row[0]) for column, row in _rolled(puppet, table, {})}
        for roll in puppet.source.rolls:
            column = puppet.column(roll.owner_id, "turn", who)
            if column in rolled:
                key = (roll.owner_id, "turn")
                found[key] = found.get(key, AS_KEYED)._replace(rolled=rolled[column])
    return found


def gait_values(puppet: CompiledPuppet, frames: FloatArray) -> dict[tuple[str, str], FloatArray]:
    """What a puppet's walks add (F,), by (owner id, property)."""
    if not puppet.gaits:
        return {}
    loop, seat = puppet.keys.loop, puppet.source.instance.id
    within = np.asarray(frames, float) if loop is None else np.mod(frames, loop)
    return {(owner or seat, prop): row for (owner, prop), row in composed(puppet.gaits, within).items()}


def walked(puppet: CompiledPuppet, times: FloatArray) -> np.ndarray:
    """On which of the times (F,) a walk lies beneath the keys."""
    if not puppet.gaits:
        return np.zeros(len(times), bool)
    first = puppet.gaits[0].span
    within = times if puppet.keys.loop is None else np.mod(times, puppet.keys.loop)
    return np.asarray((within >= first.start - TIME) | first.stands_before)


def moved_beneath(puppet: CompiledPuppet) -> set[tuple[str, str]]:
    """What walks, phrases and rolls move, by (owner id, property): its keys alone do not tell where it is."""
    starts = np.array([g.span.start for g in puppet.gaits], float)
    rolls = {(r.owner_id, "turn") for r in puppet.source.rolls}
    phrased = {address for p in puppet.phrases for address in p.lanes.addresses}
    return set(gait_values(puppet, starts)) | rolls | phrased | turned_addresses(puppet) | moved_addresses(puppet)


def turned_addresses(puppet: CompiledPuppet) -> set[tuple[str, str]]:
    """What turning round moves, by (owner id, property)."""
    who, turning = puppet.source.instance.id, puppet.turning
    if turning is None:
        return set()
    lifted = {(bone_id, "turn") for bone_id, _, _ in turning.lifts}
    pads = {(puppet.control_keys[row][1], "x") for row, _, _ in turning.fronts}
    whole = {(who, prop) for prop in ("turn", "stretch") if not turning.segments}
    return {(who, "widen"), (who, "shift_x")} | lifted | pads | whole


def _compose_walks(table: FloatArray, puppet: CompiledPuppet, frames: FloatArray) -> None:
    for (owner, prop), row in gait_values(puppet, frames).items():
        column = puppet.column(owner, prop, puppet.source.instance.id)
        if column is not None and prop in RATIOS:
            table[column] *= row
        elif column is not None:
            table[column] += row


def _compose_turns(table: FloatArray, puppet: CompiledPuppet, frames: FloatArray) -> None:
    """Turning round, in place: as wide as it is seen, about the point on which it stands."""
    source = puppet.source
    if puppet.turning is None:
        return
    who = source.instance.id
    seen = puppet.turning.widths(frames)
    wide, across = (puppet.column(who, prop, who) for prop in ("widen", "shift_x"))
    table[wide] *= seen
    table[across] += (1 - seen) * source.instance.pixels * (puppet.pivot - source.puppet.base_x)
    lean = puppet.turning.leaning(frames)
    if lean is not None and lean.any():
        turn, tall = (puppet.column(who, prop, who) for prop in ("turn", "stretch"))
        table[turn] += lean * np.sign(seen) * (-1 if source.instance.turned else 1)
        table[tall] *= 1 + _REACH * lean
    for bone_id, degrees in puppet.turning.lifted(frames):
        column = puppet.column(bone_id, "turn", who)
        if column is not None:
            table[column] += degrees


def _compose_phrases(table: FloatArray, puppet: CompiledPuppet, name: str, frames: FloatArray) -> None:
    """Phrases on one of the tables, in place: each on top of those that began before it."""
    for phrased in puppet.phrases:
        if phrased.table == name:
            table[phrased.columns] = phrased.lanes.composed(table[phrased.columns], frames, _held(puppet, phrased))


def _held(puppet: CompiledPuppet, phrased: Phrased) -> FloatArray:
    """What lies beneath all phrases when one begins (L,); asked for only where it holds that still."""
    use = phrased.lanes.course.use
    if not use.still:
        return np.zeros(len(phrased.columns))
    known: dict[tuple[str, float], FloatArray] = puppet.__dict__.setdefault("_held", {})
    key = (phrased.table, use.start)
    if key not in known:
        begun = np.array([use.start])
        source = puppet.source._replace(rolls=())
        bare = replace(
            puppet, source=source, phrases=(), node_offsets=(), part_offsets=(), limb_offsets=(), control_offsets=(),
            blends=(),
        )  # fmt: skip
        work = _SAMPLES[phrased.table]
        known[key] = work(bare, begun).reshape(-1)
    return known[key][phrased.columns]


def _compose_offsets(
    table: FloatArray, offsets: Sequence[tuple[int, Offset]], frames: FloatArray, loop: float | None
) -> None:
    """Offsets over spans, in place: added, or for ratios multiplied."""
    for column, offset in offsets:
        share = window(offset, frames, loop)
        if PROPERTIES[offset.owner_kind][offset.property].rest == 1.0:
            table[column] *= 1 + (offset.amount - 1) * share
        else:
            table[column] += offset.amount * share


def shown_times(puppet: CompiledPuppet, frames: FloatArray, blocking: bool = False) -> FloatArray:
    """The times (F,) whose picture a puppet shows at the frames (F,): its exposure's, or the last pose's.

    Before the first pose a loop shows the last one, and any other scene the first.
    """
    frames = np.asarray(frames, float)
    if blocking and len(puppet.pose_times):
        at = np.searchsorted(puppet.pose_times, frames + TIME, side="right") - 1
        return puppet.pose_times[at if puppet.keys.loop is not None else np.maximum(at, 0)]
    return frames if puppet.exposure == 1 else np.floor(frames / puppet.exposure) * puppet.exposure


def sample_parts(puppet: CompiledPuppet, frames: FloatArray) -> FloatArray:
    """Values (P, properties, F) of the parts: opacity, number of the drawing, places forward, shown or not."""
    return part_values(puppet, frames, sample(puppet.keys, frames))


def part_values(
    puppet: CompiledPuppet, frames: FloatArray, sampled: FloatArray, control_shares: ControlShares | None = None
) -> FloatArray:
    """The same, from samples (C, F) of all the puppet's channels; bend fixes only with how the controls stand."""
    if control_shares is None:
        control_shares = control_shares_of(puppet, control_values(puppet, frames, sampled, None))
    count = len(puppet.part_keys)
    rest = np.stack([np.ones(count), puppet.part_shows, np.zeros(count), np.ones(count)], axis=1).reshape(-1, 1)
    unkeyed = np.tile([p.unkeyed for p in PROPERTIES["part"].values()], count).reshape(-1, 1)
    table = np.repeat(unkeyed, len(frames), axis=1)
    table[puppet.part_columns] = sampled[puppet.part_rows]
    _compose_phrases(table, puppet, "part", frames)
    compose_parts(table, puppet, control_shares)
    _compose_turned_drawings(table, puppet, frames)
    table = np.where(table == LED, rest, table)
    _compose_offsets(table, puppet.part_offsets, frames, puppet.keys.loop)
    return table.reshape(count, len(PART_PROPERTIES), len(frames))


def _compose_turned_drawings(table: FloatArray, puppet: CompiledPuppet, frames: FloatArray) -> None:
    """Drawings from other sides on the way round, in place, where nothing else chooses one."""
    for part, numbers in puppet.turning.shown(frames) if puppet.turning else ():
        column = part * len(PART_PROPERTIES) + PART_PROPERTIES.index("drawing")
        table[column] = np.where((table[column] == LED) & ~np.isnan(numbers), numbers, table[column])


def whole_values(puppet: CompiledPuppet, frames: FloatArray, sampled: FloatArray) -> FloatArray:
    """Values (properties, F) of a puppet as a whole, from samples (C, F): its opacity, and whether it is shown."""
    table = np.ones((len(WHOLE_PROPERTIES), len(frames)))
    table[puppet.whole_columns] = sampled[puppet.whole_rows]
    _compose_offsets(table, puppet.whole_offsets, frames, puppet.keys.loop)
    return np.clip(table, 0.0, 1.0)


def limb_values(
    puppet: CompiledPuppet,
    frames: FloatArray,
    sampled: FloatArray,
    overrides: Overrides | None,
    asked: int | None = None,
) -> FloatArray:
    """Values (L, properties, F) of the limbs, from samples (C, F) of all the puppet's channels; overrides as above."""
    rest = np.tile([p.rest for p in PROPERTIES["limb"].values()], len(puppet.limb_keys)).reshape(-1, 1)
    table = np.repeat(rest, len(frames), axis=1)
    table[puppet.limb_columns] = sampled[puppet.limb_rows]
    _compose_phrases(table, puppet, "limb", frames)
    _compose_offsets(table, puppet.limb_offsets, frames, puppet.keys.loop)
    return _overridden(table, puppet.limb_keys, LIMB_PROPERTIES, overrides, asked)


def control_values(
    puppet: CompiledPuppet,
    frames: FloatArray,
    sampled: FloatArray,
    overrides: Overrides | None,
    asked: int | None = None,
) -> FloatArray:
    """Values (C, 2, F) of pads and gauges: where their points lie; as above."""
    table = np.zeros((len(puppet.control_keys) * len(CONTROL_PROPERTIES), len(frames)))
    if len(table):
        table[puppet.control_columns] = sampled[puppet.control_rows]
        _compose_phrases(table, puppet, "control", frames)
        _compose_turned_pads(table, puppet, frames)
        _compose_offsets(table, puppet.control_offsets, frames, puppet.keys.loop)
    return _overridden(table, puppet.control_keys, CONTROL_PROPERTIES, overrides, asked)


def _compose_turned_pads(table: FloatArray, puppet: CompiledPuppet, frames: FloatArray) -> None:
    if puppet.turning is not None:
        puppet.turning.compose_pads(table.reshape(-1, len(CONTROL_PROPERTIES), len(frames)), frames)


def _overridden(
    table: FloatArray, owners: Sequence[tuple[str, str]], names: Sequence[str], overrides: Overrides | None,
    asked: int | None,
) -> FloatArray:  # fmt: skip
    """A table (owners * names, F) with what a drag wants, as (owners, names, F)."""
    for (instance_id, owner_id, prop), value in (overrides or {}).items():
        if (instance_id, owner_id) in owners and prop in names:
            table[owners.index((instance_id, owner_id)) * len(names) + names.index(prop), :asked] = value
    return table.reshape(len(owners), len(names), table.shape[-1])


def sample_controls(puppet: CompiledPuppet, frames: FloatArray) -> FloatArray:
    """Values (C, 2, F) of pads and gauges at the frames (F,)."""
    return control_values(puppet, frames, sample(puppet.keys, frames), None)


def sample_whole(puppet: CompiledPuppet, frames: FloatArray) -> FloatArray:
    """Values (1, properties, F) of a puppet as a whole at the frames (F,)."""
    return whole_values(puppet, frames, sample(puppet.keys, frames))[None]


def sample_limbs(puppet: CompiledPuppet, frames: FloatArray) -> FloatArray:
    """Values (L, properties, F) of the limbs at the frames (F,)."""
    return limb_values(puppet, frames, sample(puppet.keys, frames), None)


_SAMPLES = {"node": sample_values, "part": sample_parts, "limb": sample_limbs, "control": sample_controls}
