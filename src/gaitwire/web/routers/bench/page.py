"""The Bench: one puppet, its bones and parts."""

from __future__ import annotations

from typing import Annotated, Any, Literal
from urllib.parse import quote

import numpy as np
from fastapi import APIRouter, Depends, Form, Query, UploadFile
from starlette.responses import HTMLResponse, JSONResponse, Response

from gaitwire.core.evaluate import CompiledScene, evaluate
from gaitwire.core.evaluate.frames import pack
from gaitwire.core.geometry.bounds import Box, union
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.puppet.tree import walk
from gaitwire.formats.archive import MEDIA_TYPE, SUFFIX
from gaitwire.services.library.archives import pack_puppet
from gaitwire.services.rig.art_renewal import ArtAgain
from gaitwire.services.rig.bench import Bench
from gaitwire.services.rig.corrective_shapes import Correcting
from gaitwire.services.rig.gestures import PuppetGestures
from gaitwire.services.session.workspace import Workspace
from gaitwire.services.views.body_map import body_map
from gaitwire.services.views.control_card import title_of
from gaitwire.store.documents import list_documents, scene_with
from gaitwire.web.context import Revision, Space, Standing, on_puppet, standing
from gaitwire.web.routers.bench import card as cards
from gaitwire.web.routers.shared.forms import (
    Axis,
    Coordinate,
    Field,
    Ids,
    Readers,
    StepsIf,
    TypedValue,
    flag,
    number,
    number_or_none,
    percent,
    read_field,
    read_ids,
    read_upload,
    read_uploads,
)
from gaitwire.web.routers.shared.fragments import FRAGMENTS, answer
from gaitwire.web.routers.shared.staging import limb_entries, node_entries, part_entries
from gaitwire.web.templating import page, render

router = APIRouter(prefix="/bench/{puppet_id}")

TOOLS = (
    ("pick", "pick", "Pick parts and bones (P)"),
    ("joint", "joint", "Move joints; Alt holds snapping off (J)"),
    ("bone", "draw bones", "Click joint after joint; Enter ends the chain (B)"),
    ("pin", "pins", "Click on a soft part to place a pin; drag one to move it (I)"),
    ("draw", "draw", "Draw into the chosen part, and move its points (D)"),
    ("brush", "brush", "Brush how much a bone holds of a soft part (H)"),
    ("try", "try range", "Turn a bone or pull a limb to see how it holds; nothing is kept (T)"),
)


WAYS = (
    ("shift", "move", "Drag to move it (S)"),
    ("turn", "turn", "Drag to turn it about its joint (T)"),
    ("stretch", "stretch", "Drag along its bone (E)"),
    ("widen", "widen", "Drag across its bone (W)"),
    ("skew", "skew", "Drag sideways (K)"),
    ("points", "points", "Drag points of its outline; Shift chooses several (O)"),
)
"""What a drag does while a place of a control is corrected."""


BenchGestures = Annotated[Bench, Depends(on_puppet(Bench))]


def _lists(puppet: Puppet) -> dict[str, Any]:
    return {
        "puppet": puppet,
        "map": body_map(puppet),
        "tree": list(walk(puppet.bones)),
        "names": {b.id: b.name for b in puppet.bones},
        "several": {r.part_id for r in puppet.replacements},
    }


@router.get("")
def bench(workspace: Space, puppet_id: str) -> HTMLResponse:
    """The page."""
    puppet = workspace.puppet(puppet_id)
    state = standing(workspace, "puppet", puppet_id)
    scene = scene_with(workspace.store, puppet_id)
    return page("bench/bench.html", standing=state, tools=TOOLS, ways=WAYS, scene=scene, **_lists(puppet))


def _fragments(workspace: Workspace, state: Standing, remark: str) -> HTMLResponse:
    lists = _lists(workspace.puppet(state.document_id))
    return answer(
        state,
        remark,
        f'<hx-partial hx-target="#bones" hx-swap="outerMorph">{render("bench/bones.html", **lists)}</hx-partial>',
        f'<hx-partial hx-target="#parts" hx-swap="outerMorph">{render("bench/parts.html", **lists)}</hx-partial>',
        f'<hx-partial hx-target="#bodymap" hx-swap="outerMorph">{render("shared/body_map.html", **lists)}</hx-partial>',
    )


FRAGMENTS["puppet"] = _fragments


def changed(bench: PuppetGestures, remark: str = "", **extra: str) -> HTMLResponse:
    """The answer to a gesture: how things stand now, and in headers what was made."""
    response = _fragments(bench.workspace, standing(bench.workspace, "puppet", bench.puppet_id), remark or bench.said)
    for name, value in extra.items():
        response.headers[f"Gw-{name.title()}"] = value
    return response


def _stood(workspace: Workspace, puppet_id: str, entry: str) -> CompiledScene:
    """The puppet at rest, or as it stands at a place of a bend fix, pad or gauge."""
    return Correcting(workspace, puppet_id).compiled(entry) if entry else workspace.compiled_puppet(puppet_id)


def _with_pins(nodes: list[dict[str, Any] | None]) -> list[dict[str, Any] | None]:
    """Nodes with all pins to be seen: where a place is corrected, hidden ones too."""
    return [n and n | {"hidden": n["hidden"] and "part" not in n} for n in nodes]


@router.get("/stage.json")
def stage(workspace: Space, puppet_id: str, entry: str = "") -> JSONResponse:
    """What the stage draws: parts back to front, bones in the order of the frame's nodes, the box to fit."""
    compiled = _stood(workspace, puppet_id, entry)
    puppet = compiled.puppets[puppet_id]
    box = union(workspace.art(p.art_hash).bounds for p in puppet.parts) or Box(0, 0, puppet.width, puppet.height)
    return JSONResponse(
        {
            "revision": puppet.revision,
            "box": box,
            "base": [puppet.base_x, puppet.base_y],
            "parts": part_entries(workspace, compiled),
            "nodes": _with_pins(node_entries(compiled)) if entry else node_entries(compiled),
            "limbs": limb_entries(puppet),
            "controls": [{"id": c.id, "kind": c.kind, "name": c.name} for c in puppet.controls],
            "entries": [{"id": e.id, "control": e.control_id, "title": title_of(puppet, e)} for e in puppet.entries],
        }
    )


@router.get("/frame.bin")
def frame(workspace: Space, puppet_id: str, entry: str = "") -> Response:
    """The puppet at rest, or as it stands at a place of a control, as one packed frame."""
    compiled = _stood(workspace, puppet_id, entry)
    data = pack(evaluate(compiled, np.zeros(1)), compiled.puppets[puppet_id].revision)
    return Response(data, media_type="application/octet-stream", headers={"Cache-Control": "no-store"})


@router.get("/card")
def card(
    workspace: Space,
    puppet_id: str,
    bones: Annotated[str, Query()] = "",
    parts: Annotated[str, Query()] = "",
    pins: Annotated[str, Query()] = "",
    controls: Annotated[str, Query()] = "",
    entry: Annotated[str, Query()] = "",
) -> HTMLResponse:
    """The card about what is chosen; while a place of a control is corrected, about that."""
    puppet = workspace.puppet(puppet_id)
    chosen_bones = [b for i in read_ids(bones) if (b := puppet.bone(i)) is not None]
    chosen_parts = [p for i in read_ids(parts) if (p := puppet.part(i)) is not None]
    wanted = set(read_ids(pins))
    chosen_pins = [p for p in puppet.pins if p.id in wanted]
    context: dict[str, Any] = {"puppet": puppet, "bones": chosen_bones, "parts": chosen_parts, "pins": chosen_pins}
    control = next((c for i in read_ids(controls) if (c := puppet.control(i)) is not None), None)
    corrected = puppet.entry(entry)
    if corrected is not None:
        return cards.correcting_card(puppet, corrected, (chosen_bones, chosen_parts, chosen_pins))
    if control is not None:
        return cards.control_page(puppet, control)
    if chosen_bones:
        return page("bench/card_bones.html", **context, **cards.bone_card(puppet, chosen_bones))
    if chosen_parts:
        return page("bench/card_parts.html", **{**context, **cards.part_card(workspace, puppet, chosen_parts)})
    if chosen_pins:
        return page("bench/card_pins.html", **context, **cards.pin_card(puppet, chosen_pins))
    others = [(e.id, e.name) for e in list_documents(workspace.store, "puppet") if e.id != puppet_id]
    return page("bench/card_puppet.html", **context, **cards.puppet_card(puppet), others=others)


@router.get("/archive")
def archive(workspace: Space, puppet_id: str) -> Response:
    """The puppet packed into one file."""
    name = quote(workspace.puppet(puppet_id).name + SUFFIX)
    headers = {"Content-Disposition": f"attachment; filename*=UTF-8''{name}", "Cache-Control": "no-store"}
    return Response(pack_puppet(workspace, puppet_id), media_type=MEDIA_TYPE, headers=headers)


@router.post("/art")
def art_again(workspace: Space, puppet_id: str, file: list[UploadFile], revision: Revision = None) -> HTMLResponse:
    """The artist's next version of the art: a file, or several pictures, each a layer."""
    bench = ArtAgain(workspace, puppet_id, revision)
    if len(file) == 1:
        found = bench.renew(read_upload(file[0]), file[0].filename or "art")
    else:
        found = bench.renew_pictures(read_uploads(file))
    said = [f"{len(found.renewed)} renewed, {len(found.same)} the same."]
    said += [f"Added: {', '.join(found.added)}."] if found.added else []
    said += [f"Not in the file, and kept: {', '.join(found.missing)}."] if found.missing else []
    return changed(bench, " ".join([*said, *found.notes]))


@router.post("/puppet")
def set_puppet(
    bench: BenchGestures,
    name: Annotated[str | None, Form(max_length=200)] = None,
    base_x: Axis = None,
    base_y: Axis = None,
    view: Annotated[str, Form(max_length=40)] = "",
) -> HTMLResponse:
    """Rename the puppet, move its base, or say from where it is drawn."""
    if name is not None:
        bench.rename(name)
    if view:
        bench.set_view(view)
    if base_x is not None or base_y is not None:
        puppet = bench.puppet
        bench.set_base(base_x if base_x is not None else puppet.base_x, base_y if base_y is not None else puppet.base_y)
    return changed(bench)


_BONE_FIELDS: Readers = {
    **dict.fromkeys(("hidden", "locked", "keep_volume"), flag),
    **dict.fromkeys(("name", "region", "side", "role", "tag"), str),
    **dict.fromkeys(("x", "y", "angle", "length", "reach"), number),
    **dict.fromkeys(("low", "high"), number_or_none),
}
_PART_FIELDS: Readers = {
    **dict.fromkeys(("hidden", "locked"), flag), "name": str, "opacity": percent, "grain": number,
    "distance": percent, "shadow": lambda text: number(text or "0"),
}  # fmt: skip


@router.post("/bones/set")
def set_bones(bench: BenchGestures, ids: Ids, field: Field, value: TypedValue) -> HTMLResponse:
    """Set one field of several bones."""
    if field == "parent_id":
        bench.hang(read_ids(ids), value or None)
    else:
        bench.update_bones(read_ids(ids), read_field(_BONE_FIELDS, field, value))
    return changed(bench)


@router.post("/parts/set")
def set_parts(bench: BenchGestures, ids: Ids, field: Field, value: TypedValue) -> HTMLResponse:
    """Set one field of several parts."""
    if field == "bone_id":
        bench.hang_parts(read_ids(ids), value)
    else:
        bench.update_parts(read_ids(ids), read_field(_PART_FIELDS, field, value))
    return changed(bench)


@router.post("/bones/add")
def add_bone(
    bench: BenchGestures,
    x: Coordinate,
    y: Coordinate,
    tip_x: Axis = None,
    tip_y: Axis = None,
    parent: Annotated[str, Form()] = "",
    name: Annotated[str, Form(max_length=200)] = "",
) -> HTMLResponse:
    """A new bone."""
    tip = (tip_x, tip_y) if tip_x is not None and tip_y is not None else None
    made = bench.add_bone(x, y, tip, parent or None, name)
    return changed(bench, made=made)


@router.post("/bones/insert")
def insert(bench: BenchGestures, bone: Annotated[str, Form()]) -> HTMLResponse:
    """A new bone between a bone and the one it hangs from."""
    return changed(bench, made=bench.insert_above(bone))


@router.post("/bones/split")
def split(
    bench: BenchGestures, bone: Annotated[str, Form()], pieces: Annotated[int, Form(ge=2, le=100)] = 2
) -> HTMLResponse:
    """Cut a bone into pieces of one length."""
    return changed(bench, made=",".join(bench.split(bone, pieces)))


@router.post("/bones/meet")
def meet(bench: BenchGestures, ids: Ids) -> HTMLResponse:
    """Put pivots on the tips of the bones above."""
    bench.meet_above(read_ids(ids))
    return changed(bench)


@router.post("/bones/mirror")
def mirror(bench: BenchGestures, ids: Ids, across: Annotated[bool, Form()] = False) -> HTMLResponse:
    """Bones with all below them on the other side: in place, or across the puppet's middle line."""
    made = bench.mirror(read_ids(ids), bench.puppet.base_x if across else None)
    return changed(bench, f"{len(made)} bones on the other side.", made=",".join(made))


@router.post("/bones/guess")
def guess(bench: BenchGestures, ids: Ids = "") -> HTMLResponse:
    """Regions, sides and roles from names: of some bones, or of all."""
    count = bench.guess_roles(read_ids(ids) or [b.id for b in bench.puppet.bones])
    return changed(bench, f"{count} bones were set from their names." if count else "Names say nothing new.")


@router.post("/bones/group")
def group(bench: BenchGestures, ids: Ids, name: Annotated[str, Form(max_length=200)] = "") -> HTMLResponse:
    """Group bones under a new one without length."""
    return changed(bench, made=bench.group(read_ids(ids), name))


@router.post("/bones/hang")
def hang(
    bench: BenchGestures,
    ids: Ids,
    parent: Annotated[str, Form()] = "",
    beside: Annotated[str, Form()] = "",
    place: Annotated[Literal["before", "after"], Form()] = "after",
) -> HTMLResponse:
    """Hang bones from a parent, last among its own; or beside another bone, as its siblings."""
    if beside:
        bench.hang_beside(read_ids(ids), beside, after=place == "after")
    else:
        bench.hang(read_ids(ids), parent or None)
    return changed(bench)


@router.post("/bones/remove")
def remove_bones(bench: BenchGestures, ids: Ids) -> HTMLResponse:
    """Remove bones; what hung from them stays."""
    bench.remove_bones(read_ids(ids))
    return changed(bench)


@router.post("/bones/{bone_id}/{end}")
def move_joint(
    bench: BenchGestures, bone_id: str, end: Literal["pivot", "tip"], x: Coordinate, y: Coordinate,
    alone: Annotated[bool, Form()] = False,
) -> HTMLResponse:  # fmt: skip
    """Move an end of a bone, with its neighbours' that lie on it or alone."""
    bench.move_joint(bone_id, end, x, y, alone)
    return changed(bench)


@router.post("/parts/hang")
def hang_parts(bench: BenchGestures, ids: Ids, bone: Annotated[str, Form()]) -> HTMLResponse:
    """Hang parts from a bone."""
    bench.hang_parts(read_ids(ids), bone)
    return changed(bench)


@router.post("/parts/order")
def order(bench: BenchGestures, ids: Ids, behind: Annotated[str, Form()] = "", steps: StepsIf = None) -> HTMLResponse:
    """Put parts just in front of another, or move them by places."""
    if steps is not None:
        bench.step_order(read_ids(ids), steps)
    else:
        bench.reorder(read_ids(ids), behind or None)
    return changed(bench)


@router.post("/parts/{part_id}/apart")
def take_apart(bench: BenchGestures, part_id: str) -> HTMLResponse:
    """A part's shapes as parts of their own."""
    return changed(bench, made=",".join(bench.take_apart(part_id)))


@router.post("/parts/join")
def join(bench: BenchGestures, ids: Ids) -> HTMLResponse:
    """Several parts as one."""
    return changed(bench, made=bench.join(read_ids(ids)))


@router.post("/parts/remove")
def remove_parts(bench: BenchGestures, ids: Ids) -> HTMLResponse:
    """Remove parts."""
    bench.remove_parts(read_ids(ids))
    return changed(bench)
