"""Limbs solved from their tips or turned by their bones: going over from one to the other keeps every pose."""

from __future__ import annotations

from collections.abc import Collection, Sequence
from typing import NamedTuple

import numpy as np

from gaitwire.core.addresses import Address, Node
from gaitwire.core.errors import InvalidInputError, NotFoundError
from gaitwire.core.evaluate.limbs import STRETCH, TURN
from gaitwire.core.evaluate.posed import SolvedPose, solved_poses
from gaitwire.core.evaluate.spot import bent_over, drawn_out, planned, tip_turn, turns_on
from gaitwire.core.evaluate.values import node_values, sampling
from gaitwire.core.ids import new_id
from gaitwire.core.links import Plant
from gaitwire.core.owners import owned
from gaitwire.core.puppet.limb_chains import chain_of
from gaitwire.core.puppet.model import Limb
from gaitwire.core.timing.channel import PROPERTIES
from gaitwire.core.timing.easing.registry import FREE
from gaitwire.core.timing.key import Key, eased_like
from gaitwire.core.timing.pinning import keyed_as_it_is
from gaitwire.core.tolerances import TIME
from gaitwire.services.scene.gestures import Draft, SceneState, gesture
from gaitwire.services.scene.kept_poses import FOREVER, course_of
from gaitwire.services.scene.posing import channels_by_address, put_course, put_from, put_step, put_values
from gaitwire.services.scene.solved_pose import tip_values

UNKEPT = 0.1
"""Pixels of the scene from which on a joint that lies elsewhere is told."""

_DRAWN = 1e-6
"""Share of its length by which a bone is longer than its keys say, from which on that is keyed."""


class Unkept(NamedTuple):
    """A pose that a limb cannot keep when it is solved from its tip."""

    limb: str
    time: float
    away: float
    """By how many pixels its joints would lie elsewhere."""


def limbs_of(floor: SceneState, nodes: Collection[Node]) -> list[Node]:
    """The limbs (instance, limb) that any of the nodes is of: named itself, in a chain, or its tip."""
    found: list[Node] = []
    cast = floor.workspace.cast(floor.scene)
    for instance in floor.scene.instances:
        puppet = cast.get(instance.puppet_id)
        wanted = {owner for i, owner in nodes if i == instance.id}
        for limb in puppet.limbs if puppet and wanted else ():
            chain = chain_of(puppet, limb) if puppet else []
            if len(chain) > 1 and wanted & {limb.id, limb.tip_id, *(b.id for b in chain)}:
                found.append((instance.id, limb.id))
    return found


def all_limbs(floor: SceneState, instances: Collection[str]) -> list[Node]:
    """Every limb of some puppets."""
    found = []
    for instance in floor.scene.instances:
        puppet = floor.workspace.cast(floor.scene).get(instance.puppet_id) if instance.id in instances else None
        found += [(instance.id, i.id) for i in puppet.limbs if len(chain_of(puppet, i)) > 1] if puppet else []
    return found


def unkept_poses(floor: SceneState, limbs: Sequence[Node], frame: float) -> list[Unkept]:
    """Poses that limbs could not keep if they were solved from their tips from a frame on, the worst first."""
    found = []
    compiled = floor.compiled
    for node in limbs:
        limb = limb_at(floor, node)
        for time in _kept_times(floor, node, frame, solved=True):
            solved = solved_at(floor, node[0], time)
            over, plan = bent_over(solved, limb), planned(solved, limb)
            keys, values = solved.puppet.nodes.owners, solved.posed.values
            wanted = {(*keys[n], "turn"): turn for n, turn in turns_on(solved, limb, over).items()}
            factor = drawn_out(solved, limb, over)
            wanted |= {(*keys[n], "stretch"): float(values[n, STRETCH, 0]) * factor for n in plan.chain.tolist()}
            then = solved_poses(compiled.groups, node[0], time, overrides=wanted)[node[0]]
            apart = then.posed.world[4:, plan.nodes, 0] - solved.posed.world[4:, plan.nodes, 0]
            if (away := float(np.hypot(*apart).max())) > UNKEPT:
                found.append(Unkept(limb.name, time, away))
    return sorted(found, key=lambda u: -u.away)


@gesture()
def solve_from_tip(draft: Draft, limbs: Sequence[Node], frame: float, solved: bool) -> None:
    """From a frame on solve limbs from their tips, or turn them by their bones again, until that is told else.

    Where a limb had beads, or what carries it had, and on marked poses, it gets keys of its tip (of its bones),
    so that it stands there as it did; where it cannot, it asks first. Raises InvalidInputError for one that
    cannot go over there.
    """
    if not limbs:
        raise InvalidInputError("No limb is chosen.", "Choose a hand or a foot.")
    if len(limbs) > 1:  # those that are so already are left as they are
        limbs = [node for node in limbs if _is_solved(draft, node, frame) != solved] or limbs
    draft.labelled("solve from the tip" if solved else "turn by the bones")
    for node in limbs:
        _refuse_going_over(draft, node, frame, solved)
    _ask_about_poses(draft, limbs, frame, solved)
    for node in limbs:
        _go_over(draft, node, frame, solved)


def _ask_about_poses(draft: Draft, limbs: Sequence[Node], frame: float, solved: bool) -> None:
    """Tell before which poses cannot be kept."""
    found = unkept_poses(draft, limbs, frame) if solved else []
    if found:
        first, many = draft.scene.first_number, len({u.time for u in found})
        poses = f"{many} poses would not be quite what they are" if many > 1 else "a pose would not be quite what it is"
        draft.answered(
            f"Solved from {'its tip' if len(limbs) == 1 else 'their tips'}, {poses}.",
            {"go": "solve it all the same" if len(limbs) == 1 else "solve them all the same"},
            [f"{u.limb}, frame {u.time + first:g}: its joints by {u.away:.1f} px" for u in found],
        )


def _refuse_going_over(floor: SceneState, node: Node, frame: float, solved: bool) -> None:
    limb, (_, until) = limb_at(floor, node), _span(floor, node, frame, solved)
    if _is_solved(floor, node, frame) == solved:
        says = "solved from its tip" if solved else "turned by its bones"
        raise InvalidInputError(f"“{limb.name}” is {says} here already.", "Choose another frame, or another limb.")
    if not solved:
        return
    plant = next((p for p in plants_of(floor, node) if p.stop >= frame - TIME and p.start < until), None)
    if plant is not None:
        first = floor.scene.first_number
        raise InvalidInputError(
            f"“{limb.name}” is planted on {plant.start + first:g} to {plant.stop + first:g}.",
            "Lift it there first, or go over after that.",
        )
    bones = {limb.tip_id, *(b.id for b in chain_of(floor.puppet_of(node[0]), limb))}
    if any(b.instance_id == node[0] and b.owner_id in bones for b in floor.scene.bearings):
        raise InvalidInputError(f"“{limb.name}” carries the body.", "Let its root carry that first.")


def _go_over(draft: Draft, node: Node, frame: float, solved: bool) -> None:
    limb, (frame, until) = limb_at(draft, node), _span(draft, node, frame, solved)
    chain = [(node[0], b.id) for b in chain_of(draft.puppet_of(node[0]), limb)]
    tip = (node[0], limb.tip_id)
    for owner in (node, tip) if solved else (node, tip, *chain):
        draft.means(owner, frame, FOREVER)
    rows: dict[float, dict[Address, float]] = {}
    over = _flip_at(draft, node, frame)
    for time in _kept_times(draft, node, frame, solved):
        solved_pose = solved_at(draft, node[0], time)
        rows[time] = _tip_pose(solved_pose, limb) if solved else _turns(draft, solved_pose, limb)
        if (flip := rows[time].pop((*node, "flip"), over)) != over:
            put_step(draft, (*node, "flip"), time, flip)
            over = flip
    put_course(draft, rows)
    _ease_as(draft, rows, chain if solved else [node])
    put_step(draft, (*node, "mix"), frame, float(solved))
    if limb.steady and not limb.whole:  # the turn of its tip means another angle beyond the span
        if frame >= 1:
            _put_as_it_is(draft, (*tip, "turn"), frame - 1)
        if until < FOREVER:
            _put_as_it_is(draft, (*tip, "turn"), _wrapped(draft, until), alone=True)


def _put_as_it_is(draft: Draft, address: Address, time: float, alone: bool = False) -> None:
    """Key a property with what its keys say at a time; `alone`: without what that does to the key before."""
    scene, channel = draft.scene, channels_by_address(draft)[address]
    written = (k for k in draft.changes.written(Key).values() if k is not None and k.channel_id == channel.id)
    if any(abs(k.time - time) < TIME for k in written):
        return  # a walk beneath has seen to it
    made = keyed_as_it_is(course_of(scene, channel, scene.keys_by_channel().get(channel.id, [])), time, new_id)
    draft.put([k for k in made.put if not alone or abs(k.time - time) < TIME])


def _ease_as(draft: Draft, rows: Collection[float], owners: Collection[Node]) -> None:
    """Let the keys that were written at times be eased as those of some owners are there."""
    scene = draft.scene
    own = {c.id for c in scene.channels if (c.instance_id, c.owner_id) in owners}
    eased = {k.time: k for k in scene.keys if k.channel_id in own and k.ease != FREE}
    stepped = {
        c.id
        for c in channels_by_address(draft).values()
        if PROPERTIES[c.owner_kind][c.property].stepped or c.property == "mix"
    }
    draft.put(
        [
            eased_like(key, eased[key.time])
            for key in draft.changes.written(Key).values()
            if key is not None and key.channel_id not in stepped and key.time in rows and key.time in eased
        ],
    )


def _span(floor: SceneState, node: Node, frame: float, solved: bool) -> tuple[float, float]:
    """From when until when going over holds: to the next key of the mix that says otherwise, round a loop too."""
    scene, frame = floor.scene, floor.instance(node[0]).exposed(frame)
    mixes = {c.id for c in scene.channels if (c.instance_id, c.owner_id, c.property) == (*node, "mix")}
    turns = sorted(k.time for k in scene.keys if k.channel_id in mixes)
    later = [t for t in turns if t > frame + TIME]
    if later:
        return frame, later[0]
    if scene.loop and frame > TIME:
        return frame, scene.frames + (turns[0] if turns else 0.0)
    return frame, FOREVER


def _kept_times(floor: SceneState, node: Node, frame: float, solved: bool) -> list[float]:
    """Frames of a span on which a limb is to stand as it does, in order from its start on."""
    scene, (frame, until) = floor.scene, _span(floor, node, frame, solved)
    puppet, limb = floor.puppet_of(node[0]), limb_at(floor, node)
    bones = {b.id: b for b in puppet.bones}
    owners, at = {node[0], limb.id}, bones.get(limb.tip_id)
    while at is not None:
        owners.add(at.id)
        at = bones.get(at.parent_id or "")
    own = {c.id for c in scene.channels if c.instance_id == node[0] and c.owner_id in owners}
    times = {k.time for k in scene.keys if k.channel_id in own and 0 <= k.time < scene.frames}
    times |= {p.time for p in scene.poses if p.instance_id == node[0]}
    for compiled_puppet in floor.compiled.compiled_puppets:
        if compiled_puppet.source.instance.id == node[0]:
            times |= {m.time for gait in compiled_puppet.gaits for m in gait.poses() if m.time < scene.frames}
    times |= {frame, _wrapped(floor, until - 1)} if until < FOREVER else {frame}

    def since(time: float) -> float:
        away = time - frame
        return away % scene.frames if scene.loop and away < -TIME else away

    return sorted((t for t in times if -TIME < since(t) < until - frame - TIME), key=since)


def _wrapped(floor: SceneState, time: float) -> float:
    return time % floor.scene.frames if floor.scene.loop else time


def _is_solved(floor: SceneState, node: Node, frame: float) -> bool:
    mix = floor.values_at(np.array([floor.instance(node[0]).exposed(frame)])).get((*node, "mix"))
    return mix is not None and bool(mix[0] > 0.5)


def _flip_at(floor: SceneState, node: Node, frame: float) -> float:
    return _control(floor, solved_at(floor, node[0], frame), (*node, "flip"))


def _turns(floor: SceneState, solved: SolvedPose, limb: Limb) -> dict[Address, float]:
    """What has the bones of a limb stand as they do when they are turned by their own keys."""
    plan, keys = planned(solved, limb), solved.puppet.nodes.owners
    values = solved.posed.values[..., 0]
    found = {(*keys[n], "turn"): float(values[n, TURN]) for n in plan.nodes.tolist()}
    sampled = node_values(sampling(solved.puppet, solved.posed.times, solved.posed.sampled))
    for n in plan.chain.tolist():  # a limb that was drawn out to reach stays so
        if abs(values[n, STRETCH] - sampled[n, STRETCH, 0]) > _DRAWN:
            found[(*keys[n], "stretch")] = float(values[n, STRETCH])
    return found


def _control(floor: SceneState, solved: SolvedPose, owner: Address) -> float:
    """A limb's own control as it is on the frame."""
    found = floor.values_at(solved.posed.times).get(owner)
    return float(found[0]) if found is not None else 0.0


def match_pose(draft: Draft, limbs: Sequence[Node], frame: float) -> None:
    """Key limbs as they stand: the turns of their bones, or the place of a tip that they are solved from."""
    for instance_id, limb_id in limbs:
        solved, limb = solved_at(draft, instance_id, frame), limb_at(draft, (instance_id, limb_id))
        values = tip_values(solved, limb) if _control(draft, solved, (instance_id, limb_id, "mix")) > 0.5 else {}
        put_values(draft, frame, _turns(draft, solved, limb) | values)


def keep_side(draft: Draft, solved: SolvedPose, limb: Limb, frame: float) -> None:
    """From a frame on, let a limb that is going to be solved bend to the side to which it is bent there."""
    owner = (solved.puppet.source.instance.id, limb.id, "flip")
    now = _control(draft, solved, owner)
    if (over := float(bent_over(solved, limb))) != now:
        put_values(draft, frame, {owner: over})


@gesture("bend the other way")
def bend_over(draft: Draft, limbs: Sequence[Node], frame: float) -> None:
    """From a frame on let limbs bend to the other side; their tips stay where they are, and lie as they do."""
    if not limbs:
        raise InvalidInputError("No limb is chosen.", "Choose a hand or a foot.")
    draft.refuse_locked((instance_id, instance_id) for instance_id, _ in limbs)
    for node in limbs:
        solved, limb = solved_at(draft, node[0], frame), limb_at(draft, node)
        plan, keys = planned(solved, limb), solved.puppet.nodes.owners
        over = not bent_over(solved, limb)
        turns = turns_on(solved, limb, over)
        if plan.tip >= 0 and _is_solved(draft, node, frame):
            turns[plan.tip] = tip_turn(solved, plan, turns[plan.tip])
        named = {(*keys[n], "turn"): turn for n, turn in turns.items()}
        put_from(draft, frame, {**named, (*node, "flip"): float(over)})


def limb_at(floor: SceneState, node: Node) -> Limb:
    found = owned(floor.puppet_of(node[0]), node[1])
    if not isinstance(found, Limb):
        raise NotFoundError("This limb is not in the puppet any more.", "Choose another.")
    return found


def plants_of(floor: SceneState, node: Node) -> list[Plant]:
    return [p for p in floor.scene.plants if (p.instance_id, p.limb_id) == node]


def solved_at(floor: SceneState, instance_id: str, frame: float) -> SolvedPose:
    found = solved_poses(floor.compiled.groups, instance_id, frame).get(instance_id)
    if found is None:
        raise NotFoundError("This puppet is not in the scene any more.", "Choose another.")
    return found


def _tip_pose(solved: SolvedPose, limb: Limb) -> dict[Address, float]:
    """What has a limb that is solved from its tip stand as it does, as nearly as it can."""
    flip = (solved.puppet.source.instance.id, limb.id, "flip")
    return {**tip_values(solved, limb), flip: float(bent_over(solved, limb))}
