"""What a card says of how what is chosen swings."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import NamedTuple, TypeVar

from gaitwire.core.addresses import Node
from gaitwire.core.motion.loose.owners import swinging_under
from gaitwire.core.motion.loose.settings import Loose
from gaitwire.services.scene.gestures import SceneState
from gaitwire.services.scene.led import settings_of
from gaitwire.services.scene.loose_ends import swinging, turned_by_hand

T = TypeVar("T")


class LooseUnit(NamedTuple):
    """A setting as it is shown: what it is called where there is little room and in full, and times how much."""

    short: str
    label: str
    factor: float = 1.0
    low: float = 0.0
    high: float = 100.0
    """Between which a slider has it; more can be typed."""


LOOSE_UNITS: Mapping[str, LooseUnit] = {
    "stiffness": LooseUnit("swings /s", "stiffness, swings a second; 0 is a string", high=6.0),
    "damping": LooseUnit("damping %", "damping, % of what just keeps it from swinging", 100.0),
    "weight": LooseUnit("weight %", "weight, % of the scene's fall", 100.0, high=300.0),
    "direction": LooseUnit("falls °", "the direction in which it falls, ° from straight down", low=-180.0, high=180.0),
    "wind": LooseUnit("wind %", "wind and air, % of the scene's", 100.0, high=300.0),
    "limit": LooseUnit("limit °", "limit, ° by which a bone leaves its own shape; none where empty", high=180.0),
}


class LooseField(NamedTuple):
    """One number, as it is shown; None where there is none, or those chosen differ."""

    name: str
    unit: LooseUnit
    value: float | None
    differ: bool


class LooseCard(NamedTuple):
    """How many of those chosen swing, of how many; what goes with them; the fields that they have in common."""

    led: int
    chosen: int
    bones: int
    beads: int
    """Beads that turn what swings."""
    below: bool
    """Whether bones hang from any of them that could swing for themselves."""
    bends: bool | None
    as_drawn: bool | None
    off_floor: bool | None
    """None where those chosen differ, or there is no floor."""
    fields: tuple[LooseField, ...]


def loose_card(floor: SceneState, nodes: Sequence[Node]) -> LooseCard | None:
    """None where something of what is chosen cannot swing."""
    if not nodes or any(floor.owner_kind(*node) != "bone" for node in nodes):
        return None
    found = [d for node in nodes if (d := settings_of(floor, node, Loose)) is not None]
    if not found:
        return LooseCard(0, len(nodes), 0, 0, False, None, None, None, ())
    fields = (_field(name, unit, [getattr(d, name) for d in found]) for name, unit in LOOSE_UNITS.items())
    bones = {(who, bone) for who, owner in nodes for bone in swinging(floor, (who, owner))}
    bends, as_drawn = _same([d.bends for d in found]), _same([d.as_drawn for d in found])
    below = any(len(swinging_under(floor.puppet_of(who), {owner: True})) > 1 for who, owner in nodes)
    off_floor = None if floor.scene.ground is None else _same([d.off_floor for d in found])
    beads = len(turned_by_hand(floor, nodes))
    return LooseCard(len(found), len(nodes), len(bones), beads, below, bends, as_drawn, off_floor, tuple(fields))


def loose_said(loose: Loose) -> str:
    """A loose end in a few words."""
    how = f"{loose.stiffness:g} a second" if loose.stiffness else "as a string"
    return f"swings {how}, damped by {100 * loose.damping:g} %"


def _field(name: str, unit: LooseUnit, values: Sequence[float | None]) -> LooseField:
    value = _same(values)
    return LooseField(name, unit, None if value is None else value * unit.factor, len(set(values)) > 1)


def _same(values: Sequence[T]) -> T | None:
    return values[0] if all(v == values[0] for v in values) else None
