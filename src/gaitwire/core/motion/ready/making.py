"""How phrases that ship are made: settings, and keys by role.

Values are for a puppet that looks to the right, as turns in degrees clockwise on screen and shifts in
leg lengths: a trunk that leans forward and a chin that goes down turn by more than 0, an arm that is
raised in front by less.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from functools import lru_cache
from typing import NamedTuple

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.motion.phrase import Phrase, SuitedView
from gaitwire.core.puppet.counterpart import OwnerMark
from gaitwire.core.puppet.roles import Side
from gaitwire.core.timing.clip import ClipRow
from gaitwire.core.timing.key import Key
from gaitwire.core.tolerances import TIME

EASE = "sine-in-out"


class Param(NamedTuple):
    """One setting of a phrase: its bounds and what it does."""

    name: str
    label: str
    unit: str
    usual: float
    low: float
    high: float
    tip: str
    decimals: int = 1


Values = Mapping[str, float]


class Score(NamedTuple):
    """How long a phrase takes, in frames, and its keys."""

    length: float
    rows: tuple[ClipRow, ...]


class Ready(NamedTuple):
    """A phrase that ships."""

    name: str
    title: str
    tags: tuple[str, ...]
    view: SuitedView
    settings: tuple[Param, ...]
    make: Callable[[Values], Score]
    still: float = 0.0

    def values(self, given: Values) -> dict[str, float]:
        """Its settings with what is given of them; raises InvalidInputError for an unknown one, or beyond bounds."""
        known = {s.name: s for s in self.settings}
        for name, value in given.items():
            if name not in known:
                raise InvalidInputError(f"“{self.title}” has no “{name[:20]}”.", f"Known: {', '.join(known)}.")
            s = known[name]
            if not s.low <= value <= s.high:
                raise InvalidInputError(f"“{s.label}” goes from {s.low:g} to {s.high:g}.", "Type a number between.")
        return {s.name: given.get(s.name, s.usual) for s in self.settings}


@lru_cache(maxsize=256)
def _made(ready: Ready, values: tuple[tuple[str, float], ...]) -> Phrase:
    score = ready.make(dict(values))
    return Phrase(
        id=ready.name, name=ready.title, tags=ready.tags, view=ready.view, length=score.length, rows=score.rows,
        still=ready.still,
    )  # fmt: skip


def phrase_of(ready: Ready, given: Values) -> Phrase:
    """A phrase that ships with its settings, those not given as usual; raises InvalidInputError."""
    return _made(ready, tuple(ready.values(given).items()))


Waypoints = Sequence[tuple[float, float]]
"""(frame, value) in turn."""


def row(
    role: str,
    prop: str,
    points: Waypoints,
    side: Side = "centre",
    late: float = 0.0,
    share: float = 1.0,
    ease: str = EASE,
) -> ClipRow:
    """Keys of one bone, `late` frames behind the points and a share of their values; the first stays where it is."""
    placed: dict[float, float] = {}
    for n, (frame, value) in enumerate(points):
        time = frame + late if n else frame
        if placed and time <= max(placed) + TIME:
            placed.popitem()  # nothing lasts for no time: the later one counts
        placed[time] = value
    keys = tuple(
        Key(id=f"{role}-{side}-{prop}-{n}", channel_id="", time=float(time), value=float(value) * share, ease=ease)
        for n, (time, value) in enumerate(placed.items())
    )
    return ClipRow(owner=OwnerMark(kind="bone", owner_id="", name="", role=role, side=side), property=prop, keys=keys)


def score(*rows: ClipRow) -> Score:
    """Rows with the length that the last of their keys gives."""
    return Score(max(k.time for r in rows for k in r.keys), rows)
