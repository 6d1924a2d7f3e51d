"""Work on drift: bones, pins, tips, pads, gauges and whole puppets that wander about where their keys have them."""

from __future__ import annotations

import zlib
from collections.abc import Mapping, Sequence

import numpy as np

from gaitwire.core.addresses import Node
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.motion.drivers.drift import MOST, Drift, display_of
from gaitwire.core.owners import owner_name
from gaitwire.core.timing.channel import PROPERTIES, OwnerKind
from gaitwire.services.scene.gestures import Draft, Floor, gesture
from gaitwire.services.scene.led import driver_of, lead, settings_of, without
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
    if not nodes:
        raise InvalidInputError("Nothing is chosen.", "Choose what is to drift first.")
    return lead(draft, nodes, Drift, lambda node, known: _drift(draft, node, known, amounts or {}, changes, seed))


def drift_like(floor: Floor, nodes: Sequence[Node], like: Drift) -> list[str]:
    """Let some things drift as far and as often as something does, each along its own way."""
    none = dict.fromkeys(like.amounts, 0.0)
    for node in nodes:
        known = settings_of(floor, node, Drift)
        none |= dict.fromkeys(known.amounts if known else USUAL.get(floor.owner_kind(*node), {}), 0.0)
    return put_drift(floor, nodes, none | like.amounts, like.changes)


def _drift(
    draft: Draft, node: Node, known: Drift | None, amounts: Mapping[str, float], changes: float | None,
    seed: int | None,
) -> Drift:  # fmt: skip
    kind = draft.owner_kind(*node)
    if kind not in USUAL:
        raise InvalidInputError("This does not drift.", "Choose bones, pins, tips, pads, gauges or a whole puppet.")
    for prop, amount in amounts.items():
        if prop not in drifting(kind):
            raise InvalidInputError(f"The {prop.replace('_', ' ')} of a {kind} does not drift.")
        if not 0 <= amount <= MOST[prop]:
            factor, unit = display_of(kind, prop)
            raise InvalidInputError("Nothing drifts that far.", f"Type 0 to {MOST[prop] * factor:g} {unit}.")
    own = _seed(draft, node)
    drift = known or Drift(amounts=dict(USUAL[kind]), seed=own)
    wanted = {p: a for p, a in {**drift.amounts, **amounts}.items() if a != 0}
    if not wanted:
        raise InvalidInputError("It would drift by nothing.", "Give it an amount, or take the drift away.")
    told = {"amounts": wanted, **({} if changes is None else {"changes": changes})}
    if seed is not None:
        told["seed"] = (own + seed) % 2**31
    return revised(drift, told)


def _seed(draft: Draft, node: Node) -> int:
    """Told by names, so that a scene that is made again drifts as it did."""
    instance = draft.instance(node[0])
    name = owner_name(draft.scene, draft.workspace.cast(draft.scene), node)
    return zlib.crc32(f"{instance.name}/{name}".encode()) % 2**31


@gesture("make keys of a drift")
def make_drift_own(draft: Draft, nodes: Sequence[Node], allowed: float = ALLOWED) -> KeysMade:
    """Make keys of how some things drift, over the whole scene, and let them be.

    They miss it by `allowed` at most, degrees, pixels or percent. Raises InvalidInputError where nothing drifts.
    """
    draft.refuse_locked(nodes)
    led = [d for node in nodes if (d := driver_of(draft, node, Drift)) is not None]
    if not led:
        raise InvalidInputError("Nothing that is chosen drifts.", "Let it drift first.")
    frames = np.arange(float(draft.scene.frames))
    layers = without(draft, led)
    return worst_of(
        own_course(draft, (d.instance_id, d.owner_id, prop), frames, layers, allowed)
        for d in led
        if isinstance(d.settings, Drift)
        for prop in d.settings.amounts
    )
