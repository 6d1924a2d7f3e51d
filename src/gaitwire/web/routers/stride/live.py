"""The live preview of the Stride desk: settings go in, a stride's frames and panels come out. Nothing is stored."""

from __future__ import annotations

from typing import Any, cast

from fastapi import APIRouter
from pydantic import BaseModel, ConfigDict, Field
from starlette.websockets import WebSocket

from gaitwire.core.bounds import Label, Value
from gaitwire.core.walk.settings import changed_card
from gaitwire.services.gait import gait_cards as cards
from gaitwire.services.gait.desk_curves import TALL, WIDE, panels, points_path
from gaitwire.services.gait.preview import Preview, preview
from gaitwire.services.session.workspace import Workspace
from gaitwire.web.live import Reply, serve, told
from gaitwire.web.templating import render

router = APIRouter()


class Asked(BaseModel):
    """A card with settings as they are shown, on a puppet."""

    model_config = ConfigDict(frozen=True)

    card: str = Field(max_length=100)
    changed: dict[Label, Value] = Field(default_factory=dict, max_length=100)
    travels: bool = False
    coarse: bool = False
    """Whether every other picture and no panels will do: a hand is moving, and the rest will be asked for."""


def _said(shown: Preview) -> str:
    stride = shown.gait.stride
    return f"The stride is {stride.length:.2f} legs: longer ones are out of reach." if stride.shortened else ""


def _reply(workspace: Workspace, puppet_id: str, text: str) -> bytes:
    def work() -> Reply:
        asked = Asked.model_validate_json(text)
        card = changed_card(cards.card_at(workspace, asked.card), asked.changed)
        shown = preview(workspace, puppet_id, card, asked.travels, asked.coarse)
        head: dict[str, Any] = {
            "coarse": asked.coarse, "pictures": shown.pictures, "rate": shown.rate, "way": shown.way(),
            "said": _said(shown), "frames": shown.gait.span.card.frames, "begins": shown.begins,
            "poses": [p._asdict() for p in shown.poses()],
            "trails": render("stride/trails.html", shown=shown, path=points_path),
        }  # fmt: skip
        if not asked.coarse:
            measures = panels(shown, cards.measured_at(workspace, asked.card))
            head["panels"] = render("stride/panels.html", panels=measures, wide=WIDE, tall=TALL)
        return head, shown.frames

    return told(work, "live stride")


@router.websocket("/live/stride/{puppet_id}")
async def live(socket: WebSocket, puppet_id: str) -> None:
    """Serve one desk's previews."""
    workspace = cast(Workspace, socket.app.state.workspace)
    await serve(socket, lambda text: _reply(workspace, puppet_id, text))
