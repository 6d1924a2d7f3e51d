"""What swings: how long its bake takes, and a drag before which it has to be stepped anew."""

from __future__ import annotations

import json
import math
from typing import Any

import numpy as np

from gaitwire.core.evaluate import compile_scene, evaluate
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.demo.puppets import make_tamsin
from gaitwire.measure.beside import MeasuredFigure, Timings, percentiles, rate, turned_about
from gaitwire.services.scene.floor import add_puppet, make_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.loose_ends import put_loose
from gaitwire.services.scene.posing import set_values
from gaitwire.services.scene.walks import put_gait
from gaitwire.services.session.workspace import Workspace
from gaitwire.web.live import Session, reply

FRAMES, MOVES, FAR_MOVES, TIMES = 240, 120, 60, 5
_RATE = 24.0

LOOSE = ("plait", "scarf tail", "apron", "basket")


def swinging_figures(workspace: Workspace) -> dict[str, Any]:
    """loose_bake_ratio of Tamsin walking, her plait, scarf, apron and basket loose, and of five of her.

    loose_drag_ms: from a drag's message to the packed frame, on frame 200, with keys every 24 frames;
    loose_drag_far_ms: where the key before it is on frame 0.
    """
    tamsin = make_tamsin(workspace, mended=False)
    lasts = FRAMES / _RATE * 1000
    one, five = (_bake(workspace, tamsin, count) for count in (1, 5))
    return {
        "loose_bake_ratio": rate(one, lambda ms: round(lasts / ms, 1)),
        "loose_bake_5_ratio": rate(five, lambda ms: round(lasts / ms, 1)),
        "loose_drag_ms": _drag(workspace, tamsin, 24, MOVES),
        "loose_drag_far_ms": _drag(workspace, tamsin, FRAMES, FAR_MOVES),
    }


def _loosened(workspace: Workspace, floor: Floor, tamsin: str, x: float) -> str:
    who = add_puppet(floor, tamsin, x=x, y=648.0, scale=0.8)
    bones = {b.name: b.id for b in workspace.puppet(tamsin).bones}
    put_loose(floor, [(who, bones[name]) for name in LOOSE])
    return who


def _bake(workspace: Workspace, tamsin: str, count: int) -> Timings:
    """Milliseconds in which all frames are evaluated, tracks and all."""
    floor = Floor(workspace, make_scene(workspace, "Swinging", frames=FRAMES, loop=False, ground=648.0))
    for n in range(count):
        who = _loosened(workspace, floor, tamsin, 100.0 * n)
        put_gait(floor, who, list(CHARACTERS.values())[n], travels=True)
    frames, scene = np.arange(float(FRAMES)), floor.scene
    cast = workspace.cast(scene)
    fresh = [compile_scene(scene, cast, workspace.skins.of(cast.values())) for _ in range(TIMES)]
    return turned_about(lambda n: evaluate(fresh[n], frames), TIMES)


def _drag(workspace: Workspace, tamsin: str, key_every: int, moves: int) -> MeasuredFigure:
    floor = Floor(workspace, make_scene(workspace, "Swinging", frames=FRAMES, loop=False, ground=648.0))
    who = _loosened(workspace, floor, tamsin, 600.0)
    chest = next(b.id for b in workspace.puppet(tamsin).bones if b.name == "chest")
    for frame in range(0, FRAMES, key_every):
        set_values(floor, float(frame), {(who, chest, "turn"): 20.0 * math.sin(frame)})
    session = Session(workspace, "scene", floor.scene_id)

    def move(n: int) -> bytes:
        x, y = 600 + 30 * math.sin(n / 9), 250 + 14 * math.cos(n / 7)
        message = {"kind": "pose", "gesture": "turn", "x": x, "y": y, "from_x": 600, "from_y": 250, "frame": 200}
        return reply(session, json.dumps({**message, "nodes": [[who, chest]], "began": 1}))

    return percentiles(turned_about(move, moves, warm=10), bones=len(LOOSE))
