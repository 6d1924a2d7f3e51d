"""Phrases laid on a puppet: what each moves there, and by how much on which frames."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from gaitwire.core.addresses import OwnAddress
from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.motion.phrase import Phrase, PhraseCourse, Phrases, PhraseUse
from gaitwire.core.motion.ready import READY, phrase_of
from gaitwire.core.puppet.counterpart import Owner, OwnerMark, counterpart
from gaitwire.core.puppet.mirroring import OTHER_SIDE
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.timing.channel import LED, PROPERTIES, Channel, OwnerKind
from gaitwire.core.timing.clip import ClipRow
from gaitwire.core.timing.key import Key
from gaitwire.core.timing.sample import KeyTable, compile_keys, sample
from gaitwire.core.tolerances import TIME
from gaitwire.core.walk.walker import walker_of

_STANDS_IN = {"chest": ("torso", "waist"), "torso": ("chest",), "hand": (), "neck": ()}
"""Roles that take over from one which a puppet lacks."""
_LEAST_RATIO = 0.01
"""A ratio below this is nothing that another could be compared with."""


class PhraseScale(NamedTuple):
    """What phrases are fitted to: a puppet's leg in its pixels, where it looks, scene pixels for one of its own."""

    size: float
    facing: int
    seat: float


def measure_of(puppet: Puppet, pixels: float) -> PhraseScale:
    """A puppet's; without legs, by half the height of its bones. `pixels` is less than 0 where it is turned round."""
    try:
        walker = walker_of(puppet)
        return PhraseScale(walker.length, int(walker.facing), pixels)
    except InvalidInputError:
        heights = [b.y for b in puppet.bones]
        return PhraseScale(max((max(heights) - min(heights)) / 2, 1.0) if heights else 1.0, 1, pixels)


@dataclass(frozen=True)
class Lanes:
    """What a use of a phrase moves of one kind: L properties."""

    name: str
    course: PhraseCourse
    addresses: tuple[OwnAddress, ...]
    keys: KeyTable
    base: FloatArray  # (L,) what values count from
    gain: FloatArray  # (L,) what each round adds to the one before it, or by what it multiplies it
    factor: FloatArray  # (L,) from the puppet on which it was made to this one
    ratio: np.ndarray  # (L,) whether values multiply
    stepped: np.ndarray  # (L,) whether they stand in for what is there
    following: FloatArray  # (L,) frames since its start at which the next key comes; inf where none does

    def composed(self, beneath: FloatArray, frames: FloatArray, held: FloatArray) -> FloatArray:
        """What is beneath (L, F) on the frames (F,) with the phrase on top; `held` (L,) is that when it began."""
        use = self.course.use
        since = self.course.since(frames)
        times, rounds = self.course.played(since)
        raw = sample(self.keys, times)
        shares = self._shares(since)
        column = np.s_[:, None]
        base, gain, factor = self.base[column], self.gain[column], self.factor[column]
        under = beneath + use.still * shares * (held[column] - beneath)
        by = use.amount * shares
        ratio = self.ratio[column]
        times_over = raw / np.where(ratio, base, 1.0) * np.where(ratio, gain, 1.0) ** rounds
        moved = np.where(ratio, under * (1 + (times_over - 1) * by), under + factor * (raw - base + gain * rounds) * by)
        shows = self._shows(since)
        return np.where(self.stepped[column], np.where(shows & (raw != LED), raw, beneath), moved)

    def _shares(self, since: FloatArray) -> FloatArray:
        """How much shows (L, F)."""
        if not self.course.use.goes_on:
            return np.broadcast_to(self.course.share(since), (len(self.addresses), len(since)))
        last, begun = self.following[:, None], np.full((len(self.addresses), 1), self.course.span)
        if self.course.use.change_in is not None:
            begun = np.where(np.isinf(last), begun, np.maximum(begun, last - self.course.use.change_in))
        over = np.clip((since - begun) / np.maximum(last - begun, TIME), 0.0, 1.0)
        return self.course.share(since, np.where(since < last - TIME, (1 + np.cos(np.pi * over)) / 2, 0.0))

    def _shows(self, since: FloatArray) -> np.ndarray:
        """Whether (L, F) it decides about what steps; one that goes on does until the next key."""
        running = self.course.running(since)
        if not self.course.use.goes_on:
            return np.broadcast_to(running, (len(self.addresses), len(since)))
        return running | ((since > 0) & (since < self.following[:, None] - TIME))


class Told(NamedTuple):
    """A use of a phrase with what it plays, in a scene of so many frames."""

    use: PhraseUse
    phrase: Phrase
    frames: int


def told(uses: Iterable[PhraseUse], known: Phrases, frames: int) -> tuple[Told, ...]:
    """Uses in order of time; one that is tied to what is not there sleeps and is left out."""
    found = ((use, resolved(use, known)) for use in sorted(uses, key=lambda u: (u.start, u.id)))
    return tuple(Told(use, phrase, frames) for use, phrase in found if phrase is not None)


def resolved(use: PhraseUse, known: Phrases) -> Phrase | None:
    """What a use plays: its own motion, a phrase that ships with its settings, or a known one; None if it is gone."""
    if use.phrase is not None:
        return use.phrase
    ready = READY.get(use.source)
    return phrase_of(ready, use.settings) if ready else known.get(use.source)


LanesByKind = Mapping[OwnerKind, Lanes]
"""A use of a phrase on a puppet, by the kind of what it moves."""

KeyRows = Iterable[tuple[Channel, Sequence[Key]]]


def compose_phrase(
    told: Told, puppet: Puppet, measure: PhraseScale, keyed: KeyRows, loop: float | None,
    there: Callable[[OwnerKind, OwnAddress], bool],
) -> LanesByKind:  # fmt: skip
    """A use on a puppet; `keyed` are that puppet's keys in the scene.

    What the puppet has nothing for, or what is not `there`, is left out.
    """
    use, phrase, frames = told
    course = PhraseCourse(use, phrase.length, frames, loop)
    known = {(c.owner_id, c.property): [k.time for k in keys] for c, keys in keyed}
    found: dict[OwnerKind, dict[OwnAddress, ClipRow]] = {}
    for row in phrase.rows:
        owner = answering(row.owner, puppet, use)
        prop = PROPERTIES[row.owner.kind].get(row.property)
        if owner is not None and prop is not None and there(row.owner.kind, (owner.id, row.property)):
            found.setdefault(row.owner.kind, {}).setdefault((owner.id, row.property), row)
    return {kind: _lanes(kind, rows, course, phrase, measure, known) for kind, rows in found.items()}


def answering(mark: OwnerMark, puppet: Puppet, use: PhraseUse) -> Owner | None:
    """What a use moves on a puppet where the phrase moves something."""
    for role in (mark.role, *_STANDS_IN.get(mark.role, ())):
        named = mark.model_copy(update={"role": role})
        found = counterpart(named, puppet, use.instance_id, use.other_side)
        if found is None and not mark.name:
            found = _longest(named, puppet, use.other_side)
        if found is not None:
            return found
    return None


def _longest(mark: OwnerMark, puppet: Puppet, other_side: bool) -> Owner | None:
    """Of several bones in a role the longest; a phrase that ships knows them by nothing else."""
    side = OTHER_SIDE[mark.side] if other_side else mark.side
    own = (b for b in puppet.bones if (b.role, b.side) == (mark.role, side))
    longest = max(own, key=lambda b: b.length, default=None)
    return Owner(longest.id, longest.angle) if longest else None


def _lanes(
    kind: OwnerKind, rows: Mapping[OwnAddress, ClipRow], course: PhraseCourse, phrase: Phrase, measure: PhraseScale,
    known: Mapping[OwnAddress, list[float]],
) -> Lanes:  # fmt: skip
    props = [PROPERTIES[kind][row.property] for row in rows.values()]
    stepped = np.array([p.stepped for p in props])
    ratio = np.array([p.rest == 1.0 for p in props]) & ~stepped
    keys = compile_keys([_held(row.keys, p.stepped) for row, p in zip(rows.values(), props, strict=True)], None)
    rest = np.array([p.rest for p in props])
    first = sample(keys, np.zeros(1))[:, 0] if phrase.counts_from == "first" else rest
    base = np.where(ratio & (first < _LEAST_RATIO), 1.0, first)
    begins, ends = sample(keys, np.array([course.begins, course.ends])).T
    # What goes on begins each round where the last one ended; what goes back begins anew.
    gained = np.where(ratio, ends / np.maximum(begins, _LEAST_RATIO), ends - begins)
    gain = gained if course.use.goes_on else np.where(ratio, 1.0, 0.0)
    factor = np.array([_factor(kind, row.property, phrase, measure) for row in rows.values()])
    following = np.array([_following(known.get(address, []), course) for address in rows])
    return Lanes(phrase.name, course, tuple(rows), keys, base, gain, factor, ratio, stepped, following)


def _held(keys: Sequence[Key], stepped: bool) -> Sequence[Key]:
    return [k.model_copy(update={"ease": "hold"}) for k in keys] if stepped else keys


def _following(times: Sequence[float], course: PhraseCourse) -> float:
    """Frames since its start at which the first key after it comes, or the end of a loop; inf where none does."""
    since = course.since(np.array(times, float)) if times else np.zeros(0)
    end = np.inf if course.loop is None or course.around else course.loop - course.use.start
    return float(min((t for t in since if t > course.span + TIME), default=end))


def _factor(kind: OwnerKind, prop: str, phrase: Phrase, measure: PhraseScale) -> float:
    """By what a value is multiplied to be the same movement on another puppet."""
    size, facing = measure.size / phrase.size, measure.facing * phrase.facing
    if kind == "seat":
        seat = measure.seat / phrase.seat
        size, facing = size * abs(seat), facing * (1 if seat > 0 else -1)
    if prop in ("shift_x", "tip_x"):
        return size * facing
    if prop in ("shift_y", "tip_y"):
        return size
    return float(facing) if prop in ("turn", "skew", "roll", "axis") else 1.0
