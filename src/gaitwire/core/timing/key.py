"""A key: what a channel's value is at a time, and how it goes on from there."""

from __future__ import annotations

from typing import NamedTuple

from pydantic import BaseModel, ConfigDict, Field, model_validator

from gaitwire.core.bounds import GREATEST, Frame, Id, Value
from gaitwire.core.timing.easing.registry import CHART, EASINGS, FREE

MOST_TICKS = 2000
MOST_SHARE = 3.0
"""Bounds of a timing chart: how many ticks it has and how far one may lie from the start, in rises."""


class Curve(NamedTuple):
    """A free segment: time shares in [0, 1] and value offsets in the channel's own units.

    The handles are (x1, left value + dy1) and (x2, right value + dy2), so that two equal keys can
    still have a bump between them.
    """

    x1: float
    dy1: float
    x2: float
    dy2: float


class Excerpt(NamedTuple):
    """A segment plays only part of its easing: from `start` to `stop`, shares of the whole in time.

    `rise` is that of the whole, in the channel's own units, so that two equal keys can still have a
    bounce between them. What the ends of the segment miss of that is made up evenly over its time.
    """

    start: float
    stop: float
    rise: float


class Key(BaseModel):
    """One key of one channel. The segment to the next key belongs to it."""

    model_config = ConfigDict(frozen=True)

    id: Id
    channel_id: Id
    time: Frame
    value: Value
    ease: str = "linear"
    curve: Curve | None = None
    chart: tuple[float, ...] = Field(default=(), max_length=MOST_TICKS)
    """Shares of the rise at equal steps of the segment's time, its ends left out."""
    excerpt: Excerpt | None = None
    """Of a named easing or a chart: what of it is played, if not the whole."""
    stay: bool = False
    """Repeats the key before it: the channel stands still until here."""
    aside: bool = False
    """Made while its bone was not chosen, as part of a pose."""

    @model_validator(mode="after")
    def _known_ease(self) -> Key:
        if self.ease not in (FREE, CHART) and self.ease not in EASINGS:
            raise ValueError(f"there is no easing called {self.ease!r}")
        if self.ease == CHART and not (self.chart and all(abs(share) <= MOST_SHARE for share in self.chart)):
            raise ValueError("a timing chart needs ticks, none of them further than three times the rise away")
        if self.excerpt is not None:
            start, stop, rise = self.excerpt
            if self.ease == FREE or not (0 <= start < stop <= 1 and abs(rise) <= GREATEST):
                raise ValueError("an excerpt lies within an easing or a chart, and has a finite rise")
        if self.ease == FREE:
            if self.curve is None:
                raise ValueError("a free segment needs its curve")
            if not all(abs(v) <= GREATEST for v in self.curve):  # which a number that is none does not say
                raise ValueError("a curve's handles must be finite, and not too far")
            if not (0 <= self.curve.x1 <= 1 and 0 <= self.curve.x2 <= 1):
                raise ValueError("a curve's handles must lie between its keys in time")
        return self


WHOLE: dict[str, object] = {"curve": None, "chart": (), "excerpt": None}
"""What a key is given besides a named easing that it plays as it is."""


def eased_like(key: Key, other: Key) -> Key:
    """A key whose segment plays what another one's does."""
    return key.model_copy(
        update={"ease": other.ease, "curve": other.curve, "chart": other.chart, "excerpt": other.excerpt}
    )


def steeper(key: Key, gain: float) -> Key:
    """A key whose segment rises and bends by so many times as much in its own units; below 0, the other way."""
    curve, part = key.curve, key.excerpt
    bent = curve and Curve(curve.x1, curve.dy1 * gain, curve.x2, curve.dy2 * gain)
    return key.model_copy(update={"curve": bent, "excerpt": part and part._replace(rise=part.rise * gain)})


def curve_from_shares(x1: float, y1: float, x2: float, y2: float, rise: float) -> Curve:
    """A curve given in shares of time and of the value's rise, for a segment that rises by `rise`."""
    return Curve(x1, y1 * rise, x2, (y2 - 1) * rise)


def curve_to_shares(curve: Curve, rise: float) -> tuple[float, float, float, float] | None:
    """The reverse of `curve_from_shares`; None for a segment that does not rise."""
    if abs(rise) < 1e-12:
        return None
    return curve.x1, curve.dy1 / rise, curve.x2, 1 + curve.dy2 / rise


def refit_curve(curve: Curve, old_rise: float, new_rise: float) -> Curve:
    """The same shape on another segment; where the old one did not rise, its offsets are kept."""
    shares = curve_to_shares(curve, old_rise)
    return curve if shares is None else curve_from_shares(*shares, new_rise)
