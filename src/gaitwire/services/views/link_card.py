"""What the Floor shows of plants, hitches and bearings: on its card, on the wires and on the stage."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, NamedTuple

import numpy as np

from gaitwire.core.addresses import Node
from gaitwire.core.evaluate.compiled_scene import CompiledScene
from gaitwire.core.evaluate.limb_plans import plan_of
from gaitwire.core.links import Bearing, Hitch, Plant
from gaitwire.core.owners import owned, owner_name
from gaitwire.core.puppet.limb_chains import chain_of
from gaitwire.core.puppet.model import Limb
from gaitwire.core.timing.channel import LIMB_PROPERTIES, PROPERTIES
from gaitwire.core.tolerances import TIME
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.limb_tips import limbs_of
from gaitwire.services.scene.links import HITCHABLE
from gaitwire.services.views.chosen import ValueRow


class LimbRow(NamedTuple):
    """A limb of what is chosen, at a frame."""

    node: Node
    name: str
    planted: bool
    solved: bool
    plants: tuple[tuple[Plant, str], ...]
    """Its plant here, or those before and after, with the name of what each is on."""
    many: int
    """How many plants it has in all."""


class LinkCard(NamedTuple):
    """The section of the card about what holds and what carries."""

    limbs: list[LimbRow]
    hitches: list[tuple[Hitch, str]]
    """Hitches of what is chosen, with the name of the carrier."""
    bearings: list[tuple[Bearing, str]]
    """Of the chosen puppet, with the name of the bone."""
    carried: bool
    """Whether anything that is chosen can be carried."""
    bears: bool
    """Whether a single bone is chosen, which could carry the body."""
    borne: str
    """The bone that carries the body of what is chosen on the frame; '' where its root does."""


def link_card(floor: Floor, nodes: Sequence[Node], frame: float) -> LinkCard:
    """What the card says of chosen nodes."""
    scene = floor.scene
    cast = floor.workspace.cast(scene)

    def named(instance_id: str, owner_id: str) -> str:
        return owner_name(scene, cast, (instance_id, owner_id)) if owner_id else ""

    limbs = []
    for node in limbs_of(floor, nodes):
        plants = [p for p in scene.plants if (p.instance_id, p.limb_id) == node]
        mix = floor.values_at(np.array([frame])).get((*node, "mix"))
        planted = any(p.start - TIME <= frame <= p.stop + TIME for p in plants)
        near = [p for p in plants if p.start - TIME <= frame <= p.stop + TIME] or _nearest(plants, frame)
        lie_on = tuple((p, named(p.carrier_instance, p.carrier_id) or "the ground") for p in near)
        solved = mix is not None and bool(mix[0] > 0.5)
        limbs.append(LimbRow(node, owner_name(scene, cast, node), planted, solved, lie_on, len(plants)))
    hitches = [
        (h, named(h.carrier_instance, h.carrier_id) or ("flies" if h.arc else "let go"))
        for h in scene.hitches
        if (h.instance_id, h.owner_id) in nodes
    ]
    whose = {instance for instance, _ in nodes}
    bearings = [(b, named(b.instance_id, b.owner_id) or _ROOT) for b in scene.bearings if b.instance_id in whose]
    bears = len(nodes) == 1 and floor.owner_kind(*nodes[0]) == "bone"
    carried = any(floor.owner_kind(*node) in HITCHABLE for node in nodes)
    past = [(b, by) for b, by in bearings if b.time <= frame + TIME]
    borne = max(past, key=lambda found: found[0].time)[1] if past else ""
    return LinkCard(limbs, hitches, bearings, carried, bears, "" if borne == _ROOT else borne)


_ROOT = "its root"


def _nearest(plants: Sequence[Plant], frame: float) -> list[Plant]:
    """The plant before a frame and the one after it, where there are such."""
    before = [p for p in plants if p.stop < frame][-1:]
    return before + [p for p in plants if p.start > frame][:1]


def limb_value_rows(floor: Floor, node: Node, frame: float) -> list[ValueRow]:
    """The values of one limb's own controls at a frame."""
    values = floor.values_at(np.array([frame]))
    channels = {c.id: c.property for c in floor.scene.channels if (c.instance_id, c.owner_id) == node}
    keyed = {
        channels[k.channel_id] for k in floor.scene.keys if k.channel_id in channels and abs(k.time - frame) < TIME
    }
    return [
        ValueRow(PROPERTIES["limb"][name], float(values[(*node, name)][0]), name in keyed)
        for name in LIMB_PROPERTIES
        if (*node, name) in values
    ]


def footprints(compiled: CompiledScene) -> list[dict[str, Any]]:
    """The spots of all plants, as the stage draws them: pixels of the scene, or of the bone with the index `node`."""
    compiled_puppets = {
        compiled_puppet.source.instance.id: compiled_puppet for compiled_puppet in compiled.compiled_puppets
    }
    places = {
        key: n
        for n, key in enumerate(
            k for compiled_puppet in compiled.compiled_puppets for k in compiled_puppet.nodes.owners
        )
    }
    found = []
    for plant in compiled.scene.plants:
        compiled_puppet = compiled_puppets.get(plant.instance_id)
        puppet = compiled_puppet.source.puppet if compiled_puppet else None
        limb = owned(puppet, plant.limb_id) if puppet else None
        if compiled_puppet is None or puppet is None or not isinstance(limb, Limb) or len(chain_of(puppet, limb)) < 2:
            continue
        plan = plan_of(compiled_puppet, puppet.limbs.index(limb), limb)
        sense = float(compiled_puppet.senses(np.array([plant.start]))[0])
        found.append(
            {
                "id": plant.id, "instance": plant.instance_id, "limb": plant.limb_id, "name": limb.name,
                "start": plant.start, "stop": plant.stop, "x": plant.x, "y": plant.y, "angle": plant.angle,
                "heel": [plan.heel.real, plan.heel.imag], "ball": [plan.ball.real, plan.ball.imag],
                "facing": plan.mirror * sense, "size": compiled_puppet.source.instance.scale,
                "node": places.get((plant.carrier_instance, plant.carrier_id), -1) if plant.carrier_id else -1,
            }
        )  # fmt: skip
    return found
