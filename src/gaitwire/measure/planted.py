"""A body dragged while hands and feet hold: what one move takes on the server."""

from __future__ import annotations

import json
import math

from gaitwire.demo.puppets import make_tamsin
from gaitwire.measure.beside import MeasuredFigure, percentiles, turned_about
from gaitwire.services.scene.floor import add_puppet, make_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.links import plant_limbs
from gaitwire.services.session.workspace import Workspace
from gaitwire.web.live import Session, reply

_MOVES = 200


def planted_drag_figures(workspace: Workspace) -> dict[str, MeasuredFigure]:
    """Milliseconds from a drag's message to the packed frame: Tamsin's pelvis, both hands and feet planted.

    As she came, and with her joints mended: where an elbow bends far, pins shape its sleeve.
    """
    plain, mended = make_tamsin(workspace, mended=False), make_tamsin(workspace)
    return {"planted_drag_ms": _drag(workspace, plain), "mended_planted_drag_ms": _drag(workspace, mended)}


def _drag(workspace: Workspace, tamsin: str) -> MeasuredFigure:
    floor = Floor(workspace, make_scene(workspace, "Planted", frames=48, loop=False, ground=648.0))
    who = add_puppet(floor, tamsin, x=600.0, y=648.0, scale=0.8)
    puppet = workspace.puppet(tamsin)
    plant_limbs(floor, [(who, limb.id) for limb in puppet.limbs], 0.0)
    pelvis = next(b.id for b in puppet.bones if b.name == "pelvis")
    session = Session(workspace, "scene", floor.scene_id)

    def move(n: int) -> bytes:
        x, y = 600 + 18 * math.sin(n / 9), 430 + 14 * math.cos(n / 7)
        message = {"kind": "pose", "gesture": "shift", "x": x, "y": y, "from_x": 600, "from_y": 430, "frame": 12}
        return reply(session, json.dumps({**message, "nodes": [[who, pelvis]], "began": 1}))

    times = turned_about(move, _MOVES, warm=10)
    return percentiles(times, planted=len(puppet.limbs), bones=len(puppet.bones))
