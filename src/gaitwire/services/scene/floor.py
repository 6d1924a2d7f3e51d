"""The Floor: a scene's own settings and the puppets in it, with all work on its poses and its timing."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.ids import new_id
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.scene import Instance, Scene
from gaitwire.core.scene_tables import rows_of_puppet
from gaitwire.core.timing.key import Key
from gaitwire.core.timing.pinning import keyed_as_it_is
from gaitwire.services.scene.clips import put_starting_pose
from gaitwire.services.scene.gestures import Draft, gesture
from gaitwire.services.scene.kept_poses import course_of
from gaitwire.services.scene.key_changes import store_keys
from gaitwire.services.scene.scene_length import doubled_keys
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


@gesture()
def update_scene(draft: Draft, /, **settings: Any) -> None:
    """Change the scene's own settings; raises InvalidInputError for one that does not fit."""
    if "name" in settings:
        settings["name"] = clean_name(settings["name"])
    draft.labelled(f"set {', '.join(settings)}".replace("_", " "))
    head = draft.scene
    draft.put([revised(head, settings)])
    if int(settings.get("frames", head.frames)) < head.frames:
        draft.remove(Key, doubled_keys(head, int(settings["frames"])))


@gesture("key the end")
def key_end(draft: Draft) -> int:
    """Key the last frame as it shows on every channel that goes on beyond it, whose beads there then sleep."""
    scene, count = draft.scene, 0
    keys, last = scene.keys_by_channel(asleep=True), scene.frames - 1.0
    for channel in scene.channels:
        row = keys.get(channel.id, [])
        if not channel.repeat and any(k.time > last for k in row) and any(k.time < last for k in row):
            made = keyed_as_it_is(course_of(scene, channel, row), last, new_id)
            draft.means((channel.instance_id, channel.owner_id), last)
            store_keys(draft, made)
            count += bool(made.put)
    if not count:
        raise InvalidInputError("Nothing goes on beyond the end.", "Key the last frame by hand.")
    return count


@gesture()
def add_puppet(draft: Draft, /, puppet_id: str, **place: Any) -> str:
    """Put a puppet in front of everything, standing on the ground in the middle; its instance's id."""
    puppet = draft.workspace.puppet(puppet_id)
    instance_id = new_id()
    draft.labelled(f"bring in {puppet.name}")
    scene = draft.scene
    standing = {
        "name": unlike(puppet.name, (i.name for i in scene.instances)),
        "depth": 1 + max((i.depth for i in scene.instances), default=-1),
        "x": scene.width / 2,
        "y": scene.ground if scene.ground is not None else scene.height * 0.85,
        "scale": _fitting(puppet, scene),
    }
    instance = Instance(id=instance_id, scene_id=scene.id, puppet_id=puppet_id, **{**standing, **place})
    draft.put([instance])
    put_starting_pose(draft, puppet, instance_id)
    return instance_id


@gesture()
def update_instance(draft: Draft, /, instance_id: str, **values: Any) -> None:
    """Change a puppet's place, size, depth, name or visibility in the scene."""
    draft.labelled(f"set {', '.join(values)}")
    draft.put([revised(draft.instance(instance_id), values)])


@gesture("take a puppet out")
def remove_instance(draft: Draft, instance_id: str) -> None:
    """Take a puppet out of the scene, with all its keys."""
    for model, ids in rows_of_puppet(draft.scene, draft.instance(instance_id).id).items():
        draft.remove(model, ids)


@gesture("order puppets")
def step_depth(draft: Draft, instance_id: str, steps: int) -> None:
    """Move a puppet to the front (positive) or the back by places."""
    ordered = sorted(draft.scene.instances, key=lambda i: (i.depth, i.id))
    at = ordered.index(draft.instance(instance_id))
    moved = ordered.pop(at)
    ordered.insert(min(len(ordered), max(0, at + steps)), moved)
    draft.put([i.model_copy(update={"depth": d}) for d, i in enumerate(ordered)])


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
