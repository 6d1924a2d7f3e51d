"""The Shelf: puppets and scenes, art in, new scenes."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Any, Literal

from fastapi import APIRouter, Form, UploadFile
from starlette.responses import HTMLResponse, Response

from gaitwire.core.errors import UnansweredError
from gaitwire.core.motion.phrase import VIEWS
from gaitwire.core.scene import stamp_of
from gaitwire.formats.art_readers import SUFFIXES
from gaitwire.formats.reading import LIMITS
from gaitwire.services.gait.gait_cards import list_cards
from gaitwire.services.library import bringing_in
from gaitwire.services.library.art_in import import_pictures
from gaitwire.services.library.phrases import (
    bring_phrase,
    drop_phrase,
    export_phrase,
    list_phrases,
    performer,
    phrase_at,
    read_tags,
    set_phrase,
)
from gaitwire.services.scene.floor import make_scene
from gaitwire.services.session.workspace import Workspace
from gaitwire.store.documents import discard, list_documents, scenes_with
from gaitwire.store.history import SHELF
from gaitwire.web.context import Answer, Space, Standing, standing
from gaitwire.web.routers.shared.forms import as_file, common_name, read_field, read_upload, read_uploads
from gaitwire.web.routers.shared.fragments import FRAGMENTS, answer
from gaitwire.web.templating import page, render, urls

router = APIRouter()


def _boards(workspace: Workspace) -> dict[str, Any]:
    puppets = []
    for entry in list_documents(workspace.store, "puppet"):
        puppet = workspace.puppet(entry.id)
        detail = f"{len(puppet.parts)} parts, {len(puppet.bones)} bones"
        puppets.append({"id": entry.id, "name": entry.name, "revision": entry.revision, "detail": detail})
    scenes = []
    for entry in list_documents(workspace.store, "scene"):
        scene = workspace.scene(entry.id)
        rate = float(scene.rate)
        detail = f"{scene.frames} frames, {scene.frames / rate:.2f} s" + (", loops" if scene.loop else "")
        revision = stamp_of(scene, workspace.cast(scene), workspace.phrases(scene))
        scenes.append({"id": entry.id, "name": entry.name, "revision": revision, "detail": detail})
    return {
        "puppets": puppets,
        "scenes": scenes,
        "walks": list_cards(workspace),
        "phrases": [(one, performer(workspace, phrase_at(workspace, one.ref))) for one in list_phrases(workspace)],
        "views": VIEWS,
        "most_bytes": LIMITS.packed,
        "suffixes": ",".join(SUFFIXES),
    }


@router.get("/")
def shelf(workspace: Space) -> HTMLResponse:
    """The home page."""
    return page("shelf/shelf.html", standing=standing(workspace, "shelf", SHELF), **_boards(workspace))


def _fragments(workspace: Workspace, state: Standing, remark: str) -> HTMLResponse:
    boards = _boards(workspace)
    return answer(
        state,
        remark,
        f'<hx-partial hx-target="#scenes" hx-swap="outerMorph">{render("shelf/scenes.html", **boards)}</hx-partial>',
        f'<hx-partial hx-target="#puppets" hx-swap="outerMorph">{render("shelf/puppets.html", **boards)}</hx-partial>',
        f'<hx-partial hx-target="#walks" hx-swap="outerMorph">{render("shelf/walks.html", **boards)}</hx-partial>',
        f'<hx-partial hx-target="#phrases" hx-swap="outerMorph">{render("shelf/phrases.html", **boards)}</hx-partial>',
    )


FRAGMENTS["shelf"] = _fragments


@router.post("/puppets")
def bring_in(workspace: Space, art: list[UploadFile], name: Annotated[str, Form(max_length=200)] = "") -> HTMLResponse:
    """A puppet from an uploaded file, or from several pictures, each a layer."""
    if len(art) == 1:
        came = bringing_in.bring_in(workspace, read_upload(art[0]), art[0].filename or "puppet", name)
    else:
        came = import_pictures(workspace, read_uploads(art), name or common_name([f.filename or "" for f in art]))
    puppet = workspace.puppet(came.puppet_id)
    own = {p.bone_id for p in puppet.parts}
    arrival = render(
        "shelf/arrival.html",
        name=puppet.name,
        puppet_id=puppet.id,
        notes=came.notes,
        parts=len(puppet.parts),
        folders=sum(1 for b in puppet.bones if b.id not in own),
    )
    response = _fragments(workspace, standing(workspace, "shelf", SHELF), "")
    response.body = bytes(response.body) + arrival.encode()
    response.headers["content-length"] = str(len(response.body))
    return response


@router.post("/scenes")
def new_scene(
    workspace: Space,
    name: Annotated[str, Form(max_length=200)] = "",
    frames: Annotated[int, Form(ge=1, le=20_000)] = 48,
    rate: Annotated[int, Form(ge=1, le=240)] = 24,
    plays: Literal["shot", "loop"] = Form("shot"),
) -> Response:
    """A new scene, a shot unless it is said to loop, named by itself where nobody does; the page goes to its Floor."""
    loop = plays == "loop"
    scene_id = make_scene(workspace, name or plays.title(), frames=frames, rate_num=rate, rate_den=1, loop=loop)
    return Response(headers={"HX-Redirect": urls.floor(scene_id)})


_PHRASE_FIELDS: dict[str, Callable[[str], Any]] = {"name": str, "tags": read_tags, "view": str}


@router.post("/shelf/phrases/bring")
def bring_in_phrase(workspace: Space, file: UploadFile) -> HTMLResponse:
    """A phrase from a file."""
    phrase = phrase_at(workspace, bring_phrase(workspace, read_upload(file)))
    return _fragments(workspace, standing(workspace, "shelf", SHELF), f"“{phrase.name}” is on the Shelf.")


@router.post("/shelf/phrases/{ref}/set")
def set_phrase_field(
    workspace: Space, ref: str, field: Annotated[str, Form()], value: Annotated[str, Form(max_length=600)]
) -> HTMLResponse:
    """Give a phrase of one's own another name, other tags or another view."""
    set_phrase(workspace, ref, read_field(_PHRASE_FIELDS, field, value))
    return _fragments(workspace, standing(workspace, "shelf", SHELF), "")


@router.post("/shelf/phrases/{ref}/take-off")
def take_phrase_off(workspace: Space, ref: str) -> HTMLResponse:
    """Take a phrase of one's own off the Shelf; undo brings it back."""
    name = drop_phrase(workspace, ref)
    return _fragments(workspace, standing(workspace, "shelf", SHELF), f"{name} was taken off. Undo brings it back.")


@router.get("/shelf/phrases/{ref}/phrase.json")
def phrase_file(workspace: Space, ref: str) -> Response:
    """A phrase as a file."""
    return as_file(*export_phrase(workspace, ref))


@router.post("/shelf/discard/{kind}/{document_id}")
def take_off(workspace: Space, kind: Literal["puppet", "scene"], document_id: str, word: Answer = "") -> HTMLResponse:
    """Take a puppet or scene off the Shelf; undo brings it back. Where scenes have a puppet in them, it asks."""
    load = workspace.puppet if kind == "puppet" else workspace.scene
    name = load(document_id).name
    used = scenes_with(workspace.store, document_id) if kind == "puppet" and word != "off" else []
    scenes = [workspace.scene(scene_id).name for scene_id in used]
    if scenes:
        where = f"{len(scenes)} scene{'' if len(scenes) == 1 else 's'}"
        raise UnansweredError(f"{name} plays in {where}, and would be missing there.", {"off": "take it off"}, scenes)
    with workspace.edit(f"take {name} off", [document_id, SHELF]) as edit:
        discard(edit, kind, document_id)
    return _fragments(workspace, standing(workspace, "shelf", SHELF), f"{name} was taken off. Undo brings it back.")
