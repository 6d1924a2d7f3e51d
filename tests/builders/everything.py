"""Scenes in which every feature of motion stands once, made of the orchard's puppets: for numbers, not for the eye."""

from __future__ import annotations

from collections.abc import Sequence

from builders.named import id_of
from gaitwire.core.addresses import Bead
from gaitwire.core.ids import new_id
from gaitwire.core.motion.hop import Hop
from gaitwire.core.motion.turning import Turn
from gaitwire.core.timing.channel import LED
from gaitwire.core.walk.characters import CHARACTERS
from gaitwire.demo.leaning import LeaningPerformer
from gaitwire.demo.scenes import Performer, track
from gaitwire.services.rig.bench import Bench
from gaitwire.services.rig.corrective_shapes import Correcting
from gaitwire.services.rig.limbs import Limbs
from gaitwire.services.rig.shadows import Shadowing
from gaitwire.services.scene.beads import copy_beads, ease_beads, shape_beads, space_beads
from gaitwire.services.scene.camera import add_camera
from gaitwire.services.scene.drifting import put_drift
from gaitwire.services.scene.floor import make_scene, update_instance, update_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.hops import plan_hop
from gaitwire.services.scene.limb_tips import solve_from_tip
from gaitwire.services.scene.links import change_bearing, hitch_nodes, lift_limbs, plant_limbs
from gaitwire.services.scene.loose_ends import put_loose
from gaitwire.services.scene.phrases import put_phrase
from gaitwire.services.scene.posing import set_course
from gaitwire.services.scene.rides import PointerPlace, record_ride, record_setting
from gaitwire.services.scene.rolls import put_roll
from gaitwire.services.scene.smears import Smear, smear_parts
from gaitwire.services.scene.timing import put_offsets, put_stays, repeat_channels
from gaitwire.services.scene.turns import turn_round
from gaitwire.services.scene.walks import find_gait, put_gait
from gaitwire.services.session.workspace import Workspace

STAGE = {"width": 1280, "height": 720, "background": "#f0ddbb", "ground": 648.0}
SHOOT = 5
"""Bones of the shoot, all of them in one limb."""


def make_everything(workspace: Workspace) -> list[str]:
    """Change some puppets of the orchard, then make the scenes; their ids."""
    Shadowing(workspace, id_of(workspace, "puppet", "Pip")).add_shadow()
    _make_shoot(Bench(workspace, id_of(workspace, "puppet", "Apple")))
    return [_loop(workspace), _shot(workspace), _links(workspace), _led(workspace), _loose(workspace)]


def _make_shoot(bench: Bench) -> None:
    """A shoot of many bones that is solved from its tip, may stretch, and has a gauge and a fix of its own."""
    above = next(b.id for b in bench.puppet.bones)
    for n in range(SHOOT):
        start, end = ((30.0 + 24 * i + 7 * (i % 2), 10.0 - 26 * i) for i in (n, n + 1))
        above = bench.add_bone(*start, end, above, f"shoot {n + 1}")
    limbs = Limbs(bench.workspace, bench.puppet_id)
    limbs.update(limbs.add(above), {"count": SHOOT, "stretch": 0.2, "softness": 0.1, "bend": 1})
    ids = {b.name: b.id for b in bench.puppet.bones}
    controls = Correcting(bench.workspace, bench.puppet_id)
    gauge = controls.add_control("gauge", "wilts")
    entry = controls.add_entry(gauge, 1.0, 0.0, "wilted")
    controls.set_value(entry, [("bone", ids["shoot 2"])], "turn", 24.0)
    fix = controls.add_fix(ids["shoot 3"], 30.0)
    controls.set_value(fix, [("part", bench.puppet.parts[0].id)], "turn", 9.0)


def _floor(workspace: Workspace, name: str, frames: int, loop: bool) -> Floor:
    return Floor(workspace, make_scene(workspace, name, frames=frames, loop=loop, **STAGE))


def _performer(workspace: Workspace, floor: Floor, name: str, **place: float) -> Performer:
    return Performer(workspace, floor, id_of(workspace, "puppet", name), **place)


def _repeat(who: Performer, kind: str, bones: Sequence[str], *stretch: float) -> None:
    repeat_channels(who.floor, [(who.instance, who.bones[b]) for b in bones], kind, *stretch)


def _loop(workspace: Workspace) -> str:
    """Round a loop: twos and threes, repeats of every kind, walks of every pace in place, phrases round its end."""
    floor = _floor(workspace, "Everything in a loop", 96, loop=True)
    gander = _performer(workspace, floor, "Gander", x=300.0, y=652.0, scale=0.3)
    gander.key("neck", {"turn": track("0 0, 9 14, 20 -6")}, "sine-in-out")
    gander.key("head", {"turn": track("3 0, 10 -12, 14 5"), "skew": track("3 0, 10 8")}, "back-out")
    gander.key("tail", {"turn": track("0 0, 5 11, 7 14")}, "elastic-out")
    gander.key("middle", {"shift_x": track("0 0, 30 20, 60 -12")}, "cubic-in-out")
    gander.key(
        "body", {"stretch": track("0 1, 20 1.1, 50 0.94"), "axis": track("0 0, 50 40"), "keep": track("0 1, 50 0")}
    )
    _repeat(gander, "cycle", ["neck"])
    _repeat(gander, "there and back", ["head"], 3.0, 14.0)
    _repeat(gander, "onward", ["tail"])
    gander.show("eye", {0: "", 30: "shut", 34: ""})
    update_instance(floor, gander.instance, exposure=2)
    put_offsets(
        floor,
        [(gander.instance, gander.bones["head"])],
        {"property": "turn", "amount": 11.0, "start": 80.0, "stop": 112.0, "soft_in": 9.0, "soft_out": 7.0},
    )
    stook = _performer(workspace, floor, "Stook", x=980.0, y=650.0, scale=0.6)
    _controls(stook)
    update_instance(floor, stook.instance, exposure=3, turned=True)
    put_phrase(floor, stook.instance, "look", 80.0, around=True, amount=1.3, pace=1.4)
    put_phrase(floor, stook.instance, "breathe", 10.0, repeats=0, fade_in=8.0)
    tamsin = _performer(workspace, floor, "Tamsin", x=640.0, y=648.0, scale=0.7)
    walk = put_gait(floor, tamsin.instance, CHARACTERS["weary"], 0.0)
    gait = find_gait(floor, walk)
    record_setting(floor, gait, "lean", [(20.0, 4.0), (44.0, 16.0), (70.0, 4.0)])
    tamsin.key("near upper arm", {"turn": track("30 -40, 40 -70, 60 -20")})
    put_phrase(floor, tamsin.instance, "wave", 50.0, other_side=True, fade_out=6.0)
    bramble = _performer(workspace, floor, "Bramble", x=160.0, y=648.0, scale=0.4)
    put_gait(floor, bramble.instance, CHARACTERS["plain"], 0.0)
    barrel = _performer(workspace, floor, "Cider barrel", x=500.0, y=656.0, scale=0.4)
    barrel.key("seat", {"shift_x": track("0 0, 48 200")}, "sine-in-out")
    put_roll(floor, (barrel.instance, _rolling(workspace, barrel)))
    return floor.scene_id


def _rolling(workspace: Workspace, who: Performer) -> str:
    puppet = workspace.puppet(who.floor.instance(who.instance).puppet_id)
    return next(b.id for b in puppet.bones if b.role == "wheel")


def _controls(who: Performer) -> None:
    """Every pad and gauge of a puppet, moved over the scene; a mouth that is keyed, and led again."""
    puppet = who.floor.workspace.puppet(who.floor.instance(who.instance).puppet_id)
    last = who.floor.scene.frames
    for control in puppet.controls:
        if control.kind == "fix":
            continue
        names = ("x", "y") if control.kind == "pad" else ("x",)
        for frame, share in ((0, 0.0), (last // 3, 0.8), (2 * last // 3, -0.5)):
            set_course(
                who.floor,
                {
                    frame: {
                        (who.instance, control.id, n): share * (30.0 if control.kind == "pad" else 1.0) for n in names
                    }
                },
            )
    mouth = who.parts["mouth"].id
    numbers = sorted(who.drawings[mouth].values())
    set_course(
        who.floor,
        {f: {(who.instance, mouth, "drawing"): v} for f, v in ((0, LED), (20, float(numbers[-1])), (30, LED))},
    )


def _shot(workspace: Workspace) -> str:
    """A shot: easings of all kinds, stays, a hop, a smear, turns in both manners, a journey, camera, fading, order."""
    floor = _floor(workspace, "Everything in a shot", 120, loop=False)
    pip = _performer(workspace, floor, "Pip", x=300.0, y=648.0, scale=0.7)
    plan_hop(floor, pip.instance, 8.0, Hop(height=180.0, distance=160.0))
    pip.key("seat", {"opacity": track("80 1, 96 0.3"), "shown": track("0 1, 110 0")})
    node = (pip.instance, pip.bones["leaf"])
    beads = pip.key("leaf", {"turn": track("60 0, 72 40, 84 -10, 96 12")})
    shape_beads(floor, beads[:1], (0.1, -0.4, 0.3, 1.5))
    space_beads(floor, beads[1:2], "thirds")
    ease_beads(floor, beads[2:3], "hold")
    put_stays(floor, [node], 104.0)
    turn_round(floor, pip.instance, 90.0, 12.0)
    stook = _performer(workspace, floor, "Stook", x=1000.0, y=650.0, scale=0.6)
    whole = {"scene_id": floor.scene_id, "instance_id": stook.instance, "time": 40.0, "frames": 10.0, "manner": "whole"}
    floor.change("turn as one", [Turn(id=new_id(), **whole)])
    stook.key("near upper arm", {"turn": track("0 0, 30 0, 33 70, 60 64")}, "expo-out")
    smear_parts(floor, [(stook.instance, stook.bones["near upper arm"])], 32.0, Smear())
    tamsin = _performer(workspace, floor, "Tamsin", x=420.0, y=648.0, scale=0.66)
    put_gait(floor, tamsin.instance, CHARACTERS["plain"], 10.0, 70.0, travels=True, pace="stands")
    put_phrase(floor, tamsin.instance, "doubt", 74.0, still=0.7, goes_on=True, change_in=10.0)
    tamsin.key("chest", {"turn": track("100 0, 112 9")})
    ride = [PointerPlace(float(f), 640.0 + 2 * f, 300.0 + f) for f in range(76, 90)]
    record_ride(floor, "shift", [(tamsin.instance, tamsin.bones["pelvis"])], (640.0 + 152, 376.0), ride)
    front = _performer(workspace, floor, "Tamsin, front", x=820.0, y=648.0, scale=0.5)
    put_gait(floor, front.instance, CHARACTERS["sneaking"], 20.0, 100.0)
    near = front.parts[next(iter(front.parts))].id
    set_course(floor, {0: {(front.instance, near, "place"): 0.0}, 50: {(front.instance, near, "place"): 3.0}})
    camera = add_camera(floor)
    set_course(floor, {
        f: {(camera, camera, "shift_x"): x, (camera, camera, "stretch"): z, (camera, camera, "turn"): t}
        for f, x, z, t in ((0, 0.0, 1.0, 0.0), (60, 60.0, 1.3, 4.0), (110, -40.0, 1.1, -3.0))
    })  # fmt: skip
    update_instance(floor, stook.instance, distance=0.6)
    update_instance(floor, front.instance, exposure=2)
    return floor.scene_id


def _links(workspace: Workspace) -> str:
    """Plants on the floor and on a bone, hitches, a throw, another bearing, limbs from their tips, a long limb."""
    floor = _floor(workspace, "Everything linked", 72, loop=False)
    tamsin = LeaningPerformer(workspace, floor, id_of(workspace, "puppet", "Tamsin"), x=560.0, y=648.0, scale=0.7)
    basket = _performer(workspace, floor, "Basket", x=700.0, y=648.0, scale=0.6)
    apple = _performer(workspace, floor, "Apple", x=300.0, y=600.0, scale=1.2)
    second = _performer(workspace, floor, "Apple", x=900.0, y=400.0, scale=0.5)
    limbs = {name: (tamsin.instance, limb) for name, limb in tamsin.limbs.items()}
    floor.word = "go"
    solve_from_tip(floor, [limbs["near arm"]], 0.0, True)
    plant_limbs(floor, [limbs["near leg"], limbs["far leg"]], 0.0)
    lift_limbs(floor, [limbs["far leg"]], 30.0)
    tamsin.key("pelvis", {"shift_x": track("0 0, 20 24, 50 -16"), "shift_y": track("0 0, 24 18, 50 0")})
    tamsin.key("chest", {"turn": track("0 0, 24 16, 60 -6")}, "sine-in-out")
    arm = limbs["near arm"][1]
    set_course(floor, {
        f: {(tamsin.instance, arm, "tip_x"): x, (tamsin.instance, arm, "tip_y"): y, (tamsin.instance, arm, "mix"): m}
        for f, x, y, m in ((0, 0.0, 0.0, 1.0), (18, 60.0, -80.0, 1.0), (40, 90.0, -20.0, 0.6), (56, 0.0, 0.0, 0.0))
    })  # fmt: skip
    hand = (tamsin.instance, tamsin.bones["near hand"])
    hitch_nodes(floor, [(basket.instance, basket.instance)], 12.0, hand)
    hitch_nodes(floor, [(basket.instance, basket.instance)], 40.0, None)
    hitch_nodes(floor, [(second.instance, second.instance)], 0.0, hand)
    hitch_nodes(floor, [(second.instance, second.instance)], 26.0, None, arc=True)
    hitch_nodes(floor, [(second.instance, second.instance)], 44.0, (basket.instance, basket.bones["fruit"]))
    plant_limbs(floor, [limbs["far arm"]], 44.0, (basket.instance, basket.bones["fruit"]))
    change_bearing(floor, tamsin.instance, 50.0, tamsin.bones["near shin"])
    apple.key("apple", {"turn": track("0 0, 30 50, 60 10")}, "sine-in-out")
    shoot = workspace.puppet(floor.instance(apple.instance).puppet_id)
    limb = shoot.limbs[0].id
    plant_limbs(floor, [(apple.instance, limb)], 16.0)
    lift_limbs(floor, [(apple.instance, limb)], 48.0)
    gauge = next(c.id for c in shoot.controls if c.kind == "gauge")
    set_course(floor, {0: {(apple.instance, gauge, "x"): 0.0}, 60: {(apple.instance, gauge, "x"): 1.0}})
    apple.key("shoot 3", {"turn": track("0 0, 66 45")})
    put_stays(floor, [(apple.instance, apple.bones["apple"])], 70.0)
    copy_beads(floor, [Bead(apple.instance, apple.bones["apple"], 30.0)], 68.0)
    return floor.scene_id


def _led(workspace: Workspace) -> str:
    """Drift on everything that can, round a loop: on keys and a walk, on twos, where feet stand and a thing is held."""
    floor = _floor(workspace, "Everything led", 60, loop=True)
    floor.word = "go"
    gander = _performer(workspace, floor, "Gander", x=300.0, y=652.0, scale=0.3)
    gander.key("neck", {"turn": track("0 0, 30 14")}, "sine-in-out")
    neck, tail, body, middle = ((gander.instance, gander.bones[n]) for n in ("neck", "tail", "body", "middle"))
    put_drift(floor, [neck, tail, body, middle, (gander.instance, gander.instance)])
    put_drift(floor, [neck, tail], {"turn": 4.0, "skew": 3.0}, changes=2.0)
    put_drift(floor, [body], {"stretch": 0.05, "widen": 0.04, "shift_x": 0.02})
    update_instance(floor, gander.instance, exposure=2)
    tamsin = _performer(workspace, floor, "Tamsin", x=640.0, y=648.0, scale=0.7)
    put_gait(floor, tamsin.instance, CHARACTERS["plain"], 0.0)
    put_drift(floor, [(tamsin.instance, tamsin.bones[n]) for n in ("face", "near hand")], {"turn": 3.0})
    stander = LeaningPerformer(workspace, floor, id_of(workspace, "puppet", "Tamsin"), x=900.0, y=648.0, scale=0.7)
    leg, arm = ((stander.instance, stander.limbs[n]) for n in ("near leg", "near arm"))
    solve_from_tip(floor, [leg, arm], 0.0, True)
    put_drift(floor, [leg, arm], {"roll": 4.0})
    plant_limbs(floor, [leg], 12.0)
    lift_limbs(floor, [leg], 40.0)
    apple = _performer(workspace, floor, "Apple", x=1000.0, y=400.0, scale=0.5)
    put_drift(floor, [(apple.instance, apple.instance)])
    hitch_nodes(floor, [(apple.instance, apple.instance)], 20.0, (stander.instance, stander.bones["near hand"]))
    stook = _performer(workspace, floor, "Stook", x=1150.0, y=650.0, scale=0.6)
    puppet = workspace.puppet(floor.instance(stook.instance).puppet_id)
    put_drift(floor, [(stook.instance, c.id) for c in puppet.controls if c.kind in ("pad", "gauge")], changes=1.5)
    return floor.scene_id


def _loose(workspace: Workspace) -> str:
    """What swings: on a walk, on twos and mirrored, hitched to a hand and let go, as one piece, as a string, in a wind."""
    floor = _floor(workspace, "Everything loose", 48, loop=False)
    floor.word = "go"
    update_scene(floor, wind=240.0, wind_turn=160.0, gusts=0.6)
    tamsin = _performer(workspace, floor, "Tamsin", x=300.0, y=648.0, scale=0.7)
    put_gait(floor, tamsin.instance, CHARACTERS["plain"], 0.0)
    nodes = [(tamsin.instance, tamsin.bones[n]) for n in ("plait", "scarf tail", "apron", "basket")]
    put_loose(floor, nodes)
    put_loose(floor, nodes[2:3], limit=12.0, stiffness=4.0)
    stander = LeaningPerformer(workspace, floor, id_of(workspace, "puppet", "Tamsin"), x=800.0, y=648.0, scale=0.7)
    update_instance(floor, stander.instance, turned=True, exposure=2)
    for name, keys in (
        ("chest", "0 0, 12 24, 30 -8"),
        ("near upper arm", "0 0, 16 -80, 36 10"),
        ("plait", "0 0, 24 20"),
    ):
        stander.key(name, {"turn": track(keys)}, "sine-in-out")
    own = {n: (stander.instance, stander.bones[n]) for n in ("plait", "scarf tail", "basket", "near hand")}
    put_loose(floor, [own["plait"], own["basket"]], bends=False)
    put_loose(floor, [own["scarf tail"]], stiffness=0.0, damping=0.1, weight=0.4, direction=20.0)
    hitch_nodes(floor, [own["basket"]], 10.0, own["near hand"])
    apple = _performer(workspace, floor, "Apple", x=1000.0, y=400.0, scale=0.5)
    hitch_nodes(floor, [(apple.instance, apple.instance)], 8.0, own["plait"])
    hitch_nodes(floor, [(apple.instance, apple.instance)], 30.0, None)
    return floor.scene_id
