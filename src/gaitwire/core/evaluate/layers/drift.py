"""What drifts: a wandering course added to bones, pins, tips, pads, gauges and seats, but where they are held."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from gaitwire.core.addresses import OwnAddress
from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.evaluate.layers.layer import OnTop, Sampling, table_named, within
from gaitwire.core.evaluate.limbs import fading, is_planted
from gaitwire.core.motion.drivers.driver import Driver
from gaitwire.core.scene import Scene
from gaitwire.core.tolerances import TIME


class Drifts(OnTop):
    tables = frozenset({"node", "limb", "control"})

    def added(self, name: str, table: FloatArray, at: Sampling) -> Iterator[tuple[int, FloatArray]]:
        puppet, own = at.puppet, table_named(at.puppet, name)
        source = puppet.source
        for driver in source.drivers:
            free: FloatArray | None = None
            for prop in driver.settings.amounts:
                column = own.column((source.instance.id, driver.owner_id), prop)
                if column is None:
                    continue
                if free is None:
                    free = _free(puppet, driver, at.frames)
                course = driver.settings.course(prop, at.frames, source.rate, puppet.keys.loop, puppet.tall)
                yield column, course * free

    def is_in(self, scene: Scene) -> bool:
        return bool(scene.drivers)

    def is_on(self, puppet: CompiledPuppet) -> bool:
        return bool(puppet.source.drivers)

    def moves(self, puppet: CompiledPuppet, times: FloatArray) -> set[OwnAddress]:
        return {(d.owner_id, prop) for d in puppet.source.drivers for prop in d.settings.amounts}


def _free(puppet: CompiledPuppet, driver: Driver, frames: FloatArray) -> FloatArray:
    """How far something may drift on frames (F,): not while it is planted or carried, and coming and going softly."""
    times, loop = within(puppet, frames), puppet.keys.loop
    still = np.zeros(len(frames))
    for plant in (p for p in puppet.source.plants if p.limb_id == driver.owner_id):
        for share in (is_planted(plant, times, loop).astype(float), *fading(plant, times, loop)):
            still = still if share is None else np.maximum(still, share)
    hitches = [h for h in puppet.source.hitches if h.owner_id == driver.owner_id]
    for hitch, after in zip(hitches, (*hitches, None)[1:], strict=True):
        if hitch.carrier_id or hitch.arc:
            until = np.inf if after is None else after.time
            still[(times > hitch.time - TIME) & (times < until - TIME)] = 1.0
    return 1.0 - still
