"""Work on what leads: bones, pins, tips, pads, gauges and whole puppets that move besides their keys."""

from __future__ import annotations

import zlib
from collections.abc import Mapping, Sequence

import numpy as np

from gaitwire.core.addresses import Node
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate import compile_scene
from gaitwire.core.evaluate.inverse_layers import Beneath
from gaitwire.core.ids import new_id
from gaitwire.core.motion.drivers.drift import MOST, Drift, display_of
from gaitwire.core.motion.drivers.driver import Driver
from gaitwire.core.owners import owner_name
from gaitwire.core.timing.channel import PROPERTIES, OwnerKind
from gaitwire.services.scene.gestures import Draft, SceneState, gesture
from gaitwire.services.scene.own_keys import ALLOWED, KeysMade, own_course, worst_of
from gaitwire.services.session.revising import revised

USUAL: Mapping[OwnerKind, Mapping[str, float]] = {
    "bone": {"turn": 1.5},
    "pin": {"shift_x": 0.004, "shift_y": 0.004},
    "seat": {"shift_x": 0.003, "shift_y": 0.002},
    "limb": {"tip_x": 0.006, "tip_y": 0.006},
    "pad": {"x": 4.0, "y": 3.0},
    "gauge": {"x": 0.05},
}
"""By how much something drifts at first."""


def driver_of(floor: SceneState, node: Node) -> Driver | None:
    """What leads something, if anything does."""
    return next((d for d in floor.scene.drivers if (d.instance_id, d.owner_id) == node), None)


def drifting(kind: OwnerKind) -> list[str]:
    """Properties of a kind of owner that can drift."""
    return [prop for prop in PROPERTIES[kind] if prop in MOST]


@gesture("drift")
def put_drift(
    draft: Draft, nodes: Sequence[Node], amounts: Mapping[str, float] | None = None, changes: float | None = None,
    seed: int | None = None,
) -> list[str]:  # fmt: skip
    """Let some things drift, or set how; the ids of what leads them.

    `amounts` by property lie over those that are there; 0 lets one rest. Each has a seed of its own, told by its
    names, so that things that drift together do not move alike; `seed` is added to it. Raises InvalidInputError.
    """
    draft.refuse_locked(nodes)
    made = [_drift(draft, node, amounts or {}, changes, seed) for node in nodes]
    if not made:
        raise InvalidInputError("Nothing is chosen.", "Choose what is to drift first.")
    draft.put(made)
    return [driver.id for driver in made]


def _drift(
    draft: Draft, node: Node, amounts: Mapping[str, float], changes: float | None, seed: int | None
) -> Driver:  # fmt: skip
    kind = draft.owner_kind(*node)
    if kind not in USUAL:
        raise InvalidInputError("This does not drift.", "Choose bones, pins, tips, pads, gauges or a whole puppet.")
    for prop, amount in amounts.items():
        if prop not in drifting(kind):
            raise InvalidInputError(f"The {prop.replace('_', ' ')} of a {kind} does not drift.")
        if not 0 <= amount <= MOST[prop]:
            factor, unit = display_of(kind, prop)
            raise InvalidInputError("Nothing drifts that far.", f"Type 0 to {MOST[prop] * factor:g} {unit}.")
    known = driver_of(draft, node)
    own = _seed(draft, node)
    drift = known.settings if known else Drift(amounts=dict(USUAL[kind]), seed=own)
    wanted = {p: a for p, a in {**drift.amounts, **amounts}.items() if a != 0}
    if not wanted:
        raise InvalidInputError("It would drift by nothing.", "Give it an amount, or take the drift away.")
    told = {"amounts": wanted, **({} if changes is None else {"changes": changes})}
    if seed is not None:
        told["seed"] = (own + seed) % 2**31
    settings = revised(drift, told)
    if known is not None:
        return known.model_copy(update={"settings": settings})
    return Driver(
        id=new_id(), scene_id=draft.scene_id, instance_id=node[0], owner_kind=kind, owner_id=node[1], settings=settings
    )


def _seed(draft: Draft, node: Node) -> int:
    """Told by names, so that a scene that is made again drifts as it did."""
    instance = draft.instance(node[0])
    name = owner_name(draft.scene, draft.workspace.cast(draft.scene), node)
    return zlib.crc32(f"{instance.name}/{name}".encode()) % 2**31


@gesture("let be")
def remove_drivers(draft: Draft, nodes: Sequence[Node]) -> int:
    """Have keys alone decide again about some things; how many were led."""
    draft.refuse_locked(nodes)
    gone = [d.id for d in draft.scene.drivers if (d.instance_id, d.owner_id) in set(nodes)]
    draft.remove(Driver, gone)
    return len(gone)


@gesture("make keys of a drift")
def make_drift_own(draft: Draft, nodes: Sequence[Node], allowed: float = ALLOWED) -> KeysMade:
    """Make keys of how some things drift, over the whole scene, and let them be.

    They miss it by `allowed` at most, degrees, pixels or percent. Raises InvalidInputError where nothing drifts.
    """
    draft.refuse_locked(nodes)
    led = [d for node in nodes if (d := driver_of(draft, node)) is not None]
    if not led:
        raise InvalidInputError("Nothing that is chosen drifts.", "Let it drift first.")
    frames = np.arange(float(draft.scene.frames))
    left = tuple(d for d in draft.scene.drivers if d not in led)
    scene, compiled = draft.scene.model_copy(update={"drivers": left}), draft.compiled
    layers = Beneath(scene, lambda: compile_scene(scene, compiled.puppets, compiled.skins, compiled, compiled.phrases))
    draft.remove(Driver, [d.id for d in led])
    return worst_of(
        own_course(draft, (d.instance_id, d.owner_id, prop), frames, layers, allowed)
        for d in led
        for prop in d.settings.amounts
    )
