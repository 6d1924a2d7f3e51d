"""Scenes of the orchard alone; and one puppet with another beside it, in a shot, by the names of bones and limbs."""

import numpy as np

from builders.making import tip
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


class Cast:
    """Tamsin, and Pip, in a shot of their own."""

    def __init__(self, workspace):
        self.workspace = workspace
        self.floor = Floor(workspace, make_scene(workspace, "Trial", frames=48, loop=False, ground=640.0))
        ids = {e.name: e.id for e in list_documents(workspace.store, "puppet")}
        self.who, self.pip = (add_puppet(self.floor, ids[name], x=x) for name, x in (("Tamsin", 500.0), ("Pip", 800.0)))
        puppet = workspace.puppet(ids["Tamsin"])
        self.bones = {b.name: b for b in puppet.bones}
        self.limbs = {i.name: (self.who, i.id) for i in puppet.limbs}

    def node(self, name):
        return self.who, self.bones[name].id

    def key(self, frame, bone, value, prop="turn"):
        set_values(self.floor, frame, {(*self.node(bone), prop): value})

    def at(self, *frames):
        return self.workspace.frames(self.floor.scene_id, np.array(frames, float))

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

    def undo(self):
        take_step(self.workspace.store, self.floor.scene_id, "undo")

    def angles(self, bone, *frames):
        """Degrees in which a bone points on the stage."""
        found = self.at(*frames)
        a, b = found.nodes[:, found.node_keys.index(self.node(bone)), :2].T
        return np.degrees(np.arctan2(b, a))
