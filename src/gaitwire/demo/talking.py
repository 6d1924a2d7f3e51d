"""Stook has his say: his head turned by its pad, his mouth and brows set by gauges, to Pip who hops below."""

from __future__ import annotations

from gaitwire.demo.scenes import Performer, leaf, set_stage, track
from gaitwire.demo.sounding import voice
from gaitwire.services.scene.sounds import add_sounds
from gaitwire.services.session.workspace import Workspace

LENGTH = 168

_TALK = """
    0 0, 30 0, 33 45, 36 10, 39 100, 43 20, 46 45, 50 90, 55 0, 70 0, 73 100, 77 30, 80 45, 84 0, 87 80, 92 15,
    95 45, 100 100, 106 0, 124 0, 127 45, 132 100, 139 40, 142 100, 148 0
"""
"""How far his mouth is set, by frame: two sentences, and an afterthought."""


def make_talk_scene(workspace: Workspace, stook_id: str, pip_id: str, orchard_id: str) -> str:
    """A turn of the head is a point on a pad; talking is a gauge."""
    floor = set_stage(workspace, "Stook has his say", LENGTH, orchard_id)
    stook = Performer(workspace, floor, stook_id, x=700.0, y=650.0, scale=0.92)
    pip = Performer(workspace, floor, pip_id, x=330.0, y=650.0, scale=0.5)
    _turn_head(stook)
    stook.key("talk", {"x": track(_TALK)}, "sine-in-out")
    stook.key("brows", {"x": track("0 0, 18 70, 34 40, 58 -30, 72 -90, 96 -70, 110 0, 122 100, 146 60, 160 0")})
    # Every turn begins below: the body leans before the head goes, and the arms come late.
    stook.key("pole", {"turn": track("0 0, 10 -1.2, 20 -2.4, 56 -2, 68 2.2, 104 1.6, 118 -1.8, 150 -1, 162 0")})
    stook.key("coat", {"turn": track("0 0, 14 -3, 56 -2, 72 3.4, 104 2, 122 -3.4, 150 -1, 164 0")}, by=1)
    stook.key("face", {"turn": track("0 0, 18 -5, 56 -3, 74 4, 104 3, 122 -6, 150 -2, 164 0")}, by=2)
    arm = "0 0, 16 4, 38 -16, 46 -8, 58 2, 74 -10, 90 6, 104 2, 124 -20, 140 -14, 160 0"
    stook.key("near upper arm", {"turn": track(arm)}, by=3)
    stook.key("near forearm", {"turn": [(f, -1.6 * v) for f, v in track(arm)]}, by=5)
    stook.key("far upper arm", {"turn": track("0 0, 16 -3, 60 2, 76 18, 88 10, 104 0, 124 6, 160 0")}, by=3)
    stook.key("far forearm", {"turn": track("0 0, 18 -2, 60 0, 78 26, 88 14, 104 -2, 124 4, 160 0")}, by=5)
    stook.key("straw hair", {"turn": track("0 0, 20 4, 30 -1, 74 -5, 84 1, 122 5, 132 -1, 160 0")}, by=2)
    _listen(pip)
    add_sounds(floor, {"Stook's voice.wav": voice(_syllables(), LENGTH / 24)})
    stook.poses({0: "dozes", 20: "sees Pip", 52: "has said it", 74: "the weather", 104: "~thinks", 122: "but mind"})
    return floor.scene_id


def _syllables() -> list[tuple[float, float, float]]:
    """A syllable for every time his mouth opens: from when it begins to until it closes."""
    keys = track(_TALK)
    found = []
    for (begins, _), (_, wide), (ends, closed) in zip(keys, keys[1:], keys[2:], strict=False):
        if wide > closed and wide > 0:
            found.append((begins / 24, (ends - begins) / 24, 0.5 + wide / 200))
    return found


def _turn_head(stook: Performer) -> None:
    """Down to Pip on the left, round and up to the sky on the right by way of a dip, and back to Pip."""
    across = "0 10, 6 14, 18 -58, 30 -52, 56 -48, 62 -40, 74 62, 84 54, 104 48, 110 40, 122 -64, 150 -50, 162 10"
    up = "0 -14, 6 -8, 18 -16, 30 -20, 56 -14, 66 -24, 74 18, 84 24, 104 12, 112 -12, 122 -22, 150 -16, 162 -14"
    stook.key("head", {"x": track(across), "y": track(up)}, "sine-in-out")


def _listen(pip: Performer) -> None:
    """Two small hops, and eyes that stay on the speaker."""
    leaf(pip)
    for start in (58.0, 110.0):
        squash = [(0, 1.0), (3, 0.8), (6, 1.14), (10, 1.0), (14, 1.12), (16, 0.84), (20, 1.0)]
        pip.key("apple", {"stretch": [(start + f, v) for f, v in squash]})
        pip.key("seat", {"shift_y": [(start + 4, 0), (start + 10, -70), (start + 15, 0)]}, "sine-in-out")
    pip.key("eyes", {"shift_x": track("0 0, 14 9, 110 7, 160 0"), "shift_y": track("0 0, 14 -8, 110 -6, 160 0")})
    pip.key("mouth", {"stretch": track("0 1, 52 1, 58 1.6, 76 1, 112 1.5, 130 1")})
