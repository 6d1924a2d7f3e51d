"""Phrases in a scene: made from beads, laid on puppets, changed, untied, made into keys."""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping, Sequence
from typing import Any, NamedTuple

from pydantic import ValidationError

from gaitwire.core.addresses import Bead
from gaitwire.core.errors import InvalidInputError, NotFoundError
from gaitwire.core.explaining import explained
from gaitwire.core.ids import new_id
from gaitwire.core.motion.composed_phrases import PhraseScale, answering, measure_of, resolved
from gaitwire.core.motion.phrase import SUITED, Phrase, PhraseCourse, PhraseUse
from gaitwire.core.motion.ready import READY
from gaitwire.core.puppet.views import VIEWS
from gaitwire.core.scene import Scene
from gaitwire.core.timing.channel import PROPERTIES
from gaitwire.core.timing.key import WHOLE, Key
from gaitwire.core.tolerances import TIME
from gaitwire.services.library.phrases import keep_phrase, phrase_at
from gaitwire.services.scene.clips import clip_of_beads
from gaitwire.services.scene.gestures import Draft, SceneState, gesture
from gaitwire.services.session.revising import revised

LEAST = 1.0
"""Frames that a phrase takes at least: one pose is held for as long."""


class Put(NamedTuple):
    """A phrase that was laid: its use, and the names of what has no counterpart on the puppet."""

    use: str
    unmatched: list[str]
    elsewhere: str = ""
    """From where the puppet is drawn, where the phrase suits another view."""


class AtTheEnd(NamedTuple):
    """Ids of phrases without an end that go on with a longer scene; names of those that a shorter one cuts."""

    going_on: list[str]
    cut: list[str]


def find_use(floor: SceneState, use_id: str) -> PhraseUse:
    """A use of a phrase in the scene; raises NotFoundError."""
    found = next((u for u in floor.scene.phrase_uses if u.id == use_id), None)
    if found is None:
        raise NotFoundError("This phrase is not there any more.", "Choose another.")
    return found


def phrase_of_use(floor: SceneState, use: PhraseUse) -> Phrase:
    """What a use plays; raises NotFoundError where it is tied to what is gone."""
    found = resolved(use, floor.workspace.phrases(floor.scene.model_copy(update={"phrase_uses": (use,)})))
    if found is None:
        raise NotFoundError("The phrase that this follows is gone.", "Undo that on the Shelf, or take this away.")
    return found


@gesture()
def fit_phrase_to_loop(draft: Draft, use_id: str) -> int:
    """Let a phrase be played whole times round the loop, a little slower or faster for that; how many times."""
    use, scene = find_use(draft, use_id), draft.scene
    if scene.loop_length is None:
        raise InvalidInputError("This scene does not loop.", "Tick “loops” on its card first.")
    once = course_of_use(draft, use).round
    count = max(1, round(scene.loop_length / once))
    pace = use.pace * scene.loop_length / (count * once)
    set_use(draft, use_id, {"repeats": count, "pace": pace, "around": True, "fade_in": 0.0, "fade_out": 0.0})
    return count


def course_of_use(floor: SceneState, use: PhraseUse) -> PhraseCourse:
    """When a use plays what."""
    return PhraseCourse(use, phrase_of_use(floor, use).length, floor.scene.frames, floor.scene.loop_length)


def phrases_at_the_end(floor: SceneState, before: Scene) -> AtTheEnd:
    """What another length of the scene than it had does to its phrases."""
    scene, longer = floor.scene, floor.scene.frames - before.frames
    found = AtTheEnd([], [])
    for use in scene.phrase_uses if longer else ():
        try:
            phrase = phrase_of_use(floor, use)
        except NotFoundError:
            continue
        was = PhraseCourse(use, phrase.length, before.frames, before.loop_length)
        if longer > 0 and not use.repeats and use.start < before.frames:
            found.going_on.append(use.id)
        elif course_of_use(floor, use).cut > was.cut + TIME:
            found.cut.append(phrase.name)
    return found


@gesture("let phrases end")
def end_phrases_by(draft: Draft, use_ids: Collection[str], frame: float) -> None:
    """Let phrases that go on and on end with the round in which they are on a frame."""
    uses = [u for u in draft.scene.phrase_uses if u.id in use_ids]
    draft.refuse_locked([(u.instance_id, u.instance_id) for u in uses])
    rounds = {u.id: math.ceil((frame - u.start) / course_of_use(draft, u).round - TIME) for u in uses}
    draft.put([u.model_copy(update={"repeats": max(1, rounds[u.id])}) for u in uses])


def phrase_from_beads(floor: SceneState, beads: Sequence[Bead], name: str, **more: Any) -> Phrase:
    """The phrase that beads of one puppet make, drawings and order included; not kept yet."""
    whose = {b.instance_id for b in beads}
    if len(whose) > 1:
        raise InvalidInputError("These beads are of several puppets.", "Choose beads of one puppet.")
    clip = clip_of_beads(floor, beads)
    if not clip.rows:
        raise InvalidInputError("There is nothing to make a phrase of.", "Choose beads of bones, pins or drawings.")
    measure = _measure(floor, whose.pop())
    last = max(k.time for row in clip.rows for k in row.keys)
    try:
        return Phrase(
            id="", name=name, length=max(last, LEAST), rows=clip.rows, size=measure.size,
            seat=measure.seat, facing=1 if measure.facing > 0 else -1, **more,
        )  # fmt: skip
    except ValidationError as error:
        raise InvalidInputError(*explained(error)) from None


def _measure(floor: SceneState, instance_id: str) -> PhraseScale:
    instance = floor.instance(instance_id)
    return measure_of(floor.workspace.puppet(instance.puppet_id), instance.pixels)


@gesture("put a phrase in place of beads")
def make_phrase(draft: Draft, /, beads: Sequence[Bead], name: str, put: bool = False, **more: Any) -> str:
    """Keep a phrase made from beads; its id. With `put` it takes their place, tied: the picture stays as it was."""
    if put:
        draft.refuse_locked((b.instance_id, b.owner_id) for b in beads)
    phrase_id = keep_phrase(draft.workspace, phrase_from_beads(draft, beads, name, **more))
    if put:
        start = min(b.time for b in beads)
        use = PhraseUse(
            id=new_id(), scene_id=draft.scene_id, instance_id=beads[0].instance_id, source=phrase_id, start=start,
            goes_on=True,
        )  # fmt: skip
        _level(draft, beads)
        draft.put([use])
    return phrase_id


def _level(draft: Draft, beads: Sequence[Bead]) -> None:
    """Where beads were, leave what was there first: their first key, held until their last."""
    keys = draft.scene.keys_by_channel()
    channels = {c.id: c for c in draft.scene.channels}
    for channel_id, chosen in draft.chosen_keys(beads).items():
        own = [k for k in keys[channel_id] if k.id in chosen]
        first, last, channel = own[0], own[-1], channels[channel_id]
        draft.means((channel.instance_id, channel.owner_id), first.time, last.time)
        draft.remove(Key, [k.id for k in own[1:]])
        held = {**WHOLE, "ease": "hold", "stay": False}
        draft.put([first.model_copy(update=held)])
        if last is not first and not PROPERTIES[channel.owner_kind][channel.property].stepped:
            draft.put([last.model_copy(update={"value": first.value, "stay": False})])


def renew_phrase(floor: SceneState, ref: str, beads: Sequence[Bead]) -> None:
    """Give a phrase of one's own the motion of some beads; what is tied to it follows, in every scene."""
    if ref in READY:
        raise InvalidInputError("The phrases that ship stay as they are.", "Make one of your own.")
    old = floor.workspace.phrase(ref)
    kept = {name: getattr(old, name) for name in ("tags", "view", "counts_from", "goes_on")}
    made = phrase_from_beads(floor, beads, old.name, **kept)
    with floor.workspace.edit(f"renew the phrase “{old.name}”", [ref, floor.scene_id]) as edit:
        edit.put("phrases", [made.model_copy(update={"id": ref})])


@gesture()
def put_phrase(draft: Draft, /, instance_id: str, ref: str, start: float, **more: Any) -> Put:
    """Lay a phrase on a puppet from a frame on, tied to it; raises InvalidInputError where nothing answers."""
    phrase = phrase_at(draft.workspace, ref)
    try:
        use = PhraseUse(
            id=new_id(), scene_id=draft.scene_id, instance_id=instance_id, source=ref, start=start,
            **{"goes_on": phrase.goes_on, **_stilled(phrase), **more},
        )  # fmt: skip
    except ValidationError as error:
        raise InvalidInputError(*explained(error)) from None
    unmatched = unmatched_of(draft, use)
    draft.labelled(f"phrase: {phrase.name}")
    draft.refuse_locked([(instance_id, instance_id)])
    draft.put([use])
    view = draft.puppet_of(instance_id).view
    suits = view in SUITED[phrase.view]
    return Put(use.id, unmatched, "" if suits else VIEWS[view].label)


def unmatched_of(floor: SceneState, use: PhraseUse) -> list[str]:
    """What of a phrase has no counterpart on its puppet; raises InvalidInputError where nothing has one."""
    phrase = phrase_of_use(floor, use)
    puppet = floor.puppet_of(use.instance_id)
    marks = dict.fromkeys(row.owner for row in phrase.rows)
    missing = [m for m in marks if answering(m, puppet, use) is None]
    if len(missing) == len(marks):
        raise InvalidInputError(
            f"Nothing on “{puppet.name}” answers to “{phrase.name}”.",
            "Give its bones names or roles on the Bench.",
        )
    return [m.name or (m.role if m.side == "centre" else f"{m.side} {m.role}") for m in missing]


@gesture("change a phrase")
def set_use(draft: Draft, use_id: str, values: Mapping[str, Any]) -> None:
    """Change a use: when it begins, how often, how far, how it comes and goes; or its settings, by name."""
    use, changed = find_use(draft, use_id), dict(values)
    if "settings" in changed:
        ready = READY.get(use.source)
        if ready is None:
            raise InvalidInputError("Only phrases that ship have settings.", "Change its amount or its pace.")
        changed["settings"] = ready.values({**use.settings, **changed["settings"]})
    made = revised(use, changed)
    if made.begins >= phrase_of_use(draft, made).length - TIME:
        raise InvalidInputError(
            "Nothing is left of the phrase.", f"It takes {phrase_of_use(draft, made).length:g} frames."
        )
    draft.refuse_locked([(use.instance_id, use.instance_id)])
    draft.put([made])


@gesture()
def drag_use(draft: Draft, use_id: str, start: float, stop: float) -> None:
    """Move a use, or trim it at an end; beyond its own end it is repeated."""
    use = find_use(draft, use_id)
    course = course_of_use(draft, use)
    by, longer = start - use.start, (stop - start) - course.span
    values: dict[str, Any] = {"start": start}
    if abs(longer) > TIME and abs(by) > TIME:  # by its beginning
        values["begins"] = min(max(use.begins + by / use.pace, 0.0), course.ends - LEAST / use.pace)
    elif abs(longer) > TIME:
        values |= _until(draft, use, course, stop - start)
    set_use(draft, use_id, values)


def _until(floor: SceneState, use: PhraseUse, course: PhraseCourse, span: float) -> dict[str, Any]:
    length = phrase_of_use(floor, use).length
    whole = (length - use.begins) * use.pace
    if span > whole + TIME:
        return {"ends": None, "repeats": max(1, round(span / whole))}
    ends = use.begins + max(span, LEAST) / use.pace
    return {"ends": None if ends >= length - TIME else ends, "repeats": 1}


@gesture("untie a phrase")
def untie_use(draft: Draft, use_id: str) -> None:
    """Give a use its own motion, as it is now: it follows its source no longer."""
    use = find_use(draft, use_id)
    if not use.source:
        raise InvalidInputError("It is tied to nothing.", "Keep it as a phrase to use it elsewhere.")
    own = phrase_of_use(draft, use).model_copy(update={"id": "", "revision": 0})
    draft.put([use.model_copy(update={"source": "", "phrase": own, "settings": {}})])


@gesture("tie a phrase")
def keep_use(draft: Draft, use_id: str, name: str = "") -> str:
    """Keep what a use plays as a phrase of one's own, and tie it to that; its id."""
    use = find_use(draft, use_id)
    phrase = phrase_of_use(draft, use)
    ref = keep_phrase(draft.workspace, phrase.model_copy(update={"name": name or phrase.name}))
    draft.put([use.model_copy(update={"source": ref, "phrase": None, "settings": {}})])
    return ref


@gesture("duplicate a phrase")
def copy_use(draft: Draft, use_id: str, frame: float) -> str:
    """The same once more, from a frame on; its id."""
    made = revised(find_use(draft, use_id), {"id": new_id(), "start": frame})
    draft.put([made])
    return made.id


@gesture("take a phrase away")
def remove_use(draft: Draft, use_id: str) -> None:
    """Take a use away; the phrase that it is tied to stays."""
    use = find_use(draft, use_id)
    draft.refuse_locked([(use.instance_id, use.instance_id)])
    draft.remove(PhraseUse, [use_id])


def _stilled(phrase: Phrase) -> dict[str, float]:
    """What holds still what lies beneath takes hold of it, and lets it go, over some frames."""
    if not phrase.still:
        return {}
    return {"still": phrase.still, "fade_in": min(4.0, phrase.length / 4), "fade_out": min(8.0, phrase.length / 4)}
