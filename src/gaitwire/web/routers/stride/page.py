"""The Stride desk: one gait card, tried on a puppet."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Form, UploadFile
from starlette.responses import HTMLResponse, JSONResponse, RedirectResponse, Response

from gaitwire.core.puppet.views import VIEWS
from gaitwire.core.walk.settings import GROUPS, SETTINGS
from gaitwire.services.gait import gait_cards as cards
from gaitwire.services.gait import preview as stride_preview
from gaitwire.services.gait.preview import Candidate
from gaitwire.services.gait.put_in_scene import put_in_scene
from gaitwire.services.rig.walk_readiness import LABELS, mend_for_walk, ready_list
from gaitwire.services.session.workspace import Workspace
from gaitwire.store.documents import list_documents, scene_with
from gaitwire.store.history import SHELF
from gaitwire.web.context import Revision, Space, Standing, standing
from gaitwire.web.routers.floor.walks import told_beyond
from gaitwire.web.routers.shared.forms import as_file, number, percent, read_upload
from gaitwire.web.routers.shared.fragments import FRAGMENTS, answer
from gaitwire.web.routers.shared.staging import node_entries, part_entries
from gaitwire.web.templating import page, render, urls

router = APIRouter(prefix="/stride")
FIRST = "plain"


def _desk(workspace: Space, ref: str, revision: Revision = None) -> cards.CardDesk:
    return cards.desk_of(workspace, ref, revision)


Desk = Annotated[cards.CardDesk, Depends(_desk)]


def _state(workspace: Workspace, ref: str) -> Standing:
    """How a card stands; one that ships has no history but the Shelf's."""
    desk = cards.desk_of(workspace, ref)
    if isinstance(desk, cards.SpanDesk):
        return standing(workspace, "scene", desk.floor.scene_id)
    return standing(workspace, "card", ref) if desk.own else standing(workspace, "shelf", SHELF)


def _listing(workspace: Workspace, ref: str) -> str:
    return render("stride/cards.html", cards=cards.list_cards(workspace), ref=ref)


def _settings(workspace: Workspace, ref: str) -> str:
    desk = cards.desk_of(workspace, ref)
    others = [listed for listed in cards.list_cards(workspace) if listed.ref != ref]
    known = {"card": desk.card, "own": desk.own, "laid": isinstance(desk, cards.SpanDesk), "ref": ref}
    known["revision"] = _state(workspace, ref).revision
    return render("stride/settings.html", groups=GROUPS, others=others, **known)


def _fragments(workspace: Workspace, state: Standing, remark: str, ref: str = "") -> HTMLResponse:
    shown = ref or state.document_id
    pieces = {"#cards": _listing(workspace, shown), "#settings": _settings(workspace, shown)}
    swaps = [f'<hx-partial hx-target="{t}" hx-swap="outerMorph">{html}</hx-partial>' for t, html in pieces.items()]
    response = answer(state, remark, *swaps)
    response.headers["Gw-Card"] = shown
    return response


FRAGMENTS["card"] = _fragments


def _answer(workspace: Workspace, ref: str, remark: str = "") -> HTMLResponse:
    return _fragments(workspace, _state(workspace, ref), remark, ref)


def _go(ref: str, on: str) -> Response:
    return Response(headers={"HX-Redirect": urls.stride(ref, on=on)})


@router.get("")
def first(on: str = "") -> RedirectResponse:
    """The desk with the plain card."""
    return RedirectResponse(urls.stride(FIRST, on=on))


@router.get("/{ref}")
def desk_page(workspace: Space, ref: str, on: str = "") -> HTMLResponse:
    """The page, with a card on a puppet: the one asked for, else the one last touched that can walk."""
    known = stride_preview.walkers(workspace)
    desk = cards.desk_of(workspace, ref)
    scene = None
    if isinstance(desk, cards.SpanDesk):
        scene, on = desk.floor.scene, desk.floor.instance(desk.gait.instance_id).puppet_id
    chosen = next((row for row in known if row[0] == on), known[0] if known else None)
    floor = scene.id if scene else chosen and scene_with(workspace.store, chosen[0])
    return page(
        "stride/stride.html", standing=_state(workspace, ref), card=desk.card, ref=ref, puppets=known, chosen=chosen,
        listing=_listing(workspace, ref), settings=_settings(workspace, ref), scene=scene, floor=floor,
        scenes=list_documents(workspace.store, "scene"), views=_views(known, chosen),
        weak=ready_list(workspace, chosen.id) if chosen else [], remedies=LABELS,
    )  # fmt: skip


def _views(known: list[Candidate], chosen: Candidate | None) -> list[tuple[str, str, str]]:
    """Every view with its name, and the puppet to be seen so: the chosen one, else the first, else ''."""
    able = [*([chosen] if chosen else []), *(one for one in known if not one.lacks)]
    first = {one.view: one.id for one in reversed(able)}
    return [(view, seen.label, first.get(view, "")) for view, seen in VIEWS.items()]


@router.get("/{ref}/stage.json")
def stage(workspace: Space, ref: str, on: str) -> JSONResponse:
    """What the stage draws, in the order of the frames' parts and nodes, and where the floor is."""
    shown = stride_preview.preview(workspace, on, cards.card_at(workspace, ref))
    walker = shown.walker
    return JSONResponse(
        {
            "parts": part_entries(workspace, shown.compiled), "nodes": node_entries(shown.compiled),
            "floor": walker.floor, "leg": walker.length, "facing": walker.facing,
        }
    )  # fmt: skip


@router.get("/{ref}/pieces")
def pieces(workspace: Space, ref: str) -> HTMLResponse:
    """The list of cards and the settings as they stand: after a step back in the scene whose walk this is."""
    return _answer(workspace, ref)


@router.get("/{ref}/card.json")
def export(workspace: Space, ref: str) -> Response:
    """The card as a file."""
    return as_file(*cards.export_card(workspace, ref))


ShortText = Annotated[str, Form(max_length=200)]


@router.post("/{ref}/set")
def set_field(desk: Desk, field: ShortText, value: ShortText) -> HTMLResponse:
    """Change one setting, as it is shown."""
    label = SETTINGS[field].label if field in SETTINGS else field
    ref = desk.set({field: number(value)})
    said = "" if desk.own else f"This is a card of your own now: the one that ships keeps its {label}."
    return _answer(desk.workspace, ref, said or told_beyond(desk.beyond))


@router.post("/{ref}/rename")
def rename(desk: Desk, value: ShortText) -> HTMLResponse:
    """Give the card another name."""
    return _answer(desk.workspace, desk.rename(value))


@router.post("/{ref}/copy")
def copy(desk: Desk, on: ShortText = "") -> Response:
    """Keep a copy, and go on with it."""
    return _go(desk.copy(), on)


@router.post("/{ref}/mix")
def mix(desk: Desk, other: ShortText, share: ShortText, on: ShortText = "") -> Response:
    """A new card between this one and another; a walk of a scene becomes the mix itself."""
    return _go(desk.mix(other, percent(share)), on)


@router.post("/{ref}/take-off")
def take_off(desk: Desk, on: ShortText = "") -> Response:
    """Take the card off; undo on the Shelf brings it back."""
    desk.take_off()
    return _go(FIRST, on)


@router.post("/cards/bring")
def bring(workspace: Space, file: UploadFile, on: ShortText = "") -> Response:
    """A card from a file."""
    return _go(cards.bring_card(workspace, read_upload(file)), on)


@router.post("/cards/fit")
def fit(workspace: Space, file: UploadFile, on: ShortText = "") -> Response:
    """The card closest to the walk in a file."""
    ref, _ = cards.fit_walk(workspace, read_upload(file), file.filename or "measured")
    return _go(ref, on)


@router.post("/{ref}/ready")
def make_ready(workspace: Space, ref: str, on: ShortText, remedy: ShortText) -> Response:
    """Mend what a puppet lacks for a walk."""
    mend_for_walk(workspace, on, remedy)
    return _go(ref, on)


@router.post("/{ref}/put")
def put(
    desk: Desk,
    puppet: ShortText,
    scene: ShortText = "",
    travels: Annotated[bool, Form()] = True,
    as_keys: Annotated[bool, Form()] = False,
) -> Response:
    """Put the walk in a scene, on the puppet that is in front there, or is brought in; the page goes to its Floor."""
    return Response(headers={"HX-Redirect": urls.floor(put_in_scene(desk, puppet, scene, travels, as_keys))})
