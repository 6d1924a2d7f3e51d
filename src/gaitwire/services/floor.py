"""The Floor: every gesture on one scene, each one step of history."""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from fractions import Fraction
from typing import Any, NamedTuple

import numpy as np
from pydantic import ValidationError

from gaitwire.core.errors import InvalidInputError, LockedError, NotFoundError
from gaitwire.core.evaluate.evaluate import sample_values
from gaitwire.core.evaluate.handles import drag, take, tops
from gaitwire.core.puppet.model import Bone, Part, Pin, Puppet
from gaitwire.core.scene import Instance, Scene
from gaitwire.core.timing import edit as rules
from gaitwire.core.timing.channel import NODE_PROPERTIES, PROPERTIES, Channel, OwnerKind
from gaitwire.core.timing.edit import KeyChange
from gaitwire.core.timing.key import Key
from gaitwire.core.timing.loop import wrap
from gaitwire.core.tolerances import TIME
from gaitwire.services.naming import clean_name, unlike
from gaitwire.services.revising import revised
from gaitwire.services.workspace import Workspace
from gaitwire.store.documents import list_documents, new_id, register
from gaitwire.store.history import SHELF, Edit

Slot = tuple[str, str, str]
"""(instance id, owner id, property)."""


class Bead(NamedTuple):
    """All keys of one wire at one time."""

    instance_id: str
    owner_id: str
    time: float


def make_scene(workspace: Workspace, name: str, **settings: Any) -> str:
    """A new, empty scene on the Shelf; its id."""
    taken = [entry.name for entry in list_documents(workspace.store, "scene")]
    scene_id = new_id()
    scene = Scene(id=scene_id, name=unlike(clean_name(name), taken), **settings)
    with workspace.edit(f"make {scene.name}", [scene_id, SHELF]) as edit:
        register(edit, "scene", scene_id)
        edit.put("scenes", [scene])
    return scene_id


class Floor:
    """One scene on the Floor. `revision` is what the page was looking at, if a page asks."""

    def __init__(self, workspace: Workspace, scene_id: str, revision: int | None = None) -> None:
        self.workspace = workspace
        self.scene_id = scene_id
        self.expected = {} if revision is None else {scene_id: revision}

    @property
    def scene(self) -> Scene:
        return self.workspace.scene(self.scene_id)

    def _edit(self, label: str) -> Edit:
        return self.workspace.edit(label, [self.scene_id], self.expected)

    def update(self, **settings: Any) -> None:
        """Change the scene's own settings; raises InvalidInputError for one that does not fit."""
        if "name" in settings:
            settings["name"] = clean_name(settings["name"])
        with self._edit(f"set {', '.join(settings)}".replace("_", " ")) as edit:
            head = self.scene
            edit.put("scenes", [revised(head, settings)])

    def add_puppet(self, puppet_id: str, **place: Any) -> str:
        """Put a puppet in front of everything, standing on the ground in the middle; its instance's id."""
        puppet = self.workspace.puppet(puppet_id)
        instance_id = new_id()
        with self._edit(f"bring in {puppet.name}") as edit:
            scene = self.scene
            standing = {
                "name": unlike(puppet.name, (i.name for i in scene.instances)),
                "depth": 1 + max((i.depth for i in scene.instances), default=-1),
                "x": scene.width / 2,
                "y": scene.ground if scene.ground is not None else scene.height * 0.85,
                "scale": _fitting(puppet, scene),
            }
            instance = Instance(id=instance_id, scene_id=scene.id, puppet_id=puppet_id, **{**standing, **place})
            edit.put("instances", [instance])
        return instance_id

    def update_instance(self, instance_id: str, **values: Any) -> None:
        """Change a puppet's place, size, depth, name or visibility in the scene."""
        with self._edit(f"set {', '.join(values)}") as edit:
            edit.put("instances", [revised(self._instance(instance_id), values)])

    def remove_instance(self, instance_id: str) -> None:
        """Take a puppet out of the scene, with all its keys."""
        with self._edit("take a puppet out") as edit:
            scene, instance = self.scene, self._instance(instance_id)
            channels = {c.id for c in scene.channels if c.instance_id == instance_id}
            edit.remove("keys", [k.id for k in scene.keys if k.channel_id in channels])
            edit.remove("channels", channels)
            edit.remove("poses", [p.id for p in scene.poses if p.instance_id == instance_id])
            edit.remove("offsets", [o.id for o in scene.offsets if o.instance_id == instance_id])
            edit.remove("instances", [instance.id])

    def _instance(self, instance_id: str) -> Instance:
        found = next((i for i in self.scene.instances if i.id == instance_id), None)
        if found is None:
            raise NotFoundError("This puppet is not in the scene any more.", "Choose another.")
        return found

    def set_values(self, frame: float, values: Mapping[Slot, float], label: str = "pose") -> None:
        """Key values at a frame, making channels as needed. Only what is named gets a key."""
        with self._edit(label) as edit:
            self._refuse_locked((instance_id, owner_id) for instance_id, owner_id, _ in values)
            scene = self.scene
            known = {(c.instance_id, c.owner_id, c.property): c for c in scene.channels}
            keys = scene.keys_by_channel()
            for slot, value in values.items():
                channel = known.get(slot)
                if channel is None:
                    channel = self._new_channel(scene, slot)
                    edit.put("channels", [channel])
                prop = PROPERTIES[channel.owner_kind][channel.property]
                held = round(min(prop.high, max(prop.low, value)), 0 if prop.stepped else 6)
                ease = "hold" if prop.stepped else rules.DEFAULT_EASE
                change = rules.set_key(
                    keys.get(channel.id, []), channel.id, frame, held, scene.loop_length, new_id, ease
                )
                _store(edit, change)

    def _refuse_locked(self, nodes: Iterable[tuple[str, str]]) -> None:
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
            elif owner is not None and owner.locked:
                raise LockedError(f"“{owner.name}” is locked.", "Unlock it on the Bench first.")

    def _new_channel(self, scene: Scene, slot: Slot) -> Channel:
        instance_id, owner_id, prop = slot
        kind = self.owner_kind(instance_id, owner_id)
        if prop not in PROPERTIES[kind]:
            raise InvalidInputError(f"A {kind} has no “{prop}” to key.")
        return Channel(
            id=new_id(), scene_id=scene.id, instance_id=instance_id, owner_kind=kind, owner_id=owner_id, property=prop
        )

    def owner_kind(self, instance_id: str, owner_id: str) -> OwnerKind:
        """What an owner is in this scene; raises NotFoundError."""
        instance = self._instance(instance_id)
        if owner_id == instance_id:
            return "seat"
        owner = owned(self.workspace.puppet(instance.puppet_id), owner_id)
        if owner is None:
            raise NotFoundError("This bone is not in the puppet any more.", "Choose another.")
        return _KIND_OF[type(owner)]

    def chosen_keys(self, beads: Iterable[Bead], eased: bool = False) -> dict[str, set[str]]:
        """Ids of the keys that the beads are made of, by channel; `eased` leaves out what only ever steps."""
        wanted: dict[tuple[str, str], list[float]] = {}
        for bead in beads:
            wanted.setdefault((bead.instance_id, bead.owner_id), []).append(bead.time)
        scene = self.scene
        keys = scene.keys_by_channel()
        found: dict[str, set[str]] = {}
        for channel in scene.channels:
            if eased and PROPERTIES[channel.owner_kind][channel.property].stepped:
                continue
            times = wanted.get((channel.instance_id, channel.owner_id), [])
            ids = {k.id for k in keys.get(channel.id, []) if any(abs(k.time - t) < TIME for t in times)}
            if ids:
                found[channel.id] = ids
        if not found and eased and self.chosen_keys(beads):
            raise InvalidInputError("Drawings and places step.", "They have no easing; choose beads of bones or pins.")
        if not found:
            raise InvalidInputError("No beads are chosen.", "Choose some on the wires first.")
        return found

    def _change_keys(
        self, label: str, beads: Iterable[Bead], work: Callable[[Scene, list[Key], Collection[str]], KeyChange],
        eased: bool = False,
    ) -> None:  # fmt: skip
        beads = list(beads)
        with self._edit(label) as edit:
            self._refuse_locked((b.instance_id, b.owner_id) for b in beads)
            scene = self.scene
            keys = scene.keys_by_channel()
            for channel_id, chosen in self.chosen_keys(beads, eased).items():
                _store(edit, work(scene, keys[channel_id], chosen))

    def key_pose(self, frame: float, nodes: Iterable[tuple[str, str]]) -> None:
        """Key every channel of the nodes as they stand at the frame."""
        wanted = set(nodes)
        values: dict[Slot, float] = {}
        for island in self.workspace.compiled(self.scene_id).islands:
            sampled = sample_values(island, np.array([frame]))
            for row, node in enumerate(island.node_keys):
                if node in wanted:
                    has = PROPERTIES[self.owner_kind(*node)]
                    named = zip(NODE_PROPERTIES, sampled[row, :, 0], strict=True)
                    values |= {(*node, name): float(value) for name, value in named if name in has}
        self.set_values(frame, values, "key pose")

    def nudge(self, frame: float, nodes: Sequence[tuple[str, str]], dx: float, dy: float) -> None:
        """Shift nodes by pixels of the stage, keyed at a frame; as a drag by that much would."""
        compiled = self.workspace.compiled(self.scene_id)
        grips = [take(compiled, instance_id, owner_id, frame) for instance_id, owner_id in tops(compiled, nodes)]
        if not grips:
            raise InvalidInputError("Nothing is chosen to shift.", "Choose some bones first.")
        self.set_values(frame, drag("shift", grips[0], grips[1:], (0.0, 0.0), (dx, dy)), "nudge")

    def step_depth(self, instance_id: str, steps: int) -> None:
        """Move a puppet to the front (positive) or the back by places."""
        with self._edit("order puppets") as edit:
            ordered = sorted(self.scene.instances, key=lambda i: (i.depth, i.id))
            at = ordered.index(self._instance(instance_id))
            moved = ordered.pop(at)
            ordered.insert(min(len(ordered), max(0, at + steps)), moved)
            edit.put("instances", [i.model_copy(update={"depth": d}) for d, i in enumerate(ordered)])

    @staticmethod
    def read_rate(text: str) -> Fraction:
        """Frames a second as people type them: 24, 12.5 or 24000/1001; raises InvalidInputError."""
        try:
            rate = Fraction(text.strip()).limit_denominator(10_000)
        except (ValueError, ZeroDivisionError):
            raise InvalidInputError(f"“{text[:20]}” is no frame rate.", "Type 24, say, or 24000/1001.") from None
        if not 1 <= rate <= 240:
            raise InvalidInputError("A frame rate lies between 1 and 240.", "Type 24, say.")
        return rate

    def move_beads(self, beads: Sequence[Bead], by: float) -> list[Bead]:
        """Slide beads by frames, around the loop if the scene loops; where they are now."""
        if self.scene.loop_length is None:
            by = max(by, -min((b.time for b in beads), default=0.0))
        self._change_keys(
            "slide beads", beads, lambda scene, keys, chosen: rules.move_keys(keys, chosen, by, scene.loop_length)
        )
        return self._moved(beads, by)

    def _moved(self, beads: Sequence[Bead], by: float) -> list[Bead]:
        loop = self.scene.loop_length
        return [b._replace(time=wrap(b.time + by, loop) if loop else b.time + by) for b in beads]

    def copy_beads(self, beads: Sequence[Bead], frame: float) -> list[Bead]:
        """Duplicate beads so that the first of them lands on the frame; the copies."""
        by = frame - min((b.time for b in beads), default=frame)
        self._change_keys(
            "duplicate beads",
            beads,
            lambda scene, keys, chosen: rules.copy_keys(keys, chosen, by, scene.loop_length, new_id),
        )
        return self._moved(beads, by)

    def delete_beads(self, beads: Sequence[Bead]) -> None:
        """Delete beads; a channel that loses its last key goes too."""
        with self._edit("delete beads") as edit:
            self._refuse_locked((b.instance_id, b.owner_id) for b in beads)
            keys = self.scene.keys_by_channel()
            for channel_id, chosen in self.chosen_keys(beads).items():
                edit.remove("keys", chosen)
                if len(chosen) == len(keys[channel_id]):
                    edit.remove("channels", [channel_id])

    def ease_beads(self, beads: Sequence[Bead], ease: str) -> None:
        """Give the segments that begin at the beads a named easing, all in one go."""
        self._change_keys(f"ease {ease}", beads, lambda _, keys, chosen: rules.ease_keys(keys, chosen, ease), True)

    def shape_beads(self, beads: Sequence[Bead], shares: tuple[float, float, float, float]) -> None:
        """Give the segments that begin at the beads one free curve, in shares of time and rise."""
        try:
            self._change_keys(
                "shape a curve",
                beads,
                lambda scene, keys, chosen: rules.shape_keys(keys, chosen, shares, scene.loop_length),
                eased=True,
            )
        except ValidationError:
            raise InvalidInputError(
                "A curve's handles must lie between its beads in time.", "Keep both within 0 and 1."
            ) from None

    def reuse_curve(self, source: Bead, beads: Sequence[Bead]) -> None:
        """Give the segments of beads the easing of another bead's, whatever their length."""
        scene = self.scene
        all_keys = scene.keys_by_channel()
        channel_id, ids = next(iter(self.chosen_keys([source], eased=True).items()))
        key = next(k for k in all_keys[channel_id] if k.id in ids)
        rise = rules.rise_of(all_keys[channel_id], key.id, scene.loop_length)
        self._change_keys(
            "reuse a curve", beads,
            lambda scene, keys, chosen: rules.reuse_shape(key, rise, keys, chosen, scene.loop_length),
            eased=True,
        )  # fmt: skip


_KIND_OF: dict[type, OwnerKind] = {Bone: "bone", Part: "part", Pin: "pin"}


def owned(puppet: Puppet, owner_id: str) -> Bone | Part | Pin | None:
    """The bone, part or pin of that id, if it is in the puppet."""
    pin = next((p for p in puppet.pins if p.id == owner_id), None)
    return puppet.bone(owner_id) or puppet.part(owner_id) or pin


def _store(edit: Edit, change: KeyChange) -> None:
    edit.remove("keys", change.removed)
    edit.put("keys", change.put)


def _fitting(puppet: Puppet, scene: Scene) -> float:
    """A size at which the puppet can be seen whole and handled; 1 wherever that does."""
    share = max(puppet.height / scene.height, puppet.width / scene.width)
    if share > 0.95:
        return round(0.7 / share, 3)
    return round(0.35 / share, 3) if share < 0.15 else 1.0
