"""Art in: a file read in a worker, then stored whole as a new puppet."""

from __future__ import annotations

import re
from collections.abc import Mapping
from pathlib import PurePath
from typing import NamedTuple

from gaitwire.core.geometry.bounds import Box, union
from gaitwire.core.ids import new_id
from gaitwire.core.puppet.art import Art
from gaitwire.core.puppet.model import Bone, Part, Puppet
from gaitwire.core.puppet.roles import guess_from_name
from gaitwire.formats.art_readers import SUFFIXES, read_art
from gaitwire.formats.picture_files import read_pictures
from gaitwire.formats.reading import Reading
from gaitwire.services.session.naming import clean_name, unlike
from gaitwire.services.session.workers import run_limited
from gaitwire.services.session.workspace import Workspace
from gaitwire.store.blobs import Blob, put_blob
from gaitwire.store.documents import list_documents, register
from gaitwire.store.history import SHELF

ART_MEDIA_TYPE = "application/vnd.gaitwire.art+json"


class Imported(NamedTuple):
    """The new puppet, and what could not be kept of its art."""

    puppet_id: str
    name: str
    notes: tuple[str, ...]


def import_art(workspace: Workspace, data: bytes, filename: str, name: str = "") -> Imported:
    """A puppet from an art file of any kind.

    Raises UnreadableArtError when the file cannot be used; nothing is stored then.
    """
    return store_reading(workspace, run_limited(read_art, data, free_title(workspace, name or filename)))


def import_pictures(workspace: Workspace, files: Mapping[str, bytes], name: str) -> Imported:
    """A puppet from several pictures by path, each a layer; raises like `import_art`."""
    return store_reading(workspace, run_limited(read_pictures, files, free_title(workspace, name)))


def free_title(workspace: Workspace, text: str) -> str:
    """A puppet's name from what was typed or a file's name, unlike those on the Shelf."""
    taken = [entry.name for entry in list_documents(workspace.store, "puppet")]
    title = re.sub(r"[\s_-]+", " ", PurePath(text).stem if PurePath(text).suffix.lower() in SUFFIXES else text)
    return unlike(clean_name(title.strip() or "puppet"), taken)


def store_reading(workspace: Workspace, reading: Reading) -> Imported:
    """Store a reading as a puppet: every part on a bone of its own, every folder a bone without length."""
    puppet_id = new_id()
    with workspace.edit(f"bring in {reading.name}", [puppet_id, SHELF]) as edit:
        register(edit, "puppet", puppet_id)
        put_pictures(workspace, reading)
        puppet = build_puppet(workspace, puppet_id, reading)
        edit.put("puppets", [puppet])
        edit.put("bones", puppet.bones)
        edit.put("parts", puppet.parts)
    return Imported(puppet_id, reading.name, reading.notes)


def put_art(workspace: Workspace, art: Art) -> str:
    """Store artwork; its hash."""
    return put_blob(workspace.store, Blob(ART_MEDIA_TYPE, art.model_dump_json(exclude_none=True).encode()))


def put_pictures(workspace: Workspace, reading: Reading) -> None:
    """Store the pictures that a file's art shows."""
    for media_type, data in reading.pictures.values():
        put_blob(workspace.store, Blob(media_type, data))


def bone_for(puppet_id: str, name: str, parent: str | None, rank: int, box: Box) -> Bone:
    """A bone in the middle of a part's art, guessed at from its name."""
    guess = guess_from_name(name)
    x, y = box.centre
    return Bone(
        id=new_id(), puppet_id=puppet_id, name=name, parent_id=parent, rank=rank, x=round(x, 3), y=round(y, 3),
        region=guess.region, side=guess.side, role=guess.role,
    )  # fmt: skip


def build_puppet(workspace: Workspace, puppet_id: str, reading: Reading) -> Puppet:
    """The puppet's models; its art goes into the store as blobs."""
    shown = [p for p in reading.parts if not p.hidden] or list(reading.parts)
    whole = union(p.art.bounds for p in shown) or Box(0, 0, reading.width, reading.height)
    groups: list[Bone] = []
    for index, folder in enumerate(reading.folders):
        inside = union(
            p.art.bounds for p in reading.parts if p.folder is not None and _within(reading, p.folder, index)
        )
        parent = groups[folder.parent].id if folder.parent is not None else None
        groups.append(bone_for(puppet_id, folder.name, parent, index, inside or whole))
    bones, parts = list(groups), []
    for rank, read in enumerate(reading.parts):
        parent = groups[read.folder].id if read.folder is not None else None
        bone = bone_for(puppet_id, read.name, parent, len(groups) + rank, read.art.bounds)
        digest = put_art(workspace, read.art)
        bones.append(bone)
        parts.append(
            Part(
                id=new_id(),
                puppet_id=puppet_id,
                bone_id=bone.id,
                name=read.name,
                rank=rank,
                art_hash=digest,
                hidden=read.hidden,
                came_as=read.name,
            )
        )
    return Puppet(
        id=puppet_id, name=reading.name, width=reading.width, height=reading.height,
        base_x=round(whole.centre[0], 3), base_y=round(whole.y1, 3), bones=tuple(bones), parts=tuple(parts),
    )  # fmt: skip


def _within(reading: Reading, folder: int, wanted: int) -> bool:
    """Whether a folder is the wanted one or lies in it."""
    at: int | None = folder
    while at is not None:
        if at == wanted:
            return True
        at = reading.folders[at].parent
    return False
