"""The demo's scenes: small performances, keyed by hand."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from gaitwire.core.addresses import Bead
from gaitwire.services.scene.beads import ease_beads
from gaitwire.services.scene.drifting import put_drift
from gaitwire.services.scene.floor import add_puppet, make_scene, update_instance, update_scene
from gaitwire.services.scene.found_poses import mark_pose
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.loose_ends import put_loose
from gaitwire.services.scene.posing import set_course
from gaitwire.services.session.workspace import Workspace

Track = Sequence[tuple[float, float]]
"""(frame, value) of one property."""


def track(text: str) -> list[tuple[float, float]]:
    """Frames with values, as in '0 0, 12 -6'."""
    pairs = (pair.split() for pair in text.split(","))
    return [(float(frame), float(value)) for frame, value in pairs]


class Performer:
    """Keys one puppet of a scene by the names of its bones."""

    def __init__(self, workspace: Workspace, floor: Floor, puppet_id: str, **place: float) -> None:
        self.floor = floor
        self.instance = add_puppet(floor, puppet_id, **place)
        puppet = workspace.puppet(puppet_id)
        self.bones = {b.name: b.id for b in puppet.bones} | {p.name: p.id for p in puppet.pins}
        self.bones |= {c.name: c.id for c in puppet.controls if c.kind != "fix"}
        self.bones["seat"] = self.instance
        self.parts = {p.name: p for p in puppet.parts}
        self.drawings = {p.id: {d.name: d.number for d in puppet.drawings(p)} for p in puppet.parts}

    def key(self, bone: str, tracks: Mapping[str, Track], ease: str = "quad-in-out", by: float = 0.0) -> list[Bead]:
        """Key properties of one bone or pin, `by` frames later around the loop, all with one easing; its beads."""
        length = self.floor.scene.frames
        frames: dict[float, dict[tuple[str, str, str], float]] = {}
        for prop, track in tracks.items():
            for frame, value in track:
                at = (frame + by) % length
                frames.setdefault(at, {})[self.instance, self.bones[bone], prop] = value
        set_course(self.floor, frames)
        beads = [Bead(self.instance, self.bones[bone], frame) for frame in frames]
        ease_beads(self.floor, beads, ease)
        return beads

    def loosen(self, *bones: str, **settings: Any) -> None:
        """Let bones swing by themselves."""
        put_loose(self.floor, [(self.instance, self.bones[bone]) for bone in bones], **settings)

    def poses(self, names: Mapping[float, str]) -> None:
        """Mark whole-body poses by frame; a name that begins with ~ is a breakdown's."""
        for frame, name in names.items():
            kind = "breakdown" if name.startswith("~") else "extreme"
            mark_pose(self.floor, self.instance, frame, name.removeprefix("~"), kind)

    def show(self, part: str, drawings: Mapping[int, str]) -> None:
        """Which drawing a part shows from each frame on; '' is its own."""
        owner = self.parts[part].id
        address = (self.instance, owner, "drawing")
        set_course(
            self.floor, {f: {address: self.drawings[owner][name] if name else 0} for f, name in drawings.items()}
        )


def dress(tamsin: Performer) -> None:
    """Her plait, the tail of her scarf and her apron swing by themselves."""
    tamsin.loosen("plait", stiffness=0.8)
    tamsin.loosen("scarf tail", weight=0.4)
    tamsin.loosen("apron", damping=0.4, limit=60.0)


def leaf(pip: Performer) -> None:
    """His leaf swings on a stem that gives a little."""
    pip.loosen("stem", stiffness=4.0, damping=0.3)
    pip.loosen("leaf", stiffness=2.6, damping=0.22, limit=45.0)


STAGE = {"width": 1280, "height": 720, "background": "#f0ddbb", "ground": 648.0}
"""Every demo scene's stage; the meadow of the orchard lies at its floor line."""


def set_stage(workspace: Workspace, name: str, frames: int, orchard_id: str) -> Floor:
    """A scene before the orchard, whose crowns stir a little in the wind."""
    floor = Floor(workspace, make_scene(workspace, name, frames=frames, **STAGE))
    orchard = Performer(workspace, floor, orchard_id, x=640.0, y=640.0)
    for n, (tree, sway) in enumerate(
        [("left tree", 1.1), ("right tree", 0.9), ("row tree 1", 1.5), ("row tree 2", 1.7), ("row tree 3", 1.4)]
    ):
        orchard.key(
            f"{tree} crown", {"skew": [(0, -sway), (frames / 2, sway)]}, "sine-in-out", by=round(n * frames / 7)
        )
    update_instance(floor, orchard.instance, backdrop=True, locked=True, scale=1.0)
    return floor


CART_LENGTH = 32
_JOLT = [(0, -4.4), (8, 3.2), (16, -3.4), (24, 4.0)]


def _scaled(track: Track, by: float) -> list[tuple[float, float]]:
    return [(frame, value * by) for frame, value in track]


def make_cart_scene(workspace: Workspace, puppet_id: str, orchard_id: str) -> str:
    """A loaded handcart jolts on the spot; the loop closes by itself."""
    floor = set_stage(workspace, "The cart jolts", CART_LENGTH, orchard_id)
    cart = Performer(workspace, floor, puppet_id, x=600.0, y=656.0, scale=0.94)
    cart.key("cart", {"turn": _JOLT}, "quad-in-out")
    cart.key("crates", {"skew": _scaled(_JOLT, -1.7)}, "quad-in-out")
    # Three flaps while the cart goes once to and fro.
    flap = [(round(i * CART_LENGTH / 6), 15.0 if i % 2 else -11.0) for i in range(6)]
    cart.key("tarpaulin corner", {"turn": flap}, "back-out")
    cart.loosen("rope end", stiffness=0.0, damping=0.1)
    cart.key("handle", {"turn": _scaled(_JOLT, -0.5)}, "quad-in-out", by=1)
    for who, lag, size in (("Stook", 2.0, 1.5), ("Tamsin", 1.0, 1.1)):
        _rider(cart, who, lag, size)
    cart.loosen("Tamsin plait")
    cart.poses({0: "jolt", 8: "kick", 16: "drop", 24: "kick"})
    return floor.scene_id


def _rider(cart: Performer, who: str, lag: float, size: float) -> None:
    """One figure on the load: the body rides late on the jolt, each joint later than the one it hangs from."""
    hop = [(0, 0), (4, -5), (8, 0), (16, 0), (20, -6), (24, 0)]
    cart.key(who, {"skew": _scaled(_JOLT, -1.2 * size), "shift_y": hop}, by=lag)
    cart.key("Stook coat" if who == "Stook" else "Tamsin body", {"turn": _scaled(_JOLT, -1.1 * size)}, by=lag)
    cart.key(f"{who} head", {"turn": _scaled(_JOLT, 1.6 * size)}, by=lag + 1)
    cart.key(f"{who} arm", {"turn": _scaled(_JOLT, -2.6)}, by=lag + 2)
    cart.key(f"{who} far leg", {"turn": _scaled(_JOLT, -1.4)}, by=lag + 2)
    cart.key(f"{who} near leg", {"turn": _scaled(_JOLT, -1.8)}, by=lag + 3)


def make_pip_scene(workspace: Workspace, puppet_id: str, orchard_id: str) -> str:
    """Pip hops: squash, stretch, a hang at the top, leaf and stem late."""
    floor = set_stage(workspace, "Pip hops", 24, orchard_id)
    pip = Performer(workspace, floor, puppet_id, x=640.0, y=648.0, scale=0.95)
    pip.key(
        "apple", {"stretch": [(0, 1.0), (3, 0.78), (6, 0.76), (9, 1.2), (13, 1.0), (17, 1.16), (19, 1.0), (21, 0.74)]}
    )
    pip.key("seat", {"shift_y": [(0, 0), (7, 0)]})
    pip.key("seat", {"shift_y": [(14, -250)]}, "quad-in")
    pip.key("seat", {"shift_y": [(20, 0)]}, "linear")
    ease_beads(pip.floor, [Bead(pip.instance, pip.instance, 7.0)], "quad-out")
    pip.key("stem", {"turn": [(2, 0), (8, 14), (12, -12), (18, 16), (22, -10)]})
    pip.key("leaf", {"turn": [(0, 6), (5, -16), (10, 30), (15, -26), (20, -34), (23, 12)]})
    pip.key(
        "eyes", {"stretch": [(0, 1), (4, 0.5), (8, 1.15), (14, 1.1), (20, 1)], "shift_y": [(4, 4), (14, -6), (22, 0)]}
    )
    pip.key("mouth", {"stretch": [(4, 0.7), (14, 1.9), (21, 0.8)]})
    pip.poses({0: "ready", 4: "crouch", 9: "leap", 14: "top", 17: "~falls", 21: "squash"})
    return floor.scene_id


def make_tamsin_scene(workspace: Workspace, puppet_id: str, orchard_id: str) -> str:
    """Tamsin breathes and looks about: an idle that never stands dead still."""
    floor = set_stage(workspace, "Tamsin waits", 96, orchard_id)
    tamsin = Performer(workspace, floor, puppet_id, x=600.0, y=648.0, scale=0.8)
    breath = [(0, 0.0), (24, 1.0), (48, 0.0), (72, 1.0)]
    tamsin.key("chest", {"turn": _scaled(breath, 1.6), "stretch": [(f, 1 + 0.012 * v) for f, v in breath]})
    tamsin.key("pelvis", {"shift_x": [(0, -2.0), (48, 2.0)], "turn": [(0, -0.5), (48, 0.6)]})
    for side, sign in (("near", 1.0), ("far", 1.0)):
        tamsin.key(f"{side} thigh", {"turn": [(0, 0.8 * sign), (48, -0.9 * sign)]})
        tamsin.key(f"{side} shin", {"turn": [(0, -0.4), (48, 0.5)]})
        tamsin.key(f"{side} foot", {"turn": [(0, 0.1), (48, -0.2)]})
        tamsin.key(f"{side} upper arm", {"turn": _scaled(breath, 3.0 if side == "near" else 2.0)}, by=3)
        tamsin.key(f"{side} forearm", {"turn": _scaled(breath, -4.0)}, by=5)
    tamsin.key("face", {"turn": [(0, 0), (30, 0), (38, -9), (62, -7), (70, 5), (88, 3)]})
    tamsin.show("eye", {0: "", 33: "shut", 35: "", 65: "shut", 67: ""})
    tamsin.show("mouth", {0: "", 36: "wry", 62: "", 74: "open", 90: ""})
    tamsin.show("near hand", {0: "", 72: "open", 92: ""})
    tamsin.key("brow", {"shift_y": [(30, 0), (38, -4), (62, -3), (70, 0)]})
    dress(tamsin)
    update_scene(floor, wind=170.0, wind_turn=180.0, gusts=0.7)
    sways = [(tamsin.instance, tamsin.bones[name]) for name in ("far upper arm", "far forearm", "far hand")]
    put_drift(floor, sways, {"turn": 1.2}, changes=0.5)
    tamsin.poses({0: "waits", 24: "~breathes", 38: "looks up", 62: "holds", 75: "says a word"})
    return floor.scene_id


def make_gander_scene(workspace: Workspace, puppet_id: str, barrel_id: str, stook_id: str, orchard_id: str) -> str:
    """Gander looks about: the neck is led by its pins, the head stays level and comes late."""
    floor = set_stage(workspace, "Gander looks about", 72, orchard_id)
    Performer(workspace, floor, stook_id, x=930.0, y=648.0, scale=0.62)
    Performer(workspace, floor, barrel_id, x=1070.0, y=656.0, scale=0.5)
    gander = Performer(workspace, floor, puppet_id, x=500.0, y=652.0, scale=0.34)
    gander.key("body", {"turn": [(0, -1.5), (36, 2.0)], "stretch": [(0, 1.0), (18, 1.02), (36, 1.0), (54, 1.02)]})
    gander.key("tail", {"turn": [(0, 3), (9, -5), (18, 3), (40, 0), (46, -9), (52, 4), (60, 0)]}, by=1)
    gander.key("wing", {"turn": [(0, 0), (36, -2.5), (50, -1)]}, by=4)
    gander.key("neck", {"turn": [(0, 0), (14, -9), (30, -7), (44, 16), (58, 13)]})
    gander.key("upper neck", {"turn": [(0, 0), (14, 16), (30, 12), (44, -8), (58, -5)]}, by=2)
    gander.key("head", {"turn": [(0, 0), (14, -8), (22, -2), (30, -6), (44, -6), (58, -10)]}, by=3)
    gander.key("middle", {"shift_x": [(0, 0), (14, 26), (30, 20), (44, -34), (58, -26)]}, by=1)
    gander.key("crop", {"shift_x": [(0, 0), (14, -12), (44, 22), (58, 16)]})
    gander.key("jaw", {"turn": [(20, 0), (23, 17), (26, 1), (29, 15), (32, 0)]}, "quad-out")
    gander.key("brow", {"shift_y": [(0, 0), (20, -7), (34, 0), (46, 5), (58, 0)]})
    gander.show("eye", {0: "", 40: "shut", 43: "", 64: "shut", 66: ""})
    gander.poses({0: "at rest", 14: "looks back", 30: "~hears", 44: "looks out", 58: "holds"})
    return floor.scene_id
