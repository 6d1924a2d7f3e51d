"""A walker on two legs whose body sways, with plants."""

import numpy as np

from builders.making import bone, scene, tip
from gaitwire.core.evaluate import compile_scene, evaluate
from gaitwire.core.links import Plant
from gaitwire.core.puppet.model import Limb, Puppet

BONES = (
    bone("pelvis", None, 100, 100, length=20, role="pelvis"),
    bone("thigh", "pelvis", 100, 100, length=50, angle=80, role="thigh"),
    bone("shin", "thigh", 108.68, 149.24, length=50, angle=100, role="shin"),
    bone("foot", "shin", 100, 198.48, length=24, angle=0, role="foot"),
    bone("arm", "pelvis", 100, 60, length=40, angle=90, role="upper arm"),
    bone("forearm", "arm", 100, 100, length=40, angle=60, role="forearm"),
    bone(id_="hand", parent="forearm", x=120, y=134.64, length=12, angle=60, role="hand"),
)
LEG = Limb(id="leg", puppet_id="p", name="leg", tip_id="foot", bend=1, stretch=0.05, softness=0.05)
ARM = Limb(id="reach", puppet_id="p", name="arm", tip_id="hand", bend=-1)
WALKER = Puppet(id="p", name="p", width=200, height=210, base_x=100, base_y=206, bones=BONES, limbs=(ARM, LEG))


def plant(limb="leg", start=4.0, stop=16.0, x=0.0, y=0.0, **more):
    made = {"id": f"{limb}{start}", "scene_id": "s", "instance_id": "i", "limb_id": limb, "start": start, "stop": stop}
    return Plant.model_validate({**made, "x": x, "y": y, **more})


def compiled(tracks, plants, walker=WALKER, frames=24, loop=False, ease="sine-in-out", others=(), **place):
    """The walker, with limb controls among the tracks, and other instances of other puppets."""
    made = scene(tracks, frames, loop, ease, **{"x": 300.0, "y": 406.0, **place})
    limbs = {i.id for i in walker.limbs}
    channels = tuple(c.model_copy(update={"owner_kind": "limb"}) if c.owner_id in limbs else c for c in made.channels)
    cast = {"p": walker, **{p.id: p for _, p in others}}
    instances = (*made.instances, *(i for i, _ in others))
    return compile_scene(
        made.model_copy(update={"plants": tuple(plants), "channels": channels, "instances": instances}), cast
    )


def place_of(frames, name):
    return tip(frames, name, 0)


def jump(made, at):
    """The greatest change of any bone's place across a frame, over next to no time."""
    before, after = evaluate(made, np.array([at - 1e-5, at + 1e-5])).nodes
    return np.abs(after - before).max()


SWAY = {
    ("pelvis", "shift_x"): [(0, -12), (12, 14), (23, -9)],
    ("pelvis", "shift_y"): [(0, 4), (9, 16), (23, 6)],
    ("pelvis", "turn"): [(0, -9), (20, 11)],
    ("i", "turn"): [(0, 3), (23, -4)],
    ("thigh", "turn"): [(0, -20), (23, 25)],
    ("shin", "turn"): [(0, 30), (23, 8)],
    ("foot", "turn"): [(0, -9), (23, 12)],
}


def linked(made, **links):
    return compile_scene(made.scene.model_copy(update={k: tuple(v) for k, v in links.items()}), made.puppets)
