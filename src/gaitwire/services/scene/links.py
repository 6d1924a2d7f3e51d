"""Work on what joins bones beyond their parents: plants, hitches, bearings."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np

from gaitwire.core.addresses import Node
from gaitwire.core.conventions import FloatArray
from gaitwire.core.errors import InvalidInputError, NotFoundError
from gaitwire.core.evaluate.posed import SolvedPose
from gaitwire.core.evaluate.spot import NEAR, above_floor, planned, spot_of
from gaitwire.core.ids import new_id
from gaitwire.core.links import Bearing, Hitch, Plant
from gaitwire.core.puppet.model import Limb
from gaitwire.core.tolerances import TIME
from gaitwire.services.scene.limb_tips import TipWork
from gaitwire.services.session.revising import revised

HITCHABLE = ("seat", "bone", "camera")
"""Kinds of owners that can go with a bone."""


UNSEEN = 1.0
"""Pixels from the floor up to which a foot that is planted is left where it is."""


class LinkWork(TipWork):
    """Gestures on plants, hitches and bearings."""

    caught: dict[str, float]
    """By how many pixels the last planted feet were put lower, onto the floor, by the names of their limbs."""

    def plant(self, limbs: Sequence[Node], frame: float, carrier: Node | None = None) -> list[str]:
        """Plant limbs where their tips are on a frame, on the ground or on a bone, until they are planted next.

        A foot near the floor is put on it (`caught`: by how many pixels). Raises InvalidInputError for a limb
        that is planted there already, CycleError where the carrier would go with itself.
        """
        if not limbs:
            raise InvalidInputError("No limb is chosen.", "Choose a hand or a foot; limbs are made on the Bench.")
        scene, self.caught = self.scene, {}
        made = []
        for instance_id, limb_id in limbs:
            solved, limb = self._solved(instance_id, frame), self._limb((instance_id, limb_id))
            others = self._plants((instance_id, limb_id))
            if any(p.start - TIME <= frame <= p.stop + TIME for p in others):
                raise InvalidInputError(f"“{limb.name}” is planted here already.", "Lift it first, or drag its spot.")
            later = [p.start for p in others if p.start > frame]
            spot = spot_of(solved, limb, self._carrier_matrix(carrier, frame))
            if carrier is None and (gap := self._gap(solved, limb, spot.y, spot.angle)):
                spot, self.caught[limb.name] = spot._replace(y=spot.y + gap), gap
            made.append(
                Plant(
                    id=new_id(), scene_id=scene.id, instance_id=instance_id, limb_id=limb_id, start=frame,
                    stop=max(frame, min([*(t - 1 for t in later), scene.frames - 1.0])),
                    carrier_instance=carrier[0] if carrier else "", carrier_id=carrier[1] if carrier else "",
                    **spot._asdict(),
                )
            )  # fmt: skip
        with self.edit("plant") as edit:
            self.refuse_locked((instance_id, instance_id) for instance_id, _ in limbs)
            for instance_id, limb_id in limbs:
                self._keep_side(edit, self._solved(instance_id, frame), self._limb((instance_id, limb_id)), frame)
            edit.put("plants", made)
        return [p.id for p in made]

    def _gap(self, solved: SolvedPose, limb: Limb, y: float, angle: float) -> float:
        """How far a foot that lies at an angle, its joint at y, is above the floor that it is meant to stand on."""
        source = solved.puppet.source
        floor = self.scene.floor_under(source.instance)
        gap = above_floor(planned(solved, limb), y, angle, source.instance.scale, floor) if floor is not None else None
        near = NEAR * source.puppet.height * source.instance.scale
        return gap if gap is not None and UNSEEN < abs(gap) < near else 0.0

    def to_floor(self, plant_id: str) -> None:
        """Put a plant that is above the floor, or under it, on the floor."""
        plant = self._found(self.scene.plants, plant_id)
        solved, limb = self._solved(plant.instance_id, plant.start), self._limb((plant.instance_id, plant.limb_id))
        gap = 0.0 if plant.carrier_id else self._gap(solved, limb, plant.y, plant.angle)
        if not gap:
            raise InvalidInputError("This plant is not near the floor.", "Drag its footprint.")
        with self.edit("put on the floor") as edit:
            edit.put("plants", [plant.model_copy(update={"y": plant.y + gap})])

    def put_plant(self, plant: Plant) -> None:
        """Store a plant with places and times of its own."""
        self._refuse_meeting(plant)
        with self.edit("plant") as edit:
            edit.put("plants", [plant])

    def _refuse_meeting(self, plant: Plant) -> None:
        """Raise InvalidInputError where a limb would be planted twice at a time."""
        others = (p for p in self._plants((plant.instance_id, plant.limb_id)) if p.id != plant.id)
        if any(p.start <= plant.stop and plant.start <= p.stop for p in others):
            raise InvalidInputError("This limb is planted elsewhere then.", "Make that plant shorter first.")

    def lift(self, limbs: Sequence[Node], frame: float) -> int:
        """Let planted limbs go from a frame on; they go on from how they stand. How many were planted."""
        with self.edit("lift") as edit:
            lifted = [
                (node, plant)
                for node in limbs
                for plant in self._plants(node)
                if plant.start - TIME <= frame <= plant.stop + TIME
            ]
            if not lifted:
                raise InvalidInputError("Nothing that is chosen is planted here.", "Choose a planted hand or foot.")
            for _, plant in lifted:
                if plant.start < frame - TIME:
                    edit.put("plants", [plant.model_copy(update={"stop": frame})])
                else:
                    edit.remove("plants", [plant.id])
            self._match(edit, [node for node, _ in lifted], frame)
        return len(lifted)

    def update_plant(self, plant_id: str, values: Mapping[str, Any]) -> None:
        """Move a plant's spot, or its ends in time; raises InvalidInputError where it would meet another."""
        with self.edit("set a plant") as edit:
            made = revised(self._found(self.scene.plants, plant_id), values)
            self._refuse_meeting(made)
            edit.put("plants", [made])

    def hitch(self, nodes: Sequence[Node], frame: float, carrier: Node | None, arc: bool = False) -> list[str]:
        """Let bones or whole puppets go with a bone from a frame on; with none, let them go, or throw them (`arc`).

        Raises CycleError where something would carry itself.
        """
        scene = self.scene
        if carrier is not None and carrier in nodes:
            raise InvalidInputError("A thing cannot carry itself.", "Choose another bone to carry it.")
        made = []
        for instance_id, owner_id in self._hitchable(nodes):
            known = next(
                (h for h in scene.hitches if (h.instance_id, h.owner_id, h.time) == (instance_id, owner_id, frame)),
                None,
            )
            by = {"carrier_instance": carrier[0] if carrier else "", "carrier_id": carrier[1] if carrier else ""}
            fields = {"scene_id": scene.id, "instance_id": instance_id, "owner_id": owner_id, "time": frame, "arc": arc}
            made.append(Hitch.model_validate({"id": known.id if known else new_id(), **fields, **by}))
        with self.edit("throw" if arc else "hitch" if carrier else "let go") as edit:
            self.refuse_locked(nodes)
            edit.put("hitches", made)
        return [h.id for h in made]

    def _hitchable(self, nodes: Sequence[Node]) -> list[Node]:
        """Those of the nodes that are whole puppets or bones; raises InvalidInputError when none is."""
        found = [node for node in nodes if self.owner_kind(*node) in HITCHABLE]
        if not found:
            raise InvalidInputError("Nothing is chosen that can be carried.", "Choose a bone, or a puppet as a whole.")
        return found

    def update_hitch(self, hitch_id: str, values: Mapping[str, Any]) -> None:
        """Move a hitch in time, or change how a thrown thing flies."""
        with self.edit("set a hitch") as edit:
            edit.put("hitches", [revised(self._found(self.scene.hitches, hitch_id), values)])

    def bear(self, instance_id: str, frame: float, owner_id: str = "") -> str:
        """Let a bone carry the body from a frame on, or ('') the one it hangs from at rest; the bearing's id."""
        scene = self.scene
        own = [b for b in scene.bearings if b.instance_id == instance_id]
        past = [b for b in own if b.time < frame - TIME]
        carries = past[-1].owner_id if past else ""
        if owner_id == carries:
            raise InvalidInputError("This bone carries the body here already.", "Choose another.")
        if owner_id and self.owner_kind(instance_id, owner_id) != "bone":
            raise InvalidInputError("Only a bone can carry the body.", "Choose one.")
        known = next((b for b in own if abs(b.time - frame) < TIME), None)
        made = Bearing(
            id=known.id if known else new_id(),
            scene_id=scene.id,
            instance_id=instance_id,
            time=frame,
            owner_id=owner_id,
        )
        with self.edit("bearing") as edit:
            self.refuse_locked([(instance_id, instance_id)])
            edit.put("bearings", [made])
        return made.id

    def update_bearing(self, bearing_id: str, values: Mapping[str, Any]) -> None:
        """Move a bearing in time, or choose another bone for it."""
        with self.edit("set a bearing") as edit:
            made = revised(self._found(self.scene.bearings, bearing_id), values)
            others = [b for b in self.scene.bearings if b.instance_id == made.instance_id and b.id != made.id]
            if any(abs(b.time - made.time) < TIME for b in others):
                raise InvalidInputError("There is another change of bearing on this frame.", "Remove that one first.")
            edit.put("bearings", [made])

    def remove_link(self, table: str, link_id: str) -> None:
        """Take a plant, a hitch or a bearing away."""
        with self.edit("remove a link") as edit:
            edit.remove(table, [self._found(getattr(self.scene, table), link_id).id])

    def _found(self, links: Sequence[Any], link_id: str) -> Any:
        found = next((link for link in links if link.id == link_id), None)
        if found is None:
            raise NotFoundError("This is not there any more.", "Choose another.")
        return found

    def _carrier_matrix(self, carrier: Node | None, frame: float) -> FloatArray | None:
        if carrier is None:
            return None
        solved = self._solved(carrier[0], frame)
        node = solved.puppet.node(carrier[1])
        if node is None or self.owner_kind(*carrier) not in ("bone", "seat"):
            raise InvalidInputError("Only a bone can carry something.", "Choose another.")
        matrix: FloatArray = solved.posed.world[:, node, 0]
        return np.asarray(matrix)
