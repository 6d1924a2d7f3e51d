"""The Floor: a scene's own settings and the puppets in it, with all work on its poses and its timing."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.ids import new_id
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.scene import Instance, Scene
from gaitwire.core.timing.pinning import keyed_as_it_is
from gaitwire.services.scene.beads import BeadWork
from gaitwire.services.scene.camera import CameraWork
from gaitwire.services.scene.gestures import store_keys
from gaitwire.services.scene.guides import GuideWork
from gaitwire.services.scene.kept_poses import course_of
from gaitwire.services.scene.links import LinkWork
from gaitwire.services.scene.phrase_keys import PhraseKeys
from gaitwire.services.scene.rolls import RollWork
from gaitwire.services.scene.scene_length import doubled_keys
from gaitwire.services.scene.smears import SmearWork
from gaitwire.services.scene.sounds import SoundWork
from gaitwire.services.scene.timing import TimingWork
from gaitwire.services.scene.turns import TurnWork
from gaitwire.services.scene.visibility import Showing
from gaitwire.services.scene.walks import GaitWork
from gaitwire.services.scene.weight import WeightWork
from gaitwire.services.session.naming import clean_name, unlike
from gaitwire.services.session.revising import revised
from gaitwire.services.session.workspace import Workspace
from gaitwire.store.documents import list_documents, register
from gaitwire.store.history import SHELF


def make_scene(workspace: Workspace, name: str, **settings: Any) -> str:
    """A new, empty scene on the Shelf; its id."""
    taken = [entry.name for entry in list_documents(workspace.store, "scene")]
    scene_id = new_id()
    scene = Scene(id=scene_id, name=unlike(clean_name(name), taken), **settings)
    with workspace.edit(f"make {scene.name}", [scene_id, SHELF]) as edit:
        register(edit, "scene", scene_id)
        edit.put("scenes", [scene])
    return scene_id


class Floor(
    PhraseKeys, TimingWork, BeadWork, GuideWork, LinkWork, GaitWork, RollWork, SmearWork, WeightWork, TurnWork,
    CameraWork, SoundWork, Showing,
):  # fmt: skip
    """One scene on the Floor, with every gesture on it."""

    def update(self, **settings: Any) -> None:
        """Change the scene's own settings; raises InvalidInputError for one that does not fit."""
        if "name" in settings:
            settings["name"] = clean_name(settings["name"])
        with self.edit(f"set {', '.join(settings)}".replace("_", " ")) as edit:
            head = self.scene
            edit.put("scenes", [revised(head, settings)])
            if int(settings.get("frames", head.frames)) < head.frames:
                edit.remove("keys", doubled_keys(head, int(settings["frames"])))

    def key_end(self) -> int:
        """Key the last frame as it shows on every channel that goes on beyond it, whose beads there then sleep."""
        scene, count = self.scene, 0
        keys, last = scene.keys_by_channel(asleep=True), scene.frames - 1.0
        with self.edit("key the end") as edit:
            for channel in scene.channels:
                row = keys.get(channel.id, [])
                if not channel.repeat and any(k.time > last for k in row) and any(k.time < last for k in row):
                    made = keyed_as_it_is(course_of(scene, channel, row), last, new_id)
                    self.means((channel.instance_id, channel.owner_id), last)
                    store_keys(edit, made)
                    count += bool(made.put)
            if not count:
                raise InvalidInputError("Nothing goes on beyond the end.", "Key the last frame by hand.")
        return count

    def add_puppet(self, puppet_id: str, **place: Any) -> str:
        """Put a puppet in front of everything, standing on the ground in the middle; its instance's id."""
        puppet = self.workspace.puppet(puppet_id)
        instance_id = new_id()
        with self.edit(f"bring in {puppet.name}") as edit:
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
            self.put_start(edit, puppet, instance_id)
        return instance_id

    def update_instance(self, instance_id: str, **values: Any) -> None:
        """Change a puppet's place, size, depth, name or visibility in the scene."""
        with self.edit(f"set {', '.join(values)}") as edit:
            edit.put("instances", [revised(self.instance(instance_id), values)])

    def remove_instance(self, instance_id: str) -> None:
        """Take a puppet out of the scene, with all its keys."""
        with self.edit("take a puppet out") as edit:
            scene, instance = self.scene, self.instance(instance_id)
            channels = {c.id for c in scene.channels if c.instance_id == instance_id}
            edit.remove("keys", [k.id for k in scene.keys if k.channel_id in channels])
            edit.remove("channels", channels)
            edit.remove("poses", [p.id for p in scene.poses if p.instance_id == instance_id])
            for table in ("plants", "hitches", "bearings", "gaits", "rolls", "phrase_uses", "turns"):
                edit.remove(table, [x.id for x in getattr(scene, table) if x.instance_id == instance_id])
            edit.remove("offsets", [o.id for o in scene.offsets if o.instance_id == instance_id])
            edit.remove("instances", [instance.id])

    def step_depth(self, instance_id: str, steps: int) -> None:
        """Move a puppet to the front (positive) or the back by places."""
        with self.edit("order puppets") as edit:
            ordered = sorted(self.scene.instances, key=lambda i: (i.depth, i.id))
            at = ordered.index(self.instance(instance_id))
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


def _fitting(puppet: Puppet, scene: Scene) -> float:
    """A size at which the puppet can be seen whole and handled; 1 wherever that does."""
    share = max(puppet.height / scene.height, puppet.width / scene.width)
    if share > 0.95:
        return round(0.7 / share, 3)
    return round(0.35 / share, 3) if share < 0.15 else 1.0
