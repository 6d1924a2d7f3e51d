"""Undo and redo, for every page."""

from __future__ import annotations

from typing import Literal

from fastapi import APIRouter
from starlette.responses import JSONResponse, Response

from gaitwire.store.documents import state_of
from gaitwire.store.history import take_step
from gaitwire.web.context import Space, standing
from gaitwire.web.routers.fragments import FRAGMENTS

router = APIRouter()


@router.post("/history/{kind}/{document_id}/{direction}")
def step(
    workspace: Space,
    kind: Literal["shelf", "puppet", "scene", "card"],
    document_id: str,
    direction: Literal["undo", "redo"],
) -> Response:
    """Take one step back or forward; the page's changed pieces come back."""
    label, _ = take_step(workspace.store, document_id, direction)
    done = "Undone" if direction == "undo" else "Redone"
    return FRAGMENTS[kind](workspace, standing(workspace, kind, document_id), f"{done}: {label}.")


@router.get("/standing/{kind}/{document_id}")
def stands(workspace: Space, kind: str, document_id: str) -> JSONResponse:
    """How a document stands: pages ask now and then, to show what other windows did."""
    found = state_of(workspace.store, document_id)
    return JSONResponse(
        {"revision": found.revision, "touched": found.touched_at}, headers={"Cache-Control": "no-store"}
    )
