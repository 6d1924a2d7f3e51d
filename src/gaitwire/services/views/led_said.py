"""What leads something, in a few words; and how far it does on a frame."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np
from pydantic import BaseModel

from gaitwire.core.addresses import Node
from gaitwire.core.motion.drivers.driver import Driver
from gaitwire.core.motion.loose.owners import swinging_of
from gaitwire.core.motion.loose.settings import Loose
from gaitwire.core.owners import owner_name
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.timing.channel import PROPERTIES
from gaitwire.core.tolerances import TIME
from gaitwire.services.scene.gestures import SceneState
from gaitwire.services.scene.led import example
from gaitwire.services.views.chosen import ValueRow
from gaitwire.services.views.drift_card import drift_said
from gaitwire.services.views.loose_card import loose_said


def led_said(drivers: Iterable[Driver], puppet: Puppet | None) -> dict[str, str]:
    """By what is led of a puppet."""
    found: dict[str, list[str]] = {}
    drivers = list(drivers)
    names = {b.id: b.name for b in puppet.bones} if puppet else {}
    for driver in drivers:
        settings = driver.settings
        said = loose_said(settings) if isinstance(settings, Loose) else drift_said(driver.owner_kind, settings)
        found.setdefault(driver.owner_id, []).append(said)
    for driver in drivers:
        for bone in swinging_of(puppet, [driver]) - found.keys() if puppet else ():
            found[bone] = [f"swings with {names.get(driver.owner_id, '')}"]
    return {owner: "; ".join(rows) for owner, rows in found.items()}


def example_name(floor: SceneState, nodes: Sequence[Node], kind: type[BaseModel]) -> str | None:
    """What the one is called as which all that is chosen may be led."""
    first = example(floor, nodes, kind)
    return None if first is None else owner_name(floor.scene, floor.workspace.cast(floor.scene), first)


def led_row(floor: SceneState, nodes: Sequence[Node], frame: float) -> ValueRow | None:
    """How far what is chosen is led on a frame; None where nothing of it is."""
    scene, drivers = floor.scene, {(d.instance_id, d.owner_id) for d in floor.scene.drivers}
    led = [node for node in nodes if node in drivers]
    if not led:
        return None
    values = [float(floor.value_at((*node, "led"), np.array([frame]))[0]) for node in led]
    channels = {c.id for c in scene.channels if c.property == "led" and (c.instance_id, c.owner_id) in set(led)}
    keyed = any(k.channel_id in channels and abs(k.time - frame) < TIME for k in scene.keys)
    return ValueRow(PROPERTIES["bone"]["led"], values[0] if np.ptp(values) < TIME else None, keyed)
