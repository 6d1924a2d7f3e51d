"""A walk that goes some way, from standing to standing: driven by the distance, not by a clock.

The feet set out from beside each other; a first step of three quarters, steps that fill the way
exactly, one of three quarters, and one that closes beside it. The hips go where they are driven; how
far they have come says how far the walk has: through the places where they are as each foot lands.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from scipy.interpolate import CubicSpline, PchipInterpolator

from gaitwire.core.conventions import FloatArray
from gaitwire.core.walk.card import GaitCard
from gaitwire.core.walk.foot import ankle_of, toe_pitch
from gaitwire.core.walk.hips import PHASES, Hips, Path, enveloped_once, lacking, mean_of
from gaitwire.core.walk.leg import LegPose, solve_leg
from gaitwire.core.walk.smooth import rise
from gaitwire.core.walk.stride import POSES, SIDES, Moment, Stride, StridePose
from gaitwire.core.walk.upper import Upper, upper_body
from gaitwire.core.walk.varied import Varied, varied_card

SHORT = 0.75
"""Share of a step that the first one and the last one take."""
_HALF = 0.5
_RISES, _LEFT = 0.014, 0.3
"""Leg lengths by which one who stands is less sunk than one who walks, and the share of it that is left at least."""
_REST, _AT_REST = 3, 1e-4
"""Frames for which one rests at least, and leg lengths a frame below which it does."""
_WAITS = 0.82
"""Share of its stance for which the foot that sets out first has stood flat as the walk begins."""


@dataclass(frozen=True)
class Journey:
    """A stride's card over a distance in leg lengths, along the floor."""

    stride: Stride
    distance: float

    @cached_property
    def steps(self) -> int:
        """How many steps there are before the closing one."""
        return max(1, round(2 * self.distance / self.stride.length + 0.5))

    @cached_property
    def footholds(self) -> FloatArray:
        """Where the heels come down, (steps + 3,): both at the start, each step, the closing one."""
        if self.steps == 1:
            return np.array([0.0, 0.0, self.distance, self.distance])
        lengths = np.ones(self.steps)
        lengths[[0, -1]] = SHORT
        places = np.cumsum(lengths) * self.distance / lengths.sum()
        return np.concatenate([[0.0, 0.0], places, places[-1:]])

    @property
    def ends(self) -> float:
        """The phase at which the closing foot is down."""
        return (self.steps + 1) / 2

    @cached_property
    def lands(self) -> FloatArray:
        """Phases at which the feet of the footholds land; far and near in turn, from the far one."""
        late = self.stride.lands[1] - _HALF
        k = np.arange(-1, self.steps + 2)
        lands = k / 2 + np.where((k % 2 == 1) & (k > 0) & (k <= self.steps), late, 0.0)
        lands[0] = -self._waited
        return lands

    @property
    def _waited(self) -> float:
        """Share of its stride for which the foot that sets out first has stood, and stands flat."""
        return _WAITS * self.stride.steps[1].stance

    @cached_property
    def _phase_by_way(self) -> PchipInterpolator:
        holds, card = self.footholds, self.stride.broad
        places = holds[:-1] + (1 - 2 * card.hip_ahead) * np.diff(holds)
        places[-1] = holds[-1]
        return PchipInterpolator(places, np.arange(len(places)) / 2)

    def phase_at(self, way: FloatArray) -> FloatArray:
        """Phases (P,) when the hips have gone some way (P,)."""
        return np.asarray(self._phase_by_way(np.clip(way, 0.0, self.distance)))

    def lingering(self, way: FloatArray) -> FloatArray:
        """Ways (P,) that are come to where the card's poses linger, when it would have come to ways (P,) evenly."""
        phase = self.phase_at(way)
        late = phase + self._going(phase) * (self.stride.phase_of(phase) - phase)
        return np.interp(late, self._grid[1], self._grid[0])

    def _going(self, phase: FloatArray) -> FloatArray:
        """How much of its swing and bounce a walk has (P,): none where it stands."""
        return np.asarray(rise(phase / _HALF) * rise((self.ends - phase) / _HALF))

    def _feet(self, phase: FloatArray) -> tuple[FloatArray, FloatArray, FloatArray, FloatArray]:
        """Ankles along and up, pitches and shares of the feet's own strides; (2, P) each."""
        rows = [self._foot(side, phase) for side in range(2)]
        along, up, pitch, share = (np.stack(row) for row in zip(*rows, strict=True))
        return along, up, pitch, share

    def _foot(self, side: int, phase: FloatArray) -> tuple[FloatArray, FloatArray, FloatArray, FloatArray]:
        build, step, length = self.stride.sides[side], self.stride.steps[side], self.stride.length
        own = np.arange(len(self.footholds))[1 - side :: 2]  # the near foot stands on the second foothold
        holds, lands = self.footholds[own], self.lands[own]
        n = np.clip(np.searchsorted(lands, phase + 1e-12, side="right") - 1, 0, len(own) - 1)
        ahead = np.append(np.diff(holds), 0.0)
        behind = np.concatenate([[0.0], np.diff(holds)])
        out, came = (np.minimum(a[n] / length, 1.0) for a in (ahead, behind))
        last, closing = n == len(own) - 1, own[n] + 2 == len(self.footholds) - 1
        heel_off = np.where((n == 0) & (side == 1), np.maximum(step.heel_off, self._waited), step.heel_off)
        varied = replace(
            step, strike=step.strike * came * ~(own[n] == len(self.footholds) - 1), push=step.push * out,
            landing=step.landing * out * ~closing, kick=step.kick * out, clearance=step.clearance * np.sqrt(out),
            heel_off=heel_off,
        )  # fmt: skip
        u = np.clip((phase - lands[n]) / np.append(np.diff(lands), 1.0)[n], 0.0, 1.0)
        if side == 1:  # the foot that sets out first comes down in time, however long it has waited
            u = np.where(n == 0, self._waited + (1 - self._waited) * np.clip(phase / lands[1], 0.0, 1.0), u)
        u = np.where(last, np.minimum(u, heel_off), u)
        ankle = ankle_of(build, varied, u, ahead[n])
        return holds[n] + ankle.along, ankle.up, ankle.pitch, u

    def _hips(
        self, phase: FloatArray, way: FloatArray, sunk: FloatArray | float, varied: GaitCard | None = None
    ) -> Hips:
        """The hips where they are driven to, with as much of their own motion as the walk has."""
        stride = self.stride
        going, card = self._going(phase), varied or stride.broad
        moved = Path(card, stride.sides, stride.length).raised(phase, 0.0, stride.upright)
        evenly = stride.length * (phase - card.hip_ahead) + mean_of(stride.sides, "heel")
        plumb = 1j * stride.upright
        sunk_standing = np.maximum(card.sink - _RISES, _LEFT * card.sink)
        level = (1.0 + mean_of(stride.sides, "ankle") - sunk_standing) * plumb
        standing = [build.hip * stride.upright for build in stride.sides]
        here = way + mean_of(stride.sides, "heel")
        middle = moved.along - evenly + 1j * moved.up
        hips = moved.hip_along - moved.along + 1j * (moved.hip_up - moved.up)
        middle = level + going * (middle - level) - sunk * plumb + here
        hips = middle + np.stack([s + going * (h - s) for s, h in zip(standing, hips, strict=True)])
        return Hips(middle.real, middle.imag, hips.real, hips.imag)

    @cached_property
    def _sunk(self) -> CubicSpline:
        phase = np.linspace(0.0, self.ends, max(8, int(PHASES * self.ends)))
        along, up, _, _ = self._feet(phase)
        way = np.interp(phase, self._grid[1], self._grid[0])
        need = lacking(self._hips(phase, way, 0.0), along, up, self.stride.sides, self.stride.upright)
        if self.stride.card.runs:
            need = np.full_like(need, need.max())
        return enveloped_once(phase, need)

    @cached_property
    def _grid(self) -> tuple[FloatArray, FloatArray]:
        """Ways and their phases, close to each other."""
        way = np.linspace(0.0, self.distance, max(64, int(4096 * self.ends)))
        return way, self.phase_at(way)

    def at(self, way: FloatArray, varied: Varied | None = None) -> StridePose:
        """The walker when it has gone some way (P,), in leg lengths; with some settings that vary."""
        stride, way = self.stride, np.clip(np.asarray(way, float), 0.0, self.distance)
        phase = self.phase_at(way)
        along, up, pitch, shares = self._feet(phase)
        card = varied_card(stride.broad, varied)
        hips = self._hips(phase, way, self._sunk(phase), card)
        legs = [solve_leg(b, along[n] - hips.hip_along[n], up[n] - hips.hip_up[n]) for n, b in enumerate(stride.sides)]
        leg = LegPose(*(np.stack(row) for row in zip(*legs, strict=True)))
        toes = np.stack([toe_pitch(build, up[n], pitch[n]) for n, build in enumerate(stride.sides)])
        gone = way + mean_of(stride.sides, "heel")
        return StridePose(phase, hips, along, up, pitch, toes, leg, shares, self._upper(phase, card), gone)

    def _upper(self, phase: FloatArray, card: GaitCard) -> Upper:
        going = self._going(phase)
        walks = upper_body(card, phase, self.stride.lands)
        stands = upper_body(_still(card), phase, self.stride.lands)
        return Upper(*(s + going * (w - s) for w, s in zip(walks, stands, strict=True)))

    def moments(self) -> list[Moment]:
        """The poses of all its steps, by phase."""
        found = []
        for k, lands in enumerate(self.lands[1:-1].tolist()):
            for name, after in POSES:
                if lands + after <= self.ends:
                    found.append(Moment(lands + after, name, SIDES[k % 2]))
        return sorted([*found, Moment(self.ends, "stand", SIDES[self.steps % 2])])


def _still(card: GaitCard) -> GaitCard:
    """The card of one that stands."""
    still = ("bounce", "nod", "back_twist", "arm_swing", "elbow_swing")
    return varied_card(card, {name: -getattr(card, name) for name in still})


@dataclass(frozen=True)
class Journeys:
    """Walks from standing to standing, one after the other: `stops` (N + 1,) are the ways at which it stands."""

    stride: Stride
    stops: FloatArray

    @cached_property
    def each(self) -> list[Journey]:
        return [Journey(self.stride, float(d)) for d in np.diff(self.stops)]

    @cached_property
    def _begins(self) -> FloatArray:
        """Phases at which each begins, and at which the last one ends."""
        return np.concatenate([[0.0], np.cumsum([j.ends for j in self.each])])

    def parts(self, way: FloatArray) -> Iterator[tuple[int, np.ndarray, FloatArray]]:
        """Of each walk that is on at some way, which of them and how far it has come by itself."""
        which = np.clip(np.searchsorted(self.stops, way, side="left") - 1, 0, len(self.stops) - 2)
        for n in np.unique(which).tolist():
            own = which == n
            yield n, own, way[own] - self.stops[n]

    def at(self, way: FloatArray, varied: Varied | None = None) -> Iterator[tuple[np.ndarray, StridePose]]:
        """Poses at ways (P,) in leg lengths, with which of them they are at."""
        for n, own, gone in self.parts(way):
            yield own, self.each[n].at(gone, {name: row[own] for name, row in (varied or {}).items()})

    def lingering(self, way: FloatArray) -> FloatArray:
        """Ways (P,) that are come to where poses linger."""
        found = np.zeros(len(way))
        for n, own, gone in self.parts(way):
            found[own] = self.stops[n] + self.each[n].lingering(gone)
        return found

    def phase_at(self, way: FloatArray) -> FloatArray:
        """Phases (P,), counted on from one walk to the next."""
        found = np.zeros(len(way))
        for n, own, gone in self.parts(way):
            found[own] = self._begins[n] + self.each[n].phase_at(gone)
        return found

    def moments(self) -> list[Moment]:
        """The poses of all steps, by phase."""
        begins = self._begins.tolist()
        return [m._replace(time=m.time + t) for t, j in zip(begins, self.each, strict=False) for m in j.moments()]


def stops_of(ways: FloatArray) -> FloatArray:
    """The ways at which a walk rests for some frames, from how far it has come on every frame (F,); ends left out."""
    rests = np.diff(ways) < _AT_REST
    edges = np.flatnonzero(np.diff(np.concatenate([[False], rests, [False]]).astype(int)))
    found = [ways[a] for a, b in edges.reshape(-1, 2) if b - a >= _REST]
    inner = [w for w in found if w > _AT_REST and ways[-1] - w > _AT_REST]
    return np.unique(np.array(inner, float))
