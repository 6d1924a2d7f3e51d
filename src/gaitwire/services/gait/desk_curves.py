"""The curves and bars of the Stride desk, as SVG geometry: how a leg bends over its stride, and which foot is down."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import NamedTuple

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.walk.fitting import FAR_OFF
from gaitwire.core.walk.healthy import SPREAD, healthy
from gaitwire.core.walk.measures import StrideMeasures, cut_up, stood
from gaitwire.core.walk.span import Gait
from gaitwire.services.gait.preview import Preview

WIDE, TALL = 240.0, 120.0
"""Of a plot, in its own units."""
_EDGE = 6.0
_USUAL = {"hip": (-30.0, 50.0), "knee": (-10.0, 80.0), "ankle": (-35.0, 25.0)}
"""Degrees that a plot shows at least."""


def points_path(points: FloatArray) -> str:
    """Points (2, N) as path data, without the first command."""
    return "L".join(f"{x:.1f} {y:.1f}" for x, y in points.T.tolist())


class Plot(NamedTuple):
    """One joint's angles over the stride, from each leg's own contact, as path data."""

    joint: str
    band: str
    """Of people; '' for one that goes on all fours."""
    near: str
    far: str
    measured: str
    """Of the walk that the card was fitted to; '' for none."""
    off: float | None
    """Degrees by which the near leg misses it, root mean square."""
    level: float
    """Height of 0 degrees."""
    low: float
    high: float


class Footfall(NamedTuple):
    """When one foot is down, in percent of the stride from the contact of the first one."""

    name: str
    side: str
    spans: list[tuple[float, float]]


class Panels(NamedTuple):
    """All that is measured on a walk."""

    plots: list[Plot]
    feet: list[Footfall]
    doubt: str
    """What is to be told of a card that follows its measured walk badly; '' where it follows it."""
    figures: list[tuple[str, str]]


def panels(shown: Preview, fitted: Mapping[str, list[float]] | None = None) -> Panels:
    """The panels of a previewed walk, and of the measured one that its card was fitted to."""
    near, far = shown.measures
    plots = [_plot(j, near, far, (fitted or {}).get(j), shown.gait.four is None) for j in _USUAL]
    return Panels(
        plots,
        _footfalls(shown.gait),
        doubt_of(plots),
        _figures(shown),
    )


def doubt_of(plots: Sequence[Plot]) -> str:
    """A word of doubt where a joint is followed by no better than `FAR_OFF` degrees."""
    off = [f"{p.joint} by {p.off:.0f}°" for p in plots if p.off is not None and p.off > FAR_OFF]
    if not off:
        return ""
    return f"Hardly a walk as cards make them, or another build: missed at the {', the '.join(off)}."


def _footfalls(gait: Gait) -> list[Footfall]:
    origin = stood(gait.stride, 0.0, 0.0)[0]
    times = ((foot, stood(gait.stride, foot.lands, foot.step.stance)) for foot in gait.feet)
    return [Footfall(foot.name, foot.side, cut_up(down, origin)) for foot, down in times]


def _figures(shown: Preview) -> list[tuple[str, str]]:
    """Names and values of what is told beside the bars."""
    near, far = shown.measures
    card = shown.gait.span.card
    stances, steps = ([getattr(leg, name) for leg in (near, far)] for name in ("stance_share", "step_length"))
    air = max(0.0, 100 - sum(stances)) / 2
    both = ("in the air", f"{air:.0f} % twice") if card.runs else ("both down", f"{near.double_support:.0f} % twice")
    return [
        ("stance", f"{_each(stances, 0)} %"),
        both,
        ("step", f"{_each(steps, 2)} legs"),
        ("steps a minute", f"{near.cadence:.0f}"),
        ("speed", f"{shown.pixels / card.frames:.1f} px a frame"),
    ]


def _each(values: list[float], decimals: int) -> str:
    """One number, or one for each side where they differ."""
    told = [f"{v:.{decimals}f}" for v in values]
    return told[0] if told[0] == told[1] else ", ".join(told)


def _plot(joint: str, near: StrideMeasures, far: StrideMeasures, fitted: list[float] | None, human: bool) -> Plot:
    curves = [getattr(side, joint) for side in (near, far)] + ([np.array(fitted)] if fitted else [])
    low = min(_USUAL[joint][0], *(float(np.floor(c.min() / 10) * 10) for c in curves))
    high = max(_USUAL[joint][1], *(float(np.ceil(c.max() / 10) * 10) for c in curves))

    def line(percent: FloatArray, degrees: FloatArray) -> str:
        x = WIDE * percent / 100
        y = TALL - _EDGE - (TALL - 2 * _EDGE) * (degrees - low) / (high - low)
        return points_path(np.stack([x, y]))

    percent, mean = healthy(joint)
    band = f"M{line(percent, mean + SPREAD)}L{line(percent[::-1], mean[::-1] - SPREAD)}Z" if human else ""
    every = np.linspace(0.0, 100.0, len(curves[0]))
    ours, other, *theirs = (f"M{line(every, curve)}" for curve in curves)
    off = float(np.sqrt(np.mean((curves[0] - curves[2]) ** 2))) if theirs else None
    level = TALL - _EDGE - (TALL - 2 * _EDGE) * -low / (high - low)
    return Plot(joint, band, ours, other, theirs[0] if theirs else "", off, level, low, high)
