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
from gaitwire.core.evaluate.values import limb_values
from gaitwire.core.geometry import affine
from gaitwire.core.tolerances import TIME

_SOLVED = 0.999
"""Share of the mix from which on a limb's bones do not answer to turns any more."""


def turned_by(standing: SolvedPose, node: int) -> Grip:
    """The grip of what turns a node; raises LockedError for a bone that a plant holds.

    Where another bone carries the body, a bone between the root and that one is turned by the joint
    on its far side, and the carrying bone by the root's own turn, about itself.
    """
    held = _held(standing, node)
    if held is not None:
        return held
    bearing = bearing_at(standing)
    if bearing is None or node not in bearing.path:
        return grip_of(standing, node)
    path = bearing.path
    at = path.index(node)
    if 0 < at < len(path) - 1:
        return replace(grip_of(standing, path[at + 1]), sense=-1.0)
    grip = grip_of(standing, node if at == 0 else bearing.root)
    x, y = standing.posed.world[4:, bearing.bone, 0]
    parent = _unborne(standing, 0 if at == 0 else bearing.root)
    px, py = affine.apply(affine.invert(parent), x, y)
    return replace(grip, parent=parent, pivot=(float(px), float(py)))


def shifted_by(standing: SolvedPose, node: int) -> Grip:
    """The grip of a node that is shifted: where another bone carries the body, its root's way is the stage's own."""
    bearing = bearing_at(standing)
    grip = grip_of(standing, node)
    if bearing is None or node not in (0, bearing.root):
        return grip
    return replace(grip, parent=_unborne(standing, node))


def _unborne(standing: SolvedPose, node: int) -> FloatArray:
    """What a seat or a root hangs from by birth (6,)."""
    if node == 0:
        return affine.identity()
    island, posed = standing.island, standing.posed
    return local_matrices(island.skeleton, posed.values, np.array([0]))[:, 0, 0]


def bearing_at(standing: SolvedPose) -> BearingPlan | None:
    """The bearing of a puppet on its frame; None where its root carries it, as at rest."""
    if not standing.troupe.bearings[standing.member]:
        return None
    now = float(standing.posed.times[0])
    past = [p for p in standing.troupe.bearings[standing.member] if p.bearing.time <= now + TIME]
    return past[-1] if past and past[-1].bearing.owner_id and len(past[-1].path) > 2 else None


def _held(standing: SolvedPose, node: int) -> Grip | None:
    """The roll of the planted limb whose tip a node is; None for one that no plant holds."""
    plan = solved_limb(standing, node)
    if plan is None:
        return None
    name = plan.limb.name
    if node != plan.tip:
        if planted_now(standing, plan):
            raise LockedError(f"“{name}” is planted here.", "Move the body or its footprint, or lift it.")
        raise LockedError(f"“{name}” is solved from its tip here.", "Pull it by its tip.")
    if not planted_now(standing, plan):
        return None
    row = limb_values(standing.island, standing.posed.times, standing.posed.sampled, None)[plan.row]
    grip = grip_of(standing, node)
    return replace(grip, owner_id=plan.limb.id, values={"roll": float(row[ROLL, 0])}, turns="roll")


def solved_limb(standing: SolvedPose, node: int) -> LimbPlan | None:
    """The limb that is solved from its tip on the frame and has a node in it, its tip bone included."""
    bearing = bearing_at(standing)
    for section in standing.troupe.sections:
        for plan in section.limbs if section.member == standing.member else ():
            nodes = plan.nodes.tolist()
            if node not in nodes or (bearing is not None and bearing.bone in nodes):
                continue
            mix = limb_values(standing.island, standing.posed.times, standing.posed.sampled, None)[plan.row, MIX, 0]
            if mix >= _SOLVED or planted_now(standing, plan):
                return plan
    return None


def planted_now(standing: SolvedPose, plan: LimbPlan) -> bool:
    """Whether one of a limb's plants holds on the frame."""
    times = standing.posed.times
    return any(bool(is_planted(p, times, standing.troupe.loop)[0]) for p in plan.plants)
