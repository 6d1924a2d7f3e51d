"""The stage of evaluation that lays what bend fixes, pads and gauges say on nodes, parts and points."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np

from gaitwire.core.conventions import FloatArray, IntArray
from gaitwire.core.evaluate.blends import PLACING
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.evaluate.skeleton import local_matrices
from gaitwire.core.geometry import affine
from gaitwire.core.puppet.controls import CORRECTED
from gaitwire.core.timing.channel import LED, NODE_PROPERTIES, PART_PROPERTIES


class Shares(NamedTuple):
    """What a control does on F frames: the share (E, F) of each of its entries, rest first, and the nearest (F,)."""

    weights: FloatArray
    nearest: IntArray


ControlShares = Sequence[Shares | None]
"""Of each of a compiled puppet's controls; None where it is not known how a joint is turned."""


def control_shares_of(puppet: CompiledPuppet, controls: FloatArray, turns: FloatArray | None = None) -> ControlShares:
    """How the controls stand, from values (C, 2, F) and, for bend fixes, joints' solved turns (N, F) in degrees."""
    found: list[Shares | None] = []
    for blend in puppet.blends:
        places = blend.places(controls, turns)
        if places is None:
            found.append(None)
        else:
            found.append(Shares(blend.spread.shares(places), blend.spread.nearest(places)))
    return found


def compose_nodes(table: FloatArray, puppet: CompiledPuppet, control_shares: ControlShares) -> None:
    """What pads and gauges say of bones and pins, on the table of nodes (columns, F), in place."""
    for blend, shares in zip(puppet.blends, control_shares, strict=True):
        if shares is not None and not blend.is_fix:
            blend.nodes.compose(table, shares.weights)


def compose_parts(table: FloatArray, puppet: CompiledPuppet, control_shares: ControlShares) -> None:
    """What all say of the parts, on a table (columns, F), in place; drawings change where it leaves that to them."""
    free = {step.column: table[step.column] == LED for blend in puppet.blends for step in blend.steps}
    for blend, shares in zip(puppet.blends, control_shares, strict=True):
        if shares is None:
            continue
        blend.parts.compose(table, shares.weights)
        for step in blend.steps:
            wanted = step.numbers[shares.nearest]
            if step.prop == "place":
                table[step.column] += np.nan_to_num(wanted)
            else:
                table[step.column] = np.where(free[step.column] & ~np.isnan(wanted), wanted, table[step.column])


def place_parts(
    matrices: FloatArray, carried: FloatArray, puppet: CompiledPuppet, control_shares: ControlShares
) -> None:
    """Parts that are placed otherwise on their bones, in the table of matrices (6, P, F), in place.

    `carried` (6, P, F) are the world matrices of the bones they hang from.
    """
    columns = [b.placing.columns for b in puppet.blends if len(b.placing.columns)]
    if not columns:
        return
    parts = np.unique(np.concatenate(columns) // len(PLACING))
    placing = placing_of(puppet, control_shares, parts, carried.shape[-1])
    turn, x, y, stretch, widen, skew = np.moveaxis(placing, 1, 0)
    angle = puppet.skeleton.angle[puppet.parts.node[parts], None]
    local = affine.bone_matrix(x, y, turn, skew, stretch, widen, angle)
    whole = affine.compose(carried[:, parts], local)
    pivot_x, pivot_y = puppet.parts.pivot[:, parts, None]
    dx, dy = affine.apply_linear(whole, -pivot_x, -pivot_y)
    whole[4] += dx
    whole[5] += dy
    matrices[:, parts] = whole


def placing_of(puppet: CompiledPuppet, control_shares: ControlShares, parts: IntArray, frames: int) -> FloatArray:
    """How parts (n,) lie on their bones on so many frames: (n, 6, F), by the columns of `PLACING`."""
    rest = np.array([CORRECTED["part"][name].rest for name in PLACING])
    table = np.repeat(np.tile(rest, len(puppet.parts.owners))[:, None], frames, axis=1)
    for blend, shares in zip(puppet.blends, control_shares, strict=True):
        if shares is not None:
            blend.placing.compose(table, shares.weights)
    return np.asarray(table.reshape(-1, len(PLACING), frames)[parts])


def fix_pins(
    puppet: CompiledPuppet, values: FloatArray, world: FloatArray, control_shares: ControlShares
) -> FloatArray:
    """World matrices (6, N, F) with pins where bend fixes have them; `values` (N, properties, F) as solved."""
    fixes = [
        (b, s) for b, s in zip(puppet.blends, control_shares, strict=True) if s and b.is_fix and len(b.nodes.columns)
    ]
    if not fixes:
        return world
    count = len(NODE_PROPERTIES)
    pins = np.unique(np.concatenate([b.nodes.columns for b, _ in fixes]) // count)
    table = values.reshape(-1, values.shape[-1]).copy()
    for blend, shares in fixes:
        blend.nodes.compose(table, shares.weights)
    before = local_matrices(puppet.skeleton, values, pins)
    after = local_matrices(puppet.skeleton, table.reshape(values.shape), pins)
    out = world.copy()
    out[:, pins] = affine.compose(world[:, pins], affine.compose(affine.invert(before), after))
    return out


def moved_addresses(puppet: CompiledPuppet) -> set[tuple[str, str]]:
    """What controls move, by (owner id, property): bones and pins of pads and gauges, parts of all."""
    found = set()
    for blend in puppet.blends:
        for lane, owners, names in (
            (blend.nodes, puppet.nodes.owners, NODE_PROPERTIES), (blend.parts, puppet.parts.owners, PART_PROPERTIES),
        ):  # fmt: skip
            if not (blend.is_fix and lane is blend.nodes):
                found |= {(owners[s // len(names)][1], names[s % len(names)]) for s in lane.columns.tolist()}
        count = len(PART_PROPERTIES)
        found |= {(puppet.parts.owners[step.column // count][1], step.prop) for step in blend.steps}
    return found


def corrected_parts(puppet: CompiledPuppet) -> set[int]:
    """Parts that something else than their bones places: controls, or the ground; or that bend fixes fade or hide."""
    found = set(np.flatnonzero(puppet.parts.shadow > 0).tolist())
    for blend in puppet.blends:
        found |= set((blend.placing.columns // len(PLACING)).tolist())
        if blend.is_fix:
            columns = [*blend.parts.columns.tolist(), *(s.column for s in blend.steps)]
            found |= {column // len(PART_PROPERTIES) for column in columns}
    return found
