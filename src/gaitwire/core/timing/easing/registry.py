"""The one registry of easings: a name, a label, a function, and whether a cubic can play it exactly."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.timing.easing import shapes

EasingFunction = Callable[[FloatArray], FloatArray]


@dataclass(frozen=True)
class Easing:
    """A named course from 0 to 1.

    `breaks` are the time shares between which the course is a polynomial of third degree at most;
    empty when it is not, and then only sampling reproduces it.
    """

    name: str
    family: str
    direction: str
    shape: EasingFunction
    breaks: tuple[float, ...] = ()

    @property
    def label(self) -> str:
        """The name as people read it: 'sine in-out'."""
        return f"{self.family} {self.direction}".strip()

    def __call__(self, shares: FloatArray | float) -> FloatArray:
        """Value shares at time shares; arguments are clamped to [0, 1], shape kept."""
        return self.shape(np.clip(np.asarray(shares, float), 0.0, 1.0))


def _mirrored(shape: EasingFunction) -> EasingFunction:
    return lambda t: 1.0 - shape(1.0 - t)


def _two_sided(shape: EasingFunction) -> EasingFunction:
    return lambda t: np.where(t < 0.5, shape(np.minimum(2 * t, 1)) / 2, 1 - shape(np.minimum(2 - 2 * t, 1)) / 2)


def _hold(t: FloatArray) -> FloatArray:
    return np.where(t >= 1, 1.0, 0.0)


_FAMILIES: dict[str, tuple[EasingFunction, EasingFunction | None, tuple[float, ...]]] = {
    # family: (its 'in' shape, its in-out shape where that is not the 'in' half twice, breaks of 'in')
    "sine": (shapes.sine, None, ()),
    "quad": (shapes.power(2), None, (0.0, 1.0)),
    "cubic": (shapes.power(3), None, (0.0, 1.0)),
    "quart": (shapes.power(4), None, ()),
    "quint": (shapes.power(5), None, ()),
    "expo": (shapes.expo, None, ()),
    "circ": (shapes.circ, None, ()),
    "back": (shapes.back, shapes.back_in_out, (0.0, 1.0)),
    "elastic": (shapes.elastic, shapes.elastic_in_out, ()),
    "bounce": (shapes.bounce, None, shapes.BOUNCE_BREAKS),
}


def _family(family: str) -> list[Easing]:
    shape, two_sided, breaks = _FAMILIES[family]
    halves = tuple(sorted({b / 2 for b in breaks} | {1 - b / 2 for b in breaks}))
    return [
        Easing(f"{family}-in", family, "in", shape, breaks),
        Easing(f"{family}-out", family, "out", _mirrored(shape), tuple(1 - b for b in reversed(breaks))),
        Easing(f"{family}-in-out", family, "in-out", two_sided or _two_sided(shape), halves),
    ]


EASINGS: dict[str, Easing] = {
    easing.name: easing
    for easing in [
        Easing("linear", "linear", "", lambda t: t, (0.0, 1.0)),
        Easing("hold", "hold", "", _hold),
        *(easing for family in _FAMILIES for easing in _family(family)),
    ]
}

FREE = "free"
"""Name of the easing whose curve is a key's own; it is not in the registry, having no one shape."""


CHART = "chart"
"""Name of the easing whose ticks are a key's own: where each in-between lies between the two poses."""


def find_easing(name: str) -> Easing:
    """The easing of that name; raises InvalidInputError with the known names when there is none."""
    try:
        return EASINGS[name]
    except KeyError:
        raise InvalidInputError(f"There is no easing called “{name}”.", f"Known: {', '.join(EASINGS)}.") from None
