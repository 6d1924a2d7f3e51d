"""How links swing: one implicit step after the other, each the least of an energy over the turns of all links.

The unknowns are the turns of the links against how their keys have them, so that links are never longer than they
are; masses lie at their tips. A step is the backward difference of second order (Curtiss and Hirschfelder 1952) of
places, speeds and turns, with H two thirds of it: it damps next to nothing that is slow, takes any stiffness, and makes

    sum over tips of m |q - q*|^2 / 2 H^2  +  springs / 2  +  dampers / 2 H

least, q* being where a tip would come by itself (an implicit step as a least energy: Gast and others, Optimization
Integrator for Large Time Steps, 2015).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import NamedTuple

import numpy as np
import numpy.typing as npt
from scipy.linalg.lapack import dposv

from gaitwire.core.conventions import FloatArray
from gaitwire.core.motion.loose.links import ComplexArray, Links, side_by_side
from gaitwire.core.motion.loose.manner import Manner
from gaitwire.core.motion.loose.states import Drive, State
from gaitwire.core.motion.track import Stepper

FINE, FINEST = 0.15, 0.04
"""Radians of the quickest swing in a step, at most; where next to nothing damps it, a step must not do so either."""

UNDAMPED = 0.02
"""Shares of critical from which on a swing is damped."""

STEPS = (3, 6, 12, 24)
"""Steps in a frame: few sorts, so that things may be stepped as one."""

CUT = 1.0
"""Reaches by which a carrier may depart in one frame from going on as it did: beyond it is a cut, not a move."""

HOLDS = 3.0
"""Swings a second of what holds a thing that is half loose."""

_ROUNDS, _SETTLING = 12, 300
"""Most rounds of a step, and of settling."""

_CLOSE, _SAME = 2e-3, 1e-6
"""Radians by which the last round turns a link: the error is their square, or they, where the energy is not convex."""

_WILDEST = 0.7
"""Radians by which one round turns a link, at most."""

_FASTEST = 30.0
"""Reaches a frame."""

_STOP = 30.0
"""Swings a second of the spring at a limit, and on the floor."""

_ASIDE = 0.02
"""Of what bears a tip, what draws it to a side: what comes straight down would stand on its end."""

_FOUR = np.ones(4, complex)

_GOES_ON = np.array([[4 / 3, -1 / 3, 0.0], [2.0, -3.0, 1.0]])
"""From the turns of three steps: where a step comes by in their difference, and how much they turn next."""

_BACKWARD = np.array([-2.0, 0.5], complex)
"""Shares of the last two places in the difference that is a speed, times the step."""

_HELD = 1e-6
"""The share from which on a thing is loose at all."""


class _Frames(NamedTuple):
    """What drives the steps of F frames, as it is at the end of each."""

    arms: ComplexArray  # (F, steps, n, n)
    """Weighed by the root of what draws each tip, as it need not be in each round then."""
    roots: ComplexArray  # (F, steps, n)
    hangs: ComplexArray  # (F, steps, n)
    """From where fall and air take each tip to its root, weighed likewise."""
    share: FloatArray | None  # (F, steps, n), or all loose


class _Sizes(NamedTuple):
    """Of a step, by link (n,)."""

    draws: FloatArray
    """The root of what draws a tip to where it would come."""
    undraws: FloatArray
    carries: ComplexArray  # (4, n)
    """What its places and speeds make of where it would come, weighed likewise."""
    falls: FloatArray
    """Seconds squared by which it falls."""
    taken: FloatArray
    """Seconds for which the air takes it along."""
    fastest: FloatArray


@dataclass(frozen=True, eq=False)
class Swing(Stepper):
    """Links in a manner, at a rate of frames a second; its drive (10n,) is a `Drive`."""

    links: Links
    manner: Manner
    rate: float

    @cached_property
    def steps(self) -> int:
        """In a frame: by the quickest of its springs, and by its weight."""
        manner = self.manner
        quick = np.maximum(2 * np.pi * manner.stiffness, np.sqrt(self._heavy))
        fine = np.where(manner.damping < UNDAMPED, FINEST, FINE)
        asked = float((quick / fine).max(initial=0.0)) / self.rate
        return next((steps for steps in STEPS if steps >= asked), STEPS[-1])

    @cached_property
    def _step(self) -> float:
        """Seconds."""
        return 1.0 / (self.rate * self.steps)

    @cached_property
    def _heavy(self) -> FloatArray:
        """What weight alone makes of each link (n,): the square of its swing, radians a second."""
        return np.asarray(self.manner.weight * self.links.moments / self.links.inertias)

    @cached_property
    def _springs(self) -> tuple[FloatArray, FloatArray]:
        """Of turns: stiffness, and damping over a step (n, n) each."""
        manner, relative = self.manner, self.links.relative
        own = (2 * np.pi * manner.stiffness) ** 2 + self._heavy
        damper = 2 * manner.damping * np.sqrt(own) * self.links.firmness / (2 / 3 * self._step)
        return relative.T * self._firm @ relative, relative.T * damper @ relative

    def settled(self, drive: FloatArray) -> FloatArray:
        """At rest under the fall and the air as it moves."""
        at, links, manner = Drive.read(drive, self.links.count), self.links, self.manner
        still = np.zeros(links.count)
        pull = links.masses * (at.fall + manner.air * at.air)
        stiff = self._springs[0] + np.diag(self._held(at.share)[0])
        arms, roots = links.arms(at.pivots, at.tips), at.pivots[links.roots]
        turns = self._least(still, arms, -pull, roots, stiff, still, _SETTLING, drawn=False)
        return self.begun(turns, drive)

    def begun(self, turns: FloatArray, drive: FloatArray) -> FloatArray:
        """Turned by some radians (n,), at rest against what carries it."""
        return self._begun(turns, drive).row

    def step(self, state: FloatArray, before: FloatArray, after: FloatArray) -> FloatArray:
        count = self.links.count
        now = State.read(state, count)
        if now.fresh.any():
            now = now.where(now.fresh, self._moving(now, before, after))
        cut = self._cut(np.stack([now.past, before, after], axis=1))[0]
        mirrored = Drive.read(before, count).sense != Drive.read(after, count).sense
        begun = self._begun(np.where(mirrored, -now.turns[0], now.turns[0]), after)
        wide = np.tile(cut, 10)
        calm = np.stack([np.where(wide, after, now.past), np.where(wide, after, before), after], axis=1)
        return self._through(now, self._prepared(calm), 0)._replace(past=before).where(cut, begun).row

    def run(self, state: FloatArray, drive: FloatArray) -> list[FloatArray]:
        now, found = State.read(state, self.links.count), list[FloatArray]()
        drive = np.concatenate([now.past[:, None], drive], axis=1)
        cut, frames = self._cut(drive), self._prepared(drive)
        for n in range(len(cut)):
            if cut[n].any() or now.fresh.any():
                found.append(self.step(now.row, drive[:, n + 1], drive[:, n + 2]))
                now = State.read(found[-1], self.links.count)
            else:
                now = self._through(now, frames, n)._replace(past=drive[:, n + 1])
                found.append(now.row)
        return found

    def _prepared(self, drive: FloatArray) -> _Frames:
        """What drives the steps of each frame, from a drive (10n, F + 2) that begins a frame before the first."""
        past, before, after = drive[:, :-2, None], drive[:, 1:-1, None], drive[:, 2:, None]
        share = np.arange(1, self.steps + 1) / self.steps
        rows = before + share * (after - past) / 2 + share**2 * (after - 2 * before + past) / 2
        at = Drive._make(np.moveaxis(row, 0, -1) for row in Drive.read(rows, self.links.count))  # (F, steps, n)
        sizes, roots = self._sizes, at.pivots[..., self.links.roots]
        arms = self.links.arms(at.pivots, at.tips) * sizes.draws[:, None]
        hangs = sizes.draws * (roots - sizes.falls * at.fall - sizes.taken * at.air)
        return _Frames(arms, roots, hangs, at.share if (at.share < 1).any() else None)

    def _through(self, now: State, frames: _Frames, frame: int) -> State:
        """One frame on."""
        arms, roots, hangs = (row[frame] for row in frames[:3])
        for n, springs in enumerate(self._held_springs(None if frames.share is None else frames.share[frame])):
            now = self._stepped(now, arms[n], roots[n], hangs[n], *springs)
        return now

    def values(self, states: FloatArray, drive: FloatArray) -> FloatArray:
        """Degrees (n, F) by which each link is turned against the one above, besides its keys."""
        count = self.links.count
        return np.asarray(np.degrees(self.links.relative @ states[:count]) * Drive.read(drive, count).sense)

    def gap(self, state: FloatArray, other: FloatArray) -> float:
        count = self.links.count
        apart = np.abs(state[:count] - other[:count])
        return float((self.links.carried_by @ (apart * self.links.lengths)).max(initial=0.0))

    def _stepped(
        self, now: State, arms: ComplexArray, roots: ComplexArray, hangs: ComplexArray, stiff: FloatArray,
        damper: FloatArray,
    ) -> State:  # fmt: skip
        """One step on, with what is of its end: frames' rows, and springs with dampers, and dampers (n, n)."""
        sizes, turned, moved = self._sizes, now.turns, now.moves
        weighed = hangs - _FOUR.dot(sizes.carries * moved)
        comes_by, goes_on = _GOES_ON.dot(turned)
        begun = turned[0] + np.maximum(np.minimum(goes_on, _WILDEST), -_WILDEST)
        turns = np.empty_like(turned)
        turns[0] = self._least(begun, arms, weighed, roots, stiff, damper.dot(comes_by), _ROUNDS)
        turns[1:] = turned[:2]
        moves = np.empty_like(moved)
        moves[0] = roots + arms.dot(np.exp(1j * turns[0])) * sizes.undraws
        moves[1], moves[3] = moved[0], moved[2]
        moves[2] = (1.5 * moves[0] + _BACKWARD.dot(moved[:2])) / self._step
        wild = np.abs(moves[2]) / sizes.fastest
        if max(wild.tolist()) > 1:
            moves[2] /= np.maximum(wild, 1.0)
        return State(turns, moves, now.past, now.fresh)

    @cached_property
    def _sizes(self) -> _Sizes:
        """What is the same in every step. With air, a tip is drawn half way between where both would have it."""
        long, manner = 2 / 3 * self._step, self.manner
        heavy, slowed = 1 / long**2, manner.air / long
        own = heavy / (heavy + slowed)
        draws, runs = np.sqrt(self.links.masses * (heavy + slowed)), own * self._step / 9
        carries = np.stack([np.full_like(runs, 4 / 3), np.full_like(runs, -1 / 3), 8 * runs, -2 * runs])
        return _Sizes(
            draws, 1 / draws, (draws * carries).astype(np.complex128), own * long**2, slowed / (heavy + slowed) * long,
            np.maximum(_FASTEST * self.rate * self.links.reach, 1e-9),
        )  # fmt: skip

    @cached_property
    def _firm(self) -> FloatArray:
        """Stiffness of each link's spring (n,). A string that nothing pulls stays where it is put."""
        return np.asarray(((2 * np.pi * self.manner.stiffness) ** 2 + 1e-6) * self.links.firmness)

    def _held_springs(self, share: FloatArray | None) -> Sequence[tuple[FloatArray, FloatArray]]:
        """Springs with dampers, and dampers (n, n) of each step, with a share (steps, n) of looseness."""
        spring, damper = self._springs
        if share is None:
            return [self._all_loose] * self.steps
        held = ((np.diag(hold), damper + np.diag(slow)) for hold, slow in map(self._held, share))
        return [(spring + hold + slowed, slowed) for hold, slowed in held]

    @cached_property
    def _all_loose(self) -> tuple[FloatArray, FloatArray]:
        spring, damper = self._springs
        return spring + damper, damper

    def _held(self, share: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Stiffness, and critical damping over a step (n,) each, of what holds links that are not all loose."""
        firm = 1 / np.clip(share, _HELD, 1.0) - 1
        own = (2 * np.pi * HOLDS) ** 2 * firm
        inertias = self.links.inertias
        return own * inertias, 2 * np.sqrt(own) * inertias / (2 / 3 * self._step)

    def _least(
        self, turns: FloatArray, arms: ComplexArray, base: ComplexArray, roots: ComplexArray, stiff: FloatArray,
        moment: FloatArray, rounds: int, drawn: bool = True,
    ) -> FloatArray:  # fmt: skip
        """The turns (n,) that make an energy least: of tips, drawn to -`base`, and of springs.

        Where nothing is drawn, `base` is what pulls at the tips, the other way. Newton's method; where the
        energy is not convex, the curvature of what draws links inwards is taken as none.
        """
        every, count = np.ones(len(turns), complex), len(turns)
        for _ in range(rounds):
            turned = arms * np.exp(1j * turns)
            back = turned.conj()
            torque = (base + turned.dot(every) if drawn else base).dot(back)
            hessian = (back.T @ turned).real + stiff if drawn else stiff.copy()
            outwards = -torque.real  # what draws a tip outwards steadies its link
            diagonal = hessian.reshape(-1)[:: count + 1]
            diagonal += outwards
            slope = torque.imag + stiff.dot(turns) - moment
            if self._limited:
                self._stop(turns, slope, hessian)
            if self._floored:
                self._bear(turned * self._sizes.undraws[:, None] if drawn else turned, roots, slope, hessian)
            _, by, saddle = dposv(hessian, slope)
            if saddle:
                diagonal -= np.minimum(outwards, 0.0)
                _, by, _ = dposv(hessian, slope)
            most = max(map(abs, by.tolist()))
            turns = turns - (by if most < _WILDEST else by * (_WILDEST / most))
            if most < (_SAME if saddle else _CLOSE):
                break
        return turns

    @cached_property
    def _limited(self) -> bool:
        return bool((self.manner.limit < np.inf).any())

    def _stop(self, turns: FloatArray, slope: FloatArray, hessian: FloatArray) -> None:
        """Add what holds links back that are beyond their limits."""
        relative, limit = self.links.relative, self.manner.limit
        between = relative @ turns
        beyond = between - np.maximum(np.minimum(between, limit), -limit)
        if beyond.any():
            stop = (2 * np.pi * _STOP) ** 2 * self.links.inertias
            slope += relative.T @ (stop * beyond)
            hessian += relative.T * (stop * (beyond != 0)) @ relative

    @cached_property
    def _floored(self) -> bool:
        return bool((self.manner.floor < np.inf).any())

    def _bear(self, turned: ComplexArray, roots: ComplexArray, slope: FloatArray, hessian: FloatArray) -> None:
        """Add what bears tips that are beneath the floor, by what links add to them (n, n)."""
        room = self.manner.floor - roots.imag
        deep = turned.imag.sum(axis=1) - np.where(room > 0, room, np.inf)  # its carrier may go through the floor
        if deep.max() > 0:
            firm = np.where(deep > 0, (2 * np.pi * _STOP) ** 2 * self.links.masses, 0.0)
            slope += (firm * np.maximum(deep, 0.0)) @ (turned.real + _ASIDE * turned.imag)
            hessian += (turned.real.T * firm) @ turned.real

    def _begun(self, turns: FloatArray, drive: FloatArray) -> State:
        """Newly begun: at rest against what carries it."""
        places = self._tips(turns, drive)
        still = np.zeros_like(places)
        moves = np.stack([places, places, still, still])
        return State(np.stack([turns] * 3), moves, drive, np.ones(len(turns), bool))

    def _moving(self, now: State, before: FloatArray, after: FloatArray) -> State:
        """What is newly begun, with the speed of what carries it, as it would have come here.

        Of itself it does not turn yet, but it is pulled: a step ago it was as far away as that takes in a step.
        """
        step, links, turns = self._step, self.links, now.turns[0]
        at = Drive.read(before, links.count)
        speeds = (self._tips(turns, after) - self._tips(turns, before)) * self.rate
        turned = links.arms(at.pivots, at.tips) * np.exp(1j * turns)
        pull = links.masses * (at.fall + self.manner.air * (at.air - speeds))
        hold, _ = self._held(at.share)
        inertia = ((turned.conj().T * links.masses) @ turned).real + np.diag(1e-9 * links.inertias + hold * step**2)
        torque = (pull @ turned.conj()).imag - self._springs[0] @ turns - hold * turns
        _, gained, _ = dposv(inertia, torque)
        turns_before = turns + gained * step**2 / 2
        places_before = self._tips(turns_before, before - (after - before) / self.steps)
        speeds_before = speeds - 1j * (turned @ gained) * step
        return State(
            np.stack([turns, turns_before, turns + 2 * gained * step**2]),
            np.stack([now.moves[0], places_before, speeds, speeds_before]), 2 * before - after,
            np.zeros(links.count, bool),
        )  # fmt: skip

    def _cut(self, drive: FloatArray) -> npt.NDArray[np.bool_]:
        """Which links (F, n) hang from something that jumps, from a drive (10n, F + 2) as for `_prepared`."""
        links, count = self.links, self.links.count
        far = Drive.read(drive[:, 2:] - 2 * drive[:, 1:-1] + drive[:, :-2], count)
        apart = np.maximum(np.abs(far.pivots), np.abs(far.tips)) > CUT * links.reach[:, None]
        sense = Drive.read(drive, count).sense
        return np.asarray((links.together @ (apart | (sense[:, 2:] != sense[:, 1:-1]))).T > 0)

    def _tips(self, turns: FloatArray, drive: FloatArray) -> ComplexArray:
        at = Drive.read(drive, self.links.count)
        arms = self.links.arms(at.pivots, at.tips)
        return np.asarray(at.pivots[self.links.roots] + (arms * np.exp(1j * turns)).sum(axis=1))


@lru_cache(256)
def joined(*swings: Swing) -> Swing:
    """Several that need as many steps as one: they are worked out at one time, and none moves another."""
    manner = Manner(*(np.concatenate(rows) for rows in zip(*(s.manner for s in swings), strict=True)))
    return Swing(side_by_side([s.links for s in swings]), manner, swings[0].rate)
