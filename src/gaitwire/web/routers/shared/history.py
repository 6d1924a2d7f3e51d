"""Undo and redo, for every page."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from fastapi import APIRouter
from starlette.responses import JSONResponse, Response

from gaitwire.services.session.workspace import Workspace
from gaitwire.store.documents import named, state_of
from gaitwire.store.history import SHELF, take_step
from gaitwire.web.context import Space, standing
from gaitwire.web.routers.shared.fragments import FRAGMENTS, Offers
from gaitwire.web.templating import render, urls

router = APIRouter()


@router.post("/history/{kind}/{document_id}/{direction}")
def step(
    workspace: Space,
    kind: Literal["shelf", "puppet", "scene", "card"],
    document_id: str,
    direction: Literal["undo", "redo"],
) -> Response:
    """Take one step back or forward; the page's changed pieces come back."""
    label, touched = take_step(workspace.store, document_id, direction)
    response = FRAGMENTS[kind](workspace, standing(workspace, kind, document_id), "")
    said, offers = _told(workspace, document_id, "Undone" if direction == "undo" else "Redone", label, touched)
    response.body = bytes(response.body) + render("shared/remark_swap.html", message=said, offers=offers).encode()
    response.headers["content-length"] = str(len(response.body))
    return response


def _told(workspace: Workspace, here: str, done: str, label: str, touched: Sequence[str]) -> tuple[str, Offers]:
    """What was undone or redone and where, and a way to what of it is not in view."""
    docs = [found for document in touched if (found := named(workspace.store, document))]
    docs.sort(key=lambda d: (d.kind != "scene", d.id != here))  # what is done in a scene may change its puppets
    if not docs or here == SHELF:
        return f"{done}: {label}.", Offers()
    said = [f"{done}: {label} in “{docs[0].name}”."]
    others = [d for d in docs if d.id != here]
    said += [f"“{d.name}” changed too." for d in others if d is not docs[0]]
    pages = {"scene": urls.floor, "puppet": urls.bench}
    away = next((d for d in others if d.kind in pages), None)
    return " ".join(said), Offers(go=(pages[away.kind](away.id), "go there") if away else None)


@router.get("/standing/{kind}/{document_id}")
def stands(workspace: Space, kind: str, document_id: str) -> JSONResponse:
    """How a document stands: pages ask now and then, to show what other windows did."""
    found = state_of(workspace.store, document_id)
    return JSONResponse(
        {"revision": found.revision, "touched": found.touched_at}, headers={"Cache-Control": "no-store"}
    )
