"""Gestures on one scene: what all work on channels and keys shares, each gesture one step of history."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager

import numpy as np

from gaitwire.core.addresses import Address, Bead, Node
from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import InvalidInputError, LockedError, NotFoundError, UnansweredError
from gaitwire.core.evaluate.bracing import Brace
from gaitwire.core.evaluate.values import sample_controls, sample_limbs, sample_parts, sample_values, sample_whole
from gaitwire.core.ids import new_id
from gaitwire.core.owners import owned
from gaitwire.core.puppet.controls import Control
from gaitwire.core.puppet.model import Bone, Limb, Part, Pin
from gaitwire.core.scene import Instance, Scene
from gaitwire.core.timing.channel import (
    CONTROL_PROPERTIES,
    LIMB_PROPERTIES,
    NODE_PROPERTIES,
    PART_PROPERTIES,
    PROPERTIES,
    WHOLE_PROPERTIES,
    Channel,
    OwnerKind,
)
from gaitwire.core.timing.edit import KeyChange
from gaitwire.core.timing.key import Key
from gaitwire.core.timing.stay import moving_end
from gaitwire.core.tolerances import TIME
from gaitwire.core.walk.span import composed
from gaitwire.services.scene.carrying_circles import refuse_circles
from gaitwire.services.scene.kept_poses import FOREVER, Meaning, keep_poses
from gaitwire.services.scene.solved_pose import solved_values
from gaitwire.services.session.workspace import Workspace
from gaitwire.store.history import Edit


class SceneGestures:
    """One scene. `revision` is what the page was looking at, `word` what it answered, if a page asks."""

    def __init__(self, workspace: Workspace, scene_id: str, revision: int | None = None, word: str = "") -> None:
        self.workspace = workspace
        self.scene_id = scene_id
        self.expected = {} if revision is None else {scene_id: revision}
        self.word = word
        self.braces: Sequence[Brace] = ()
        """Tips that keep their place while something above them is posed; stored nowhere, a page says them."""
        self.stopped: tuple[str, ...] = ()
        """Of those, what stopped the last gesture where it reached no further."""
        self.loose: tuple[str, ...] = ()
        """And what could not be held there, being on its way from its bones to its tip."""
        self.kept: dict[str, set[float]] = {}
        """Frames on which the last gesture put back what it would have moved, by puppet."""
        self._meaning = Meaning(None)

    @property
    def scene(self) -> Scene:
        return self.workspace.scene(self.scene_id)

    @contextmanager
    def edit(self, label: str) -> Iterator[Edit]:
        """One gesture, as one step of history; CycleError where it lets something carry itself.

        What it moves of the puppets' poses without having said so (`means`) is put back.
        """
        with self.workspace.edit(label, [self.scene_id], self.expected) as edit:
            before = self.scene
            self._meaning = Meaning(before.loop_length)
            stands = self._stands(before)
            yield edit
            self.kept = keep_poses(edit, before, self._meaning, stands)
            refuse_circles(before, self.workspace.cast(before), edit)

    def answered(self, message: str, answers: Mapping[str, str], details: Sequence[str] = ()) -> str:
        """The word by which a gesture is to be done; UnansweredError, so that nothing is, while none was given.

        A gesture may have to ask more than once: then it comes back with all its words.
        """
        found = next((word for word in self.word.split() if word in answers), None)
        if found is None:
            raise UnansweredError(message, answers, details)
        return found

    def means(self, node: Node, start: float, stop: float | None = None) -> None:
        """Say that the gesture under way is meant to change a wire on a frame, or from one to another."""
        self._meaning.add(*node, start, stop)

    def _stands(self, scene: Scene) -> dict[Address, set[float]]:
        """Where phrases begin that hold still what they find, and where walks end: poses of what they move."""
        still = {u.id: u.start for u in scene.phrase_uses if u.still}
        found: dict[Address, set[float]] = {}
        for puppet in self.workspace.compiled(self.scene_id).compiled_puppets if still or scene.gaits else ():
            who = puppet.source.instance.id
            for lanes in (p.lanes for p in puppet.phrases if p.lanes.course.use.id in still):
                for owner, prop in lanes.addresses:
                    found.setdefault((who, owner, prop), set()).add(still[lanes.course.use.id])
            for gait in puppet.gaits:
                for owner, prop in composed([gait], np.array([gait.span.start])):
                    found.setdefault((who, owner or who, prop), set()).add(gait.span.stop)
        return found

    def instance(self, instance_id: str) -> Instance:
        """A puppet of the scene; raises NotFoundError."""
        found = next((i for i in self.scene.instances if i.id == instance_id), None)
        if found is None:
            raise NotFoundError("This puppet is not in the scene any more.", "Choose another.")
        return found

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

    def change_keys(
        self, label: str, beads: Iterable[Bead], work: Callable[[Scene, list[Key], Collection[str]], KeyChange],
        eased: bool = False, slides: bool = False,
    ) -> None:  # fmt: skip
        """Change the keys that beads are made of, channel by channel.

        `slides`: they move in time; where all of a channel's do, that plays the same at other times, poses or not.
        """
        with self.edit(label) as edit:
            self.put_changed(edit, list(beads), work, eased, slides)

    def put_changed(
        self, edit: Edit, beads: Sequence[Bead], work: Callable[[Scene, list[Key], Collection[str]], KeyChange],
        eased: bool = False, slides: bool = False,
    ) -> None:  # fmt: skip
        """The same within a gesture that is under way."""
        self.refuse_locked((b.instance_id, b.owner_id) for b in beads)
        scene = self.scene
        keys = scene.keys_by_channel(asleep=not eased)
        nodes = {c.id: (c.instance_id, c.owner_id) for c in scene.channels}
        for bead in beads:
            self.means(bead[:2], bead.time)
        for channel_id, chosen in self.chosen_keys(beads, eased).items():
            change = work(scene, keys[channel_id], chosen)
            if slides and len(chosen) == len(keys[channel_id]):
                self.means(nodes[channel_id], -FOREVER, FOREVER)
            for key in change.put:
                self.means(nodes[channel_id], key.time)
            store_keys(edit, change)

    def change_channels(
        self, label: str, nodes: Collection[Node], work: Callable[[Scene, Channel, list[Key]], KeyChange],
        meant: tuple[float, float] | None = None, asleep: bool = False,
    ) -> int:  # fmt: skip
        """Change the keys of all channels of some nodes, meaning some frames; how many channels that changed."""
        changed = 0
        with self.edit(label) as edit:
            self.refuse_locked(nodes)
            if meant is not None:
                for node in nodes:
                    self.means(node, *meant)
            scene = self.scene
            keys = scene.keys_by_channel(asleep)
            every: dict[str, set[str]] = {}
            for key in scene.keys:
                every.setdefault(key.channel_id, set()).add(key.id)
            for channel in (c for c in self.channels_of(nodes) if c.id in keys):
                change = work(scene, channel, keys[channel.id])
                changed += bool(change.put or change.removed)
                store_keys(edit, change)
                if not change.put and change.removed and set(change.removed) >= every.get(channel.id, set()):
                    edit.remove("channels", [channel.id])
        return changed

    def stands_at(self, instance_id: str, frame: float) -> dict[Address, float]:
        """Every property of a puppet as it is seen on a frame: by its exposure, its limbs as they are solved."""
        time = self.instance(instance_id).exposed(frame)
        keyed = self.values_at(np.array([time]))
        own = {address: float(row[0]) for address, row in keyed.items() if address[0] == instance_id}
        return own | solved_values(self.workspace.compiled(self.scene_id), instance_id, time)

    def values_at(self, times: FloatArray) -> dict[Address, FloatArray]:
        """Values (T,) of every property of every node and part at times (T,), all layers together."""
        found: dict[Address, FloatArray] = {}
        for puppet in self.workspace.compiled(self.scene_id).compiled_puppets:
            tables = (
                (puppet.node_keys, NODE_PROPERTIES, sample_values(puppet, times)),
                (puppet.part_keys, PART_PROPERTIES, sample_parts(puppet, times)),
                (puppet.limb_keys, LIMB_PROPERTIES, sample_limbs(puppet, times)),
                (puppet.control_keys, CONTROL_PROPERTIES, sample_controls(puppet, times)),
                (puppet.node_keys[:1], WHOLE_PROPERTIES, sample_whole(puppet, times)),
            )
            for owners, names, values in tables:
                for row, owner in enumerate(owners):
                    found |= {(*owner, name): values[row, column] for column, name in enumerate(names)}
        return found


_KIND_OF: dict[type, OwnerKind] = {Bone: "bone", Part: "part", Pin: "pin", Limb: "limb"}


def _keyed_control(control: Control) -> OwnerKind:
    if control.kind == "fix":
        raise InvalidInputError(f"“{control.name}” works by itself.", "Turn its joint.")
    return control.kind


def store_keys(edit: Edit, change: KeyChange, gives_way: bool = False) -> None:
    """Store what an edit of keys changes.

    Where the edit has written another key on the same frame already, that one is replaced; or, if this `gives_way`,
    is left as it is.
    """
    edit.remove("keys", change.removed)
    own = {k.id for k in change.put}
    meets = {k.id: other for k in change.put if (other := _written_at(edit, k)) and other not in own}
    if gives_way:
        edit.put("keys", [k for k in change.put if k.id not in meets])
        return
    edit.remove("keys", meets.values())
    edit.put("keys", change.put)


def _written_at(edit: Edit, key: Key) -> str | None:
    """The id of the key that an edit under way has written where another one is to be."""
    found = edit.ids("keys", channel_id=key.channel_id, time=key.time)
    return next((row_id for row_id in found if ("keys", row_id) in edit.images), None)
