"""Coupled groups: puppets of a scene that move together because something joins their bones, and in which order.

The bones of each are cut into segments, where a limb is solved or something is hitched; a segment
needs what it hangs from and whatever carries it, in any puppet of the coupled group, to be composed before it.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from scipy.sparse import csr_array
from scipy.sparse.csgraph import connected_components

from gaitwire.core.evaluate.bearing import Anchor, BearingPlan
from gaitwire.core.evaluate.compiled_puppet import CompiledPuppet
from gaitwire.core.evaluate.ordering import Batch, Ref, ordered
from gaitwire.core.evaluate.segments import Segment, segments_of
from gaitwire.core.evaluate.solvers import SOLVERS
from gaitwire.core.evaluate.tracks import Tracks, changed_since
from gaitwire.core.links import Link
from gaitwire.core.scene import Scene


@dataclass(frozen=True)
class CoupledGroup:
    """Compiled puppets that are evaluated together; where nothing joins them, one alone and without segments."""

    places: tuple[int, ...]  # of its members among the scene's puppets
    members: tuple[CompiledPuppet, ...]
    batches: tuple[Batch, ...]  # in an order in which they can be laid
    carriers: Mapping[str, Ref]  # by id of the plant or hitch; none for the ground
    bearings: tuple[tuple[BearingPlan, ...], ...]  # of each member
    loop: float | None
    ground: float | None
    rate: float
    unresolved: frozenset[str] = field(default=frozenset())
    """Ids of plants and hitches that would go round in a circle, and are left out."""
    known_anchors: list[list[Anchor]] = field(init=False, default_factory=list, repr=False, compare=False)
    """How the bearings of each member stood when they became one, once it was asked for."""
    again: bool = False
    """Whether some segments are in several batches: each laying takes up what the ones before have settled."""

    tracks: Tracks = field(default_factory=Tracks, repr=False, compare=False)
    """The courses of what is stepped."""

    @cached_property
    def signature(self) -> str:
        """Hash of everything that its frames depend on."""
        marks = "".join(m.signature for m in self.members)
        if not self.batches and not any(m.parts.shadow.any() for m in self.members):
            return marks
        return hashlib.sha1(f"{marks}{self.ground}{self.rate}".encode()).hexdigest()

    @cached_property
    def segments(self) -> tuple[Segment, ...]:
        return tuple({id(s): s for batch in self.batches for s in batch.segments}.values())


def couple(
    compiled_puppets: Sequence[CompiledPuppet], scene: Scene, previous: Sequence[CoupledGroup] = ()
) -> tuple[CoupledGroup, ...]:
    """The coupled groups of a scene, each as its frontmost member lies.

    Tracks of `previous` groups are taken over as far as they hold.
    """
    where = {puppet.source.instance.id: n for n, puppet in enumerate(compiled_puppets)}
    joined = [
        (where[link.instance_id], where[link.carrier_instance])
        for puppet in compiled_puppets
        for link in _links(puppet)
        if link.carrier_instance in where
    ]
    count = len(compiled_puppets)
    labels = np.arange(count)
    if joined:
        links = csr_array((np.ones(len(joined)), np.array(joined).T), (count, count))
        labels = connected_components(links, directed=False)[1]
    together: dict[int, list[int]] = {}
    for n, label in enumerate(labels.tolist()):
        together.setdefault(label, []).append(n)
    known = {_ids(group.members): group for group in previous}
    groups = ([compiled_puppets[n] for n in places] for places in together.values())
    return tuple(
        _group(places, members, scene, known.get(_ids(members)))
        for places, members in zip(together.values(), groups, strict=True)
    )


def _ids(members: Sequence[CompiledPuppet]) -> tuple[str, ...]:
    return tuple(m.source.instance.id for m in members)


def _tracks(members: Sequence[CompiledPuppet], scene: Scene, before: CoupledGroup | None) -> Tracks:
    """The tracks of a group as it was, the very same ones where nothing changed."""
    if before is None or (before.ground, before.rate) != (scene.ground, float(scene.rate)):
        return Tracks()
    if all(a is b for a, b in zip(before.members, members, strict=True)):
        return before.tracks
    since = changed_since(before.members, members)
    return Tracks(before.tracks, since) if since >= 0 else Tracks()


def _links(puppet: CompiledPuppet) -> list[Link]:
    return [*puppet.source.plants, *puppet.source.hitches]


def _group(
    places: Sequence[int], members: Sequence[CompiledPuppet], scene: Scene, before: CoupledGroup | None
) -> CoupledGroup:
    linked = any(solver.joins(m) for m in members for solver in SOLVERS)
    loop, rate = scene.loop_length, float(scene.rate)
    if not linked:
        return CoupledGroup(tuple(places), tuple(members), (), {}, ((),), loop, scene.ground, rate)
    tracks = _tracks(members, scene, before)
    carriers, missing = _carriers(members)
    bearings = tuple(tuple(_bearings(puppet)) for puppet in members)
    unresolved: frozenset[str] = frozenset()
    while True:
        found = [s for n, puppet in enumerate(members) for s in segments_of(n, puppet, missing | unresolved, loop)]
        order = ordered(found, members, carriers, bearings, loop)
        if not order.circle:
            break
        unresolved |= order.circle
    return CoupledGroup(
        tuple(places), tuple(members), order.batches, carriers, bearings, loop, scene.ground, rate, unresolved,
        again=order.again, tracks=tracks,
    )  # fmt: skip


def _carriers(members: Sequence[CompiledPuppet]) -> tuple[dict[str, Ref], set[str]]:
    """What carries each plant and hitch, and the ids of those whose carrier is not there: they sleep."""
    where = {m.source.instance.id: n for n, m in enumerate(members)}
    found: dict[str, Ref] = {}
    missing: set[str] = set()
    for puppet in members:
        for link in _links(puppet):
            if not link.carrier_id:
                continue
            member = where.get(link.carrier_instance)
            node = members[member].node(link.carrier_id) if member is not None else None
            if member is None or node is None:
                missing.add(link.id)
            else:
                found[link.id] = (member, node)
    return found, missing


def solved_nodes(group: CoupledGroup, member: int) -> set[int]:
    """Nodes of a member that something else than their parents and keys places on some frame.

    Besides what solvers place: what turns round before the rest, and what hangs from a limb's bones, which takes no
    stretch from it.
    """
    found = {n for solver in SOLVERS for n in solver.placed(group, member)}
    puppet = group.members[member]
    parent = puppet.skeleton.parent
    limbs = {n for s in group.segments if s.member == member for plan in s.limbs for n in plan.nodes.tolist()}
    found |= {n for n in range(len(parent)) if int(parent[n]) in limbs}
    return found | ({s.node for s in puppet.turning.segments} if puppet.turning else set())


def _bearings(puppet: CompiledPuppet) -> Iterator[BearingPlan]:
    """A puppet's bearings whose bone is there; one without a bone goes back to the root of the one before."""
    root = next((int(n) for n in np.flatnonzero(puppet.skeleton.parent == 0)), 0)
    for bearing in puppet.source.bearings:
        bone = puppet.node(bearing.owner_id) if bearing.owner_id else root
        if bone is None:
            continue
        path = [bone]
        while puppet.skeleton.parent[path[-1]] >= 0:
            path.append(int(puppet.skeleton.parent[path[-1]]))
        root = path[-2] if len(path) > 1 else path[-1]
        yield BearingPlan(bearing, tuple(path[::-1]))
