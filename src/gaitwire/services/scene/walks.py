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
from gaitwire.services.scene.gestures import store_keys
from gaitwire.services.scene.walk_keys import WalkWork
from gaitwire.services.session.revising import revised
from gaitwire.store.history import Edit

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


class GaitWork(WalkWork):
    """Gestures on walks that lie beneath keys."""

    def gait(self, gait_id: str) -> GaitSpan:
        """A walk of the scene; raises NotFoundError."""
        found = next((g for g in self.scene.gaits if g.id == gait_id), None)
        if found is None:
            raise NotFoundError("This walk is not there any more.", "Choose another.")
        return found

    def put_gait(
        self, instance_id: str, card: GaitCard, start: float = 0.0, stop: float | None = None, travels: bool = False,
        **more: Any,
    ) -> str:  # fmt: skip
        """Lay a walk beneath a puppet's keys from one frame to another; its id. Walks that lie there give way.

        Raises InvalidInputError for a puppet that lacks roles, and for frames that the scene has not.
        """
        walker_of(self.workspace.puppet(self.instance(instance_id).puppet_id))
        frames, scene = self.whole_frames(start, stop), self.scene
        # Around a loop a walk goes on to where it begins again.
        whole = scene.loop and frames[0] == 0 and frames[-1] == scene.frames - 1
        made = GaitSpan(
            id=new_id(), scene_id=self.scene_id, instance_id=instance_id, start=frames[0],
            stop=scene.frames if whole else frames[-1], card=card, travels=travels, **more,
        )  # fmt: skip
        self._refuse_view(made)
        with self.edit(f"walk: {card.name}") as edit:
            self.refuse_locked([(instance_id, instance_id)])
            self.make_room(edit, instance_id, made.start, made.stop)
            edit.put("gaits", [made])
        return made.id

    def _refuse_view(self, span: GaitSpan) -> None:
        """Raise InvalidInputError for what a walk that is not seen from the side cannot do."""
        view = self.workspace.puppet(self.instance(span.instance_id).puppet_id).view
        if view != "side" and (span.pace == "seat" or span.slope):
            what = "on a slope" if span.slope else "as its puppet is moved"
            raise InvalidInputError(
                f"Drawn {VIEWS[view].label}, it cannot walk {what}.", "Let it go by the clock, or from standing."
            )

    def set_gait(self, gait_id: str, values: Mapping[str, Any]) -> Changed:
        """Change a walk. Keys and poses that lie on it are carried along, each at its phase of the stride."""
        with self.edit("change a walk") as edit:
            return self._changed(edit, gait_id, values)

    def reach_end(self, gait_ids: Collection[str]) -> None:
        """Let walks go on to the scene's last frame."""
        with self.edit("let walks go on") as edit:
            for gait_id in gait_ids:
                self._changed(edit, gait_id, {"stop": self.scene.frames - 1.0})

    def _changed(self, edit: Edit, gait_id: str, values: Mapping[str, Any]) -> Changed:
        old = self.gait(gait_id)
        made = revised(old, values)
        self._refuse_view(made)
        before, after = self._on_puppet(old), self._on_puppet(made)

        def moved(frames: FloatArray) -> FloatArray:
            return after.frames_at(before.phases_at(frames))

        self.refuse_locked([(old.instance_id, old.instance_id)])
        self.make_room(edit, old.instance_id, made.start, made.stop, besides=gait_id)
        edit.put("gaits", [made])
        beyond = self._carry(edit, old, made, moved)
        return Changed(beyond, after.stride.length if after.stride.shortened else None)

    def _carry(self, edit: Edit, old: GaitSpan, made: GaitSpan, moved: Callable[[FloatArray], FloatArray]) -> int:
        """Carry keys and poses along; how many beads lie beyond the walk's end then."""
        scene = self.scene
        keys = scene.keys_by_channel()
        beyond: set[tuple[str, float]] = set()
        for channel in scene.channels:
            if channel.instance_id == old.instance_id:
                change = carry_keys(keys.get(channel.id, []), old.start, old.stop, moved)
                store_keys(edit, change)
                beyond |= {(channel.owner_id, k.time) for k in change.put if k.time > made.stop + TIME}
        own = [p for p in scene.poses if p.instance_id == old.instance_id and old.start <= p.time <= old.stop]
        times = moved(np.array([p.time for p in own], float)).tolist()
        edit.put("poses", [p.model_copy(update={"time": t}) for p, t in zip(own, times, strict=True)])
        return len(beyond)

    def remove_gait(self, gait_id: str) -> None:
        """Take a walk away; keys that lie on it stay."""
        with self.edit("take a walk away") as edit:
            self.refuse_locked([(self.gait(gait_id).instance_id,) * 2])
            self.take_away(edit, gait_id)

    def own_walks(self, instance_id: str, density: Density = "every") -> KeyedWalk:
        """Make a puppet's walks, and what was edited on them, into keys like any others; raises InvalidInputError.

        Hips and legs, and the puppet's way, get a key on every frame whatever the density: feet that are
        down stay where they are.
        """
        gaits, scene = self.walks_of(instance_id), self.scene
        if not gaits:
            raise InvalidInputError("No walk lies beneath this puppet's keys.", "Lay one first.")
        first, last = gaits[0].span, gaits[-1].span
        whole = scene.loop and first.start == 0 and last.stop >= scene.frames
        loop = scene.loop_length if whole else None
        frames = np.arange(np.ceil(first.start), scene.frames if whole else np.floor(last.stop) + 1, dtype=float)
        rows = self._walked(instance_id, gaits, frames)
        at = self._keyed_frames(gaits, frames, density)
        dense = {s: r for s, r in rows.items() if density == "every" or s[1] in self._lower(gaits[0])}
        rest = {s: r for s, r in rows.items() if s not in dense}
        with self.edit("make a walk one's own") as edit:
            self.refuse_locked((instance_id, owner) for instance_id, owner, _ in rows)
            count = self.put_rows(edit, frames, dense)
            error, where = self._put_curves(edit, frames, rest, at, loop)
            for gait in gaits:
                span = gait.span
                self.mark_poses(edit, frames[(frames >= span.start) & (frames <= span.stop)], gait)
            for gait in gaits:
                self.take_away(edit, gait.span.id)
        return KeyedWalk(count + len(rest) * len(at), error, where)

    def walks_of(self, instance_id: str) -> tuple[Gait, ...]:
        """The walks beneath a puppet's keys, in order of time."""
        compiled = self.workspace.compiled(self.scene_id)
        return next((i.gaits for i in compiled.compiled_puppets if i.source.instance.id == instance_id), ())

    def _walked(self, instance_id: str, gaits: Sequence[Gait], frames: FloatArray) -> dict[Address, FloatArray]:
        """Everything that a puppet's walks move, keys included, at the frames (F,); without offsets over spans."""
        scene = self.scene
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

    def _lower(self, gait: Gait) -> set[str]:
        """Ids of what carries the feet: the seat, the hips, the legs."""
        return {gait.span.instance_id, *gait.walker.lower}

    def _keyed_frames(self, gaits: Sequence[Gait], frames: FloatArray, density: Density) -> list[int]:
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
        self, edit: Edit, frames: FloatArray, rows: Mapping[Address, FloatArray], at: list[int], loop: float | None
    ) -> tuple[float, str]:
        """Key rows on some of the frames; the greatest error, and where it is."""
        worst, where = 0.0, ""
        for address, row in rows.items():
            channel = self.cleared(edit, address, frames)
            keys = keys_through(channel.id, frames, row, at, loop, new_id)
            edit.put("keys", keys)
            error, prop = course_error(keys, frames, row, loop), PROPERTIES[channel.owner_kind][channel.property]
            if error > worst:
                name = owner_name(self.scene, self.workspace.cast(self.scene), address[:2])
                worst, where = error, f"{prop.unit} at {name}"
        return worst, where

    def _on_puppet(self, span: GaitSpan) -> Gait:
        instance = self.instance(span.instance_id)
        walker = walker_of(self.workspace.puppet(instance.puppet_id))
        return Gait(span, walker, moved_in(self.scene, instance))
