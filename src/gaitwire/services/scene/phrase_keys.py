"""Phrases made into plain keys: what was seen stays, and nothing beyond the phrase changes."""

from __future__ import annotations

import math

import numpy as np

from gaitwire.core.conventions import FloatArray
from gaitwire.core.evaluate import compile_scene
from gaitwire.core.evaluate.inverse_layers import Beneath
from gaitwire.core.motion.composed_phrases import Lanes
from gaitwire.core.motion.phrase import PhraseCourse, PhraseUse
from gaitwire.core.tolerances import TIME
from gaitwire.services.scene.gestures import Draft, SceneState, gesture
from gaitwire.services.scene.own_keys import ALLOWED, KeysMade, own_course, worst_of
from gaitwire.services.scene.phrases import course_of_use, find_use


@gesture("make a phrase one's own")
def make_phrase_own(draft: Draft, use_id: str, allowed: float = ALLOWED) -> KeysMade:
    """Make keys of a use and take it away; raises LockedError where another phrase decides what is seen."""
    use = find_use(draft, use_id)
    course, lanes = course_of_use(draft, use), _lanes(draft, use)
    layers = _without(draft, use)
    draft.refuse_locked((use.instance_id, o) for one in lanes for o, _ in one.addresses)
    draft.remove(PhraseUse, [use_id])
    rows = [
        own_course(
            draft, (use.instance_id, *address), _reach(draft, use, course, float(one.following[n])), layers, allowed
        )
        for one in lanes
        for n, address in enumerate(one.addresses)
    ]
    return worst_of(rows)


def _lanes(floor: SceneState, use: PhraseUse) -> list[Lanes]:
    compiled_puppets = floor.compiled.compiled_puppets
    return [p.lanes for i in compiled_puppets for p in i.phrases if p.lanes.course.use.id == use.id]


def _without(floor: SceneState, use: PhraseUse) -> Beneath:
    """The layers of the scene as it will be."""
    compiled = floor.compiled
    others = tuple(u for u in floor.scene.phrase_uses if u.id != use.id)
    scene = floor.scene.model_copy(update={"phrase_uses": others})
    return Beneath(scene, lambda: compile_scene(scene, compiled.puppets, compiled.skins, compiled, compiled.phrases))


def _reach(floor: SceneState, use: PhraseUse, course: PhraseCourse, following: float) -> FloatArray:
    """Whole frames from the one before a use to the one after it, counted on beyond the end of a loop."""
    scene = floor.scene
    over = course.span
    if use.goes_on:
        left = scene.frames - 1 if scene.loop else max(scene.frames - 1 - use.start, 0.0)
        over = following if math.isfinite(following) else left
    first, last = math.ceil(use.start - TIME) - 1.0, math.floor(use.start + over + TIME) + 1.0
    if course.around:
        return np.arange(first, min(last, first + scene.frames - 1) + 0.5)
    return np.arange(max(first, 0.0), min(last, scene.frames - 1) + 0.5)
