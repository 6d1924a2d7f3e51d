"""Troupes: the puppets of a scene that move together because something joins their bones, and the order to lay them in.

The bones of each are cut into sections, where a limb is solved or something is hitched; a section
needs what it hangs from and whatever carries it, in any puppet of the troupe, to be laid before it.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from graphlib import CycleError, TopologicalSorter

import numpy as np

from gaitwire.core.conventions import IntArray
from gaitwire.core.evaluate.bearing import BearingPlan
from gaitwire.core.evaluate.island import Island
from gaitwire.core.evaluate.limbs import LimbPlan
from gaitwire.core.evaluate.skeleton import Levels
from gaitwire.core.evaluate.solving import LimbGroup, make_group
from gaitwire.core.links import Hitch, Plant
from gaitwire.core.puppet.limbing import chain_of
from gaitwire.core.puppet.model import Limb
from gaitwire.core.puppet.sole import sole_of
from gaitwire.core.scene import Scene

Ref = tuple[int, int]
"""(member of the troupe, node)."""

Link = Plant | Hitch


@dataclass(frozen=True)
class Section:
    """A node of a member and what hangs from it, down to where the next sections begin."""

    member: int
    root: int
    levels: Levels
    limbs: tuple[LimbPlan, ...]  # that begin at its root
    hitches: tuple[Hitch, ...]  # of its root, in order of time


@dataclass(frozen=True)
class Layer:
    """Sections that need nothing of each other: they can be laid at one time."""

    sections: tuple[Section, ...]
    groups: tuple[LimbGroup, ...]  # of all limbs that begin in it
    places: tuple[tuple[int, ...], ...]  # of each limb of each group, the section it begins in
    levels: tuple[tuple[int, tuple[int, ...], IntArray, Levels], ...]
    """(member, its sections here, their roots, all that hangs from these), for each member."""


@dataclass(frozen=True)
class Troupe:
    """Islands that are evaluated together; where nothing joins them, one alone and without sections."""

    places: tuple[int, ...]  # of its members among the scene's islands
    members: tuple[Island, ...]
    layers: tuple[Layer, ...]  # in an order in which they can be laid
    carriers: Mapping[str, Ref]  # by id of the plant or hitch; none for the ground
    bearings: tuple[tuple[BearingPlan, ...], ...]  # of each member
    loop: float | None
    ground: float | None
    rate: float
    signature: str
    asleep: frozenset[str] = field(default=frozenset())
    """Ids of plants and hitches that would go round in a circle, and are left out."""

    @cached_property
    def sections(self) -> tuple[Section, ...]:
        return tuple(s for layer in self.layers for s in layer.sections)


def make_troupes(islands: Sequence[Island], scene: Scene) -> tuple[Troupe, ...]:
    """The troupes of a scene, each as its frontmost member lies."""
    where = {island.source.instance.id: n for n, island in enumerate(islands)}
    group = list(range(len(islands)))

    def home(n: int) -> int:
        while group[n] != n:
            n = group[n]
        return n

    for island in islands:
        for link in _links(island):
            if link.carrier_instance in where:
                group[home(where[link.instance_id])] = home(where[link.carrier_instance])
    together: dict[int, list[int]] = {}
    for n in range(len(islands)):
        together.setdefault(home(n), []).append(n)
    return tuple(_troupe(places, [islands[n] for n in places], scene) for places in together.values())


def _links(island: Island) -> list[Link]:
    return [*island.source.plants, *island.source.hitches]


def _troupe(places: Sequence[int], members: Sequence[Island], scene: Scene) -> Troupe:
    linked = any(m.source.linked for m in members)
    loop, rate = scene.loop_length, float(scene.rate)
    marks = "".join(m.signature for m in members)
    signature = marks if not linked else hashlib.sha1(f"{marks}{scene.ground}{rate}".encode()).hexdigest()
    if not linked:
        return Troupe(tuple(places), tuple(members), (), {}, ((),), loop, scene.ground, rate, signature)
    carriers, missing = _carriers(members)
    asleep: set[str] = set()
    while True:
        found = [s for n, island in enumerate(members) for s in _sections(n, island, missing | asleep, loop)]
        layers, circle = _ordered(found, members, carriers)
        if not circle:
            break
        asleep |= circle
    bearings = tuple(tuple(_bearings(island)) for island in members)
    return Troupe(
        tuple(places), tuple(members), layers, carriers, bearings, loop, scene.ground, rate, signature,
        frozenset(asleep),
    )  # fmt: skip


def _carriers(members: Sequence[Island]) -> tuple[dict[str, Ref], set[str]]:
    """What carries each plant and hitch, and the ids of those whose carrier is not there: they sleep."""
    where = {m.source.instance.id: n for n, m in enumerate(members)}
    found: dict[str, Ref] = {}
    missing: set[str] = set()
    for island in members:
        for link in _links(island):
            if not link.carrier_id:
                continue
            member = where.get(link.carrier_instance)
            node = members[member].node(link.carrier_id) if member is not None else None
            if member is None or node is None:
                missing.add(link.id)
            else:
                found[link.id] = (member, node)
    return found, missing


def _sections(member: int, island: Island, asleep: set[str], loop: float | None) -> Iterator[Section]:
    """An island cut where its limbs that are solved at all begin, and at what is hitched."""
    plans: dict[int, list[LimbPlan]] = {}
    for plan in limb_plans(island, asleep, loop):
        plans.setdefault(int(plan.chain[0]), []).append(plan)
    hitches: dict[int, list[Hitch]] = {}
    for hitch in island.source.hitches:
        node = island.node(hitch.owner_id)
        if node is not None and hitch.id not in asleep:
            hitches.setdefault(node, []).append(hitch)
    roots = {0, *plans, *hitches}
    home = np.zeros(island.skeleton.count, np.int64)
    for node in range(island.skeleton.count):  # parents stand before their children
        home[node] = node if node in roots else home[island.skeleton.parent[node]]
    for root in sorted(roots):
        own = [(n[home[n] == root], p[home[n] == root]) for n, p in island.skeleton.levels]
        levels = tuple((n[n != root], p[n != root]) for n, p in own if len(n[n != root]))
        yield Section(member, root, levels, tuple(plans.get(root, ())), tuple(hitches.get(root, ())))


def limb_plans(island: Island, asleep: set[str], loop: float | None) -> Iterator[LimbPlan]:
    """The limbs of an island that are solved on some frame."""
    source = island.source
    mixed = {c.owner_id for c, _ in source.channels if c.owner_kind == "limb" and c.property == "mix"}
    for row, limb in enumerate(source.puppet.limbs):
        plants = [p for p in source.plants if p.limb_id == limb.id and p.id not in asleep]
        chain = chain_of(source.puppet, limb)
        if len(chain) > 1 and (plants or limb.id in mixed):
            yield plan_of(island, row, limb, _soft_within(plants, loop))


def plan_of(island: Island, row: int, limb: Limb, plants: Sequence[Plant] = ()) -> LimbPlan:
    """A limb of an island, made ready to be solved; it must have a chain."""
    puppet, instance = island.source.puppet, island.source.instance
    chain = chain_of(puppet, limb)
    tip = puppet.bone(limb.tip_id)
    last = chain[-1]
    if tip is None:
        raise ValueError("a limb's chain ends at its tip")
    angle = np.radians(tip.angle)
    end = complex(tip.x, tip.y) + (tip.length * np.exp(1j * angle) if limb.whole else 0.0)
    mirror = -1.0 if instance.turned else 1.0
    away = (end - complex(puppet.base_x, puppet.base_y)) * instance.scale
    nodes = [island.node(b.id) for b in chain]
    sole = sole_of(puppet, limb)
    return LimbPlan(
        limb=limb, row=row, chain=np.array(nodes, np.int64), tip=-1 if limb.whole else island.node(tip.id) or -1,
        end=complex(end - complex(last.x, last.y)), heel=sole.heel, ball=sole.ball, flat=tip.angle,
        stands=complex(instance.x + mirror * away.real, instance.y + away.imag), mirror=mirror, plants=tuple(plants),
    )  # fmt: skip


def _soft_within(plants: Sequence[Plant], loop: float | None) -> list[Plant]:
    """Plants in order of time, their soft ends no longer than the gaps between them."""
    ordered = sorted(plants, key=lambda p: p.start)
    found = []
    for n, plant in enumerate(ordered):
        before, after = ordered[n - 1], ordered[(n + 1) % len(ordered)]
        come, go = plant.start - before.stop, after.start - plant.stop
        if n == 0:
            come = np.inf if loop is None else come + loop
        if n == len(ordered) - 1:
            go = np.inf if loop is None else go + loop
        soft = {"soft_in": min(plant.soft_in, max(come, 0.0)), "soft_out": min(plant.soft_out, max(go, 0.0))}
        found.append(plant.model_copy(update=soft))
    return found


def solved_nodes(troupe: Troupe, member: int) -> set[int]:
    """Nodes of a member that something else than their parents and keys places on some frame.

    What is hitched, a seat whose body is borne, and a limb's bones with what hangs from them, which
    take no stretch from it.
    """
    own = [s for s in troupe.sections if s.member == member]
    found = {s.root for s in own if s.hitches} | ({0} if troupe.bearings[member] else set())
    limbs = {int(n) for s in own for plan in s.limbs for n in plan.nodes}
    if troupe.bearings[member]:
        limbs |= {n for plan in troupe.bearings[member] for n in plan.path[2:]}
    parent = troupe.members[member].skeleton.parent
    return found | limbs | {n for n in range(len(parent)) if int(parent[n]) in limbs}


def _bearings(island: Island) -> Iterator[BearingPlan]:
    """The bearings of an island whose bone is there; one without a bone goes back to the root of the one before."""
    root = next((int(n) for n in np.flatnonzero(island.skeleton.parent == 0)), 0)
    for bearing in island.source.bearings:
        bone = island.node(bearing.owner_id) if bearing.owner_id else root
        if bone is None:
            continue
        path = [bone]
        while island.skeleton.parent[path[-1]] >= 0:
            path.append(int(island.skeleton.parent[path[-1]]))
        root = path[-2] if len(path) > 1 else path[-1]
        yield BearingPlan(bearing, tuple(path[::-1]))


def _ordered(
    sections: Sequence[Section], members: Sequence[Island], carriers: Mapping[str, Ref]
) -> tuple[tuple[Layer, ...], set[str]]:
    """The sections in layers, each after what it needs; and the links that would go in a circle, if any do."""
    homes: dict[Ref, int] = {}
    for n, section in enumerate(sections):
        for node in (section.root, *(int(i) for nodes, _ in section.levels for i in nodes)):
            homes[section.member, node] = n
    sorter: TopologicalSorter[int] = TopologicalSorter()
    for n, section in enumerate(sections):
        sorter.add(n, *_needs(section, members, carriers, homes))
    try:
        sorter.prepare()
    except CycleError as error:
        around = [sections[n] for n in error.args[1]]
        latest = [*(p for s in around for i in s.limbs for p in i.plants), *(h for s in around for h in s.hitches)]
        return (), {link.id for link in latest if link.id in carriers}
    layers = []
    while sorter.is_active():
        ready = sorter.get_ready()
        layers.append(_layer([sections[n] for n in sorted(ready)], members))
        sorter.done(*ready)
    return tuple(layers), set()


def _layer(sections: Sequence[Section], members: Sequence[Island]) -> Layer:
    kinds: dict[tuple[int, bool], list[tuple[int, LimbPlan]]] = {}
    for n, section in enumerate(sections):
        for plan in section.limbs:
            kinds.setdefault((len(plan.chain), plan.tip >= 0), []).append((n, plan))
    groups, places = [], []
    for limbs in kinds.values():
        whose = [(sections[n].member, plan) for n, plan in limbs]
        groups.append(make_group([(m, plan, members[m].skeleton) for m, plan in whose]))
        places.append(tuple(n for n, _ in limbs))
    levels = []
    for member in sorted({s.member for s in sections}):
        own = [n for n, s in enumerate(sections) if s.member == member]
        roots = np.array([sections[n].root for n in own])
        levels.append((member, tuple(own), roots, _merged([sections[n].levels for n in own])))
    return Layer(tuple(sections), tuple(groups), tuple(places), tuple(levels))


def _merged(rows: Sequence[Levels]) -> Levels:
    """Levels of several sections as one, counted from their roots."""
    deepest = max(len(row) for row in rows)
    at = [[row[depth] for row in rows if depth < len(row)] for depth in range(deepest)]
    return tuple((np.concatenate([n for n, _ in level]), np.concatenate([p for _, p in level])) for level in at)


def _needs(
    section: Section, members: Sequence[Island], carriers: Mapping[str, Ref], homes: Mapping[Ref, int]
) -> set[int]:
    needs = set()
    parent = int(members[section.member].skeleton.parent[section.root])
    if parent >= 0:
        needs.add(homes[section.member, parent])
    links: list[Link] = [*section.hitches, *(p for plan in section.limbs for p in plan.plants)]
    needs |= {homes[carriers[link.id]] for link in links if link.id in carriers}
    return needs
