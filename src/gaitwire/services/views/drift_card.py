"""What a card says of the drift of what is chosen."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from gaitwire.core.addresses import Node
from gaitwire.core.motion.drivers.drift import Drift, display_of
from gaitwire.core.timing.channel import PROPERTIES, OwnerKind
from gaitwire.services.scene.drifting import USUAL, drifting
from gaitwire.services.scene.gestures import SceneState
from gaitwire.services.scene.led import settings_of

CHANGES = "changes"
"""The field that says how often."""


class DriftField(NamedTuple):
    """One number of a drift, as it is shown; None where those chosen differ."""

    name: str
    short: str
    """What it is called where there is little room, with its unit."""
    label: str
    value: float | None


class DriftCard(NamedTuple):
    """How many of those chosen drift, of how many; the fields that they have in common."""

    led: int
    chosen: int
    fields: tuple[DriftField, ...]


def drift_card(floor: SceneState, nodes: Sequence[Node]) -> DriftCard | None:
    """None where something of what is chosen cannot drift."""
    kinds = [floor.owner_kind(*node) for node in nodes]
    if not kinds or not all(kind in USUAL for kind in kinds):
        return None
    found = [d for node in nodes if (d := settings_of(floor, node, Drift)) is not None]
    common = [p for p in drifting(kinds[0]) if all(p in drifting(kind) for kind in kinds)] if found else []
    fields = [_field(kinds[0], prop, found) for prop in common]
    often = DriftField(CHANGES, "a second", "new places a second", _same([d.changes for d in found]))
    return DriftCard(len(found), len(nodes), (*fields, often) if found else ())


def drift_said(kind: OwnerKind, drift: Drift) -> str:
    """A drift in a few words."""
    fields = [_field(kind, prop, [drift]) for prop in drift.amounts]
    much = ", ".join(f"{field.short.replace(' ', f' {field.value or 0:g} ')}" for field in fields)
    return f"drifts: {much}"


def _field(kind: OwnerKind, name: str, found: Sequence[Drift]) -> DriftField:
    value, prop, (factor, unit) = (
        _same([d.amounts.get(name, 0.0) for d in found]),
        PROPERTIES[kind][name],
        display_of(kind, name),
    )
    short = f"{_SHORT.get(name, prop.label)} {unit.split()[0]}"
    return DriftField(name, short, f"{prop.label}, {unit}", None if value is None else value * factor)


_SHORT = {"shift_x": "across", "shift_y": "down", "tip_x": "across", "tip_y": "down"}


def _same(values: Sequence[float]) -> float | None:
    return values[0] if values and all(v == values[0] for v in values) else None
