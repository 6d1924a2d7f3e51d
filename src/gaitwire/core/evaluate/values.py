"""Values of a compiled puppet's nodes, parts and limbs at frames: keys, with the layers on top of them."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from typing import NamedTuple

import numpy as np

from gaitwire.core.addresses import Address, OwnAddress
from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet, rest_table
from gaitwire.core.evaluate.controls import ControlShares
from gaitwire.core.evaluate.layers import LAYERS, Layer, OnTop, Overrides, Sampling
from gaitwire.core.evaluate.layers.layer import table_named
from gaitwire.core.evaluate.layers.offsets import Offsets
from gaitwire.core.evaluate.layers.walks import gait_values
from gaitwire.core.timing.channel import PROPERTIES, OwnerKind
from gaitwire.core.tolerances import TIME

__all__ = ["Overrides", "Sampling", "gait_values", "values_of"]


def sampling(
    puppet: CompiledPuppet, frames: FloatArray, sampled: FloatArray | None = None, wanted: Overrides | None = None,
    asked: int | None = None,
) -> Sampling:  # fmt: skip
    """A puppet at the frames (F,), to ask for its values; with samples (C, F) of its channels, if they are known."""
    found = Sampling.of(puppet, frames, wanted) if sampled is None else Sampling(puppet, frames, sampled, wanted or {})
    return replace(found, asked=asked, compose=values_of)


def values_of(name: str, at: Sampling) -> FloatArray:
    """Values (columns, F) of one of a puppet's tables: its keys, with all layers in their order."""
    own = table_named(at.puppet, name)
    table = _unkeyed(at.puppet, name, len(at.frames))
    if len(own):
        table[own.columns] = at.sampled[own.rows]
        for layer in LAYERS:
            if name in layer.tables:
                layer.compose(name, table, at)
    return table


def _unkeyed(puppet: CompiledPuppet, name: str, frames: int) -> FloatArray:
    """A table (columns, F) of what is without keys."""
    if name == "node":
        return rest_table(puppet.skeleton, frames)
    own = table_named(puppet, name)
    kind = _KINDS[name]
    rest = np.array([PROPERTIES[kind][prop].unkeyed for prop in own.properties])
    return np.repeat(np.tile(rest, len(own.owners)).reshape(-1, 1), frames, axis=1)


_KINDS: dict[str, OwnerKind] = {"part": "part", "limb": "limb", "control": "pad", "whole": "seat", "led": "bone"}
"""A kind of owner in each table whose properties tell what is without keys."""


def node_values(at: Sampling) -> FloatArray:
    """Values (N, properties, F) of the nodes."""
    return _by_owner("node", at)


def limb_values(at: Sampling) -> FloatArray:
    """Values (L, properties, F) of the limbs."""
    return _by_owner("limb", at)


def part_values(at: Sampling, control_shares: ControlShares | None = None) -> FloatArray:
    """Values (P, properties, F) of the parts: opacity, number of the drawing, places forward, shown or not.

    Bend fixes only with how the controls stand once the joints are solved.
    """
    return _by_owner("part", at if control_shares is None else replace(at, solved=control_shares))


def whole_values(at: Sampling) -> FloatArray:
    """Values (properties, F) of a puppet as a whole: its opacity, and whether it is shown."""
    return np.clip(values_of("whole", at), 0.0, 1.0)


def _by_owner(name: str, at: Sampling) -> FloatArray:
    own = table_named(at.puppet, name)
    return values_of(name, at).reshape(len(own.owners), len(own.properties), len(at.frames))


def sample_values(puppet: CompiledPuppet, frames: FloatArray, overrides: Overrides | None = None) -> FloatArray:
    """Values (N, properties, F) of the nodes at the frames (F,)."""
    return node_values(sampling(puppet, frames, wanted=overrides))


def sample_parts(puppet: CompiledPuppet, frames: FloatArray) -> FloatArray:
    """Values (P, properties, F) of the parts at the frames (F,)."""
    return part_values(sampling(puppet, frames))


def sample_controls(puppet: CompiledPuppet, frames: FloatArray) -> FloatArray:
    """Values (C, 2, F) of pads and gauges at the frames (F,)."""
    return sampling(puppet, frames).controls


def sample_whole(puppet: CompiledPuppet, frames: FloatArray) -> FloatArray:
    """Values (1, properties, F) of a puppet as a whole at the frames (F,)."""
    return whole_values(sampling(puppet, frames))[None]


def sample_limbs(puppet: CompiledPuppet, frames: FloatArray) -> FloatArray:
    """Values (L, properties, F) of the limbs at the frames (F,)."""
    return limb_values(sampling(puppet, frames))


class LayersOverKeys(NamedTuple):
    """What lies over and under the keys of one property at a time: it shows as `factor` * keys + `added` + `on_top`."""

    factor: float
    added: float
    on_top: float
    """What is added after all else, offsets over spans too."""
    by: str
    """The phrase that decides, if there is one."""


AS_KEYED = LayersOverKeys(1.0, 0.0, 0.0, "")


def layers_at(puppet: CompiledPuppet, time: float) -> dict[OwnAddress, LayersOverKeys]:
    """The layers of every property that they move at a time, offsets left out, by (owner id, property)."""
    at = sampling(puppet, np.array([time, time]))
    now = at.frames[:1]
    moved = {a for layer in LAYERS if layer.affine for a in layer.moves(puppet, now) if a[1] not in layer.gives_way}
    found: dict[OwnAddress, LayersOverKeys] = {}
    for name in ("node", "part", "limb", "control"):
        own = table_named(puppet, name)
        # Whatever the keys say, each layer adds and multiplies: two of them tell how much.
        table = np.tile([0.0, 1.0], (len(own), 1))
        by: dict[int, str] = {}
        for layer in LAYERS:
            if name in layer.affine and len(own):
                layer.compose(name, table, at)
                by |= layer.by(puppet, name)
        for n in range(len(own)):
            address = own.address(n)
            if address in moved:
                factor, added = float(table[n, 1] - table[n, 0]), float(table[n, 0])
                found[address] = LayersOverKeys(factor, added, 0.0, by.get(n, ""))
    for address, amount in _on_top(puppet, time).items():
        found[address] = found.get(address, AS_KEYED)._replace(on_top=amount)
    return found


def reads_elsewhere(puppet: CompiledPuppet, wanted: Iterable[Address]) -> bool:
    """Whether layers of a puppet read any of some properties on other frames than the one that is asked for."""
    own = {(owner, prop) for who, owner, prop in wanted if who == puppet.source.instance.id}
    return any(own & layer.reads(puppet) for layer in LAYERS if layer.is_on(puppet))


def layers_about_keys() -> list[Layer]:
    """The layers that a key has to reckon with for a property to be seen at a value, but for offsets over spans."""
    return [layer for layer in LAYERS if layer.affine or isinstance(layer, OnTop)]


def _on_top(puppet: CompiledPuppet, time: float) -> dict[OwnAddress, float]:
    """What layers that only add come to at a time."""
    at, found = sampling(puppet, np.array([time])), dict[OwnAddress, float]()
    for layer in LAYERS:
        if isinstance(layer, OnTop) and layer.is_on(puppet):
            for name in layer.tables:
                rows = layer.added(name, values_of(name, at), at)
                for column, row in rows:
                    address = table_named(puppet, name).address(column)
                    found[address] = found.get(address, 0.0) + float(row[0])
    return found


def moved_beneath(puppet: CompiledPuppet) -> set[OwnAddress]:
    """What layers move, offsets left out, by (owner id, property): its keys alone do not tell where it is."""
    starts = np.array([g.span.start for g in puppet.gaits], float)
    moving: list[Layer] = [layer for layer in LAYERS if not isinstance(layer, Offsets)]
    return set().union(*(layer.moves(puppet, starts) for layer in moving))


def walked(puppet: CompiledPuppet, times: FloatArray) -> np.ndarray:
    """On which of the times (F,) a walk lies beneath the keys."""
    if not puppet.gaits:
        return np.zeros(len(times), bool)
    first = puppet.gaits[0].span
    within = times if puppet.keys.loop is None else np.mod(times, puppet.keys.loop)
    return np.asarray((within >= first.start - TIME) | first.stands_before)


def shown_times(puppet: CompiledPuppet, frames: FloatArray, blocking: bool = False) -> FloatArray:
    """The times (F,) whose picture a puppet shows at the frames (F,): its exposure's, or the last pose's.

    Before the first pose a loop shows the last one, and any other scene the first.
    """
    frames = np.asarray(frames, float)
    if blocking and len(puppet.pose_times):
        at = np.searchsorted(puppet.pose_times, frames + TIME, side="right") - 1
        return puppet.pose_times[at if puppet.keys.loop is not None else np.maximum(at, 0)]
    return frames if puppet.exposure == 1 else np.floor(frames / puppet.exposure) * puppet.exposure
