"""The demo's walks: in place, side by side, with a barrel, up a bank, and a gander who thinks well of himself."""

from __future__ import annotations

import math
from collections.abc import Mapping

from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.demo.props import BANK_RISE
from gaitwire.demo.scenes import Performer, dress, set_stage, track
from gaitwire.demo.sounding import step
from gaitwire.services.scene.floor import add_puppet, update_instance, update_scene
from gaitwire.services.scene.phrases import put_phrase
from gaitwire.services.scene.rolls import put_roll
from gaitwire.services.scene.sounds import add_sounds
from gaitwire.services.scene.turns import turn_round
from gaitwire.services.scene.walk_keys import put_walk
from gaitwire.services.scene.walks import put_gait
from gaitwire.services.session.workspace import Workspace

PUSHING = CHARACTERS["plain"].model_copy(
    update={
        "name": "pushing", "frames_a_step": 13.0, "stride": 1.3, "lean": 15.0, "back_curl": 8.0, "sink": 0.03,
        "shoulder_rest": 34.0, "arm_swing": 3.0, "elbow_fold": 34.0, "elbow_swing": 2.0, "gaze_height": -12.0,
    }
)  # fmt: skip
"""Hands on something that rolls."""


def make_walk_scenes(workspace: Workspace, puppets: Mapping[str, str], orchard_id: str) -> None:
    """All of them; `puppets` are ids by name."""
    _in_place(workspace, puppets["Tamsin"], orchard_id)
    _side_by_side(workspace, puppets["Tamsin"], orchard_id)
    _with_a_barrel(workspace, puppets, orchard_id)
    _up_the_bank(workspace, puppets, orchard_id)
    _strutting(workspace, puppets["Gander"], orchard_id)
    _on_all_fours(workspace, puppets["Bramble"], orchard_id)
    _towards_us(workspace, puppets["Tamsin, front"], orchard_id)


def _in_place(workspace: Workspace, tamsin: str, orchard_id: str) -> None:
    plain = set_stage(workspace, "Tamsin walks", round(CHARACTERS["plain"].frames), orchard_id)
    who = Performer(workspace, plain, tamsin, x=640.0, y=648.0, scale=0.95)
    dress(who)
    put_walk(plain, who.instance, CHARACTERS["plain"])
    add_sounds(plain, {"near step.wav": step(3)})
    add_sounds(plain, {"far step.wav": step(8)}, CHARACTERS["plain"].frames_a_step)


def _side_by_side(workspace: Workspace, tamsin: str, orchard_id: str) -> None:
    both = set_stage(workspace, "Proud and weary", 120, orchard_id)
    update_scene(both, loop=False)
    for name, x, y, depth in (("weary", 560.0, 636.0, 2), ("proud", 200.0, 664.0, 3)):
        who = Performer(workspace, both, tamsin, x=x, y=y, scale=0.72)
        update_instance(both, who.instance, name=name.capitalize(), depth=depth)
        dress(who)
        put_gait(both, who.instance, CHARACTERS[name], travels=True)


def _with_a_barrel(workspace: Workspace, puppets: Mapping[str, str], orchard_id: str) -> None:
    """Set out, rest, and on: both are moved by the same keys; her feet and the barrel go by the distance."""
    rows = set_stage(workspace, "Along the rows", 168, orchard_id)
    update_scene(rows, loop=False)
    way = {"shift_x": track("0 0, 10 0, 76 400, 100 400, 158 730")}
    barrel = Performer(workspace, rows, puppets["Cider barrel"], x=352.0, y=652.0, scale=0.86)
    barrel.key("seat", way)
    put_roll(rows, (barrel.instance, barrel.bones["barrel"]))
    tamsin = Performer(workspace, rows, puppets["Tamsin"], x=196.0, y=652.0, scale=0.72)
    tamsin.key("seat", way)
    dress(tamsin)
    put_gait(rows, tamsin.instance, PUSHING, pace="seat")


def _up_the_bank(workspace: Workspace, puppets: Mapping[str, str], orchard_id: str) -> None:
    long, high = BANK_RISE
    slope = math.degrees(math.atan2(high, long))
    bank = set_stage(workspace, "Up the bank", 132, orchard_id)
    update_scene(bank, loop=False)
    foot_x, foot_y, ahead = 130.0, 646.0, 110.0
    grass = add_puppet(bank, puppets["Grassy bank"], x=foot_x, y=foot_y, scale=1.0)
    update_instance(bank, grass, backdrop=True, locked=True)
    start = {"x": foot_x + ahead, "y": foot_y - ahead * high / long + 3.0}
    who = Performer(workspace, bank, puppets["Tamsin"], scale=0.66, **start)
    dress(who)
    put_gait(bank, who.instance, CHARACTERS["heavy-laden"], travels=True, pace="stands", slope=slope)


def _strutting(workspace: Workspace, gander: str, orchard_id: str) -> None:
    """There, and back: he turns round where he stands."""
    struts = set_stage(workspace, "Gander struts", 240, orchard_id)
    update_scene(struts, loop=False)
    performer = Performer(workspace, struts, gander, x=230.0, y=654.0, scale=0.36)
    performer.loosen("tail", stiffness=2.4)
    who = performer.instance
    put_gait(struts, who, CHARACTERS["strut"], 0.0, 112.0, travels=True, pace="stands")
    turn_round(struts, who, 120.0, 8.0)
    put_gait(struts, who, CHARACTERS["strut"], 134.0, 236.0, travels=True, pace="stands")


def _on_all_fours(workspace: Workspace, bramble: str, orchard_id: str) -> None:
    """Home with the panniers full, and back at a trot for more."""
    lane = set_stage(workspace, "Bramble plods and trots", 150, orchard_id)
    update_scene(lane, loop=False)
    trotting = Performer(workspace, lane, bramble, x=1120.0, y=634.0, scale=0.46)
    update_instance(lane, trotting.instance, name="Trotting", turned=True)
    plodding = Performer(workspace, lane, bramble, x=150.0, y=662.0, scale=0.6)
    update_instance(lane, plodding.instance, name="Plodding")
    for donkey, card in ((trotting, "trot"), (plodding, "plod")):
        donkey.loosen("tail", "near ear", "far ear", damping=0.3)
        donkey.loosen("pannier", stiffness=3.0, damping=0.4)
        put_gait(lane, donkey.instance, CHARACTERS[card], travels=True)


def _towards_us(workspace: Workspace, tamsin: str, orchard_id: str) -> None:
    lane = set_stage(workspace, "Down the lane", 144, orchard_id)
    update_scene(lane, loop=False)
    performer = Performer(workspace, lane, tamsin, x=620.0, y=566.0, scale=0.36)
    dress(performer)
    who = performer.instance
    put_gait(lane, who, CHARACTERS["plain"], 0.0, 96.0, travels=True, pace="stands")
    put_phrase(lane, who, "shrug", 108.0)
