"""Values of an island's nodes, parts and limbs at frames: keys, with what is laid on top of them."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.island import Island, rest_table
from gaitwire.core.timing.channel import LIMB_PROPERTIES, NODE_PROPERTIES, PART_PROPERTIES, PROPERTIES
from gaitwire.core.timing.offset import Offset, window
from gaitwire.core.timing.sample import sample
from gaitwire.core.tolerances import TIME
from gaitwire.core.walk.span import laid

Overrides = Mapping[tuple[str, str, str], float]
"""Values that a drag wants, by (instance id, owner id, property); they stand in for the keys."""


def sample_values(island: Island, frames: FloatArray, overrides: Overrides | None = None) -> FloatArray:
    """Values (N, properties, F) of the nodes at the frames (F,)."""
    return node_values(island, frames, sample(island.keys, frames), overrides)


def node_values(
    island: Island, frames: FloatArray, sampled: FloatArray, overrides: Overrides | None, asked: int | None = None
) -> FloatArray:
    """The same, from samples (C, F) of all the island's channels; `asked`: how many frames overrides hold on."""
    count = island.skeleton.count
    table = rest_table(island.skeleton, len(frames))
    table[island.node_slots] = sampled[island.node_rows]
    _lay_gaits(table, island, frames)
    _lay_on(table, island.node_offsets, frames, island.keys.loop)
    for (instance_id, owner_id, prop), value in (overrides or {}).items():
        slot = island.slot(owner_id, prop, instance_id)
        if slot is not None:
            table[slot, :asked] = value
    for slot, row in _rolled(island, table, overrides or {}):
        table[slot] += row
    return table.reshape(count, len(NODE_PROPERTIES), len(frames))


def _rolled(island: Island, table: FloatArray, but: Overrides) -> Iterator[tuple[int, FloatArray]]:
    """What rolls add to slots (F,), from how far the seat has gone; not to what a drag wants elsewhere."""
    instance = island.source.instance
    for roll in island.source.rolls:
        slot = island.slot(roll.owner_id, "turn", instance.id)
        if slot is not None and (instance.id, roll.owner_id, "turn") not in but:
            x, y = (island.slot(instance.id, prop, instance.id) for prop in ("shift_x", "shift_y"))
            yield slot, roll.turn(table[x], table[y], instance.pixels)


def beneath_values(island: Island, time: float) -> dict[tuple[str, str], float]:
    """What walks and rolls add to the keys at a time, by (owner id, property)."""
    found = {slot: float(row[0]) for slot, row in gait_values(island, np.array([time])).items()}
    if island.source.rolls:
        frames = np.array([time])
        table = sample_values(island, frames).reshape(-1, 1)
        rows = {slot: float(row[0]) for slot, row in _rolled(island, table, {})}
        for roll in island.source.rolls:
            slot = island.slot(roll.owner_id, "turn", island.source.instance.id)
            if slot in rows:
                found[roll.owner_id, "turn"] = found.get((roll.owner_id, "turn"), 0.0) + rows[slot]
    return found


def gait_values(island: Island, frames: FloatArray) -> dict[tuple[str, str], FloatArray]:
    """What an island's walks add (F,), by (owner id, property)."""
    if not island.gaits:
        return {}
    loop, seat = island.keys.loop, island.source.instance.id
    within = np.asarray(frames, float) if loop is None else np.mod(frames, loop)
    return {(owner or seat, prop): row for (owner, prop), row in laid(island.gaits, within).items()}


def moved_beneath(island: Island) -> set[tuple[str, str]]:
    """What walks and rolls move, by (owner id, property): its keys alone do not tell where it is."""
    starts = np.array([g.span.start for g in island.gaits], float)
    rolls = {(r.owner_id, "turn") for r in island.source.rolls}
    return set(gait_values(island, starts)) | rolls


def _lay_gaits(table: FloatArray, island: Island, frames: FloatArray) -> None:
    for (owner, prop), row in gait_values(island, frames).items():
        slot = island.slot(owner, prop, island.source.instance.id)
        if slot is not None:
            table[slot] += row


def _lay_on(table: FloatArray, offsets: Sequence[tuple[int, Offset]], frames: FloatArray, loop: float | None) -> None:
    """Offsets over spans, in place: added, or for ratios multiplied."""
    for slot, offset in offsets:
        share = window(offset, frames, loop)
        if PROPERTIES[offset.owner_kind][offset.property].rest == 1.0:
            table[slot] *= 1 + (offset.amount - 1) * share
        else:
            table[slot] += offset.amount * share


def shown_times(island: Island, frames: FloatArray, blocking: bool = False) -> FloatArray:
    """The times (F,) whose picture an island shows at the frames (F,): its exposure's, or the last pose's.

    Before the first pose a loop shows the last one, and any other scene the first.
    """
    frames = np.asarray(frames, float)
    if blocking and len(island.pose_times):
        at = np.searchsorted(island.pose_times, frames + TIME, side="right") - 1
        return island.pose_times[at if island.keys.loop is not None else np.maximum(at, 0)]
    return frames if island.exposure == 1 else np.floor(frames / island.exposure) * island.exposure


def sample_parts(island: Island, frames: FloatArray) -> FloatArray:
    """Values (P, properties, F) of the parts: opacity, number of the drawing, places forward, shown or not."""
    return part_values(island, frames, sample(island.keys, frames))


def part_values(island: Island, frames: FloatArray, sampled: FloatArray) -> FloatArray:
    """The same, from samples (C, F) of all the island's channels."""
    count = len(island.part_keys)
    rest = np.stack([np.ones(count), island.part_shows, np.zeros(count), np.ones(count)], axis=1)
    table = np.repeat(rest.reshape(-1, 1), len(frames), axis=1)
    table[island.part_slots] = sampled[island.part_rows]
    _lay_on(table, island.part_offsets, frames, island.keys.loop)
    return table.reshape(count, len(PART_PROPERTIES), len(frames))


def limb_values(
    island: Island, frames: FloatArray, sampled: FloatArray, overrides: Overrides | None, asked: int | None = None
) -> FloatArray:
    """Values (L, properties, F) of the limbs, from samples (C, F) of all the island's channels; overrides as above."""
    count = len(island.limb_keys)
    table = np.zeros((count * len(LIMB_PROPERTIES), len(frames)))
    table[island.limb_slots] = sampled[island.limb_rows]
    _lay_on(table, island.limb_offsets, frames, island.keys.loop)
    for (instance_id, owner_id, prop), value in (overrides or {}).items():
        if (instance_id, owner_id) in island.limb_keys and prop in LIMB_PROPERTIES:
            row = island.limb_keys.index((instance_id, owner_id))
            table[row * len(LIMB_PROPERTIES) + LIMB_PROPERTIES.index(prop), :asked] = value
    return table.reshape(count, len(LIMB_PROPERTIES), len(frames))


def sample_limbs(island: Island, frames: FloatArray) -> FloatArray:
    """Values (L, properties, F) of the limbs at the frames (F,)."""
    return limb_values(island, frames, sample(island.keys, frames), None)
