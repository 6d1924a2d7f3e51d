"""The puppet archive: a zip with the whole puppet as JSON, its pictures, and its drawings as SVG.

`puppet.json` is the puppet; `puppet.schema.json` is its JSON Schema; `pictures/` holds what it shows
of pictures, byte for byte. `drawings/` is for people and other programs, and is not read back.
Ids in the file are its own (bone1, part1...), so that a puppet opened and packed again is the same file.
"""

from __future__ import annotations

import hashlib
import io
import json
import re
import zipfile
from collections.abc import Mapping
from typing import Any, Literal, NamedTuple

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from gaitwire.core.errors import TooLargeError, UnreadableArtError
from gaitwire.core.geometry.path import is_well_formed, number, points_of
from gaitwire.core.puppet.art import Art, Picture, leaves
from gaitwire.core.puppet.change import KINDS
from gaitwire.core.puppet.model import Puppet
from gaitwire.core.puppet.soften import paths_of
from gaitwire.core.puppet.tree import walk
from gaitwire.formats.animated_svg.elements import ArtWriter
from gaitwire.formats.pictures import check_picture
from gaitwire.formats.reading import LIMITS, Notes
from gaitwire.formats.safe_zip import SafeZip

FORMAT: Literal["gaitwire puppet"] = "gaitwire puppet"
VERSION = 3
NAME = "puppet.json"
SUFFIX = ".puppet.zip"
MEDIA_TYPE = "application/zip"

_EXTENSIONS = {"image/png": "png", "image/jpeg": "jpg", "image/webp": "webp", "image/gif": "gif"}


class BrushedWeights(BaseModel):
    """Weights set by hand: one row a vertex of the mesh they were brushed on, one column a bone."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    bones: tuple[str, ...]
    vertices: tuple[tuple[float, float], ...]
    triangles: tuple[tuple[int, int, int], ...]
    weights: tuple[tuple[float, ...], ...]


class PictureFile(BaseModel):
    """Where in the archive a picture lies, and what it is."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    file: str
    media_type: Literal["image/png", "image/jpeg", "image/webp", "image/gif"]


class PuppetArchive(BaseModel):
    """What puppet.json holds. Art, weights and pictures are named by what the puppet calls them."""

    model_config = ConfigDict(frozen=True, extra="forbid")

    format: Literal["gaitwire puppet"] = FORMAT
    version: int = Field(default=VERSION, ge=1)
    puppet: Puppet
    art: dict[str, Art]
    weights: dict[str, BrushedWeights] = {}
    pictures: dict[str, PictureFile] = {}


class Opened(NamedTuple):
    """An archive as read: all is checked, nothing is missing."""

    archive: PuppetArchive
    pictures: dict[str, tuple[str, bytes]]


def schema_text() -> str:
    """The JSON Schema (draft 2020-12) of puppet.json."""
    schema = PuppetArchive.model_json_schema()
    return json.dumps({"$schema": "https://json-schema.org/draft/2020-12/schema", **schema}, indent=1) + "\n"


def write_archive(
    puppet: Puppet,
    art: Mapping[str, Art],
    weights: Mapping[str, BrushedWeights],
    pictures: Mapping[str, tuple[str, bytes]],
) -> bytes:
    """A puppet, whose ids are local ones, as an archive."""
    files = {
        digest: PictureFile(file=f"pictures/{digest}.{_EXTENSIONS[kind]}", media_type=kind)
        for digest, (kind, _) in sorted(pictures.items())
    }
    whole = PuppetArchive(puppet=puppet, art=dict(art), weights=dict(weights), pictures=files)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        _put(archive, NAME, json.dumps(whole.model_dump(mode="json"), indent=1).encode())
        _put(archive, "puppet.schema.json", schema_text().encode())
        for digest, entry in files.items():
            _put(archive, entry.file, pictures[digest][1])
        for path, text in _drawings(puppet, art, pictures):
            _put(archive, path, text.encode())
    return out.getvalue()


def _put(archive: zipfile.ZipFile, name: str, data: bytes) -> None:
    """A file without the time it was written, so that the same puppet gives the same archive."""
    entry = zipfile.ZipInfo(name, (2000, 1, 1, 0, 0, 0))
    entry.compress_type = zipfile.ZIP_DEFLATED
    archive.writestr(entry, data)


def _drawings(
    puppet: Puppet, art: Mapping[str, Art], pictures: Mapping[str, tuple[str, bytes]]
) -> list[tuple[str, str]]:
    """Every drawing as an SVG file of its own."""
    found = []
    for place, part in enumerate(sorted(puppet.parts, key=lambda p: p.rank)):
        for drawing in puppet.drawings(part):
            writer = ArtWriter(pictures)
            one = art[drawing.art_hash]
            body = writer.nodes(one.nodes)
            x0, y0, x1, y1 = one.box
            box = " ".join(number(v) for v in (x0, y0, x1 - x0, y1 - y0))
            defs = f"<defs>{''.join(writer.defs.texts)}</defs>" if writer.defs.texts else ""
            name = re.sub(r"[^\w -]", "_", f"{part.name} - {drawing.name}" if drawing.number else part.name)
            text = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{box}">{defs}{body}</svg>\n'
            found.append((f"drawings/{place:03d}-{drawing.number} {name}.svg", text))
    return found


def is_archive(archive: SafeZip) -> bool:
    """Whether a zip is a puppet archive."""
    return NAME in archive


def read_archive(archive: SafeZip) -> Opened:
    """Read and check an archive.

    Raises UnreadableArtError for one that a newer version of the program made, that is damaged, or
    that names what it does not hold.
    """
    try:
        raw = json.loads(archive.read(NAME))
    except (ValueError, RecursionError):
        raise UnreadableArtError("This archive's puppet.json is damaged.", "Pack the puppet again.") from None
    _refuse_newer(raw)
    try:
        whole = PuppetArchive.model_validate(raw)
    except ValidationError as error:
        first = error.errors()[0]
        where = " ".join(str(step) for step in first["loc"])[:120]
        raise UnreadableArtError(
            "This archive's puppet.json is not as it should be.", f"{where}: {first['msg']}"
        ) from None
    _refuse_broken(whole)
    _refuse_bad_paths(whole)
    return Opened(whole, {digest: _picture(archive, digest, entry) for digest, entry in whole.pictures.items()})


def _refuse_newer(raw: Any) -> None:
    if not isinstance(raw, dict) or raw.get("format") != FORMAT:
        raise UnreadableArtError("This is no puppet archive.", "Choose another file.")
    version = raw.get("version")
    if isinstance(version, int) and version > VERSION:
        raise UnreadableArtError(
            f"This archive was made by a newer Gait Wire (version {version} of the format; this one reads {VERSION}).",
            "Update the program, or pack the puppet with the older one.",
        )


def _refuse_broken(whole: PuppetArchive) -> None:
    """Refuse what names something that is not there."""
    puppet = whole.puppet
    bones, parts = {b.id for b in puppet.bones}, {p.id for p in puppet.parts}
    items = [item for kind in KINDS for item in getattr(puppet, kind)]
    ids = [item.id for item in items]
    named = [
        *(b.parent_id for b in puppet.bones),
        *(p.bone_id for p in puppet.parts),
        *(p.bone_id for p in puppet.pins),
    ]
    named += [*(i.tip_id for i in puppet.limbs), *(b for p in puppet.parts for b in p.bends_with)]
    named += [c.bone_id for c in puppet.controls]
    placed = {e.control_id for e in puppet.entries} <= {c.id for c in puppet.controls}
    owners = {r.part_id for r in puppet.replacements} | {p.part_id for p in puppet.pins}
    hashes = {p.art_hash for p in puppet.parts} | {r.art_hash for r in puppet.replacements}
    shown = {n.hash for art in whole.art.values() for n in leaves(art.nodes) if isinstance(n, Picture)}
    brushed = {p.weights_hash for p in puppet.parts if p.weights_hash}
    # Bones in a ring hang from nothing, and are not met on the way down.
    whole_and_sound = (
        len(ids) == len(set(ids)) and placed and {b for b in named if b is not None} <= bones and owners <= parts
        and hashes <= set(whole.art) and shown <= set(whole.pictures) and brushed <= set(whole.weights)
        and all(_fits(w) for w in whole.weights.values())
        and len(list(walk(puppet.bones))) == len(bones) and all(item.puppet_id == puppet.id for item in items)
    )  # fmt: skip
    if not whole_and_sound:
        raise UnreadableArtError("This archive's puppet.json names something that it does not hold.", "Pack it again.")


def _refuse_bad_paths(whole: PuppetArchive) -> None:
    """Refuse path data that no program of ours writes, or that leads off any page."""
    points = 0
    for art in whole.art.values():
        for d in paths_of(art.nodes):
            if not is_well_formed(d):
                raise UnreadableArtError("This archive holds a path that cannot be drawn.", "Pack the puppet again.")
            found = points_of(d)
            points += len(found)
            if len(found) and np.abs(found).max() > LIMITS.coordinate:
                raise UnreadableArtError("This archive holds a path that lies off any page.", "Pack it again.")
    if points > LIMITS.points:
        raise TooLargeError(f"This puppet's paths have more than {LIMITS.points} points.", "Simplify them.")


def _fits(weights: BrushedWeights) -> bool:
    count = len(weights.vertices)
    return (
        len(weights.weights) == count
        and all(len(row) == len(weights.bones) for row in weights.weights)
        and all(0 <= corner < count for row in weights.triangles for corner in row)
    )


def _picture(archive: SafeZip, digest: str, entry: PictureFile) -> tuple[str, bytes]:
    data = archive.read(entry.file)
    checked = check_picture(data, Notes())
    if checked is None or hashlib.sha256(data).hexdigest() != digest:
        raise UnreadableArtError(f"“{entry.file[:60]}” in this archive is damaged.", "Pack the puppet again.")
    return checked[1], data
