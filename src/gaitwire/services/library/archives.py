"""Puppets packed into one file and opened again."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping
from itertools import count
from typing import Any

from gaitwire.core.errors import NotFoundError
from gaitwire.core.ids import new_id
from gaitwire.core.puppet.art import Picture, leaves
from gaitwire.core.puppet.change import KINDS
from gaitwire.core.puppet.controls import Entry
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.puppet.tree import walk
from gaitwire.formats.archive import BrushedWeights, Opened, write_archive
from gaitwire.services.library.art_in import Imported, free_title, put_art
from gaitwire.services.session.skins import WEIGHTS_MEDIA_TYPE
from gaitwire.services.session.workspace import Workspace
from gaitwire.store.blobs import Blob, get_blob, put_blob
from gaitwire.store.documents import list_documents, register
from gaitwire.store.history import SHELF


def pack_puppet(workspace: Workspace, puppet_id: str) -> bytes:
    """The puppet as an archive."""
    puppet = workspace.puppet(puppet_id)
    ids = _local_ids(puppet)
    weights = {
        p.weights_hash: _renamed_weights(json.loads(get_blob(workspace.store, p.weights_hash).data), ids)
        for p in puppet.parts
        if p.weights_hash
    }
    hashes = {p.art_hash for p in puppet.parts} | {r.art_hash for r in puppet.replacements}
    art = {digest: workspace.art(digest) for digest in sorted(hashes)}
    shown = {n.hash for one in art.values() for n in leaves(one.nodes) if isinstance(n, Picture)}
    pictures = {digest: tuple(get_blob(workspace.store, digest)) for digest in shown}
    names = {old: f"w{n}" for n, old in enumerate(weights, start=1)}
    local = _renamed(puppet, ids, names).model_copy(update={"revision": 0})
    return write_archive(local, art, {names[old]: w for old, w in weights.items()}, pictures)  # type: ignore[arg-type]


def find_puppet(workspace: Workspace, name: str) -> str:
    """The id of the puppet of that name; raises NotFoundError."""
    known = {entry.name: entry.id for entry in list_documents(workspace.store, "puppet")}
    if name not in known:
        raise NotFoundError(f"There is no puppet “{name}”.", f"There are: {', '.join(known) or 'none'}.")
    return known[name]


def _local_ids(puppet: Puppet) -> dict[str, str]:
    """Short ids in an order that only the puppet decides: bones as they hang, parts as they lie."""
    rows: dict[str, list[Any]] = {
        "bones": [row.bone for row in walk(puppet.bones)],
        "parts": sorted(puppet.parts, key=lambda p: (p.rank, p.name)),
        "replacements": [d for p in sorted(puppet.parts, key=lambda p: p.rank) for d in puppet.drawings(p)[1:]],
        "pins": [pin for p in sorted(puppet.parts, key=lambda p: p.rank) for pin in puppet.pins_of(p.id)],
        "limbs": sorted(puppet.limbs, key=lambda i: i.name),
        "controls": list(puppet.controls),
        "entries": [e for c in puppet.controls for e in puppet.entries_of(c.id)],
    }
    found = {puppet.id: "puppet"}
    for kind, items in rows.items():
        one = kind[:-3] + "y" if kind.endswith("ies") else kind[:-1]
        found |= {item.id: f"{one}{n}" for item, n in zip(items, count(1), strict=False)}
    return found


_NAMES_AN_ID = ("id", "puppet_id", "parent_id", "bone_id", "part_id", "tip_id", "control_id")


def _renamed(puppet: Puppet, ids: Mapping[str, str], weights: Mapping[str, str]) -> Puppet:
    """The puppet with every id as the mapping has it, in the order of the new ones."""
    update: dict[str, Any] = {"id": ids[puppet.id]}
    order = {new: place for place, new in enumerate(ids.values())}
    for kind in KINDS:
        items = []
        for item in getattr(puppet, kind):
            named: dict[str, Any] = {f: ids[v] for f in _NAMES_AN_ID if (v := getattr(item, f, None)) is not None}
            if kind == "parts":
                named["bends_with"] = tuple(ids[b] for b in item.bends_with)
                named["weights_hash"] = weights.get(item.weights_hash, "")
            if kind == "entries":
                named |= _named_rows(item, ids)
            items.append(item.model_copy(update=named))
        update[kind] = tuple(sorted(items, key=lambda item: order[item.id]))
    return puppet.model_copy(update=update)


def _named_rows(entry: Entry, ids: Mapping[str, str]) -> dict[str, Any]:
    """What an entry says, by other ids; what it says of owners that are gone is left out."""
    return {
        "rows": tuple(r.model_copy(update={"owner_id": ids[r.owner_id]}) for r in entry.rows if r.owner_id in ids),
        "reshapes": tuple(r.model_copy(update={"part_id": ids[r.part_id]}) for r in entry.reshapes if r.part_id in ids),
    }


def _renamed_weights(raw: Mapping[str, Any], ids: Mapping[str, str]) -> BrushedWeights:
    return BrushedWeights.model_validate({**raw, "bones": [ids.get(b, b) for b in raw["bones"]]})


def store_opened(workspace: Workspace, opened: Opened, filename: str) -> Imported:
    """Store a puppet from an archive under ids of its own."""
    archive = opened.archive
    ids = {archive.puppet.id: new_id()}
    ids |= {item.id: new_id() for kind in KINDS for item in getattr(archive.puppet, kind)}
    name = free_title(workspace, archive.puppet.name or filename)
    with workspace.edit(f"open {name}", [ids[archive.puppet.id], SHELF]) as edit:
        register(edit, "puppet", ids[archive.puppet.id])
        for media_type, data in opened.pictures.values():
            put_blob(workspace.store, Blob(media_type, data))
        arts = {digest: put_art(workspace, art) for digest, art in archive.art.items()}
        weights = {old: _stored_weights(workspace, w, ids.__getitem__) for old, w in archive.weights.items()}
        puppet = _renamed(archive.puppet, ids, weights).model_copy(update={"name": name})
        edit.put("puppets", [puppet])
        for kind in KINDS:
            items = getattr(puppet, kind)
            if kind in ("parts", "replacements"):
                items = [item.model_copy(update={"art_hash": arts[item.art_hash]}) for item in items]
            edit.put(kind, items)
    return Imported(puppet.id, name, ())


def _stored_weights(workspace: Workspace, weights: BrushedWeights, id_of: Callable[[str], str]) -> str:
    raw = {**weights.model_dump(mode="json"), "bones": [id_of(b) for b in weights.bones]}
    return put_blob(workspace.store, Blob(WEIGHTS_MEDIA_TYPE, json.dumps(raw).encode()))
