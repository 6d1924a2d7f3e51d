"""What a hand that turns a bone really turns, where a plant holds it or another bone carries the body."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import LockedError
from gaitwire.core.evaluate.bearing import BearingPlan
from gaitwire.core.evaluate.grip import Grip, grip_of
from gaitwire.core.evaluate.limbs import MIX, ROLL, LimbPlan, is_planted
from gaitwire.core.evaluate.posed import SolvedPose
from gaitwire.core.evaluate.skeleton import local_matrices
from gaitwire.core.evaluate.values import limb_values, sampling
from gaitwire.core.geometry import affine
from gaitwire.core.tolerances import TIME

_SOLVED = 0.999
"""Share of the mix from which on a limb's bones do not answer to turns any more."""


def turned_by(solved: SolvedPose, node: int) -> Grip:
    """The grip of what turns a node; raises LockedError for a bone that a plant holds.

    Where another bone carries the body, a bone between the root and that one is turned by the joint
    on its far side, and the carrying bone by the root's own turn, about itself.
    """
    held = _held(solved, node)
    if held is not None:
        return held
    bearing = bearing_at(solved)
    if bearing is None or node not in bearing.path:
        return grip_of(solved, node)
    path = bearing.path
    at = path.index(node)
    if 0 < at < len(path) - 1:
        return replace(grip_of(solved, path[at + 1]), sense=-1.0)
    grip = grip_of(solved, node if at == 0 else bearing.root)
    x, y = solved.posed.world[4:, bearing.bone, 0]
    parent = _unborne(solved, 0 if at == 0 else bearing.root)
    px, py = affine.apply(affine.invert(parent), x, y)
    return replace(grip, parent=parent, pivot=(float(px), float(py)))


def shifted_by(solved: SolvedPose, node: int) -> Grip:
    """The grip of a node that is shifted: where another bone carries the body, its root's way is the stage's own."""
    bearing = bearing_at(solved)
    grip = grip_of(solved, node)
    if bearing is None or node not in (0, bearing.root):
        return grip
    return replace(grip, parent=_unborne(solved, node))


def _unborne(solved: SolvedPose, node: int) -> FloatArray:
    """What a seat or a root hangs from by birth (6,)."""
    if node == 0:
        return affine.identity()
    puppet, posed = solved.puppet, solved.posed
    return local_matrices(puppet.skeleton, posed.values, np.array([0]))[:, 0, 0]


def bearing_at(solved: SolvedPose) -> BearingPlan | None:
    """The bearing of a puppet on its frame; None where its root carries it, as at rest."""
    if not solved.group.bearings[solved.member]:
        return None
    now = float(solved.posed.times[0])
    past = [p for p in solved.group.bearings[solved.member] if p.bearing.time <= now + TIME]
    return past[-1] if past and past[-1].bearing.owner_id and len(past[-1].path) > 2 else None


def _held(solved: SolvedPose, node: int) -> Grip | None:
    """The roll of the planted limb whose tip a node is; None for one that no plant holds."""
    plan = solved_limb(solved, node)
    if plan is None:
        return None
    name = plan.limb.name
    if node != plan.tip:
        if planted_now(solved, plan):
            raise LockedError(f"“{name}” is planted here.", "Move the body or its footprint, or lift it.")
        raise LockedError(f"“{name}” is solved from its tip here.", "Pull it by its tip.")
    if not planted_now(solved, plan):
        return None
    row = limb_values(sampling(solved.puppet, solved.posed.times, solved.posed.sampled))[plan.row]
    grip = grip_of(solved, node)
    return replace(grip, owner_id=plan.limb.id, values={"roll": float(row[ROLL, 0])}, turns="roll")


def solved_limb(solved: SolvedPose, node: int) -> LimbPlan | None:
    """The limb that is solved from its tip on the frame and has a node in it, its tip bone included."""
    bearing = bearing_at(solved)
    for segment in solved.group.segments:
        for plan in segment.limbs if segment.member == solved.member else ():
            nodes = plan.nodes.tolist()
            if node not in nodes or (bearing is not None and bearing.bone in nodes):
                continue
            mix = limb_values(sampling(solved.puppet, solved.posed.times, solved.posed.sampled))[plan.row, MIX, 0]
            if mix >= _SOLVED or planted_now(solved, plan):
                return plan
    return None


def planted_now(solved: SolvedPose, plan: LimbPlan) -> bool:
    """Whether one of a limb's plants holds on the frame."""
    times = solved.posed.times
    return any(bool(is_planted(p, times, solved.group.loop)[0]) for p in plan.plants)
