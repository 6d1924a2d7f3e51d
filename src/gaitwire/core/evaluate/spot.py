"""The spot on which a limb's tip lies as it stands: what a plant made there would have to hold."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate.grip import grip_of
from gaitwire.core.evaluate.limb_plans import plan_of
from gaitwire.core.evaluate.limbs import ROLL, STEADY, TIP_X, TIP_Y, TURN, LimbPlan, nearest
from gaitwire.core.evaluate.posed import SolvedPose
from gaitwire.core.evaluate.solving import ChainSolver, Spots, make_group
from gaitwire.core.evaluate.values import limb_values, sampling, walked
from gaitwire.core.geometry import affine
from gaitwire.core.puppet.model import Limb

_STRAIGHT = 0.1
"""Degrees, over all its bones, below which a limb bends to neither side."""


class Spot(NamedTuple):
    """As the fields of a plant: pixels of the scene or of the carrying bone, degrees."""

    x: float
    y: float
    angle: float
    pitch: float


def planned(solved: SolvedPose, limb: Limb) -> LimbPlan:
    """A limb of a puppet, ready to be solved, planted anywhere or not."""
    for segment in solved.group.segments:
        for plan in segment.limbs:
            if segment.member == solved.member and plan.limb.id == limb.id:
                return plan
    return plan_of(solved.puppet, solved.puppet.source.puppet.limbs.index(limb), limb)


def end_of(solved: SolvedPose, plan: LimbPlan) -> complex:
    """Where a limb ends on the frame, in scene pixels."""
    last = solved.posed.world[:, plan.nodes[-1], 0]
    if plan.tip >= 0:
        return complex(last[4], last[5])
    x, y = affine.apply(last, plan.end.real, plan.end.imag)
    return complex(float(x), float(y))


def steadiness(solved: SolvedPose, plan: LimbPlan) -> float:
    """How much the tip of a limb keeps its angle against the ground where it is solved or pulled, 0 to 1."""
    times = solved.posed.times
    if not plan.steady or walked(solved.puppet, times)[0]:
        return 0.0
    return float(limb_values(sampling(solved.puppet, times, solved.posed.sampled))[plan.row, STEADY, 0])


def tip_turn(solved: SolvedPose, plan: LimbPlan, own: float | None = None) -> float:
    """The turn in degrees that, keyed on the tip of a limb that is solved from it, has the tip lie as it does.

    `own` is its turn against what it hangs from, if that is to be another one.
    """
    if own is None:
        own = float(solved.posed.values[plan.tip, TURN, 0])
    steady = steadiness(solved, plan)
    if not steady:
        return own
    return own + steady * float(nearest(np.array([_turned(solved, plan, 1 + 0j) - own]))[0])


def turns_on(solved: SolvedPose, limb: Limb, flipped: bool) -> dict[int, float]:
    """Turns of a limb's bones, by node, in degrees, with which it ends where it does, bent to a side."""
    return _turns_and_factor(solved, limb, flipped)[0]


def drawn_out(solved: SolvedPose, limb: Limb, flipped: bool) -> float:
    """By which factor its bones are longer then, so that it reaches."""
    return _turns_and_factor(solved, limb, flipped)[1]


def _turns_and_factor(solved_pose: SolvedPose, limb: Limb, flipped: bool) -> tuple[dict[int, float], float]:
    plan = planned(solved_pose, limb)
    above = grip_of(solved_pose, int(plan.chain[0])).parent[:, None]
    group = make_group([(0, plan, solved_pose.puppet.skeleton)])
    values = solved_pose.posed.values[plan.nodes]
    *solved, factor = ChainSolver(group, values, above, float(flipped)).solve(
        np.array([end_of(solved_pose, plan)]), None
    )[:, 0]
    if plan.tip >= 0:  # the tip lies as it does
        solved[-1] += nearest(values[:-1, TURN, 0].sum() - sum(solved[:-1]))
    return dict(zip(plan.nodes.tolist(), map(float, solved), strict=True)), float(factor)


def bent_over(solved_pose: SolvedPose, limb: Limb) -> bool:
    """Whether a limb stands bent to the other side than it does at rest; a straight one is not."""

    def off(flipped: bool) -> float:
        solved = turns_on(solved_pose, limb, flipped)
        now = solved_pose.posed.values[list(solved), TURN, 0]
        return float(np.abs(nearest(now - np.array(list(solved.values())))).sum())

    return off(True) < off(False) - _STRAIGHT


def spot_of(solved: SolvedPose, limb: Limb, carrier: FloatArray | None = None) -> Spot:
    """The spot of a limb's tip on the frame, on the ground or on a bone with the matrix `carrier` (6,).

    A foot on the ground lies on a level spot, pitched as it stands; any other tip lies as it is.
    """
    plan = planned(solved, limb)
    puppet, posed = solved.puppet, solved.posed
    row = limb_values(sampling(puppet, posed.times, posed.sampled))[plan.row]
    own = affine.identity() if carrier is None else carrier
    along = complex(own[0], own[1])
    end = end_of(solved, plan)
    angle = pitch = 0.0
    if plan.tip >= 0:
        turned = _turned(solved, plan, along / abs(along))
        on_sole = carrier is None and plan.heel != plan.ball
        angle, pitch = (0.0, turned - float(row[ROLL, 0])) if on_sole else (turned - float(row[ROLL, 0]), 0.0)
        rolled = np.array([pitch + float(row[ROLL, 0])])
        spots = Spots(np.zeros(1, complex), np.array([along / abs(along)]), np.array([angle]), rolled)
        above = grip_of(solved, int(plan.chain[0])).parent[:, None]
        group = make_group([(0, plan, puppet.skeleton)])
        away, _ = ChainSolver(
            group, posed.values[plan.nodes], above, senses=puppet.senses(posed.times, int(plan.chain[0]))
        ).held_at(spots)
        end -= complex(away[0])
    x, y = affine.apply(affine.invert(own), end.real, end.imag)
    return Spot(float(x) - float(row[TIP_X, 0]), float(y) - float(row[TIP_Y, 0]), angle, pitch)


NEAR = 0.08
"""Share of a puppet's height above the floor up to which a foot that is planted is meant to stand on it."""


def above_floor(plan: LimbPlan, y: float, angle: float, size: float, floor: float) -> float | None:
    """By how many pixels a foot that lies at an angle, its joint at y, is above the floor; None for a hand."""
    if plan.heel == plan.ball:
        return None
    flat = np.exp(1j * np.radians(angle)) * size
    return float(floor - (y + max((plan.heel * flat).imag, (plan.ball * flat).imag)))


def _turned(solved: SolvedPose, plan: LimbPlan, carried: complex) -> float:
    """Degrees by which a tip is turned from how it lies at rest, as its puppet faces, seen from a carrier."""
    matrix = solved.posed.world[:, plan.tip, 0]
    rest = np.exp(1j * np.radians(plan.flat))
    x, y = affine.apply_linear(matrix, rest.real, rest.imag)
    seen = complex(float(x), float(y)) / carried
    sense = float(solved.puppet.senses(solved.posed.times, int(plan.chain[0]))[0])
    facing = complex(plan.mirror * sense * seen.real, seen.imag)
    return float(nearest(np.array([np.degrees(np.angle(facing)) - plan.flat]))[0])
