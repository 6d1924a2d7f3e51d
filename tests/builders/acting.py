"""Scenes of the orchard alone; and one puppet with another beside it, in a shot, by the names of bones and limbs."""

import numpy as np

from builders.making import tip
from builders.named import id_of
from gaitwire.services.scene.floor import add_puppet, make_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.posing import set_values
from gaitwire.store.documents import discard, list_documents
from gaitwire.store.history import SHELF, take_step


def only(workspace, *names):
    """Leave these scenes alone in a workspace: what is done to a puppet is tried in all that it plays in."""
    scenes = [e for e in list_documents(workspace.store, "scene") if e.name not in names]
    with workspace.edit("take off", [*(e.id for e in scenes), SHELF]) as edit:
        for scene in scenes:
            discard(edit, "scene", scene.id)


class Alone:
    """One puppet of the orchard in a scene of its own, by the names of its bones."""

    def __init__(self, workspace, name="Tamsin", place=None, **scene):
        self.workspace = workspace
        settings = {"frames": 48, "loop": False, **scene}
        self.floor = Floor(workspace, make_scene(workspace, "Trial", **settings))
        self.puppet = workspace.puppet(id_of(workspace, "puppet", name))
        self.who = add_puppet(self.floor, self.puppet.id, **(place or {}))
        self.bones = {b.name: b for b in self.puppet.bones}
        self.ids = {b.name: b.id for b in self.puppet.bones}

    def node(self, bone):
        return self.who, self.ids[bone]

    def slot(self, owner, prop="turn"):
        """A property of a bone by its name, or of anything else by its id."""
        return self.who, self.ids.get(owner, owner), prop

    def key(self, frame, bone, value, prop="turn"):
        set_values(self.floor, float(frame), {self.slot(bone, prop): float(value)})

    def keys(self, owner, prop="turn"):
        """In the order of time."""
        scene = self.floor.scene
        found = (c.id for c in scene.channels if (c.instance_id, c.owner_id, c.property) == self.slot(owner, prop))
        return scene.keys_by_channel().get(next(found, ""), [])

    def seen(self, owner, frames, prop="turn"):
        return self.floor.values_at(np.asarray(frames, float))[self.slot(owner, prop)]

    def at(self, *frames):
        return self.workspace.frames(self.floor.scene_id, np.array(frames, float))

    def undo(self):
        take_step(self.workspace.store, self.floor.scene_id, "undo")


class Cast(Alone):
    """Tamsin, and Pip, in a shot of their own."""

    def __init__(self, workspace):
        super().__init__(workspace, place={"x": 500.0}, ground=640.0)
        self.pip = add_puppet(self.floor, id_of(workspace, "puppet", "Pip"), x=800.0)
        self.limbs = {i.name: (self.who, i.id) for i in self.puppet.limbs}

    def place(self, bone, *frames):
        return tip(self.at(*frames), self.bones[bone].id, 0)

    def whole(self, *frames):
        found = self.at(*frames)
        own = [n for n, (instance, _) in enumerate(found.node_keys) if instance == self.who]
        return found.nodes[:, own]

    def order(self):
        """Names of the bones in the order of `whole`."""
        names = {b.id: b.name for b in self.bones.values()}
        return [names.get(owner, "") for instance, owner in self.at(0.0).node_keys if instance == self.who]

    def angles(self, bone, *frames):
        """Degrees in which a bone points on the stage."""
        found = self.at(*frames)
        a, b = found.nodes[:, found.node_keys.index(self.node(bone)), :2].T
        return np.degrees(np.arctan2(b, a))
