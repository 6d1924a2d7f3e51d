"""The Bench: one puppet, its bones and parts."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any, Literal

import numpy as np
from fastapi import APIRouter, Depends, Form, Query
from starlette.responses import HTMLResponse, JSONResponse, Response

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.evaluate import evaluate
from gaitwire.core.evaluate.frames import pack
from gaitwire.core.geometry.bounds import Box, union
from gaitwire.core.puppet.model import Bone, Part, Puppet
from gaitwire.core.puppet.roles import REGIONS, ROLES, SIDES
from gaitwire.core.puppet.tree import walk
from gaitwire.services.bench import Bench
from gaitwire.services.workspace import Workspace
from gaitwire.store.documents import scene_with
from gaitwire.web.context import Revision, Space, Standing, standing
from gaitwire.web.routers.fragments import FRAGMENTS, answer
from gaitwire.web.routers.staging import node_entries, part_entries
from gaitwire.web.templating import page, render

router = APIRouter(prefix="/bench/{puppet_id}")

TOOLS = (
    ("pick", "pick", "Pick parts and bones (P)"),
    ("joint", "joint", "Move joints; Alt holds snapping off (J)"),
    ("bone", "draw bone", "Drag from joint to tip (B)"),
    ("try", "try range", "Turn a bone to see how its joint holds; nothing is kept (T)"),
)


def _bench(workspace: Space, puppet_id: str, revision: Revision = None) -> Bench:
    return Bench(workspace, puppet_id, revision)


Gestures = Annotated[Bench, Depends(_bench)]
Ids = Annotated[str, Form(max_length=40_000)]


def _ids(text: str) -> list[str]:
    return [part for part in text.split(",") if part]


def _lists(puppet: Puppet) -> dict[str, Any]:
    return {"puppet": puppet, "tree": list(walk(puppet.bones)), "names": {b.id: b.name for b in puppet.bones}}


@router.get("")
def bench(workspace: Space, puppet_id: str) -> HTMLResponse:
    """The page."""
    puppet = workspace.puppet(puppet_id)
    state = standing(workspace, "puppet", puppet_id)
    scene = scene_with(workspace.store, puppet_id)
    return page("bench/bench.html", standing=state, tools=TOOLS, scene=scene, **_lists(puppet))


def _fragments(workspace: Workspace, state: Standing, remark: str) -> HTMLResponse:
    lists = _lists(workspace.puppet(state.document_id))
    return answer(
        state,
        remark,
        f'<hx-partial hx-target="#bones" hx-swap="outerMorph">{render("bench/bones.html", **lists)}</hx-partial>',
        f'<hx-partial hx-target="#parts" hx-swap="outerMorph">{render("bench/parts.html", **lists)}</hx-partial>',
    )


FRAGMENTS["puppet"] = _fragments


def _changed(bench: Bench, remark: str = "", **extra: str) -> HTMLResponse:
    response = _fragments(bench.workspace, standing(bench.workspace, "puppet", bench.puppet_id), remark)
    for name, value in extra.items():
        response.headers[f"Gw-{name.title()}"] = value
    return response


@router.get("/stage.json")
def stage(workspace: Space, puppet_id: str) -> JSONResponse:
    """What the stage draws: parts back to front, bones in the order of the frame's nodes, the box to fit."""
    compiled = workspace.compiled_puppet(puppet_id)
    puppet = compiled.puppets[puppet_id]
    box = union(workspace.art(p.art_hash).bounds for p in puppet.parts) or Box(0, 0, puppet.width, puppet.height)
    return JSONResponse(
        {
            "revision": puppet.revision,
            "box": box,
            "base": [puppet.base_x, puppet.base_y],
            "parts": part_entries(workspace, compiled),
            "nodes": node_entries(compiled),
        }
    )


@router.get("/frame.bin")
def frame(workspace: Space, puppet_id: str) -> Response:
    """The puppet at rest, as one packed frame."""
    compiled = workspace.compiled_puppet(puppet_id)
    data = pack(evaluate(compiled, np.zeros(1)), compiled.puppets[puppet_id].revision)
    return Response(data, media_type="application/octet-stream", headers={"Cache-Control": "no-store"})


def _common(items: Sequence[Bone | Part], fields: Sequence[str]) -> dict[str, Any]:
    """Each field's value where all agree, else None."""
    rows = [item.model_dump() for item in items]
    return {f: rows[0][f] if all(r[f] == rows[0][f] for r in rows) else None for f in fields}


@router.get("/card")
def card(
    workspace: Space, puppet_id: str, bones: Annotated[str, Query()] = "", parts: Annotated[str, Query()] = ""
) -> HTMLResponse:
    """The card about what is chosen."""
    puppet = workspace.puppet(puppet_id)
    chosen_bones = [b for i in _ids(bones) if (b := puppet.bone(i)) is not None]
    chosen_parts = [p for i in _ids(parts) if (p := puppet.part(i)) is not None]
    names = {b.id: b.name for b in puppet.bones}
    context: dict[str, Any] = {"puppet": puppet, "bones": chosen_bones, "parts": chosen_parts, "about": ""}
    if chosen_bones:
        context |= _bone_card(puppet, chosen_bones, names)
    elif chosen_parts:
        common = _common(chosen_parts, ("bone_id", "opacity"))
        common["opacity"] = None if common["opacity"] is None else round(common["opacity"] * 100, 1)
        homes = {names[p.bone_id] for p in chosen_parts}
        context |= {
            "shapes": len(workspace.art(chosen_parts[0].art_hash).nodes),
            "common": common,
            "about": f"hangs from {homes.pop()}" if len(homes) == 1 else "hang from several bones",
            "all_bones": [(row.bone.id, "· " * row.depth + row.bone.name) for row in walk(puppet.bones)],
        }
    return page("bench/card.html", **context)


def _bone_card(puppet: Puppet, bones: list[Bone], names: dict[str, str]) -> dict[str, Any]:
    fields = ("parent_id", "region", "side", "role", "x", "y", "length", "angle", "keep_volume")
    common = _common(bones, fields)
    same_parent = len({b.parent_id for b in bones}) == 1
    if same_parent and common["parent_id"] is None:
        common["parent_id"] = ""
    for name in ("x", "y", "length", "angle"):
        common[name] = None if common[name] is None else round(common[name], 2)
    parts = sum(1 for p in puppet.parts if p.bone_id in {b.id for b in bones})
    first = bones[0]
    kind = "bone" if first.length > 0 else "without length"
    above = f"hangs from {names[first.parent_id]}" if first.parent_id in names else "hangs from nothing"
    about = f"{kind}, {above}" if len(bones) == 1 else "what is typed here goes to all of them"
    return {
        "common": common,
        "same_parent": same_parent,
        "about": f"{about}, {parts} part{'' if parts == 1 else 's'}",
        "parents": [("", "nothing"), *((r.bone.id, "· " * r.depth + r.bone.name) for r in walk(puppet.bones))],
        "regions": [(r, r) for r in REGIONS],
        "sides": [(s, s) for s in SIDES],
        "roles": [("", "none"), *((r, r) for r in ROLES)],
    }


@router.post("/puppet")
def set_puppet(
    bench: Gestures,
    name: Annotated[str | None, Form(max_length=200)] = None,
    base_x: Annotated[float | None, Form(allow_inf_nan=False, ge=-1e5, le=1e5)] = None,
    base_y: Annotated[float | None, Form(allow_inf_nan=False, ge=-1e5, le=1e5)] = None,
) -> HTMLResponse:
    """Rename the puppet, or move its base."""
    if name is not None:
        bench.rename(name)
    if base_x is not None or base_y is not None:
        puppet = bench.puppet
        bench.set_base(base_x if base_x is not None else puppet.base_x, base_y if base_y is not None else puppet.base_y)
    return _changed(bench)


_FLAGS = ("hidden", "locked", "keep_volume")
_NUMBERS = ("x", "y", "angle", "length", "opacity")
_WORDS = ("name", "region", "side", "role")


def _value(field: str, text: str) -> Any:
    if field in _FLAGS:
        return text == "true"
    if field in _WORDS:
        return text
    if field not in _NUMBERS:
        raise InvalidInputError(f"“{field}” cannot be set here.")
    try:
        number = float(text)
    except ValueError:
        raise InvalidInputError(f"“{text[:20]}” is no number.", "Type a number.") from None
    if not np.isfinite(number) or abs(number) > 1e5:
        raise InvalidInputError(f"“{text[:20]}” is out of range.", "Type a smaller number.")
    return number / 100 if field == "opacity" else number


@router.post("/bones/set")
def set_bones(bench: Gestures, ids: Ids, field: Annotated[str, Form()], value: Annotated[str, Form()]) -> HTMLResponse:
    """Set one field of several bones."""
    if field == "parent_id":
        bench.hang(_ids(ids), value or None)
    else:
        bench.update_bones(_ids(ids), {field: _value(field, value)})
    return _changed(bench)


@router.post("/parts/set")
def set_parts(bench: Gestures, ids: Ids, field: Annotated[str, Form()], value: Annotated[str, Form()]) -> HTMLResponse:
    """Set one field of several parts."""
    if field == "bone_id":
        bench.hang_parts(_ids(ids), value)
    else:
        bench.update_parts(_ids(ids), {field: _value(field, value)})
    return _changed(bench)


Coordinate = Annotated[float, Form(allow_inf_nan=False, ge=-1e5, le=1e5)]


@router.post("/bones/add")
def add_bone(
    bench: Gestures,
    x: Coordinate,
    y: Coordinate,
    tip_x: Annotated[float | None, Form(allow_inf_nan=False)] = None,
    tip_y: Annotated[float | None, Form(allow_inf_nan=False)] = None,
    parent: Annotated[str, Form()] = "",
    name: Annotated[str, Form(max_length=200)] = "",
) -> HTMLResponse:
    """A new bone."""
    tip = (tip_x, tip_y) if tip_x is not None and tip_y is not None else None
    made = bench.add_bone(x, y, tip, parent or None, name)
    return _changed(bench, made=made)


@router.post("/bones/group")
def group(bench: Gestures, ids: Ids, name: Annotated[str, Form(max_length=200)] = "") -> HTMLResponse:
    """Group bones under a new one without length."""
    return _changed(bench, made=bench.group(_ids(ids), name))


@router.post("/bones/hang")
def hang(
    bench: Gestures,
    ids: Ids,
    parent: Annotated[str, Form()] = "",
    beside: Annotated[str, Form()] = "",
    place: Annotated[Literal["before", "after"], Form()] = "after",
) -> HTMLResponse:
    """Hang bones from a parent, last among its own; or beside another bone, as its siblings."""
    if beside:
        bench.hang_beside(_ids(ids), beside, after=place == "after")
    else:
        bench.hang(_ids(ids), parent or None)
    return _changed(bench)


@router.post("/bones/remove")
def remove_bones(bench: Gestures, ids: Ids) -> HTMLResponse:
    """Remove bones; what hung from them stays."""
    bench.remove_bones(_ids(ids))
    return _changed(bench)


@router.post("/bones/{bone_id}/{end}")
def move_joint(
    bench: Gestures, bone_id: str, end: Literal["pivot", "tip"], x: Coordinate, y: Coordinate,
    alone: Annotated[bool, Form()] = False,
) -> HTMLResponse:  # fmt: skip
    """Move an end of a bone, with its neighbours' that lie on it or alone."""
    bench.move_joint(bone_id, end, x, y, alone)
    return _changed(bench)


@router.post("/parts/hang")
def hang_parts(bench: Gestures, ids: Ids, bone: Annotated[str, Form()]) -> HTMLResponse:
    """Hang parts from a bone."""
    bench.hang_parts(_ids(ids), bone)
    return _changed(bench)


@router.post("/parts/order")
def order(
    bench: Gestures, ids: Ids, behind: Annotated[str, Form()] = "", steps: Annotated[int | None, Form()] = None
) -> HTMLResponse:
    """Put parts just in front of another, or move them by places."""
    if steps is not None:
        bench.step_order(_ids(ids), steps)
    else:
        bench.reorder(_ids(ids), behind or None)
    return _changed(bench)


@router.post("/parts/{part_id}/apart")
def take_apart(bench: Gestures, part_id: str) -> HTMLResponse:
    """A part's shapes as parts of their own."""
    return _changed(bench, made=",".join(bench.take_apart(part_id)))


@router.post("/parts/join")
def join(bench: Gestures, ids: Ids) -> HTMLResponse:
    """Several parts as one."""
    return _changed(bench, made=bench.join(_ids(ids)))


@router.post("/parts/remove")
def remove_parts(bench: Gestures, ids: Ids) -> HTMLResponse:
    """Remove parts."""
    bench.remove_parts(_ids(ids))
    return _changed(bench)
