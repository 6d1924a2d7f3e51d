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
from gaitwire.core.timing.key import WHOLE
from gaitwire.core.tolerances import TIME
from gaitwire.services.library.phrases import keep_phrase, phrase_at
from gaitwire.services.scene.clips import ClipWork
from gaitwire.services.session.revising import revised
from gaitwire.store.history import Edit

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


class PhraseWork(ClipWork):
    """Gestures with phrases."""

    def use(self, use_id: str) -> PhraseUse:
        """A use of a phrase in the scene; raises NotFoundError."""
        found = next((u for u in self.scene.phrase_uses if u.id == use_id), None)
        if found is None:
            raise NotFoundError("This phrase is not there any more.", "Choose another.")
        return found

    def played(self, use: PhraseUse) -> Phrase:
        """What a use plays; raises NotFoundError where it is tied to what is gone."""
        found = resolved(use, self.workspace.phrases(self.scene.model_copy(update={"phrase_uses": (use,)})))
        if found is None:
            raise NotFoundError("The phrase that this follows is gone.", "Undo that on the Shelf, or take this away.")
        return found

    def fit_to_loop(self, use_id: str) -> int:
        """Let a phrase be played whole times round the loop, a little slower or faster for that; how many times."""
        use, scene = self.use(use_id), self.scene
        if scene.loop_length is None:
            raise InvalidInputError("This scene does not loop.", "Tick “loops” on its card first.")
        once = self.course(use).round
        count = max(1, round(scene.loop_length / once))
        pace = use.pace * scene.loop_length / (count * once)
        self.set_use(use_id, {"repeats": count, "pace": pace, "around": True, "fade_in": 0.0, "fade_out": 0.0})
        return count

    def course(self, use: PhraseUse) -> PhraseCourse:
        """When a use plays what."""
        return PhraseCourse(use, self.played(use).length, self.scene.frames, self.scene.loop_length)

    def at_the_end(self, before: Scene) -> AtTheEnd:
        """What another length of the scene than it had does to its phrases."""
        scene, longer = self.scene, self.scene.frames - before.frames
        found = AtTheEnd([], [])
        for use in scene.phrase_uses if longer else ():
            try:
                phrase = self.played(use)
            except NotFoundError:
                continue
            was = PhraseCourse(use, phrase.length, before.frames, before.loop_length)
            if longer > 0 and not use.repeats and use.start < before.frames:
                found.going_on.append(use.id)
            elif self.course(use).cut > was.cut + TIME:
                found.cut.append(phrase.name)
        return found

    def end_by(self, use_ids: Collection[str], frame: float) -> None:
        """Let phrases that go on and on end with the round in which they are on a frame."""
        with self.edit("let phrases end") as edit:
            uses = [u for u in self.scene.phrase_uses if u.id in use_ids]
            self.refuse_locked([(u.instance_id, u.instance_id) for u in uses])
            rounds = {u.id: math.ceil((frame - u.start) / self.course(u).round - TIME) for u in uses}
            edit.put("phrase_uses", [u.model_copy(update={"repeats": max(1, rounds[u.id])}) for u in uses])

    def phrase_from(self, beads: Sequence[Bead], name: str, **more: Any) -> Phrase:
        """The phrase that beads of one puppet make, drawings and order included; not kept yet."""
        whose = {b.instance_id for b in beads}
        if len(whose) > 1:
            raise InvalidInputError("These beads are of several puppets.", "Choose beads of one puppet.")
        clip = self.copy_of(beads)
        if not clip.rows:
            raise InvalidInputError("There is nothing to make a phrase of.", "Choose beads of bones, pins or drawings.")
        measure = self._measure(whose.pop())
        last = max(k.time for row in clip.rows for k in row.keys)
        try:
            return Phrase(
                id="", name=name, length=max(last, LEAST), rows=clip.rows, size=measure.size,
                seat=measure.seat, facing=1 if measure.facing > 0 else -1, **more,
            )  # fmt: skip
        except ValidationError as error:
            raise InvalidInputError(*explained(error)) from None

    def _measure(self, instance_id: str) -> PhraseScale:
        instance = self.instance(instance_id)
        return measure_of(self.workspace.puppet(instance.puppet_id), instance.pixels)

    def make_phrase(self, beads: Sequence[Bead], name: str, put: bool = False, **more: Any) -> str:
        """Keep a phrase made from beads; its id. With `put` it takes their place, tied: the picture stays as it was."""
        if put:
            self.refuse_locked((b.instance_id, b.owner_id) for b in beads)
        phrase_id = keep_phrase(self.workspace, self.phrase_from(beads, name, **more))
        if put:
            start = min(b.time for b in beads)
            use = PhraseUse(
                id=new_id(), scene_id=self.scene_id, instance_id=beads[0].instance_id, source=phrase_id, start=start,
                goes_on=True,
            )  # fmt: skip
            with self.edit("put a phrase in place of beads") as edit:
                self._level(edit, beads)
                edit.put("phrase_uses", [use])
        return phrase_id

    def _level(self, edit: Edit, beads: Sequence[Bead]) -> None:
        """Where beads were, leave what was there first: their first key, held until their last."""
        keys = self.scene.keys_by_channel()
        channels = {c.id: c for c in self.scene.channels}
        for channel_id, chosen in self.chosen_keys(beads).items():
            own = [k for k in keys[channel_id] if k.id in chosen]
            first, last, channel = own[0], own[-1], channels[channel_id]
            self.means((channel.instance_id, channel.owner_id), first.time, last.time)
            edit.remove("keys", [k.id for k in own[1:]])
            held = {**WHOLE, "ease": "hold", "stay": False}
            edit.put("keys", [first.model_copy(update=held)])
            if last is not first and not PROPERTIES[channel.owner_kind][channel.property].stepped:
                edit.put("keys", [last.model_copy(update={"value": first.value, "stay": False})])

    def renew_phrase(self, ref: str, beads: Sequence[Bead]) -> None:
        """Give a phrase of one's own the motion of some beads; what is tied to it follows, in every scene."""
        if ref in READY:
            raise InvalidInputError("The phrases that ship stay as they are.", "Make one of your own.")
        old = self.workspace.phrase(ref)
        kept = {name: getattr(old, name) for name in ("tags", "view", "counts_from", "goes_on")}
        made = self.phrase_from(beads, old.name, **kept)
        with self.workspace.edit(f"renew the phrase “{old.name}”", [ref, self.scene_id]) as edit:
            edit.put("phrases", [made.model_copy(update={"id": ref})])

    def put_phrase(self, instance_id: str, ref: str, start: float, **more: Any) -> Put:
        """Lay a phrase on a puppet from a frame on, tied to it; raises InvalidInputError where nothing answers."""
        phrase = phrase_at(self.workspace, ref)
        try:
            use = PhraseUse(
                id=new_id(), scene_id=self.scene_id, instance_id=instance_id, source=ref, start=start,
                **{"goes_on": phrase.goes_on, **_stilled(phrase), **more},
            )  # fmt: skip
        except ValidationError as error:
            raise InvalidInputError(*explained(error)) from None
        unmatched = self.unmatched(use)
        with self.edit(f"phrase: {phrase.name}") as edit:
            self.refuse_locked([(instance_id, instance_id)])
            edit.put("phrase_uses", [use])
        view = self.workspace.puppet(self.instance(instance_id).puppet_id).view
        suits = view in SUITED[phrase.view]
        return Put(use.id, unmatched, "" if suits else VIEWS[view].label)

    def unmatched(self, use: PhraseUse) -> list[str]:
        """What of a phrase has no counterpart on its puppet; raises InvalidInputError where nothing has one."""
        phrase = self.played(use)
        puppet = self.workspace.puppet(self.instance(use.instance_id).puppet_id)
        marks = dict.fromkeys(row.owner for row in phrase.rows)
        missing = [m for m in marks if answering(m, puppet, use) is None]
        if len(missing) == len(marks):
            raise InvalidInputError(
                f"Nothing on “{puppet.name}” answers to “{phrase.name}”.",
                "Give its bones names or roles on the Bench.",
            )
        return [m.name or (m.role if m.side == "centre" else f"{m.side} {m.role}") for m in missing]

    def set_use(self, use_id: str, values: Mapping[str, Any]) -> None:
        """Change a use: when it begins, how often, how far, how it comes and goes; or its settings, by name."""
        use, changed = self.use(use_id), dict(values)
        if "settings" in changed:
            ready = READY.get(use.source)
            if ready is None:
                raise InvalidInputError("Only phrases that ship have settings.", "Change its amount or its pace.")
            changed["settings"] = ready.values({**use.settings, **changed["settings"]})
        made = revised(use, changed)
        if made.begins >= self.played(made).length - TIME:
            raise InvalidInputError("Nothing is left of the phrase.", f"It takes {self.played(made).length:g} frames.")
        with self.edit("change a phrase") as edit:
            self.refuse_locked([(use.instance_id, use.instance_id)])
            edit.put("phrase_uses", [made])

    def drag_use(self, use_id: str, start: float, stop: float) -> None:
        """Move a use, or trim it at an end; beyond its own end it is repeated."""
        use = self.use(use_id)
        course = self.course(use)
        by, longer = start - use.start, (stop - start) - course.span
        values: dict[str, Any] = {"start": start}
        if abs(longer) > TIME and abs(by) > TIME:  # by its beginning
            values["begins"] = min(max(use.begins + by / use.pace, 0.0), course.ends - LEAST / use.pace)
        elif abs(longer) > TIME:
            values |= self._until(use, course, stop - start)
        self.set_use(use_id, values)

    def _until(self, use: PhraseUse, course: PhraseCourse, span: float) -> dict[str, Any]:
        length = self.played(use).length
        whole = (length - use.begins) * use.pace
        if span > whole + TIME:
            return {"ends": None, "repeats": max(1, round(span / whole))}
        ends = use.begins + max(span, LEAST) / use.pace
        return {"ends": None if ends >= length - TIME else ends, "repeats": 1}

    def untie(self, use_id: str) -> None:
        """Give a use its own motion, as it is now: it follows its source no longer."""
        use = self.use(use_id)
        if not use.source:
            raise InvalidInputError("It is tied to nothing.", "Keep it as a phrase to use it elsewhere.")
        own = self.played(use).model_copy(update={"id": "", "revision": 0})
        with self.edit("untie a phrase") as edit:
            edit.put("phrase_uses", [use.model_copy(update={"source": "", "phrase": own, "settings": {}})])

    def keep_use(self, use_id: str, name: str = "") -> str:
        """Keep what a use plays as a phrase of one's own, and tie it to that; its id."""
        use = self.use(use_id)
        phrase = self.played(use)
        ref = keep_phrase(self.workspace, phrase.model_copy(update={"name": name or phrase.name}))
        with self.edit("tie a phrase") as edit:
            edit.put("phrase_uses", [use.model_copy(update={"source": ref, "phrase": None, "settings": {}})])
        return ref

    def copy_use(self, use_id: str, frame: float) -> str:
        """The same once more, from a frame on; its id."""
        made = revised(self.use(use_id), {"id": new_id(), "start": frame})
        with self.edit("duplicate a phrase") as edit:
            edit.put("phrase_uses", [made])
        return made.id

    def remove_use(self, use_id: str) -> None:
        """Take a use away; the phrase that it is tied to stays."""
        use = self.use(use_id)
        with self.edit("take a phrase away") as edit:
            self.refuse_locked([(use.instance_id, use.instance_id)])
            edit.remove("phrase_uses", [use_id])


def _stilled(phrase: Phrase) -> dict[str, float]:
    """What holds still what lies beneath takes hold of it, and lets it go, over some frames."""
    if not phrase.still:
        return {}
    return {"still": phrase.still, "fade_in": min(4.0, phrase.length / 4), "fade_out": min(8.0, phrase.length / 4)}
