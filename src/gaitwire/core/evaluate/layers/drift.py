"""What drifts: a wandering course added to bones, pins, tips, pads, gauges and seats, but where they are held."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise

import numpy as np

from gaitwire.core.addresses import OwnAddress
from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.evaluate.layers.layer import OnTop, Sampling, led, table_named, within
from gaitwire.core.evaluate.limbs import fading, is_planted, smooth
from gaitwire.core.motion.drivers.drift import Drift
from gaitwire.core.motion.drivers.driver import Driver
from gaitwire.core.scene import Scene
from gaitwire.core.tolerances import TIME

_SOFT = 0.5
"""Seconds in which a thing that was carried from a shot's start on comes to drift."""


class Drifts(OnTop):
    tables = frozenset({"node", "limb", "control"})

    def added(self, name: str, table: FloatArray, at: Sampling) -> Iterator[tuple[int, FloatArray]]:
        puppet, own = at.puppet, table_named(at.puppet, name)
        source = puppet.source
        for driver, drift in _drifts(puppet):
            columns = {p: own.column((source.instance.id, driver.owner_id), p) for p in drift.amounts}
            here = {prop: column for prop, column in columns.items() if column is not None}
            if not here:
                continue
            clock, loop = _clock(puppet, driver, at.frames)
            if loop is not None and loop < TIME:
                continue  # carried all round
            share = _free(puppet, driver, at.frames) * _begun(puppet, driver, clock) * led(driver.owner_id, at)
            for prop, column in here.items():
                yield column, share * drift.course(prop, clock, source.rate, loop, puppet.tall)

    def is_in(self, scene: Scene) -> bool:
        return any(isinstance(d.settings, Drift) for d in scene.drivers)

    def is_on(self, puppet: CompiledPuppet) -> bool:
        return bool(_drifts(puppet))

    def moves(self, puppet: CompiledPuppet, times: FloatArray) -> set[OwnAddress]:
        return {(d.owner_id, prop) for d, drift in _drifts(puppet) for prop in drift.amounts}


def _drifts(puppet: CompiledPuppet) -> list[tuple[Driver, Drift]]:
    return [(d, d.settings) for d in puppet.source.drivers if isinstance(d.settings, Drift)]


def _free(puppet: CompiledPuppet, driver: Driver, frames: FloatArray) -> FloatArray:
    """How far something may drift on frames (F,): not while it is planted, and coming and going softly."""
    times, loop = within(puppet, frames), puppet.keys.loop
    still = np.zeros(len(frames))
    for plant in (p for p in puppet.source.plants if p.limb_id == driver.owner_id):
        for share in (is_planted(plant, times, loop).astype(float), *fading(plant, times, loop)):
            still = still if share is None else np.maximum(still, share)
    return 1.0 - still


def _clock(puppet: CompiledPuppet, driver: Driver, frames: FloatArray) -> tuple[FloatArray, float | None]:
    """The frames (F,) by which something drifts, and how many of them a loop has.

    It stands still while the thing is carried or flies: so nothing jumps when that begins or ends.
    """
    times, loop = within(puppet, frames), puppet.keys.loop
    clock, length = times, np.inf if loop is None else loop
    for start, end in _carried(puppet, driver):
        clock = clock - np.clip(times - start, 0.0, end - start)
        loop = None if loop is None else loop - max(0.0, min(end, length) - start)
    return clock, loop


def _carried(puppet: CompiledPuppet, driver: Driver) -> list[tuple[float, float]]:
    """From when to when something goes with a carrier, or flies."""
    hitches = [h for h in puppet.source.hitches if h.owner_id == driver.owner_id]
    times = [*(h.time for h in hitches), np.inf]
    return [span for h, span in zip(hitches, pairwise(times), strict=True) if h.carrier_id or h.arc]


def _begun(puppet: CompiledPuppet, driver: Driver, clock: FloatArray) -> FloatArray | float:
    """How much of its drift a thing has (F,): none while it is carried from the start of a shot on, then more."""
    spans = _carried(puppet, driver)
    if not spans or spans[0][0] > TIME or puppet.keys.loop is not None:
        return 1.0
    return smooth(np.minimum(clock / (_SOFT * puppet.source.rate), 1.0))
