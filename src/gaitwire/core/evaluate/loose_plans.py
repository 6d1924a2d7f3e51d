"""Which bones of a puppet swing as one loose end, and how."""

from __future__ import annotations

from collections.abc import Collection, Iterator
from dataclasses import dataclass

import numpy as np

from gaitwire.core.conventions import FloatArray, IntArray
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.evaluate.limb_plans import limb_plans
from gaitwire.core.evaluate.skeleton import Levels
from gaitwire.core.motion.loose.links import ComplexArray, links_of
from gaitwire.core.motion.loose.manner import Manner
from gaitwire.core.motion.loose.settings import AIR, FALL, Loose
from gaitwire.core.motion.loose.swing import Swing
from gaitwire.core.puppet.model import Bone
from gaitwire.core.puppet.tree import walk

_MOST_KNOWN = 64
"""Plans that are kept with a puppet."""


@dataclass(frozen=True, eq=False)
class LoosePlan:
    """One loose end: its nodes (n,), parents first."""

    nodes: IntArray
    levels: Levels
    """What hangs from its first node, as it is composed."""
    tips: ComplexArray  # (n,) in the nodes' own spaces
    swing: Swing
    fall: complex
    """Pixels of the stage a second, each second."""
    hangs: bool
    """Whether it always falls; else as far as what carries it leans."""


def loose_plans(puppet: CompiledPuppet, unresolved: set[str], loop: float | None) -> Iterator[LoosePlan]:
    """The loose ends of a puppet whose bones are there."""
    ends = [(d, d.settings) for d in puppet.source.drivers if isinstance(d.settings, Loose)]
    if not ends:
        return
    owners = {d.owner_id for d, _ in ends} | {h.owner_id for h in puppet.source.hitches}
    limbs = {int(plan.chain[0]) for plan in limb_plans(puppet, unresolved, loop)}
    apart = owners | {puppet.nodes.owners[node][1] for node in limbs}
    known = puppet.build.known
    for driver, settings in ends:
        # A drag compiles its puppet anew with each move; what swings on it is what it was.
        key = ("loose", driver.owner_id, settings, frozenset(apart), puppet.source.weather, puppet.source.rate)
        if key not in known:
            if len(known) > _MOST_KNOWN:
                known.clear()
            bones = _swinging(puppet, driver.owner_id, settings, apart)
            known[key] = _plan(puppet, bones, settings) if bones else None
        if known[key] is not None:
            yield known[key]


def _swinging(puppet: CompiledPuppet, owner_id: str, settings: Loose, apart: Collection[str]) -> list[Bone]:
    """A bone and all that swings with it: not what is loose, hitched or solved for itself."""
    found: dict[str, Bone] = {}
    for bone, _ in walk(puppet.source.puppet.bones):
        if bone.id == owner_id or (settings.bends and bone.parent_id in found and bone.id not in apart):
            found[bone.id] = bone
    for bone in reversed(list(found.values())):  # what ends without a length goes along
        if not bone.length and not any(other.parent_id == bone.id for other in found.values()):
            del found[bone.id]
    return list(found.values())


def _plan(puppet: CompiledPuppet, bones: list[Bone], settings: Loose) -> LoosePlan:
    scale = puppet.source.instance.scale
    place = {bone.id: n for n, bone in enumerate(bones)}
    above = [place.get(bone.parent_id or "", -1) for bone in bones]
    along = np.array([bone.length * np.exp(1j * np.radians(bone.angle)) for bone in bones], complex)
    pivots: ComplexArray = np.array([scale * complex(bone.x, bone.y) for bone in bones], complex)
    tips: ComplexArray = pivots + scale * along
    links, fall = links_of(above, pivots, tips), _fall(puppet, settings)
    hangs = not settings.stiffness or not settings.as_drawn
    limit = np.inf if settings.limit is None else np.radians(settings.limit)
    floor = _floor(puppet, settings, tips)
    each = (settings.stiffness, settings.damping, abs(fall) * hangs, AIR * settings.wind, limit, floor)
    manner = Manner(*(np.broadcast_to(value, links.count) for value in each))
    nodes = [node for bone in bones if (node := puppet.node(bone.id)) is not None]
    swing = Swing(links, manner, puppet.source.rate)
    return LoosePlan(np.array(nodes), _levels(nodes, above), along, swing, fall, hangs)


def _fall(puppet: CompiledPuppet, settings: Loose) -> complex:
    """How it falls, pixels of the stage a second, each second."""
    source = puppet.source
    fall = FALL * puppet.tall * source.instance.scale if source.weather.fall is None else source.weather.fall
    return complex(fall * settings.weight * 1j * np.exp(-1j * np.radians(settings.direction)))


def _floor(puppet: CompiledPuppet, settings: Loose, tips: ComplexArray) -> FloatArray:
    """How low tips (n,), in the figure's size, come on the stage: to the floor, or as low as they are drawn."""
    source = puppet.source
    if source.weather.floor is None or not settings.off_floor:
        return np.full(len(tips), np.inf)
    drawn = source.instance.y + tips.imag - source.instance.scale * source.puppet.base_y
    return np.maximum(source.weather.floor, drawn)


def _levels(nodes: list[int], above: list[int]) -> Levels:
    """Nodes below the first with their parents, level by level."""
    depth = [0] * len(nodes)
    for n, up in enumerate(above):
        depth[n] = 0 if up < 0 else depth[up] + 1
    rows = ([n for n, d in enumerate(depth) if d == level] for level in range(1, max(depth) + 1))
    return tuple((np.array([nodes[n] for n in row]), np.array([nodes[above[n]] for n in row])) for row in rows)
