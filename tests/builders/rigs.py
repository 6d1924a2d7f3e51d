"""A puppet of two arms and a nose, rigged, in a scene of its own."""

import numpy as np

from gaitwire.core.evaluate import evaluate
from gaitwire.core.puppet.controls import Row
from gaitwire.services.library.art_in import import_art
from gaitwire.services.rig.bench import Bench
from gaitwire.services.rig.drawings import Drawings
from gaitwire.services.rig.mirrored_shapes import Reflecting
from gaitwire.services.scene.floor import add_puppet, make_scene
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.posing import set_values

ARMS = b"""<svg xmlns="http://www.w3.org/2000/svg" width="300" height="300">
<g id="far upper"><path d="M160 90 H250 V110 H160 Z" fill="#b5622b"/></g>
<g id="far lower"><path d="M240 92 H290 V108 H240 Z" fill="#25756a"/></g>
<g id="body"><path d="M120 60 H180 V260 H120 Z" fill="#efe6d0"/></g>
<g id="nose"><path d="M150 30 L170 40 L150 50 Z" fill="#b5622b"/></g>
<g id="near upper"><path d="M50 90 H140 V110 H50 Z" fill="#b5622b"/></g>
<g id="near lower"><path d="M10 92 H60 V108 H10 Z" fill="#25756a"/></g>
</svg>"""


class Rig(Reflecting):
    """The puppet in a scene of its own."""

    def __init__(self, workspace):
        super().__init__(workspace, import_art(workspace, ARMS, "arms.svg", "Arms").puppet_id)
        bench = Drawings(workspace, self.puppet_id)
        self.ids = {b.name: b.id for b in self.puppet.bones}
        self.parts = {p.name: p.id for p in self.puppet.parts}
        for side, sign in (("near", -1), ("far", 1)):
            self._hang(f"{side} upper", "body", 150 + 15 * sign, 100, 150 + 95 * sign)
            self._hang(f"{side} lower", f"{side} upper", 150 + 95 * sign, 100, 150 + 140 * sign)
        self._hang("nose", "body", 150, 40, None)
        bench.copy(self.parts["nose"])
        bench.show(self.parts["nose"], 0)
        self.scene = make_scene(workspace, "Arms")
        self.floor = Floor(workspace, self.scene)
        self.who = add_puppet(self.floor, self.puppet_id, x=self.puppet.base_x, y=self.puppet.base_y, scale=1.0)

    def _hang(self, name, above, x, y, tip):
        bench = Bench(self.workspace, self.puppet_id)
        bench.hang([self.ids[name]], self.ids[above])
        bench.move_joint(self.ids[name], "pivot", x, y, alone=True)
        if tip is not None:
            bench.move_joint(self.ids[name], "tip", tip, y, alone=True)
            bench.update_bones([self.ids[name]], {"side": name.split()[0]})

    def say(self, entry, *rows):
        self.put_rows(entry, [Row(kind=k, owner_id=o, property=p, value=v) for k, o, p, v in rows])

    def key(self, frame, owner, prop, value):
        set_values(self.floor, frame, {(self.who, owner, prop): value})

    def seen(self, frame=0.0):
        return evaluate(self.workspace.compiled(self.scene), np.array([frame]))

    def matrix(self, part, frame=0.0):
        frames = self.seen(frame)
        return frames.matrices[0, frames.part_keys.index((self.who, self.parts[part]))]

    def number(self, part, frame=0.0):
        frames = self.seen(frame)
        return int(frames.drawing[0, frames.part_keys.index((self.who, self.parts[part]))])
