"""What leads bones and other things on the Floor."""

from __future__ import annotations

import secrets
from collections.abc import Callable
from typing import NamedTuple

from fastapi import APIRouter
from starlette.responses import HTMLResponse

from gaitwire.core.addresses import Node
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.motion.drivers.drift import Drift, display_of
from gaitwire.core.motion.loose.settings import Loose
from gaitwire.services.scene.drifting import drift_like, drifting, make_drift_own, put_drift
from gaitwire.services.scene.led import driver_of, example, remove_drivers, settings_of
from gaitwire.services.scene.loose_ends import drop_turns, loose_like, make_loose_own, put_loose
from gaitwire.services.scene.own_keys import KeysMade
from gaitwire.services.views.drift_card import CHANGES
from gaitwire.services.views.loose_card import LOOSE_UNITS
from gaitwire.web.routers.floor.answers import FloorGestures, LongText, all_wires, read_nodes
from gaitwire.web.routers.floor.timing import Typed, read_number

router = APIRouter(prefix="/floor/{scene_id}")


class _Lead(NamedTuple):
    """One way to lead: its settings, what puts it, as something has it or by itself, what makes keys of it, and
    what these keep to."""

    settings: type[Drift | Loose]
    put: Callable[..., object]
    like: Callable[..., object]
    own: Callable[..., KeysMade]
    said: str


_LEADS = {
    "drift": _Lead(Drift, put_drift, drift_like, make_drift_own, "the drift"),
    "loose": _Lead(Loose, put_loose, loose_like, make_loose_own, "the swing"),
}


def _led(floor: FloorGestures, nodes: str, kind: str, so: bool = True) -> list[Node]:
    """Those of what is chosen that are led in a way, or that are not."""
    return [node for node in read_nodes(nodes) if (driver_of(floor, node, _LEADS[kind].settings) is not None) is so]


def _offer(kind: str, way: _Lead) -> None:
    """What every way to lead is offered with."""

    @router.post(f"/{kind}")
    def lead(floor: FloorGestures, nodes: LongText) -> HTMLResponse:
        """Lead what is chosen, as far as it is not yet."""
        way.put(floor, _led(floor, nodes, kind, so=False))
        return all_wires(floor)

    @router.post(f"/{kind}/alike")
    def alike(floor: FloorGestures, nodes: LongText) -> HTMLResponse:
        """Lead all that is chosen as the first is that is led so."""
        chosen = read_nodes(nodes)
        first = example(floor, chosen, way.settings)
        if first is None:
            raise InvalidInputError("All that is chosen is alike.", "Choose one that is led, and others.")
        way.like(floor, [node for node in chosen if node != first], settings_of(floor, first, way.settings))
        return all_wires(floor)

    @router.post(f"/{kind}/own")
    def own(floor: FloorGestures, nodes: LongText) -> HTMLResponse:
        """Make keys of how what is chosen is led."""
        found = way.own(floor, _led(floor, nodes, kind))
        return all_wires(floor, f"{found.keys} keys, within {found.error:.2f} {found.unit} of {way.said}.")

    @router.post(f"/{kind}/remove")
    def no_more(floor: FloorGestures, nodes: LongText) -> HTMLResponse:
        """Have keys alone decide again."""
        remove_drivers(floor, read_nodes(nodes), way.settings)
        return all_wires(floor)


for _kind, _way in _LEADS.items():
    _offer(_kind, _way)


@router.post("/drift/set")
def set_drift(floor: FloorGestures, nodes: LongText, field: Typed, value: Typed) -> HTMLResponse:
    """Change by how much, or how often, what is chosen drifts; what does not is left so."""
    chosen = _led(floor, nodes, "drift")
    shown = read_number(value, "a drift")
    if field == CHANGES:
        put_drift(floor, chosen, changes=shown)
    else:
        kind = floor.owner_kind(*chosen[0]) if chosen else "bone"
        factor = display_of(kind, field)[0] if field in drifting(kind) else 1.0
        put_drift(floor, chosen, {field: shown / factor})
    return all_wires(floor)


@router.post("/drift/other")
def drift_otherwise(floor: FloorGestures, nodes: LongText) -> HTMLResponse:
    """Let it wander along another course."""
    chosen = _led(floor, nodes, "drift")
    put_drift(floor, chosen, seed=secrets.randbelow(2**31))
    return all_wires(floor)


@router.post("/loose/set")
def set_loose(floor: FloorGestures, nodes: LongText, field: Typed, value: Typed = "") -> HTMLResponse:
    """Change how what is chosen swings; what does not is left so."""
    chosen = _led(floor, nodes, "loose")
    if field in ("bends", "as_drawn", "off_floor"):
        put_loose(floor, chosen, **{field: value == "true"})
    elif field == "limit" and not value.strip():
        put_loose(floor, chosen, limit=None)
    elif field in LOOSE_UNITS:
        put_loose(floor, chosen, **{field: read_number(value, LOOSE_UNITS[field].label) / LOOSE_UNITS[field].factor})
    else:
        raise InvalidInputError(f"“{field}” cannot be set here.")
    return all_wires(floor)


@router.post("/loose/drop")
def drop_loose_turns(floor: FloorGestures, nodes: LongText) -> HTMLResponse:
    """Take away the beads that turn what swings."""
    found = drop_turns(floor, read_nodes(nodes))
    return all_wires(floor, f"{found} keys of turns are gone: it swings by itself.")
