"""A meeting at the end of the row: Tamsin comes up, hails the scarecrow, and he has his doubts."""

from __future__ import annotations

from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.demo.scenes import Performer, set_stage, track
from gaitwire.services.scene.floor import update_instance, update_scene
from gaitwire.services.scene.phrases import make_phrase, put_phrase
from gaitwire.services.scene.walks import put_gait
from gaitwire.services.session.workspace import Workspace

LENGTH = 168


def make_greeting_scene(workspace: Workspace, tamsin_id: str, stook_id: str, orchard_id: str) -> str:
    """Phrases over a walk and alone: some that ship, and one of Tamsin's own, made from beads and tied."""
    floor = set_stage(workspace, "A word with Stook", LENGTH, orchard_id)
    update_scene(floor, loop=False)
    stook = Performer(workspace, floor, stook_id, x=1010.0, y=650.0, scale=0.66)
    update_instance(floor, stook.instance, turned=True)
    tamsin = Performer(workspace, floor, tamsin_id, x=120.0, y=652.0, scale=0.72)
    put_gait(floor, tamsin.instance, CHARACTERS["plain"], 0.0, 72.0, travels=True, pace="stands")
    put_phrase(floor, tamsin.instance, "wave", 24.0, settings={"times": 2.0, "frames": 7.0, "rise": 9.0, "high": 122.0})
    _salute(tamsin)
    put_phrase(floor, tamsin.instance, "breathe", 72.0, repeats=0)
    put_phrase(floor, tamsin.instance, "listen", 110.0, settings={"hold": 20.0})
    put_phrase(floor, stook.instance, "breathe", 0.0, repeats=0, amount=1.5)
    put_phrase(floor, stook.instance, "look", 40.0, settings={"up": -14.0, "hold": 10.0})
    put_phrase(floor, stook.instance, "doubt", 92.0)
    return floor.scene_id


def _salute(tamsin: Performer) -> None:
    """Two fingers to the brow, out of which a phrase is made that lies there in place of its keys."""
    beads = tamsin.key("near upper arm", {"turn": track("76 0, 79 8, 86 -132, 92 -126, 100 -92, 112 0")}, "sine-in-out")
    beads += tamsin.key("near forearm", {"turn": track("76 0, 80 -30, 87 -82, 93 -76, 99 -24, 112 0")}, "sine-in-out")
    beads += tamsin.key("near hand", {"turn": track("76 0, 82 20, 88 -12, 93 -6, 101 14, 112 0")}, "sine-in-out")
    beads += tamsin.key("face", {"turn": track("76 0, 82 -4, 89 9, 95 7, 104 0")}, "sine-in-out")
    make_phrase(tamsin.floor, beads, "Two fingers to the brow", put=True, tags=("arm", "greet", "thanks"), view="side")
