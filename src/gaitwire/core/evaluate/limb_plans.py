"""Limbs of a compiled puppet, made ready to be solved."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from itertools import pairwise

import numpy as np

from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.evaluate.limbs import LimbPlan
from gaitwire.core.links import Plant
from gaitwire.core.puppet.limb_chains import chain_of
from gaitwire.core.puppet.model import Limb
from gaitwire.core.puppet.sole import sole_of
from gaitwire.core.timing.key import Key


def limb_plans(puppet: CompiledPuppet, unresolved: set[str], loop: float | None) -> Iterator[LimbPlan]:
    """The limbs of a compiled puppet that are solved on some frame."""
    source = puppet.source
    limbs = (row for row in source.channels if row[0].owner_kind == "limb")
    mixed = {c.owner_id: _rises(keys) for c, keys in limbs if c.property == "mix"}
    for row, limb in enumerate(source.puppet.limbs):
        plants = [p for p in source.plants if p.limb_id == limb.id and p.id not in unresolved]
        chain = chain_of(source.puppet, limb)
        if len(chain) > 1 and (plants or limb.id in mixed):
            yield plan_of(puppet, row, limb, _soft_within(plants, loop), mixed.get(limb.id, ()))


def _rises(keys: Sequence[Key]) -> tuple[float, ...]:
    """Where a mix goes up at once."""
    return tuple(b.time for a, b in pairwise(keys) if a.ease == "hold" and b.value > a.value)


def plan_of(
    compiled_puppet: CompiledPuppet,
    row: int,
    limb: Limb,
    plants: Sequence[Plant] = (),
    switches: tuple[float, ...] = (),
) -> LimbPlan:
    """A limb of a compiled puppet, made ready to be solved; it must have a chain."""
    puppet, instance = compiled_puppet.source.puppet, compiled_puppet.source.instance
    chain = chain_of(puppet, limb)
    tip = puppet.bone(limb.tip_id)
    last = chain[-1]
    if tip is None:
        raise ValueError("a limb's chain ends at its tip")
    angle = np.radians(tip.angle)
    end = complex(tip.x, tip.y) + (tip.length * np.exp(1j * angle) if limb.whole else 0.0)
    mirror = -1.0 if instance.turned else 1.0
    away = (end - complex(puppet.base_x, puppet.base_y)) * instance.scale
    nodes = [compiled_puppet.node(b.id) for b in chain]
    end_node = -1 if limb.whole else compiled_puppet.node(tip.id) or -1
    sole = sole_of(puppet, limb)
    return LimbPlan(
        limb=limb, row=row, chain=np.array(nodes, np.int64), tip=end_node,
        end=complex(end - complex(last.x, last.y)), heel=sole.heel, ball=sole.ball, flat=tip.angle,
        stands=complex(instance.x + mirror * away.real, instance.y + away.imag), mirror=mirror,
        plants=tuple(plants), switches=switches,
    )  # fmt: skip


def _soft_within(plants: Sequence[Plant], loop: float | None) -> list[Plant]:
    """Plants in order of time, their soft ends no longer than the gaps between them."""
    ordered = sorted(plants, key=lambda p: p.start)
    found = []
    for n, plant in enumerate(ordered):
        before, after = ordered[n - 1], ordered[(n + 1) % len(ordered)]
        come, go = plant.start - before.stop, after.start - plant.stop
        if n == 0:
            come = np.inf if loop is None else come + loop
        if n == len(ordered) - 1:
            go = np.inf if loop is None else go + loop
        soft = {"soft_in": min(plant.soft_in, max(come, 0.0)), "soft_out": min(plant.soft_out, max(go, 0.0))}
        found.append(plant.model_copy(update=soft))
    return found
