"""What the Bench's card shows about chosen bones, parts or pins, or about the puppet."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from starlette.responses import HTMLResponse

from gaitwire.core.errors import InvalidInputError
from gaitwire.core.puppet.controls import Control, Entry, RowKind
from gaitwire.core.puppet.limb_chains import ENDS, chain_of, longest_chain
from gaitwire.core.puppet.model import TAGS, Bone, Limb, Part, Pin, Puppet
from gaitwire.core.puppet.roles import REGIONS, ROLES, SIDES
from gaitwire.core.puppet.tree import walk
from gaitwire.core.puppet.views import VIEWS
from gaitwire.formats.art_readers import SUFFIXES
from gaitwire.services.rig.corrective_shapes import NAMES
from gaitwire.services.session.workspace import Workspace
from gaitwire.services.views.control_card import carried_cards, dial_of, entry_card, title_of
from gaitwire.web.templating import page

CardContext = dict[str, Any]

_BONE_FIELDS = (
    "parent_id", "region", "side", "role", "tag", "x", "y", "length", "angle", "low", "high", "reach", "keep_volume",
)  # fmt: skip
_TWO_DECIMALS = ("x", "y", "length", "angle", "low", "high", "reach")


def common_values(items: Sequence[Bone | Part | Pin], fields: Sequence[str]) -> CardContext:
    """Each field's value where all agree, else None; numbers as they are shown."""
    rows = [item.model_dump() for item in items]
    found = {f: rows[0][f] if all(r[f] == rows[0][f] for r in rows) else None for f in fields}
    return {f: round(v, 2) if f in _TWO_DECIMALS and v is not None else v for f, v in found.items()}


def _tree(puppet: Puppet) -> list[tuple[str, str]]:
    return [(row.bone.id, "· " * row.depth + row.bone.name) for row in walk(puppet.bones)]


def bone_card(puppet: Puppet, bones: list[Bone]) -> CardContext:
    """About bones, and about the limb that they are of."""
    names = {b.id: b.name for b in puppet.bones}
    common = common_values(bones, _BONE_FIELDS)
    same_parent = len({b.parent_id for b in bones}) == 1
    if same_parent and common["parent_id"] is None:
        common["parent_id"] = ""
    parts = sum(1 for p in puppet.parts if p.bone_id in {b.id for b in bones})
    first = bones[0]
    kind = "bone" if first.length > 0 else "without length"
    above = f"hangs from {names[first.parent_id]}" if first.parent_id in names else "hangs from nothing"
    about = f"{kind}, {above}" if len(bones) == 1 else "what is typed here goes to all of them"
    limb = _limb_of(puppet, first) if len(bones) == 1 else None
    return {
        "common": common,
        "same_parent": same_parent,
        "about": f"{about}, {parts} part{'' if parts == 1 else 's'}",
        "parents": [("", "nothing"), *_tree(puppet)],
        "regions": [(r, r) for r in REGIONS],
        "sides": [(s, s) for s in SIDES],
        "roles": [("", "none"), *((r, r) for r in ROLES)],
        "tags": TAGS,
        "limb": limb,
        "fix": next((c for c in puppet.controls if c.bone_id == first.id), None),
        "fix_angle": _next_angle(puppet, first),
        "limb_joints": _joints(puppet, limb) if limb else [],
        "limb_tip": next((b.name for b in puppet.bones if limb and b.id == limb.tip_id), ""),
        "limb_most": longest_chain(puppet, limb) if limb else 0,
    }


def _in_order(puppet: Puppet) -> list[Control]:
    return sorted(puppet.controls, key=lambda c: (c.rank, c.id))


_USUAL_ANGLE = 90.0


def _next_angle(puppet: Puppet, bone: Bone) -> float:
    """An angle to correct a joint at: the further of its limits, or a right angle; further round if that is taken."""
    low, high = bone.low if bone.low is not None else -_USUAL_ANGLE, bone.high if bone.high is not None else 0.0
    angle = max((low, high), key=abs) or -_USUAL_ANGLE
    control = next((c for c in puppet.controls if c.bone_id == bone.id), None)
    taken = {round(e.x) for e in puppet.entries_of(control.id)} if control else set()
    return next((a for a in (angle, angle / 2, -angle / 2, -angle) if round(a) not in taken), angle / 3)


def control_page(puppet: Puppet, control: Control) -> HTMLResponse:
    """About a bend fix, pad or gauge."""
    joint = puppet.bone(control.bone_id or "")
    about = {
        "fix": "a bend fix: works by itself in every scene, as the joint turns",
        "pad": "a facing pad: keyed on the Floor by where its point lies",
        "gauge": "a gauge: keyed on the Floor by how far it is set",
    }[control.kind]
    return page(
        "bench/card_control.html", control=control, view=dial_of(puppet, control), about=about,
        in_place=puppet.view == "side", next_angle=_next_angle(puppet, joint) if joint else 0.0,
    )  # fmt: skip


def correcting_card(puppet: Puppet, entry: Entry, chosen: tuple[list[Bone], list[Part], list[Pin]]) -> HTMLResponse:
    """What a place says of what is chosen, or about its control where nothing is."""
    control = puppet.control(entry.control_id)
    bones, parts, pins = chosen
    kind: RowKind = "bone" if bones else "part" if parts else "pin"
    owners: Sequence[Bone | Part | Pin] = bones or parts or pins
    if control is None or not owners or (kind == "bone" and control.kind == "fix"):
        return control_page(puppet, control) if control else HTMLResponse()
    return page(
        "bench/card_entry.html", names=[o.name for o in owners], where=title_of(puppet, entry), entry=entry,
        owners=[[kind, o.id] for o in owners], said=entry_card(puppet, entry, kind, [o.id for o in owners]),
        carried=carried_cards(puppet, entry, [o.id for o in owners]) if kind == "bone" else [],
    )  # fmt: skip


def _limb_of(puppet: Puppet, bone: Bone) -> Limb | None:
    """The limb that ends at a bone, else one that it is a link of."""
    ends = [limb for limb in puppet.limbs if limb.tip_id == bone.id]
    return next((i for i in (*ends, *puppet.limbs) if i.tip_id == bone.id or bone in chain_of(puppet, i)), None)


def _joints(puppet: Puppet, limb: Limb) -> list[str]:
    """Names of a limb's joints, root first."""
    chain = chain_of(puppet, limb)
    tip = next(b for b in puppet.bones if b.id == limb.tip_id)
    return [*(b.name for b in chain), f"{tip.name}{', its tip' if limb.whole else ''}"]


def part_card(workspace: Workspace, puppet: Puppet, parts: list[Part]) -> CardContext:
    """About parts: where they hang, their drawings, how soft they are."""
    names = {b.id: b.name for b in puppet.bones}
    common = common_values(parts, ("bone_id", "opacity", "soft", "grain", "distance", "shadow"))
    for share in ("opacity", "distance"):
        common[share] = None if common[share] is None else round(common[share] * 100, 1)
    homes = {names[p.bone_id] for p in parts}
    context: CardContext = {
        "shapes": len(workspace.art(parts[0].art_hash).nodes),
        "common": common,
        "about": f"hangs from {homes.pop()}" if len(homes) == 1 else "hang from several bones",
        "all_bones": _tree(puppet),
    }
    if len(parts) == 1:
        context |= _one_part(workspace, puppet, parts[0])
    return context


def _one_part(workspace: Workspace, puppet: Puppet, part: Part) -> CardContext:
    bones = {b.id: b for b in puppet.bones}
    bends = [bones[i] for i in part.bends_with if i in bones]
    context: CardContext = {
        "suffixes": ",".join(SUFFIXES),
        "drawings": puppet.drawings(part),
        "other_parts": [(p.id, p.name) for p in sorted(puppet.parts, key=lambda p: -p.rank) if p.id != part.id],
        "pins": puppet.pins_of(part.id),
        "bends": [bones[part.bone_id], *bends] if part.soft else [],
        "more_bones": [(i, n) for i, n in _tree(puppet) if i != part.bone_id and i not in part.bends_with],
        "mesh": None,
        "why_rigid": "",
    }
    if part.soft:
        try:
            skin = workspace.skins.skin(puppet, part)
            context["mesh"] = (skin.vertices, skin.body.grain)
        except InvalidInputError as error:
            context["why_rigid"] = str(error)
    return context


def pin_card(puppet: Puppet, pins: list[Pin]) -> CardContext:
    """About pins."""
    names = {p.id: p.name for p in puppet.parts}
    common = common_values(pins, ("kind", "bone_id", "x", "y", "holds_turn", "stiffness"))
    same = len({p.bone_id for p in pins}) == 1
    common["bone_id"] = pins[0].bone_id or "" if same else None
    common["stiffness"] = None if common["stiffness"] is None else round(common["stiffness"] * 100)
    homes = {names[p.part_id] for p in pins}
    return {
        "common": common,
        "about": f"on {homes.pop()}" if len(homes) == 1 else "on several parts",
        "kinds": [("lead", "lead, moves"), ("anchor", "anchor, holds")],
        "carriers": [("", "the art itself"), *_tree(puppet)],
    }


def puppet_card(puppet: Puppet) -> CardContext:
    """About the puppet when nothing is chosen."""
    names = {b.id: b.name for b in puppet.bones}
    have = {limb.tip_id for limb in puppet.limbs}
    return {
        "suffixes": ",".join(SUFFIXES),
        "controls": [(c, len(puppet.entries_of(c.id)), NAMES[c.kind]) for c in _in_order(puppet)],
        "roles_given": sum(1 for b in puppet.bones if b.role),
        "views": [(name, seen.label) for name, seen in VIEWS.items()],
        "role_rows": [row.bone for row in walk(puppet.bones)],
        "roles": [("", "none"), *((r, r) for r in ROLES)],
        "shadows": [p for p in puppet.parts if p.shadow],
        "limbs": [(limb, names[limb.tip_id]) for limb in puppet.limbs if limb.tip_id in names],
        "free_ends": [b.name for b in puppet.bones if b.role in ENDS and b.id not in have],
    }
