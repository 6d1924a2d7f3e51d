"""What the Floor's cards offer about phrases."""

from __future__ import annotations

from typing import NamedTuple

from gaitwire.core.errors import InvalidInputError, NotFoundError
from gaitwire.core.motion.phrase import (
    COUNTS,
    ENDINGS,
    VIEWS,
    Ending,
    From,
    Phrase,
    PhraseCourse,
    PhraseUse,
    SuitedView,
)
from gaitwire.core.motion.ready import READY, Param
from gaitwire.services.library.phrases import ListedPhrase, list_phrases, tags_of
from gaitwire.services.scene.gestures import SceneState
from gaitwire.services.scene.phrases import course_of_use, find_use, phrase_of_use, unmatched_of


class UseRow(NamedTuple):
    """A use of a phrase as a row: its name, and from where to where it is played."""

    use: PhraseUse
    name: str
    stop: float | None
    """None where what it is tied to is gone."""


class Finder(NamedTuple):
    """A puppet's phrases, and all that could be laid on it."""

    uses: list[UseRow]
    listed: list[ListedPhrase]
    tags: list[str]
    puppet: str
    revision: int


class UseCard(NamedTuple):
    """All about one use."""

    row: UseRow
    phrase: Phrase | None
    course: PhraseCourse | None
    settings: list[tuple[Param, float]]
    unmatched: list[str]
    views: dict[SuitedView, str] = VIEWS
    endings: dict[str, Ending] = ENDINGS


class PhraseMaking(NamedTuple):
    """What a phrase can be made as."""

    own: list[ListedPhrase]
    counts: dict[From, str] = COUNTS


def making(view: SceneState) -> PhraseMaking:
    """For the card about beads."""
    return PhraseMaking([listed for listed in list_phrases(view.workspace) if listed.own])


def finder(view: SceneState, instance_id: str) -> Finder:
    """For the card about a puppet."""
    listed = list_phrases(view.workspace)
    puppet = view.puppet_of(instance_id)
    uses = [_row(view, u) for u in view.scene.phrase_uses if u.instance_id == instance_id]
    return Finder(uses, listed, tags_of(listed), puppet.id, puppet.revision)


def _row(view: SceneState, use: PhraseUse) -> UseRow:
    try:
        return UseRow(use, phrase_of_use(view, use).name, course_of_use(view, use).stop)
    except NotFoundError:
        return UseRow(use, "its phrase is gone", None)


def use_card(view: SceneState, use_id: str) -> UseCard:
    """For the card about one use; raises NotFoundError."""
    use = find_use(view, use_id)
    row = _row(view, use)
    if row.stop is None:
        return UseCard(row, None, None, [], [])
    ready = READY.get(use.source)
    values = ready.values(use.settings) if ready else {}
    try:
        missing = unmatched_of(view, use)
    except InvalidInputError as error:
        missing = [str(error)]
    settings = [(s, values[s.name]) for s in ready.settings] if ready else []
    return UseCard(row, phrase_of_use(view, use), course_of_use(view, use), settings, missing)
