"""What views ask for: the workspace, the revision the page was looking at, the state of history."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime
from typing import Annotated, NamedTuple, TypeVar, cast

from fastapi import Depends, Header, Request

from gaitwire.services.rig.gestures import PuppetGestures
from gaitwire.services.session.rest_compensation import ALLOWED, Word
from gaitwire.services.session.workspace import Workspace
from gaitwire.store.documents import state_of
from gaitwire.store.history import StepInfo, next_step


def _workspace(request: Request) -> Workspace:
    return cast(Workspace, request.app.state.workspace)


Space = Annotated[Workspace, Depends(_workspace)]
Revision = Annotated[int | None, Header(alias="Gw-Revision")]


RestWord = Annotated[Word, Header(alias="Gw-Word")]
"""What becomes of the keys of scenes when a puppet's rest changes; pages ask first."""

Allowed = Annotated[float, Header(alias="Gw-Allowed", ge=0, le=1000)]
"""Pixels by which a key's picture may move without being asked about."""

Answer = Annotated[str, Header(alias="Gw-Word", max_length=40)]
"""How a gesture is meant that asked about it."""

OnPuppet = TypeVar("OnPuppet", bound=PuppetGestures)


def on_puppet(kind: type[OnPuppet]) -> Callable[..., OnPuppet]:
    """What makes one kind of gestures for the puppet of a page, with the word that was given on the picture."""

    def made(
        workspace: Space, puppet_id: str, revision: Revision = None, word: RestWord = "ask", allowed: Allowed = ALLOWED
    ) -> OnPuppet:
        return kind(workspace, puppet_id, revision, word, allowed)

    return made


class Standing(NamedTuple):
    """A document's revision and what undo and redo would do: what every page shows at its top."""

    kind: str
    document_id: str
    revision: int
    undo: StepInfo
    redo: StepInfo
    touched_at: float

    @property
    def saved(self) -> str:
        """Since when it is on disk, as briefly as can be."""
        then, now = datetime.fromtimestamp(self.touched_at), datetime.now()
        if then.date() == now.date():
            return f"saved {then:%H:%M}"
        return f"saved {then.day} {then:%b}" if then.year == now.year else f"saved {then:%Y}"

    @property
    def saved_long(self) -> str:
        return f"{datetime.fromtimestamp(self.touched_at):%Y-%m-%d %H:%M:%S}"


def standing(workspace: Workspace, kind: str, document_id: str) -> Standing:
    """How a document stands now."""
    store = workspace.store
    with store.snapshot():
        state = state_of(store, document_id)
        undo, redo = (next_step(store, document_id, direction) for direction in ("undo", "redo"))
    return Standing(kind, document_id, state.revision, undo, redo, state.touched_at)
