"""The card about what is chosen on the Floor: beads first, then a pose, bones, else the scene."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Form
from starlette.responses import HTMLResponse

from gaitwire.core.addresses import Bead, Node
from gaitwire.core.errors import InvalidInputError, NotFoundError
from gaitwire.core.owners import owner_name
from gaitwire.core.timing.channel import LED, PROPERTIES, OwnerKind
from gaitwire.core.timing.easing.chart import SPACINGS
from gaitwire.core.timing.mark import Pose
from gaitwire.formats.sound_files import SUFFIXES
from gaitwire.services.gait.gait_cards import list_cards
from gaitwire.services.scene.creep import creeps_of
from gaitwire.services.scene.found_poses import FOUND, find_pose_or_found
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.hops import HOP_FIELDS, usual_hop
from gaitwire.services.scene.poses import pose_durations
from gaitwire.services.scene.smears import SMEARS
from gaitwire.services.scene.visibility import shown_at
from gaitwire.services.views import chosen as cards
from gaitwire.services.views.control_card import dial_cards
from gaitwire.services.views.link_card import limb_value_rows, link_card
from gaitwire.services.views.phrase_card import finder, making, use_card
from gaitwire.services.views.walk_card import walk_card
from gaitwire.store.documents import list_documents
from gaitwire.web.context import Space
from gaitwire.web.routers.floor.answers import FrameField, FrameIf, LongText, read_beads, read_nodes
from gaitwire.web.templating import page

router = APIRouter(prefix="/floor/{scene_id}")


@router.post("/card")
def card(
    workspace: Space,
    scene_id: str,
    frame: FrameField = 0.0,
    nodes: LongText = "[]",
    beads: LongText = "[]",
    pose: Annotated[str, Form()] = "",
    sound: Annotated[str, Form()] = "",
    since: FrameIf = None,
    until: FrameIf = None,
) -> HTMLResponse:
    """The card; `since` and `until` are the stretch of frames that is marked on the wires, if one is."""
    view = Floor(workspace, scene_id)
    scene = view.scene
    context: dict[str, Any] = {
        "scene": scene,
        "frame": frame,
        "nodes": [],
        "beads": [],
        "pose": None,
        "unmarked": None,
        "phrase_use": None,
    }
    known = {i.id for i in scene.instances}
    if picked := [b for b in read_beads(beads) if b.instance_id in known]:
        context |= _beads(view, picked)
    found = next((p for p in scene.poses if p.id == pose), None)
    unmarked = _unmarked(view, pose) if pose.startswith(FOUND) else None
    chosen = cards.chosen_nodes(workspace, scene, read_nodes(nodes))
    context["sound"] = next((s for s in scene.sounds if s.id == sound), None)
    if context["beads"] or context["sound"]:
        pass
    elif found is not None:
        context |= {"pose": found, "pose_of": view.instance(found.instance_id).name}
        context["lasts"] = pose_durations(view, found.instance_id)[found.id]
    elif unmarked is not None:
        context |= {"unmarked": unmarked, "pose_of": view.instance(unmarked.instance_id).name}
    elif chosen:
        context |= _nodes(view, chosen, frame)
        context["span"] = (frame if since is None else since, frame if until is None else until)
        if len(chosen) == 1 and view.owner_kind(*chosen[0]) == "phrase":
            context["phrase_use"] = use_card(view, chosen[0][1])
        if seat := context["seat"]:
            context |= _seat(view, seat.id, (frame if since is None else since, until))
    else:
        context |= _scene(view)
    return page("floor/card.html", **context)


def _unmarked(view: Floor, pose_id: str) -> Pose | None:
    """A pose that was found; None where its puppet has gone."""
    try:
        return find_pose_or_found(view, pose_id)
    except NotFoundError:
        return None


def _scene(view: Floor) -> dict[str, Any]:
    return {
        "puppets": list_documents(view.workspace.store, "puppet"),
        "walks": list_cards(view.workspace),
        "sound_suffixes": ",".join(SUFFIXES),
        "creeps": len(creeps_of(view.scene)),
        "seams": cards.seam_rows(view, None),
        "repeat_kinds": cards.REPEATS,
    }


def _seat(view: Floor, instance_id: str, span: tuple[float, float | None]) -> dict[str, Any]:
    """What only a whole puppet does; without an end the span goes on to the last frame."""
    start, stop = span
    whole = (start, view.scene.frames - 1.0 if stop is None else stop)
    return {
        "phrases": finder(view, instance_id),
        "hop": usual_hop(view, instance_id).model_dump(),
        "hop_fields": HOP_FIELDS,
        "walk": walk_card(view, instance_id, whole),
    }


def _beads(view: Floor, picked: list[Bead]) -> dict[str, Any]:
    try:
        curve = cards.curve_view(view, picked)
    except InvalidInputError:
        return {}  # they are gone by now
    return {
        "beads": picked,
        "curve": curve,
        "chart": cards.chart_view(view, picked),
        "families": cards.easing_families(),
        "spacings": SPACINGS,
        "phrase_making": making(view),
        "held": cards.held_frames(view, picked),
        "wire_count": len({(b.instance_id, b.owner_id) for b in picked}),
    }


def _rolls(view: Floor, chosen: list[Node], kinds: set[OwnerKind]) -> dict[str, Any] | None:
    """Whether and how a single chosen bone rolls; None where there is no such bone."""
    if kinds != {"bone"} or len(chosen) != 1:
        return None
    found = next((r for r in view.scene.rolls if (r.instance_id, r.owner_id) == chosen[0]), None)
    return {"roll": found}


_DIALS: set[OwnerKind] = {"pad", "gauge"}


def _nodes(view: Floor, chosen: list[Node], frame: float) -> dict[str, Any]:
    scene, workspace = view.scene, view.workspace
    compiled, cast = workspace.compiled(view.scene_id), workspace.cast(scene)
    kinds = {view.owner_kind(*node) for node in chosen}
    alone = kinds == {"limb"} and len(chosen) == 1
    dials = dial_cards(compiled, chosen, frame)
    rows = limb_value_rows(view, chosen[0], frame) if alone else cards.value_rows(scene, compiled, chosen, frame)
    lone = next(iter(kinds)) if len(kinds) == 1 else "bone"
    props = PROPERTIES["pin" if "pin" in kinds else "bone" if lone == "seat" else lone]
    seat = next((i for i in scene.instances if len(chosen) == 1 and chosen[0] == (i.id, i.id)), None)
    return {
        "nodes": chosen,
        "title": owner_name(scene, cast, chosen[0])
        if len(chosen) == 1
        else f"{len(chosen)} {'dials' if kinds <= _DIALS else 'bones'}",
        "rows": rows,
        "dials": dials,
        "links": None if kinds <= _DIALS else link_card(view, chosen, frame),
        "rolls": _rolls(view, chosen, kinds),
        "smears": SMEARS if kinds <= {"seat", "bone", "part"} else None,
        "parts": cards.part_rows(view, chosen, frame),
        "shows": shown_at(view, chosen, frame) if len(chosen) > 1 or (seat and not seat.is_camera) else None,
        "other_seats": [((i.id, i.id), i.name) for i in scene.instances if i != seat and not i.is_camera],
        "led_value": LED,
        "seat": None if seat and seat.is_camera else seat,
        "camera": seat if seat and seat.is_camera else None,
        "repeats": cards.repeat_view(view, chosen),
        "repeat_kinds": cards.REPEATS,
        "seams": cards.seam_rows(view, chosen),
        "offsets": cards.offset_rows(scene, cast, chosen),
        "offset_props": [p for p in props.values() if not p.stepped],
    }
