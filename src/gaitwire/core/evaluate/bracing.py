"""Braces: tips that keep their place and their angle while what carries them is posed.

A brace is taken as its tip stands when a gesture begins. Then the values that the gesture asks for are
completed so that it stays. The joints of a limb go on bending as they are bent, all by the same share
more or less and to the same side, so that a gesture of nothing changes nothing. Where something cannot
reach any further, the gesture stops there, unless it is let go.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Literal, NamedTuple

from gaitwire.core.bounds import Id
from gaitwire.core.evaluate.braces import (
    Held,
    HeldBone,
    HeldLimb,
    HeldPin,
    HeldTip,
    Loose,
    ahead_of,
    keyed_values,
    pointing,
)
from gaitwire.core.evaluate.compiled_scene import CompiledScene
from gaitwire.core.evaluate.handles import Wanted
from gaitwire.core.evaluate.levers import bearing_at, planted_now
from gaitwire.core.evaluate.limbs import MIX
from gaitwire.core.evaluate.posed import SolvedPose, solved_poses
from gaitwire.core.evaluate.solving import make_group
from gaitwire.core.evaluate.spot import end_of, planned
from gaitwire.core.evaluate.values import limb_values, sampling
from gaitwire.core.puppet.limb_chains import chain_of
from gaitwire.core.puppet.model import Limb

BraceKind = Literal["place", "angle", "gaze"]

_SHORT = 0.01
"""Pixels by which a tip that is out of reach is away from its place."""

_HALVINGS = 12
"""Of the way of a gesture that stops where something is out of reach."""

_SOLVED = 0.999
"""Share of the mix from which on a limb is where its tip has it; below as much of nothing, where its bones have it."""

Where = tuple[str, str, str]


MOST_BRACES = 200
"""As many as one gesture takes."""


class Brace(NamedTuple):
    """What is held: a limb's tip or a pin by its `place` (and angle), a bone by its `angle`, or by its `gaze`."""

    instance_id: Id
    owner_id: Id
    kind: BraceKind


class HeldValues(NamedTuple):
    """What a gesture asks for with all that its braces add, and the names of those that stopped it."""

    values: Wanted
    stopped: tuple[str, ...] = ()
    loose: tuple[str, ...] = ()
    """What is braced and cannot be held on this frame."""


def take_braces(
    compiled: CompiledScene, braces: Sequence[Brace], frame: float, blocking: bool = False
) -> tuple[Held, ...]:
    """Take braces as their tips stand on a frame; none of what a plant holds, of what carries the body, or is gone."""
    poses: dict[str, SolvedPose] = {}
    found: list[Held] = []
    for brace in dict.fromkeys(braces):
        if brace.instance_id not in poses:
            poses |= solved_poses(compiled.groups, brace.instance_id, frame, blocking)
        solved = poses.get(brace.instance_id)
        held = _taken(solved, brace) if solved is not None else None
        if held is not None:
            found.append(held)
    return tuple(sorted(found, key=lambda h: h.last))


def braced(
    compiled: CompiledScene, braces: Sequence[Held], frame: float, wanted: Wanted, blocking: bool = False,
    free: bool = False,
) -> HeldValues:  # fmt: skip
    """A gesture's values on a frame, and what keeps its braces where they are.

    `free`: it goes on where something cannot reach, and that goes along as far as it can.
    """
    named = {address[:2] for address in wanted}
    holding = [h for h in braces if not any((h.instance_id, owner) in named for owner in h.owners)]
    if not holding or not wanted:
        return HeldValues(wanted)
    loose = tuple(h.name for h in holding if isinstance(h, Loose))
    first = _followed(compiled, holding, frame, wanted, blocking)._replace(loose=loose)
    if not first.stopped or free:
        return first
    begun = _present(compiled, wanted, frame, blocking)
    low, high, kept = 0.0, 1.0, HeldValues({})
    for _ in range(_HALVINGS):
        middle = (low + high) / 2
        part = {address: begun.get(address, v) + middle * (v - begun.get(address, v)) for address, v in wanted.items()}
        tried = _followed(compiled, holding, frame, part, blocking, first=True)
        if tried.stopped:
            high = middle
        else:
            low, kept = middle, tried
    return first._replace(values=kept.values)


def _followed(
    compiled: CompiledScene, holding: Sequence[Held], frame: float, wanted: Wanted, blocking: bool, first: bool = False
) -> HeldValues:
    """The values with what keeps the braces, and who cannot be kept; `first`: no more than the first of those."""
    values, short = dict(wanted), []
    for last in (False, True):
        poses: dict[str, SolvedPose] = {}
        asked: Wanted = {}
        for held in (h for h in holding if h.last == last):
            if held.instance_id not in poses:
                poses |= solved_poses(compiled.groups, held.instance_id, frame, blocking, values)
            more, miss = held.asked(poses[held.instance_id])
            asked |= more
            short += [held.name] if miss > _SHORT else []
            if short and first:
                return HeldValues(values, tuple(short))
        values |= asked
    return HeldValues(values, tuple(short))


def _present(compiled: CompiledScene, addresses: Wanted, frame: float, blocking: bool) -> Mapping[Where, float]:
    """Values of bones, pins and seats as a gesture found them."""
    found: dict[Where, float] = {}
    for instance_id in dict.fromkeys(address[0] for address in addresses):
        solved = solved_poses(compiled.groups, instance_id, frame, blocking).get(instance_id)
        if solved is None:
            continue
        table = keyed_values(solved).reshape(-1)
        for address in addresses:
            place = solved.puppet.column(address[1], address[2], instance_id) if address[0] == instance_id else None
            if place is not None:
                found[address] = float(table[place])
    return found


def _taken(solved: SolvedPose, brace: Brace) -> Held | None:
    puppet = solved.puppet.source.puppet
    limb = next((i for i in puppet.limbs if i.id == brace.owner_id), None)
    if brace.kind == "place" and limb is not None:
        return _taken_limb(solved, limb) if len(chain_of(puppet, limb)) > 1 else None
    node = solved.puppet.node(brace.owner_id)
    if node is None or node == 0:
        return None
    x, y = solved.posed.world[4:, node, 0]
    if brace.kind == "place":
        pin = next((p for p in puppet.pins if p.id == brace.owner_id), None)
        own = frozenset({brace.owner_id})
        return HeldPin(brace.instance_id, pin.name, own, brace.owner_id, complex(x, y)) if pin else None
    bone = puppet.bone(brace.owner_id)
    if bone is None:
        return None
    lies = pointing(solved, node, bone.angle)
    ahead = ahead_of(solved, node) if brace.kind == "gaze" else None
    own, at = frozenset({bone.id}), complex(float(x), float(y))
    return HeldBone(brace.instance_id, bone.name, own, bone.id, bone.angle, lies, at, ahead)


def _taken_limb(solved: SolvedPose, limb: Limb) -> Held | None:
    plan, bearing = planned(solved, limb), bearing_at(solved)
    if planted_now(solved, plan) or (bearing is not None and bearing.bone in plan.nodes):
        return None
    mix = float(limb_values(sampling(solved.puppet, solved.posed.times, solved.posed.sampled))[plan.row, MIX, 0])
    chain = [b.id for b in chain_of(solved.puppet.source.puppet, limb)]
    owners = frozenset({limb.id, *chain, limb.tip_id})
    if 1 - _SOLVED < mix < _SOLVED:
        return Loose(solved.puppet.source.instance.id, limb.name, owners)
    lies = pointing(solved, plan.tip, plan.flat) if plan.tip >= 0 else None
    kind = HeldTip if mix >= _SOLVED else HeldLimb
    group = make_group([(0, plan, solved.puppet.skeleton)])
    return kind(solved.puppet.source.instance.id, limb.name, owners, plan, group, end_of(solved, plan), lies)
