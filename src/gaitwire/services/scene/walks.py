"""Walks as a layer beneath a puppet's keys: laid, changed with what was edited on top, made into keys."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from itertools import pairwise
from typing import Any, Literal, NamedTuple

import numpy as np

from gaitwire.core.addresses import Address
from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import InvalidInputError, NotFoundError
from gaitwire.core.evaluate.seat import moved_in
from gaitwire.core.ids import new_id
from gaitwire.core.owners import owner_name
from gaitwire.core.puppet.views import VIEWS
from gaitwire.core.timing.carry import carry_keys
from gaitwire.core.timing.channel import PROPERTIES, repeat_of
from gaitwire.core.timing.course import course_error, keys_through
from gaitwire.core.timing.sample import compile_keys, sample
from gaitwire.core.tolerances import TIME
from gaitwire.core.walk.card import GaitCard
from gaitwire.core.walk.span import RATIOS, Gait, GaitSpan, composed
from gaitwire.core.walk.walker import walker_of
from gaitwire.services.scene.gestures import Draft, SceneState, gesture
from gaitwire.services.scene.key_changes import store_keys
from gaitwire.services.scene.walk_keys import (
    cleared,
    make_room,
    mark_walk_poses,
    put_rows,
    take_walk_away,
    whole_frames,
)
from gaitwire.services.session.revising import revised

Density = Literal["poses", "breakdowns", "every"]
DENSITIES: dict[Density, str] = {
    "poses": "on its poses",
    "breakdowns": "and in between",
    "every": "on every frame",
}
"""Where keys are put when a walk is made into keys; hips and legs get one on every frame, so that feet stay."""


class Changed(NamedTuple):
    """What a changed walk has come to."""

    beyond: int
    """Beads that lie beyond its end now."""
    shortened: float | None
    """The stride in leg lengths, where longer ones are out of reach."""


class KeyedWalk(NamedTuple):
    """What a walk was made into."""

    keys: int
    error: float
    """Degrees or pixels by which the keys miss the walk at most, and where."""
    where: str


def find_gait(floor: SceneState, gait_id: str) -> GaitSpan:
    """A walk of the scene; raises NotFoundError."""
    found = next((g for g in floor.scene.gaits if g.id == gait_id), None)
    if found is None:
        raise NotFoundError("This walk is not there any more.", "Choose another.")
    return found


@gesture()
def put_gait(
    draft: Draft, /, instance_id: str, card: GaitCard, start: float = 0.0, stop: float | None = None,
    travels: bool = False,
    **more: Any,
) -> str:  # fmt: skip
    """Lay a walk beneath a puppet's keys from one frame to another; its id. Walks that lie there give way.

    Raises InvalidInputError for a puppet that lacks roles, and for frames that the scene has not.
    """
    walker_of(draft.puppet_of(instance_id))
    frames, scene = whole_frames(draft, start, stop), draft.scene
    # Around a loop a walk goes on to where it begins again.
    whole = scene.loop and frames[0] == 0 and frames[-1] == scene.frames - 1
    made = GaitSpan(
        id=new_id(), scene_id=draft.scene_id, instance_id=instance_id, start=frames[0],
        stop=scene.frames if whole else frames[-1], card=card, travels=travels, **more,
    )  # fmt: skip
    _refuse_view(draft, made)
    draft.labelled(f"walk: {card.name}")
    draft.refuse_locked([(instance_id, instance_id)])
    make_room(draft, instance_id, made.start, made.stop)
    draft.put([made])
    return made.id


def _refuse_view(floor: SceneState, span: GaitSpan) -> None:
    """Raise InvalidInputError for what a walk that is not seen from the side cannot do."""
    view = floor.puppet_of(span.instance_id).view
    if view != "side" and (span.pace == "seat" or span.slope):
        what = "on a slope" if span.slope else "as its puppet is moved"
        raise InvalidInputError(
            f"Drawn {VIEWS[view].label}, it cannot walk {what}.", "Let it go by the clock, or from standing."
        )


@gesture("change a walk")
def set_gait(draft: Draft, gait_id: str, values: Mapping[str, Any]) -> Changed:
    """Change a walk. Keys and poses that lie on it are carried along, each at its phase of the stride."""
    return _changed(draft, gait_id, values)


@gesture("let walks go on")
def reach_scene_end(draft: Draft, gait_ids: Collection[str]) -> None:
    """Let walks go on to the scene's last frame."""
    for gait_id in gait_ids:
        _changed(draft, gait_id, {"stop": draft.scene.frames - 1.0})


def _changed(draft: Draft, gait_id: str, values: Mapping[str, Any]) -> Changed:
    old = find_gait(draft, gait_id)
    made = revised(old, values)
    _refuse_view(draft, made)
    before, after = _on_puppet(draft, old), _on_puppet(draft, made)

    def moved(frames: FloatArray) -> FloatArray:
        return after.frames_at(before.phases_at(frames))

    draft.refuse_locked([(old.instance_id, old.instance_id)])
    make_room(draft, old.instance_id, made.start, made.stop, besides=gait_id)
    draft.put([made])
    beyond = _carry(draft, old, made, moved)
    return Changed(beyond, after.stride.length if after.stride.shortened else None)


def _carry(draft: Draft, old: GaitSpan, made: GaitSpan, moved: Callable[[FloatArray], FloatArray]) -> int:
    """Carry keys and poses along; how many beads lie beyond the walk's end then."""
    scene = draft.scene
    keys = scene.keys_by_channel()
    beyond: set[tuple[str, float]] = set()
    for channel in scene.channels:
        if channel.instance_id == old.instance_id:
            change = carry_keys(keys.get(channel.id, []), old.start, old.stop, moved)
            store_keys(draft, change)
            beyond |= {(channel.owner_id, k.time) for k in change.put if k.time > made.stop + TIME}
    own = [p for p in scene.poses if p.instance_id == old.instance_id and old.start <= p.time <= old.stop]
    times = moved(np.array([p.time for p in own], float)).tolist()
    draft.put([p.model_copy(update={"time": t}) for p, t in zip(own, times, strict=True)])
    return len(beyond)


@gesture("take a walk away")
def remove_gait(draft: Draft, gait_id: str) -> None:
    """Take a walk away; keys that lie on it stay."""
    draft.refuse_locked([(find_gait(draft, gait_id).instance_id,) * 2])
    take_walk_away(draft, gait_id)


@gesture("make a walk one's own")
def make_walks_own(draft: Draft, instance_id: str, density: Density = "every") -> KeyedWalk:
    """Make a puppet's walks, and what was edited on them, into keys like any others; raises InvalidInputError.

    Hips and legs, and the puppet's way, get a key on every frame whatever the density: feet that are
    down stay where they are.
    """
    gaits, scene = walks_of(draft, instance_id), draft.scene
    if not gaits:
        raise InvalidInputError("No walk lies beneath this puppet's keys.", "Lay one first.")
    first, last = gaits[0].span, gaits[-1].span
    whole = scene.loop and first.start == 0 and last.stop >= scene.frames
    loop = scene.loop_length if whole else None
    frames = np.arange(np.ceil(first.start), scene.frames if whole else np.floor(last.stop) + 1, dtype=float)
    rows = _walked(draft, instance_id, gaits, frames)
    at = _keyed_frames(draft, gaits, frames, density)
    dense = {s: r for s, r in rows.items() if density == "every" or s[1] in _lower(draft, gaits[0])}
    rest = {s: r for s, r in rows.items() if s not in dense}
    draft.refuse_locked((instance_id, owner) for instance_id, owner, _ in rows)
    count = put_rows(draft, frames, dense)
    error, where = _put_curves(draft, frames, rest, at, loop)
    for gait in gaits:
        span = gait.span
        mark_walk_poses(draft, frames[(frames >= span.start) & (frames <= span.stop)], gait)
    for gait in gaits:
        take_walk_away(draft, gait.span.id)
    return KeyedWalk(count + len(rest) * len(at), error, where)


def walks_of(floor: SceneState, instance_id: str) -> tuple[Gait, ...]:
    """The walks beneath a puppet's keys, in order of time."""
    compiled = floor.compiled
    return next((i.gaits for i in compiled.compiled_puppets if i.source.instance.id == instance_id), ())


def _walked(
    floor: SceneState, instance_id: str, gaits: Sequence[Gait], frames: FloatArray
) -> dict[Address, FloatArray]:
    """Everything that a puppet's walks move, keys included, at the frames (F,); without offsets over spans."""
    scene = floor.scene
    found = {(instance_id, o or instance_id, p): row for (o, p), row in composed(gaits, frames).items()}
    keys = scene.keys_by_channel()
    for channel in scene.channels:
        address = (channel.instance_id, channel.owner_id, channel.property)
        if address in found and (own := keys.get(channel.id)):
            again = repeat_of(channel, own)
            table = compile_keys([own], scene.loop_length, {0: again} if again else {})
            keyed = sample(table, frames)[0]
            found[address] = found[address] * keyed if address[2] in RATIOS else found[address] + keyed
    return found


def _lower(floor: SceneState, gait: Gait) -> set[str]:
    """Ids of what carries the feet: the seat, the hips, the legs."""
    return {gait.span.instance_id, *gait.walker.lower}


def _keyed_frames(floor: SceneState, gaits: Sequence[Gait], frames: FloatArray, density: Density) -> list[int]:
    """Indices of the frames that get a key; between two walks a puppet stands, from a key to a key."""
    if density == "every":
        return list(range(len(frames)))
    times: list[float] = []
    for gait in gaits:
        own = [m.time for m in gait.poses()]
        if density == "breakdowns":
            own += [(a + b) / 2 for a, b in pairwise(own)]
        times += [*own, gait.span.start - 1, gait.span.start, gait.span.stop]
    return sorted({int(np.clip(np.rint(t - frames[0]), 0, len(frames) - 1)) for t in times})


def _put_curves(
    draft: Draft, frames: FloatArray, rows: Mapping[Address, FloatArray], at: list[int], loop: float | None
) -> tuple[float, str]:
    """Key rows on some of the frames; the greatest error, and where it is."""
    worst, where = 0.0, ""
    for address, row in rows.items():
        channel = cleared(draft, address, frames)
        keys = keys_through(channel.id, frames, row, at, loop, new_id)
        draft.put(keys)
        error, prop = course_error(keys, frames, row, loop), PROPERTIES[channel.owner_kind][channel.property]
        if error > worst:
            name = owner_name(draft.scene, draft.workspace.cast(draft.scene), address[:2])
            worst, where = error, f"{prop.unit} at {name}"
    return worst, where


def _on_puppet(floor: SceneState, span: GaitSpan) -> Gait:
    instance = floor.instance(span.instance_id)
    walker = walker_of(floor.workspace.puppet(instance.puppet_id))
    return Gait(span, walker, moved_in(floor.scene, instance))
