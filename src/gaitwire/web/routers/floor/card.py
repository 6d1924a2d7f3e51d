"""The card about what is chosen on the Floor."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Form
from starlette.responses import HTMLResponse

from gaitwire.core.addresses import Bead
from gaitwire.core.errors import InvalidInputError, NotFoundError
from gaitwire.core.timing.mark import Pose
from gaitwire.services.scene.found_poses import FOUND, find_pose_or_found
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.views import chosen as views
from gaitwire.services.views.chosen import CurveView
from gaitwire.web.context import Space
from gaitwire.web.routers.floor.answers import FrameField, FrameIf, LongText, read_beads, read_nodes
from gaitwire.web.routers.floor.sections import Choice, shown_sections
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
    floor = Floor(workspace, scene_id)
    scene = floor.scene
    known = {i.id for i in scene.instances}
    picked = [b for b in read_beads(beads) if b.instance_id in known]
    choice = Choice(
        floor, frame, views.chosen_nodes(workspace, scene, read_nodes(nodes)), *_beads(floor, picked),
        next((s for s in scene.sounds if s.id == sound), None),
        _unmarked(floor, pose) if pose.startswith(FOUND) else None,
        next((p for p in scene.poses if p.id == pose), None), since, until,
    )  # fmt: skip
    sections = shown_sections(choice)
    shown = {name: value for _, more in sections for name, value in more.items()}
    base = {"scene": scene, "frame": frame, "nodes": choice.nodes}
    return page("floor/card.html", sections=[template for template, _ in sections], **base, **shown)


def _beads(floor: Floor, picked: list[Bead]) -> tuple[list[Bead], CurveView | None]:
    """Beads, and how they are eased; none where they are gone by now."""
    try:
        return picked, views.curve_view(floor, picked) if picked else None
    except InvalidInputError:
        return [], None


def _unmarked(floor: Floor, pose_id: str) -> Pose | None:
    """A pose that was found; None where its puppet has gone."""
    try:
        return find_pose_or_found(floor, pose_id)
    except NotFoundError:
        return None
