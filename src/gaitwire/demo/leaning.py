"""A figure posed by how its bones lean in the scene, not in each other: easier to think of in a performance."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from gaitwire.core.ids import new_id
from gaitwire.core.links import Plant
from gaitwire.demo.scenes import Performer
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.links import put_plant
from gaitwire.services.scene.posing import set_values
from gaitwire.services.session.workspace import Workspace


class LeaningPerformer(Performer):
    """A puppet whose bones are turned to leans: degrees from how each points at rest, clockwise in the scene."""

    def __init__(self, workspace: Workspace, floor: Floor, puppet_id: str, **place: float) -> None:
        super().__init__(workspace, floor, puppet_id, **place)
        self.puppet = workspace.puppet(puppet_id)
        self.at = floor.instance(self.instance)
        self.limbs = {i.name: i.id for i in self.puppet.limbs}
        self._parents = {b.name: self._name(b.parent_id) for b in self.puppet.bones}
        self._turns: dict[str, float] = {}

    def _name(self, bone_id: str | None) -> str | None:
        bone = self.puppet.bone(bone_id) if bone_id else None
        return bone.name if bone else None

    def _lean(self, bone: str | None) -> float:
        """How a bone leans by the turns that were set last."""
        total = 0.0
        while bone is not None:
            total += self._turns.get(bone, 0.0)
            bone = self._parents[bone]
        return total

    def lean(self, frame: float, leans: Mapping[str, float]) -> None:
        """Key bones so that they lean as said; name parents before what hangs from them."""
        values = {}
        for bone, wanted in leans.items():
            self._turns[bone] = wanted - self._lean(self._parents[bone])
            values[self.instance, self.bones[bone], "turn"] = self._turns[bone]
        set_values(self.floor, frame, values)

    def lean_by(self, table: str, bones: Sequence[str]) -> None:
        """Key bones by a table of rows as in '8: 2 -10', split by semicolons or lines: the frame, then each lean."""
        for row in table.replace("\n", ";").split(";"):
            if row.strip():
                frame, _, leans = row.partition(":")
                self.lean(float(frame), dict(zip(bones, map(float, leans.split()), strict=True)))

    def stand(self, frame: float, x: float, y: float) -> None:
        """Key the pelvis so that its joint lies at a place of the scene."""
        pelvis = next(b for b in self.puppet.bones if b.name == "pelvis")
        scale = self.at.scale
        rest = (
            self.at.x + (pelvis.x - self.puppet.base_x) * scale,
            self.at.y + (pelvis.y - self.puppet.base_y) * scale,
        )
        shifts = {"shift_x": (x - rest[0]) / scale, "shift_y": (y - rest[1]) / scale}
        set_values(self.floor, frame, {(self.instance, self.bones["pelvis"], name): v for name, v in shifts.items()})

    def hold(
        self, limb: str, start: float, stop: float, place: tuple[float, float], angle: float = 0.0,
        carrier: tuple[str, str] = ("", ""), soft: tuple[float, float] = (14.0, 14.0),
    ) -> None:  # fmt: skip
        """Plant a limb's tip at a place, of the scene or of a carrier (instance, bone)."""
        put_plant(
            self.floor, Plant(
                id=new_id(), scene_id=self.floor.scene_id, instance_id=self.instance, limb_id=self.limbs[limb],
                start=start, stop=stop, carrier_instance=carrier[0], carrier_id=carrier[1], x=place[0], y=place[1],
                angle=angle, soft_in=soft[0], soft_out=soft[1],
            )
        )  # fmt: skip
