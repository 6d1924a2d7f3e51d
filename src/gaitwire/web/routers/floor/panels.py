"""The panels of the Floor: what may be opened over the stage or under it, drawn by Python.

A new one is a template in `floor/panels/` and its line here: its button, its key and its place come of that. What its
template cannot do by buttons (`data-choose` with `data-frame`, `data-remedy`) is a script of its name in
`js/floor/panels/`.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Annotated, Any, Literal, NamedTuple

from fastapi import APIRouter, Form
from starlette.responses import HTMLResponse, Response

from gaitwire.core.addresses import Node
from gaitwire.core.errors import InvalidInputError, NotFoundError
from gaitwire.core.notes import MEASURES
from gaitwire.core.timing.shape import JOINTS
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.views import curves
from gaitwire.services.views.notes import scene_notes
from gaitwire.services.views.opposite import opposite
from gaitwire.web.context import Space
from gaitwire.web.routers.floor.answers import FrameField, FrameIf, LongText, read_nodes
from gaitwire.web.templating import page

router = APIRouter(prefix="/floor/{scene_id}/panels")

Follows = Literal["scene", "chosen", "frame"]
"""What a panel is about: all that happens, what is chosen, or how things stand on the frame in view."""


class Asked(NamedTuple):
    """What a panel is asked about; `subject`: the puppet that is looked at, `first`, `last`: a range that is played."""

    floor: Floor
    nodes: list[Node]
    frame: float
    subject: str
    first: float
    last: float | None


@dataclass(frozen=True)
class Panel:
    """One panel, as it is listed."""

    name: str
    label: str
    key: str
    """As the page's keyboard names it: "g", "Shift+O"."""
    hint: str
    """Said by its button."""
    told: str
    """Said in the list of keys."""
    view: Callable[[Asked], Mapping[str, Any] | None]
    """What its template shows; None where there is nothing to be about, and it is not seen."""
    follows: frozenset[Follows]
    place: Literal["over", "under"] = "over"
    scripted: bool = False

    @property
    def shown_key(self) -> str:
        *more, last = self.key.split("+")
        return " ".join([*more, last.upper()])


REMEDIES: dict[str, Callable[[str], str]] = {
    "to-floor": "links/plants/{}/to-floor".format,
    "close-seam": lambda node: f"close-seams/{node.replace(',', '/')}",
}
"""Where each remedy of a note is asked for, by what it is on."""


def _notes(asked: Asked) -> Mapping[str, Any]:
    found = scene_notes(asked.floor.workspace, asked.floor.scene_id)
    kinds = [(m, [n for n in found if n.kind == m.name]) for m in MEASURES.values()]
    return {"kinds": kinds, "any": bool(found), "REMEDIES": REMEDIES}


def _curves(asked: Asked) -> Mapping[str, Any]:
    sizes = (curves.WIDE, curves.TALL, curves.SPEED_TOP, curves.SPEED_TALL)
    return {"graph": curves.graph(asked.floor, asked.nodes), "sizes": sizes, "joints": JOINTS}


_MOST = 8
"""Differences that are listed."""


def _opposite(asked: Asked) -> Mapping[str, Any] | None:
    if not asked.subject:
        return None
    try:
        found = opposite(asked.floor, asked.subject, asked.frame, asked.first, asked.last)
    except InvalidInputError as error:
        return {"refused": str(error)}
    return {"other": found.other, "many": len(found.differences), "differences": found.differences[:_MOST],
            "subject": asked.subject, "refused": ""}  # fmt: skip


PANELS: dict[str, Panel] = {
    panel.name: panel
    for panel in (
        Panel("curves", "curves", "g", "The curves of what is chosen, to be shaped by hand",
              "curves of what is chosen: drag points and handles, click twice to add a point",
              _curves, frozenset({"scene", "chosen"}), place="under", scripted=True),
        Panel("opposite", "opposite", "Shift+O", "The pose half a loop away, near and far traded, over this one",
              "the opposite pose over this one", _opposite, frozenset({"scene", "chosen", "frame"}), scripted=True),
        Panel("notes", "notes", "z", "What slips, snaps or jumps in this scene",
              "notes: what slips, snaps or jumps, with its frame", _notes, frozenset({"scene"})),
    )
}  # fmt: skip


@router.post("/{name}")
def panel(
    workspace: Space, scene_id: str, name: str, nodes: LongText = "[]", frame: FrameField = 0.0,
    subject: Annotated[str, Form(max_length=80)] = "", first: FrameField = 0.0, last: FrameIf = None,
) -> Response:  # fmt: skip
    """A panel about what is chosen and the frame in view; nothing where there is nothing to be about."""
    listed = PANELS.get(name)
    if listed is None:
        raise NotFoundError(f"There is no panel “{name[:20]}”.", "Reload the page.")
    floor = Floor(workspace, scene_id)
    shown = listed.view(Asked(floor, read_nodes(nodes), frame, subject, first, last))
    if shown is None:
        return Response(status_code=204)
    return _page(listed, floor, shown)


def _page(listed: Panel, floor: Floor, shown: Mapping[str, Any]) -> HTMLResponse:
    return page(f"floor/panels/{listed.name}.html", scene=floor.scene, **shown)
