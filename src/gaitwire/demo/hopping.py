"""Pip hops off a crate: a planned hop, loosened by hand."""

from __future__ import annotations

from gaitwire.core.addresses import Bead
from gaitwire.core.motion.hop import Hop
from gaitwire.demo.scenes import Performer, leaf, set_stage, track
from gaitwire.demo.sounding import hop as hop_sound
from gaitwire.demo.sounding import landing
from gaitwire.services.scene.beads import ease_beads
from gaitwire.services.scene.camera import add_camera
from gaitwire.services.scene.floor import update_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.hops import Hopped, plan_hop
from gaitwire.services.scene.posing import set_values
from gaitwire.services.scene.sounds import add_sounds
from gaitwire.services.session.workspace import Workspace

LENGTH = 72
_SIZE, _CRATE = 0.8, 0.9
_GROUND = 648.0
_TOP = _GROUND - 172.0 * _CRATE
"""Where the crate's boards lie."""


def make_hop_scene(workspace: Workspace, pip_id: str, crate_id: str, orchard_id: str) -> str:
    """From the crate to the grass, with a look down first and a look round after it."""
    floor = set_stage(workspace, "Off the crate", LENGTH, orchard_id)
    update_scene(floor, loop=False)
    Performer(workspace, floor, crate_id, x=430.0, y=_GROUND, scale=_CRATE)
    pip = Performer(workspace, floor, pip_id, x=450.0, y=_TOP, scale=_SIZE)
    leaf(pip)  # so the hop leaves it alone
    hop = Hop(
        crouch=7, air=14, land=3, settle=14, height=96.0, distance=350.0, drop=_GROUND - _TOP, squash=0.24,
        stretch=0.22, heft=0.25,
    )  # fmt: skip
    when = plan_hop(floor, pip.instance, 14.0, hop)
    # By hand: eyes that look where it goes, wide on the way, shut by the squash; a mouth that follows.
    down, end = when.down, when.end
    look = f"0 0, 8 10, {when.off} 8, {down - 2} 12, {down + 4} 0, {end} 0, {end + 8} -6"
    pip.key(
        "eyes",
        {"shift_x": track(look), "shift_y": track(f"0 0, 8 6, {when.off} -6, {down - 2} 8, {down + 4} 2, {end} 0")},
    )
    wide = f"0 1, 10 1, {when.off} 1.15, {down - 2} 1.2, {down + 4} 0.3, {down + 9} 1, {end} 1"
    pip.key("eyes", {"stretch": track(wide)})
    pip.key("mouth", {"stretch": track(f"0 1, 10 0.8, {when.off} 1.5, {down - 2} 2.1, {down + 4} 0.6, {end} 1.3")})
    add_sounds(floor, {"hop.wav": hop_sound()}, when.off)
    add_sounds(floor, {"landing.wav": landing()}, when.down)
    _film(floor, when)
    pip.poses({0: "dares itself"})
    return floor.scene_id


def _film(floor: Floor, when: Hopped) -> None:
    """The camera comes nearer while Pip makes up its mind, and goes along with the hop."""
    camera = add_camera(floor)
    nearer = {"shift_x": -120.0, "shift_y": 60.0, "stretch": 1.3}
    there = {"shift_x": 110.0, "shift_y": 74.0, "stretch": 1.3}
    way = {
        0.0: {"shift_x": 0.0, "shift_y": 0.0, "stretch": 1.0}, 12.0: nearer, when.off - 2: nearer,
        when.down + 5: there, when.end + 2: there, LENGTH - 1.0: {"shift_x": 70.0, "shift_y": 30.0, "stretch": 1.14},
    }  # fmt: skip
    for frame, values in way.items():
        set_values(floor, frame, {(camera, camera, prop): value for prop, value in values.items()})
    ease_beads(floor, [Bead(camera, camera, frame) for frame in way], "sine-in-out")
