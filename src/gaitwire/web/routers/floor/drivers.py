"""What leads bones and other things on the Floor."""

from __future__ import annotations

import secrets

from fastapi import APIRouter
from starlette.responses import HTMLResponse

from gaitwire.core.motion.drivers.drift import display_of
from gaitwire.services.scene.drivers import drifting, driver_of, make_drift_own, put_drift, remove_drivers
from gaitwire.services.views.drift_card import CHANGES
from gaitwire.web.routers.floor.answers import FloorGestures, LongText, all_wires, read_nodes
from gaitwire.web.routers.floor.timing import Typed, read_number

router = APIRouter(prefix="/floor/{scene_id}")


@router.post("/drift")
def drift(floor: FloorGestures, nodes: LongText) -> HTMLResponse:
    """Let what is chosen drift, as far as it does not yet."""
    put_drift(floor, [node for node in read_nodes(nodes) if driver_of(floor, node) is None])
    return all_wires(floor)


@router.post("/drift/set")
def set_drift(floor: FloorGestures, nodes: LongText, field: Typed, value: Typed) -> HTMLResponse:
    """Change by how much, or how often, what is chosen drifts; what does not is left so."""
    chosen = [node for node in read_nodes(nodes) if driver_of(floor, node) is not None]
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
    chosen = [node for node in read_nodes(nodes) if driver_of(floor, node) is not None]
    put_drift(floor, chosen, seed=secrets.randbelow(2**31))
    return all_wires(floor)


@router.post("/drift/own")
def own_drift(floor: FloorGestures, nodes: LongText) -> HTMLResponse:
    """Make keys of how what is chosen drifts."""
    found = make_drift_own(floor, [node for node in read_nodes(nodes) if driver_of(floor, node) is not None])
    return all_wires(floor, f"{found.keys} keys, within {found.error:.2f} {found.unit} of the drift.")


@router.post("/drift/remove")
def drift_no_more(floor: FloorGestures, nodes: LongText) -> HTMLResponse:
    """Have keys alone decide again."""
    remove_drivers(floor, read_nodes(nodes))
    return all_wires(floor)
