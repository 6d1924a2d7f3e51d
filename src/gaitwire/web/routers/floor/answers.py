"""What edits on the Floor are read from and answered with, shared by its routers."""

from __future__ import annotations

import json
from collections.abc import Iterable, Mapping, Sequence
from typing import Annotated

from fastapi import Depends, Form, Header
from pydantic import Field, TypeAdapter, ValidationError
from starlette.responses import HTMLResponse

from gaitwire.core import bounds
from gaitwire.core.addresses import Address, Bead, Node
from gaitwire.core.bounds import LATEST, Id
from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate.bracing import MOST_BRACES, Brace
from gaitwire.core.scene import Scene
from gaitwire.services.scene.found_poses import spread_out, unmarked_poses
from gaitwire.services.scene.gestures import Floor
from gaitwire.services.scene.hangers import with_hangers
from gaitwire.services.scene.kept_poses import kept_said
from gaitwire.services.scene.phrases import phrases_at_the_end
from gaitwire.services.scene.poses import block_pose
from gaitwire.services.scene.scene_length import cut_through, ended_walks, told_length
from gaitwire.services.scene.sounds import sound_rows
from gaitwire.services.session.workspace import Workspace
from gaitwire.services.views.wires import Wire, build_timeline
from gaitwire.web.context import Answer, Revision, Space, Standing, standing
from gaitwire.web.routers.shared.fragments import FRAGMENTS, NONE, Offers, answer
from gaitwire.web.templating import render, urls

_BRACES: TypeAdapter[list[Brace]] = TypeAdapter(Annotated[list[Brace], Field(max_length=MOST_BRACES)])
Braces = Annotated[str, Header(alias="Gw-Braces", max_length=60_000)]
"""What keeps its place while something is posed, as a list of (instance, owner, kind)."""


def _floor(
    workspace: Space, scene_id: str, revision: Revision = None, word: Answer = "", braces: Braces = "[]"
) -> Floor:
    floor = Floor(workspace, scene_id, revision, word)
    try:
        floor.braces = _BRACES.validate_json(braces)
    except ValidationError:
        raise InvalidInputError("The braces could not be read.", "Reload the page and brace again.") from None
    return floor


FloorGestures = Annotated[Floor, Depends(_floor)]


def _spreading(floor: FloorGestures) -> Floor:
    floor.found_before = unmarked_poses(floor)
    return floor


Spreading = Annotated[Floor, Depends(_spreading)]
"""A gesture that may take a pose apart that nobody marked: then that is said."""

LongText = Annotated[str, Form(max_length=2_000_000)]
FrameField = Annotated[float, Form(allow_inf_nan=False, ge=-LATEST, le=LATEST)]
FrameIf = Annotated[float | None, Form(allow_inf_nan=False, ge=-LATEST, le=LATEST)]
_BEADS: TypeAdapter[list[tuple[str, str, float]]] = TypeAdapter(list[tuple[Id, Id, bounds.Frame]])
_NODES: TypeAdapter[list[tuple[str, str]]] = TypeAdapter(list[tuple[Id, Id]])


def read_beads(text: str) -> list[Bead]:
    """Beads as the page posts them; raises InvalidInputError."""
    try:
        return [Bead(*row) for row in _BEADS.validate_json(text)]
    except ValidationError:
        raise InvalidInputError(
            "The chosen beads could not be read.", "Reload the page and choose them again."
        ) from None


def read_nodes(text: str) -> list[Node]:
    """Chosen nodes as the page posts them; raises InvalidInputError."""
    try:
        return _NODES.validate_json(text)[:500]
    except ValidationError:
        raise InvalidInputError(
            "The chosen bones could not be read.", "Reload the page and choose them again."
        ) from None


def read_hung(floor: Floor, text: str, hangers: bool) -> list[Node]:
    """Chosen nodes, with all that hangs from them if that is asked for."""
    nodes = read_nodes(text)
    return with_hangers(floor.scene, floor.workspace.cast(floor.scene), nodes) if hangers else nodes


def _fragments(workspace: Workspace, state: Standing, remark: str, *more: str, offers: Offers = NONE) -> HTMLResponse:
    """The whole timeline: after undo, or when its rows or its length changed."""
    scene = workspace.scene(state.document_id)
    timeline = build_timeline(scene, workspace.cast(scene), workspace.phrases(scene))
    text = render("floor/wires.html", scene=scene, timeline=timeline, sounds=sound_rows(workspace, scene))
    wires = f'<hx-partial hx-target="#wires" hx-swap="outerMorph">{text}</hx-partial>'
    return answer(state, remark, wires, *more, offers=offers)


FRAGMENTS["scene"] = _fragments


def all_wires(
    floor: Floor, remark: str = "", picked: Sequence[Bead] | None = None, act: tuple[str, str] | None = None
) -> HTMLResponse:
    """The whole timeline after an edit; `act`: where a button with some words on it in the remark leads."""
    state = standing(floor.workspace, "scene", floor.scene_id)
    lost, mark = _spread_said(floor)
    offers = Offers(bool(floor.outcome.kept), act or mark)
    return _fragments(floor.workspace, state, _said(floor, remark, lost), *_picked(picked), offers=offers)


def blocked(floor: Floor, frame: float, values: Mapping[Address, float]) -> HTMLResponse:
    """Key values in the view without in-betweens: what else was keyed by it is said, and can be left out."""
    new = block_pose(floor, frame, values)
    if not new:
        return all_wires(floor)
    act = urls.floor(floor.scene_id, f"poses/only-moved?frame={frame}&instance={new[0]}")
    said = "A pose of its own now: the whole body is keyed as it stood."
    if floor.outcome.begins_to_hold:
        said += " New poses hold from now on, until they are timed."
    return all_wires(floor, said, act=(act, "only what I moved") if len(new) == 1 else None)


def resized(floor: Floor, before: Scene) -> HTMLResponse:
    """After a scene may have got another length: what that did elsewhere, and what could go on."""
    scene = floor.scene
    said, ended, phrases = told_length(before, scene), ended_walks(before, scene), phrases_at_the_end(floor, before)
    act = None
    if phrases.cut:
        said = f"{said} The end cuts {_listed(phrases.cut)} short.".strip()
    if phrases.going_on:
        many = len(phrases.going_on)
        said = f"{said} {'A phrase goes' if many == 1 else f'{many} phrases go'} on with it.".strip()
        frame, ids = before.frames - 1, ",".join(phrases.going_on)
        act = (urls.floor(scene.id, f"phrases/end-by?ids={ids}&frame={frame}"), f"end by {frame + scene.first_number}")
    if ended:
        said = f"{said} {'A walk ends' if len(ended) == 1 else f'{len(ended)} walks end'} where the scene did.".strip()
        act = (urls.floor(scene.id, f"walks/reach-end?ids={','.join(ended)}"), "let go on")
    elif cut_through(before, scene):
        act = (urls.floor(scene.id, "key-end"), "key the end as it shows")
    return all_wires(floor, said, act=act)


def _listed(names: Sequence[str]) -> str:
    return ", ".join(f"“{name}”" for name in dict.fromkeys(names))


def _spread_said(floor: Floor) -> tuple[str, tuple[str, str] | None]:
    """That a pose which nobody marked was taken apart, and how to mark it; nothing where none was."""
    lost = spread_out(floor, floor.found_before) if floor.found_before else {}
    if not lost:
        return "", None
    who, times = next(iter(lost.items()))
    numbers = ", ".join(f"{t + floor.scene.first_number:g}" for t in times)
    act = urls.floor(floor.scene_id, f"poses/mark?instance={who}&times={','.join(f'{t:g}' for t in times)}")
    said = (
        f"{numbers} {'is no whole pose' if len(times) == 1 else 'are no whole poses'} any more: the beads are spread."
    )
    return said, (act, "mark it as one" if len(times) == 1 else "mark them")


def _said(floor: Floor, remark: str, lost: str = "") -> str:
    """A remark, and what a gesture left as it was elsewhere than where the hand is."""
    held = (stopped_said(floor.outcome.stopped), loose_said(floor.outcome.loose))
    return " ".join(filter(None, (remark, lost, *held, kept_said(floor.scene, floor.outcome.kept))))


def loose_said(names: Sequence[str]) -> str:
    """That what is braced was not held; nothing where all was."""
    if not names:
        return ""
    return f"{', '.join(names)}: on the way from bones to tip here, so not braced."


def stopped_said(names: Sequence[str]) -> str:
    """That a gesture went only as far as what is braced reaches; nothing where it went all the way."""
    if not names:
        return ""
    listed = ", ".join(dict.fromkeys(names))
    return f"As far as {listed} reach{'es' if len(set(names)) == 1 else ''}: unbraced, it goes on."


def _picked(beads: Sequence[Bead] | None) -> list[str]:
    """The beads to choose now, for the page; None: those that are chosen stay so."""
    if beads is None:
        return []
    text = render("floor/picked.html", beads=json.dumps([list(b) for b in beads]))
    return [f'<hx-partial hx-target="#picked" hx-swap="outerHTML">{text}</hx-partial>']


def some_wires(
    floor: Floor, owners: Iterable[Node], picked: Sequence[Bead] | None = None, remark: str = ""
) -> HTMLResponse:
    """Only the wires that changed, with their groups' own; and the beads to choose now."""
    scene = floor.scene
    wanted = set(owners)
    timeline = build_timeline(
        scene, floor.workspace.cast(scene), floor.workspace.phrases(scene), {instance for instance, _ in wanted}
    )
    touched: list[Wire] = []
    found: set[tuple[str, str]] = set()
    for member in timeline.cast:
        for group in member.groups:
            rows = [w for w in (group.head, *group.wires) if (w.instance_id, w.owner_id) in wanted]
            found |= {(w.instance_id, w.owner_id) for w in rows}
            if rows and group.head not in rows:
                rows.append(group.head)
            touched += rows
    if found != wanted:  # a part without keys has no wire of its own any more
        return all_wires(floor, remark, picked)
    pieces = [
        f'<hx-partial hx-target="#{wire.id} .beads" hx-swap="outerHTML">'
        f"{render('floor/beads.html', wire=wire, timeline=timeline)}</hx-partial>"
        for wire in touched
    ]
    state = standing(floor.workspace, "scene", floor.scene_id)
    lost, mark = _spread_said(floor)
    offers = Offers(bool(floor.outcome.kept), mark)
    return answer(state, _said(floor, remark, lost), *pieces, *_picked(picked), offers=offers)
