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
from gaitwire.core.scene_tables import SCENE_TABLES
from gaitwire.core.tolerances import TIME
from gaitwire.services.scene.gestures import Draft, SceneState, gesture
from gaitwire.services.scene.limb_tips import keep_side, limb_at, match_pose, plants_of, solved_at
from gaitwire.services.session.revising import revised

HITCHABLE = ("seat", "bone", "camera")
"""Kinds of owners that can go with a bone."""


UNSEEN = 1.0
"""Pixels from the floor up to which a foot that is planted is left where it is."""


@gesture("plant")
def plant_limbs(draft: Draft, limbs: Sequence[Node], frame: float, carrier: Node | None = None) -> list[str]:
    """Plant limbs where their tips are on a frame, on the ground or on a bone, until they are planted next.

    A foot near the floor is put on it (`caught`: by how many pixels). Raises InvalidInputError for a limb
    that is planted there already, CycleError where the carrier would go with itself.
    """
    if not limbs:
        raise InvalidInputError("No limb is chosen.", "Choose a hand or a foot; limbs are made on the Bench.")
    scene, draft.outcome.caught = draft.scene, {}
    made = []
    for instance_id, limb_id in limbs:
        solved, limb = solved_at(draft, instance_id, frame), limb_at(draft, (instance_id, limb_id))
        others = plants_of(draft, (instance_id, limb_id))
        if any(p.start - TIME <= frame <= p.stop + TIME for p in others):
            raise InvalidInputError(f"“{limb.name}” is planted here already.", "Lift it first, or drag its spot.")
        later = [p.start for p in others if p.start > frame]
        spot = spot_of(solved, limb, _carrier_matrix(draft, carrier, frame))
        if carrier is None and (gap := _gap(draft, solved, limb, spot.y, spot.angle)):
            spot, draft.outcome.caught[limb.name] = spot._replace(y=spot.y + gap), gap
        made.append(
            Plant(
                id=new_id(), scene_id=scene.id, instance_id=instance_id, limb_id=limb_id, start=frame,
                stop=max(frame, min([*(t - 1 for t in later), scene.frames - 1.0])),
                carrier_instance=carrier[0] if carrier else "", carrier_id=carrier[1] if carrier else "",
                **spot._asdict(),
            )
        )  # fmt: skip
    draft.refuse_locked((instance_id, instance_id) for instance_id, _ in limbs)
    for instance_id, limb_id in limbs:
        keep_side(draft, solved_at(draft, instance_id, frame), limb_at(draft, (instance_id, limb_id)), frame)
    draft.put(made)
    return [p.id for p in made]


def _gap(floor: SceneState, solved: SolvedPose, limb: Limb, y: float, angle: float) -> float:
    """How far a foot that lies at an angle, its joint at y, is above the floor that it is meant to stand on."""
    source = solved.puppet.source
    ground = floor.scene.floor_under(source.instance)
    gap = None if ground is None else above_floor(planned(solved, limb), y, angle, source.instance.scale, ground)
    near = NEAR * source.puppet.height * source.instance.scale
    return gap if gap is not None and UNSEEN < abs(gap) < near else 0.0


@gesture("put on the floor")
def put_on_floor(draft: Draft, plant_id: str) -> None:
    """Put a plant that is above the floor, or under it, on the floor."""
    plant = _found(draft, draft.scene.plants, plant_id)
    solved, limb = solved_at(draft, plant.instance_id, plant.start), limb_at(draft, (plant.instance_id, plant.limb_id))
    gap = 0.0 if plant.carrier_id else _gap(draft, solved, limb, plant.y, plant.angle)
    if not gap:
        raise InvalidInputError("This plant is not near the floor.", "Drag its footprint.")
    draft.put([plant.model_copy(update={"y": plant.y + gap})])


@gesture("plant")
def put_plant(draft: Draft, plant: Plant) -> None:
    """Store a plant with places and times of its own."""
    _refuse_meeting(draft, plant)
    draft.put([plant])


def _refuse_meeting(floor: SceneState, plant: Plant) -> None:
    """Raise InvalidInputError where a limb would be planted twice at a time."""
    others = (p for p in plants_of(floor, (plant.instance_id, plant.limb_id)) if p.id != plant.id)
    if any(p.start <= plant.stop and plant.start <= p.stop for p in others):
        raise InvalidInputError("This limb is planted elsewhere then.", "Make that plant shorter first.")


@gesture("lift")
def lift_limbs(draft: Draft, limbs: Sequence[Node], frame: float) -> int:
    """Let planted limbs go from a frame on; they go on from how they stand. How many were planted."""
    lifted = [
        (node, plant)
        for node in limbs
        for plant in plants_of(draft, node)
        if plant.start - TIME <= frame <= plant.stop + TIME
    ]
    if not lifted:
        raise InvalidInputError("Nothing that is chosen is planted here.", "Choose a planted hand or foot.")
    for _, plant in lifted:
        if plant.start < frame - TIME:
            draft.put([plant.model_copy(update={"stop": frame})])
        else:
            draft.remove(Plant, [plant.id])
    match_pose(draft, [node for node, _ in lifted], frame)
    return len(lifted)


@gesture("set a plant")
def update_plant(draft: Draft, plant_id: str, values: Mapping[str, Any]) -> None:
    """Move a plant's spot, or its ends in time; raises InvalidInputError where it would meet another."""
    made = revised(_found(draft, draft.scene.plants, plant_id), values)
    _refuse_meeting(draft, made)
    draft.put([made])


@gesture()
def hitch_nodes(
    draft: Draft, nodes: Sequence[Node], frame: float, carrier: Node | None, arc: bool = False
) -> list[str]:
    """Let bones or whole puppets go with a bone from a frame on; with none, let them go, or throw them (`arc`).

    Raises CycleError where something would carry itself.
    """
    scene = draft.scene
    if carrier is not None and carrier in nodes:
        raise InvalidInputError("A thing cannot carry itself.", "Choose another bone to carry it.")
    made = []
    for instance_id, owner_id in _hitchable(draft, nodes):
        known = next(
            (h for h in scene.hitches if (h.instance_id, h.owner_id, h.time) == (instance_id, owner_id, frame)),
            None,
        )
        by = {"carrier_instance": carrier[0] if carrier else "", "carrier_id": carrier[1] if carrier else ""}
        fields = {"scene_id": scene.id, "instance_id": instance_id, "owner_id": owner_id, "time": frame, "arc": arc}
        made.append(Hitch.model_validate({"id": known.id if known else new_id(), **fields, **by}))
    draft.labelled("throw" if arc else "hitch" if carrier else "let go")
    draft.refuse_locked(nodes)
    draft.put(made)
    return [h.id for h in made]


def _hitchable(floor: SceneState, nodes: Sequence[Node]) -> list[Node]:
    """Those of the nodes that are whole puppets or bones; raises InvalidInputError when none is."""
    found = [node for node in nodes if floor.owner_kind(*node) in HITCHABLE]
    if not found:
        raise InvalidInputError("Nothing is chosen that can be carried.", "Choose a bone, or a puppet as a whole.")
    return found


@gesture("set a hitch")
def update_hitch(draft: Draft, hitch_id: str, values: Mapping[str, Any]) -> None:
    """Move a hitch in time, or change how a thrown thing flies."""
    draft.put([revised(_found(draft, draft.scene.hitches, hitch_id), values)])


@gesture("bearing")
def change_bearing(draft: Draft, instance_id: str, frame: float, owner_id: str = "") -> str:
    """Let a bone carry the body from a frame on, or ('') the one it hangs from at rest; the bearing's id."""
    scene = draft.scene
    own = [b for b in scene.bearings if b.instance_id == instance_id]
    past = [b for b in own if b.time < frame - TIME]
    carries = past[-1].owner_id if past else ""
    if owner_id == carries:
        raise InvalidInputError("This bone carries the body here already.", "Choose another.")
    if owner_id and draft.owner_kind(instance_id, owner_id) != "bone":
        raise InvalidInputError("Only a bone can carry the body.", "Choose one.")
    known = next((b for b in own if abs(b.time - frame) < TIME), None)
    made = Bearing(
        id=known.id if known else new_id(),
        scene_id=scene.id,
        instance_id=instance_id,
        time=frame,
        owner_id=owner_id,
    )
    draft.refuse_locked([(instance_id, instance_id)])
    draft.put([made])
    return made.id


@gesture("set a bearing")
def update_bearing(draft: Draft, bearing_id: str, values: Mapping[str, Any]) -> None:
    """Move a bearing in time, or choose another bone for it."""
    made = revised(_found(draft, draft.scene.bearings, bearing_id), values)
    others = [b for b in draft.scene.bearings if b.instance_id == made.instance_id and b.id != made.id]
    if any(abs(b.time - made.time) < TIME for b in others):
        raise InvalidInputError("There is another change of bearing on this frame.", "Remove that one first.")
    draft.put([made])


@gesture("remove a link")
def remove_link(draft: Draft, table: str, link_id: str) -> None:
    """Take a plant, a hitch or a bearing away."""
    draft.remove(SCENE_TABLES[table].model, [_found(draft, getattr(draft.scene, table), link_id).id])


def _found(floor: SceneState, links: Sequence[Any], link_id: str) -> Any:
    found = next((link for link in links if link.id == link_id), None)
    if found is None:
        raise NotFoundError("This is not there any more.", "Choose another.")
    return found


def _carrier_matrix(floor: SceneState, carrier: Node | None, frame: float) -> FloatArray | None:
    if carrier is None:
        return None
    solved = solved_at(floor, carrier[0], frame)
    node = solved.puppet.node(carrier[1])
    if node is None or floor.owner_kind(*carrier) not in ("bone", "seat"):
        raise InvalidInputError("Only a bone can carry something.", "Choose another.")
    matrix: FloatArray = solved.posed.world[:, node, 0]
    return np.asarray(matrix)
