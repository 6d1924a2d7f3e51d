"""Gestures on one scene: functions from the scene to what they change of it, each one step of history.

A gesture is a function that takes a `Draft` first and is marked with `@gesture`. Called with a `Floor` it becomes a
step of history; called with a draft, as another gesture does, it is part of that one's step. What only looks takes
a `SceneState`, which both are.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from functools import wraps
from typing import Concatenate, ParamSpec, TypeVar, cast

import numpy as np
from pydantic import BaseModel

from gaitwire.core.addresses import Address, Bead, Node
from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import InvalidInputError, LockedError, NotFoundError, UnansweredError
from gaitwire.core.evaluate import CompiledScene
from gaitwire.core.evaluate.bracing import Brace
from gaitwire.core.evaluate.inverse_layers import Beneath
from gaitwire.core.evaluate.scene_values import SceneValues
from gaitwire.core.ids import new_id
from gaitwire.core.owners import owned
from gaitwire.core.puppet.controls import Control
from gaitwire.core.puppet.model import Bone, Limb, Part, Pin, Puppet
from gaitwire.core.scene import Instance, Scene
from gaitwire.core.scene_draft import SceneDraft
from gaitwire.core.timing.channel import (
    PROPERTIES,
    Channel,
    OwnerKind,
)
from gaitwire.core.timing.stay import moving_end
from gaitwire.core.tolerances import TIME
from gaitwire.core.walk.span import composed
from gaitwire.services.scene.carrying_circles import refuse_circles
from gaitwire.services.scene.kept_poses import Meaning, keep_poses
from gaitwire.services.scene.solved_pose import solved_values
from gaitwire.services.session.workspace import Workspace
from gaitwire.store.records import TABLE_OF


@dataclass
class Outcome:
    """What the last gesture came to besides its answer."""

    stopped: tuple[str, ...] = ()
    """Of the braces, what stopped it where it reached no further."""
    loose: tuple[str, ...] = ()
    """And what could not be held there, being on its way from its bones to its tip."""
    kept: dict[str, set[float]] = field(default_factory=dict)
    """Frames on which it put back what it would have moved, by puppet."""
    begins_to_hold: frozenset[str] = frozenset()
    """Puppets whose new keys hold from this gesture on."""
    caught: dict[str, float] = field(default_factory=dict)
    """By how many pixels planted feet were put lower, onto the floor, by the names of their limbs."""


class SceneState:
    """One scene as it stands, and what can be asked of it.

    `word` is what a page has answered, if it was asked; `braces` are tips that keep their place while something
    above them is posed: stored nowhere, a page says them.
    """

    workspace: Workspace
    scene_id: str
    word: str
    braces: Sequence[Brace]
    outcome: Outcome

    @property
    def scene(self) -> Scene:
        raise NotImplementedError

    @property
    def compiled(self) -> CompiledScene:
        raise NotImplementedError

    def instance(self, instance_id: str) -> Instance:
        """A puppet of the scene; raises NotFoundError."""
        found = next((i for i in self.scene.instances if i.id == instance_id), None)
        if found is None:
            raise NotFoundError("This puppet is not in the scene any more.", "Choose another.")
        return found

    def puppet_of(self, instance_id: str) -> Puppet:
        """What a puppet of the scene is made as; raises NotFoundError."""
        return self.workspace.puppet(self.instance(instance_id).puppet_id)

    def refuse_locked(self, nodes: Iterable[Node]) -> None:
        """Raise LockedError, by name, where a puppet of the scene or what is meant of it is locked."""
        scene = self.scene
        instances = {i.id: i for i in scene.instances}
        cast = self.workspace.cast(scene)
        for instance_id, owner_id in set(nodes):
            instance = instances.get(instance_id)
            if instance is None:
                continue
            if instance.locked:
                raise LockedError(f"“{instance.name}” is locked.", "Unlock it on its card first.")
            puppet = cast.get(instance.puppet_id)
            owner = owned(puppet, owner_id) if puppet else None
            if isinstance(owner, Pin):
                if owner.kind == "anchor":
                    raise LockedError(f"“{owner.name}” is an anchor.", "Make it a lead pin on the Bench to move it.")
            elif isinstance(owner, Bone | Part) and owner.locked:
                raise LockedError(f"“{owner.name}” is locked.", "Unlock it on the Bench first.")

    def owner_kind(self, instance_id: str, owner_id: str) -> OwnerKind:
        """What an owner is in this scene; raises NotFoundError."""
        instance = self.instance(instance_id)
        if owner_id == instance_id:
            return "camera" if instance.is_camera else "seat"
        if any(g.id == owner_id and g.instance_id == instance_id for g in self.scene.gaits):
            return "walk"
        if any(u.id == owner_id and u.instance_id == instance_id for u in self.scene.phrase_uses):
            return "phrase"
        owner = owned(self.workspace.puppet(instance.puppet_id), owner_id)
        if owner is None:
            raise NotFoundError("This bone is not in the puppet any more.", "Choose another.")
        if isinstance(owner, Control):
            return _keyed_control(owner)
        return _KIND_OF[type(owner)]

    def new_channel(self, address: Address) -> Channel:
        """A channel for what has none yet; raises InvalidInputError for a property that it cannot have."""
        instance_id, owner_id, prop = address
        kind = self.owner_kind(instance_id, owner_id)
        if prop not in PROPERTIES[kind]:
            raise InvalidInputError(f"A {kind} has no “{prop}” to key.")
        return Channel(
            id=new_id(), scene_id=self.scene_id, instance_id=instance_id, owner_kind=kind, owner_id=owner_id,
            property=prop,
        )  # fmt: skip

    def channels_of(self, nodes: Collection[Node]) -> list[Channel]:
        """Channels of those nodes that have keys."""
        keys = self.scene.keys_by_channel(asleep=True)
        wanted = set(nodes)
        return [c for c in self.scene.channels if (c.instance_id, c.owner_id) in wanted and keys.get(c.id)]

    def chosen_keys(self, beads: Iterable[Bead], eased: bool = False) -> dict[str, set[str]]:
        """Ids of the keys that the beads are made of, by channel.

        `eased` asks for the keys whose easing shows: none of what only ever steps, and for a key
        that stays follow the last of those.
        """
        wanted: dict[Node, list[float]] = {}
        for bead in beads:
            wanted.setdefault((bead.instance_id, bead.owner_id), []).append(bead.time)
        keys = self.scene.keys_by_channel(asleep=not eased)
        found: dict[str, set[str]] = {}
        for channel in self.scene.channels:
            if eased and PROPERTIES[channel.owner_kind][channel.property].stepped:
                continue
            times = wanted.get((channel.instance_id, channel.owner_id), [])
            row = keys.get(channel.id, [])
            picked = [k for k in row if any(abs(k.time - t) < TIME for t in times)]
            if picked:
                found[channel.id] = {moving_end(row, k).id if eased else k.id for k in picked}
        if not found and eased and self.chosen_keys(beads):
            raise InvalidInputError("Drawings and places step.", "They have no easing; choose beads of bones or pins.")
        if not found:
            raise InvalidInputError("No beads are chosen.", "Choose some on the wires first.")
        return found

    def stands_at(self, instance_id: str, frame: float) -> dict[Address, float]:
        """Every property of a puppet as it is seen on a frame: by its exposure, its limbs as they are solved."""
        time = self.instance(instance_id).exposed(frame)
        keyed = self.values_at(np.array([time]))
        own = {address: float(row[0]) for address, row in keyed.items() if address[0] == instance_id}
        return own | solved_values(self.compiled, instance_id, time)

    def values_at(self, times: FloatArray) -> dict[Address, FloatArray]:
        """Values (T,) of every property of every node and part at times (T,), all layers together."""
        return SceneValues(self.compiled).every(times)

    def value_at(self, address: Address, times: FloatArray) -> FloatArray:
        """The same of one property (T,)."""
        return np.asarray(SceneValues(self.compiled).at([address], times)[0])


class Draft(SceneState):
    """A gesture under way: the scene as it was before it, which is all it reads, and what it changes.

    What it has written so far is in `changes`, and the scene that comes of that.
    """

    def __init__(self, floor: Floor, before: Scene) -> None:
        self.workspace, self.scene_id = floor.workspace, floor.scene_id
        self.word, self.braces, self.outcome = floor.word, floor.braces, floor.outcome
        self.label = ""
        self.documents = [floor.scene_id]
        """Documents that it changes: others only by rows that are no scene's."""
        self.meaning = Meaning(before.loop_length)
        self.changes = SceneDraft(before)
        self.layers: Beneath | None = None
        """What lies over and under the keys, once it was asked for."""

    @property
    def scene(self) -> Scene:
        return self.changes.before

    @property
    def compiled(self) -> CompiledScene:
        return self.workspace.compiled(self.scene_id)

    def labelled(self, label: str) -> None:
        """What history calls the step; the first word counts, which is the outermost gesture's."""
        self.label = self.label or label

    def put(self, rows: Iterable[BaseModel]) -> None:
        """Put rows, in place of those of the same id."""
        self.changes.put(rows)

    def remove(self, model: type[BaseModel], ids: Iterable[str]) -> None:
        """Remove rows by id."""
        self.changes.remove(model, ids)

    def means(self, node: Node, start: float, stop: float | None = None) -> None:
        """Say that the gesture is meant to change a wire on a frame, or from one to another."""
        self.meaning.add(*node, start, stop)

    def answered(self, message: str, answers: Mapping[str, str], details: Sequence[str] = ()) -> str:
        """The word by which a gesture is to be done; UnansweredError, so that nothing is, while none was given.

        A gesture may have to ask more than once: then it comes back with all its words.
        """
        found = next((word for word in self.word.split() if word in answers), None)
        if found is None:
            raise UnansweredError(message, answers, details)
        return found


Work = ParamSpec("Work")
Answer = TypeVar("Answer")


class Floor(SceneState):
    """One scene in the store. `revision` is what the page was looking at."""

    def __init__(self, workspace: Workspace, scene_id: str, revision: int | None = None, word: str = "") -> None:
        self.workspace = workspace
        self.scene_id = scene_id
        self.expected = {} if revision is None else {scene_id: revision}
        self.word = word
        self.braces: Sequence[Brace] = ()
        self.outcome = Outcome()
        self.found_before: dict[str, list[float]] | None = None
        """Poses that nobody had marked before the gesture, where it is to be told which of them it took apart."""

    @property
    def scene(self) -> Scene:
        return self.workspace.scene(self.scene_id)

    @property
    def compiled(self) -> CompiledScene:
        return self.workspace.compiled(self.scene_id)

    def do(
        self, label: str, work: Callable[Concatenate[Draft, Work], Answer], *args: Work.args, **more: Work.kwargs
    ) -> Answer:
        """One gesture as one step of history; raises what it raises, and CycleError where something carries itself.

        What it moves of the puppets' poses without having said so (`Draft.means`) is put back.
        """
        with self.workspace.edit(label, [self.scene_id], self.expected) as edit:
            before = self.scene
            draft, answer = self._made(before, label, work, *args, **more)
            refuse_circles(draft.changes, lambda: self.compiled)
            edit.label, edit.documents = draft.label, draft.documents
            tables = {TABLE_OF[model]: draft.changes.written(model) for model in draft.changes.models}
            for table in sorted(tables, reverse=True, key=list(TABLE_OF.values()).index):
                edit.remove(table, [row_id for row_id, row in tables[table].items() if row is None])
            for table in sorted(tables, key=list(TABLE_OF.values()).index):
                edit.put(table, [row for row in tables[table].values() if row is not None])
        return answer

    def drafted(
        self, before: Scene, work: Callable[Concatenate[Draft, Work], Answer], *args: Work.args, **more: Work.kwargs
    ) -> Scene:
        """A scene as a gesture would leave it; nothing is stored. Raises what the gesture raises."""
        return self._made(before, "", work, *args, **more)[0].changes.scene

    def _made(
        self, before: Scene, label: str, work: Callable[Concatenate[Draft, Work], Answer], *args: Work.args,
        **more: Work.kwargs,
    ) -> tuple[Draft, Answer]:  # fmt: skip
        """A gesture done on a draft of the scene, with what it moves of poses and did not mean put back."""
        self.outcome = Outcome()
        stands = _stands(before, self)
        draft = Draft(self, before)
        if label:
            draft.labelled(label)
        answer = work(draft, *args, **more)
        self.outcome.kept = keep_poses(draft.changes, draft.meaning, stands)
        return draft, answer

    def change(self, label: str, rows: Iterable[BaseModel]) -> None:
        """Put rows as one step of history."""
        self.do(label, Draft.put, rows)


def gesture(
    label: str = "",
) -> Callable[[Callable[Concatenate[Draft, Work], Answer]], Callable[Concatenate[Floor | Draft, Work], Answer]]:
    """Marks a gesture; `label` is what history calls it, where it does not say so itself."""

    def mark(work: Callable[Concatenate[Draft, Work], Answer]) -> Callable[Concatenate[Floor | Draft, Work], Answer]:
        @wraps(work)
        def done(on: Floor | Draft, /, *args: Work.args, **more: Work.kwargs) -> Answer:
            if isinstance(on, Floor):
                return on.do(label, work, *args, **more)
            on.labelled(label)
            return work(on, *args, **more)

        return cast("Callable[Concatenate[Floor | Draft, Work], Answer]", done)

    return mark


def _stands(scene: Scene, floor: SceneState) -> dict[Address, set[float]]:
    """Where phrases begin that hold still what they find, and where walks end: poses of what they move."""
    still = {u.id: u.start for u in scene.phrase_uses if u.still}
    found: dict[Address, set[float]] = {}
    for puppet in floor.compiled.compiled_puppets if still or scene.gaits else ():
        who = puppet.source.instance.id
        for lanes in (p.lanes for p in puppet.phrases if p.lanes.course.use.id in still):
            for owner, prop in lanes.addresses:
                found.setdefault((who, owner, prop), set()).add(still[lanes.course.use.id])
        for gait in puppet.gaits:
            for owner, prop in composed([gait], np.array([gait.span.start])):
                found.setdefault((who, owner or who, prop), set()).add(gait.span.stop)
    return found


_KIND_OF: dict[type, OwnerKind] = {Bone: "bone", Part: "part", Pin: "pin", Limb: "limb"}


def _keyed_control(control: Control) -> OwnerKind:
    if control.kind == "fix":
        raise InvalidInputError(f"“{control.name}” works by itself.", "Turn its joint.")
    return control.kind
